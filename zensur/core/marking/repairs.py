"""Repairs in the form of the file that they are for: beside our own language, as the learner wrote."""

from collections.abc import Iterator

from ..formats.fragments import repair_in
from ..sheet import AnyItem, Item
from ..sheet.statements import Open, Realm
from .differences.edits import Edit, Of
from .session import Session

_BY_STATEMENTS = (Of.STATEMENT, Of.DESCRIPTION, Of.BLOCK, Of.MISSING, Of.NAME, Of.NUMBERS, Of.NETWORK)


def repair_in_form(session: Session, edit: Edit) -> str:
    """Write a repair as far as it is in the file of its own device; nothing where that is a sheet."""
    sheet = session.sheets.paper.sheets.get(edit.device)
    if sheet is None or sheet.form == "sheet" or edit.of not in _BY_STATEMENTS:
        return ""
    own = [part for part in edit.parts if part.device == edit.device]
    remove = [item for part in own for item in part.remove]
    add = [_as_wanted(item, edit.of) for part in own for item in part.add]
    model = session.lab.model[edit.device]
    outside = [i.block.name for i in model.everywhere(Realm) if i.block and i.statement.external]
    return repair_in(sheet.form, list(_without_headers(remove, edit.of)), add, outside)


def _as_wanted(item: AnyItem, of: Of) -> AnyItem:
    """Return a statement without what only describes it, unless that is what is wanted."""
    if of is Of.DESCRIPTION or isinstance(item.statement, Open):
        return item
    return Item(item.block, item.statement.plain())


def _without_headers(items: list[AnyItem], of: Of) -> Iterator[AnyItem]:
    """Yield what goes: of a block that should not be there its header, which takes all of it along."""
    for item in items:
        if of is not Of.BLOCK or isinstance(item.statement, Open):
            yield item
