"""Differences in what only describes: names and descriptions, where a criterion asks for them."""

from collections.abc import Iterator

from ...lab import Criterion, Device
from ...sheet import AnyItem, Configuration, Item, Route
from ...sheet.statements import About, Name
from ..session import Attempt, Session
from .edits import Edit, Of


def described(session: Session, attempt: Attempt, device: Device) -> Iterator[Edit]:
    """Yield an edit for each criterion about a name or description that is not met."""
    for criterion in session.criteria:
        if criterion.device != device.name or criterion.key not in ("name", "about"):
            continue
        if session.judge(criterion, attempt).fraction == 1:
            continue
        learner = attempt.configurations[device.name]
        wanted = session.counted(criterion)
        if criterion.key == "name" and not wanted:
            wanted = [Item(None, Name(device.name))]
        found = _found(criterion, wanted, learner)
        if wanted and found is not None:
            block = wanted[0].block
            header = learner.header(block) if block else None
            where = header.where if header else None
            yield Edit(device.name, tuple(found), tuple(wanted[:1]), (criterion.id,), where, Of.DESCRIPTION)


def _found(criterion: Criterion, wanted: list[AnyItem], learner: Configuration) -> list[AnyItem] | None:
    """Return what stands in its place; None where what should be described is not there itself."""
    if criterion.key == "name":
        return [*learner.all(Name)]
    if criterion.operand.startswith("route "):
        return [i for i in learner.all(Route) if wanted and i.slot == wanted[0].slot] or None
    block = learner.bearer(criterion.operand)
    if block is None or learner.header(block) is None:
        return None if wanted and wanted[0].block and wanted[0].block.is_made else []
    return [*learner.all(About, block)]
