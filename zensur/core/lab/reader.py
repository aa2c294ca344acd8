"""Reads a lab file strictly: the shapes of its keys first, then what the values say about one another."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import yaml

from .building import build_lab
from .model import Lab
from .nodes import LabError, compose
from .own_choice import NOTHING_CHOSEN, OwnChoice
from .places import Places
from .schema import LAB
from .shapes import At
from .variables import put_in, read_variables


@dataclass(frozen=True, slots=True)
class ReadLab:
    """A lab as read: None, and at least one error, where the file cannot be used.

    ``draft`` is what could be made of a file with errors, to say more about it.
    """

    lab: Lab | None
    errors: tuple[LabError, ...]
    places: Places = field(default_factory=lambda: Places("", {}))
    draft: Lab | None = None


def read_lab(
    text: str, values: Mapping[str, int] | None = None, chosen: OwnChoice = NOTHING_CHOSEN
) -> ReadLab:
    """Read a lab file; ``values`` are those of its variables, the smallest ones where they are left out.

    ``chosen`` are addresses that a learner has chosen in the place of the model answer's.

    Never raises; every error says place, line and what would be right.
    """
    node = compose(text)
    if isinstance(node, LabError):
        return ReadLab(None, (node,))
    if node is None:
        return ReadLab(None, (LabError("", 1, 1, "The file is empty: a lab needs zensur, id and devices."),))
    errors: list[LabError] = []
    variables = read_variables(node)
    put = {name: variable.low for name, variable in variables.items()} | {
        name: value for name, value in (values or {}).items() if name in variables
    }
    put_in(node, put, errors)
    if chosen:
        chosen.put_into(node)
    nodes: dict[str, yaml.Node] = {}
    found = LAB.read(node, At("", 1, 1, errors, nodes))
    lab = build_lab(found, variables, put, text) if found is not None else None
    return ReadLab(
        None if errors else lab,
        tuple(sorted(errors, key=lambda e: (e.line, e.column))),
        Places(text, nodes),
        lab,
    )
