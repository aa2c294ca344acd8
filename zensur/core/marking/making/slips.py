"""Every slip that can be put into a lab's model answer."""

from collections.abc import Iterator
from dataclasses import replace

from ...lab import Lab
from ...sheet import AnyItem
from ...sheet.statements import About, Label, LeaseDuration, Name, Open
from ..differences.edits import said
from .made import MadeSlip
from .places import slips_of_place
from .spelling import misspelt
from .values import changed_values

_SAY_NOTHING = (Open, Name, About, Label, LeaseDuration)
"""Statements that no value slip is made of: they change nothing that is simulated."""


def slips_in(lab: Lab) -> list[MadeSlip]:
    """Return every slip that can be made of what a lab's model answer adds."""
    added = _added(lab)
    found: list[MadeSlip] = []
    for device, items in added.items():
        for item in items:
            found += _of_values(device, item)
        found += misspelt(device, items, lab.full_paper[device].text)
    return [*found, *slips_of_place(lab, added)]


def _added(lab: Lab) -> dict[str, list[AnyItem]]:
    """Return what the model answer adds to what is there before it, by device."""
    found = {}
    for device, sheet in lab.full_paper.items():
        given = {(i.block, i.statement) for i in lab.base[device].items}
        found[device] = [i for i in sheet.configuration.items if (i.block, i.statement) not in given]
    return found


def _of_values(device: str, item: AnyItem) -> Iterator[MadeSlip]:
    statement = item.statement
    if isinstance(statement, _SAY_NOTHING):
        return
    for what, put, slips in changed_values(statement):
        yield MadeSlip(
            f"{type(statement).__name__.lower()}: {what}", device, frozenset({said(item)}), frozenset(slips),
            ((device, item),), ((device, replace(item, statement=put)),) if put else (),
        )  # fmt: skip
