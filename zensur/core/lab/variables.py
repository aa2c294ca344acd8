"""Variables of a lab: whole numbers put into its texts, and which learner gets which (product variants)."""

import hashlib
import re
from collections.abc import Iterable, Mapping

import yaml

from .model import Variable
from .nodes import LabError, scalars

_USED = re.compile(r"\$\{([^}\n]{0,40})\}")


def read_variables(root: yaml.Node) -> dict[str, Variable]:
    """Read the variables of a lab file ahead of everything else; what is wrong with them is said later."""
    section = _value(root, "variables")
    found: dict[str, Variable] = {}
    for key, value in section.value if isinstance(section, yaml.MappingNode) else ():
        low, high = _number(value, "from"), _number(value, "to")
        if isinstance(key, yaml.ScalarNode) and low is not None and high is not None and low <= high:
            found[key.value] = Variable(low, high)
    return found


def _value(node: yaml.Node, key: str) -> yaml.Node | None:
    pairs = node.value if isinstance(node, yaml.MappingNode) else ()
    return next((v for k, v in pairs if isinstance(k, yaml.ScalarNode) and k.value == key), None)


def _number(node: yaml.Node, key: str) -> int | None:
    value = _value(node, key)
    plain = isinstance(value, yaml.ScalarNode) and re.fullmatch(r"\d{1,6}", value.value, re.ASCII)
    return int(value.value) if value is not None and plain else None


def put_in(root: yaml.Node, values: Mapping[str, int], errors: list[LabError]) -> None:
    """Put the values of variables into every text of a lab file, in place."""
    for scalar in scalars(root):
        if "${" in scalar.value:
            mark = scalar.start_mark
            for name in _USED.findall(scalar.value):
                if name not in values:
                    known = f"There are {', '.join(values)}." if values else "The lab declares none."
                    errors.append(
                        LabError("", mark.line + 1, mark.column + 1, f"There is no variable {name}. {known}")
                    )
            scalar.value = _USED.sub(lambda m: str(values.get(m[1], m[0])), scalar.value)


def draw_values(
    lab: str,
    sitting: str,
    learners: Iterable[str],
    variables: Mapping[str, Variable],
    taken: Mapping[str, Mapping[str, int]] | None = None,
) -> dict[str, dict[str, int]]:
    """Give every learner values, in the order given, by SHA-256 of lab, sitting and learner.

    A value that another learner has moves to the next free one; where all are taken, values repeat.
    ``taken`` are values given before, which never change.
    """
    given = {learner: dict(values) for learner, values in (taken or {}).items()}
    for learner in learners:
        if learner in given:
            continue
        values: dict[str, int] = {}
        for name, variable in variables.items():
            size = variable.high - variable.low + 1
            used = {other[name] for other in given.values() if name in other}
            digest = hashlib.sha256("\0".join((lab, sitting, learner, name)).encode()).digest()
            offset = int.from_bytes(digest[:8], "big") % size
            free = (variable.low + (offset + step) % size for step in range(min(size, len(used) + 1)))
            values[name] = next((v for v in free if v not in used), variable.low + offset)
        given[learner] = values
    return given


def probes(lab: str, variables: Mapping[str, Variable], sample: int = 4) -> list[dict[str, int]]:
    """Return the values that a lab check tries: both ends of all variables, and a sample between."""
    if not variables:
        return [{}]
    ends = [{n: v.low for n, v in variables.items()}, {n: v.high for n, v in variables.items()}]
    drawn = draw_values(lab, "check", [str(n) for n in range(sample)], variables)
    tried: list[dict[str, int]] = []
    for values in (*ends, *drawn.values()):
        if values not in tried:
            tried.append(values)
    return tried
