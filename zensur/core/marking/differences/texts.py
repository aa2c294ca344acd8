"""What an edit takes away, wants and repairs, as text."""

from collections.abc import Sequence

from ...lab import Link
from ...sheet import AnyItem, OnPort
from ...sheet.statements import Open
from .edits import Edit, Of, plain_text

MOST_SAID = 3
"""So many statements of one mistake are written out."""


def found_text(edit: Edit) -> str | None:
    """Write what stands in the sheet; None where nothing does."""
    if edit.unread is not None:
        return edit.unread.text
    if edit.of in (Of.SHEET, Of.DEVICE):
        return None
    if edit.of is Of.CABLE:
        return _cables(edit.cables[0]) or None
    if edit.of is Of.EXCHANGE:
        return f"the sheet of {edit.others[0].device}"
    if edit.of is Of.NAME and edit.remove and edit.remove[0].block is not None:
        return edit.remove[0].block.header()
    return _with_others(edit, edit.remove, [(part, part.remove) for part in _further(edit)]) or None


def required_text(edit: Edit) -> str | None:
    """Write what should stand there; None where nothing should."""
    if edit.of is Of.ANSWER:
        return None
    if edit.of in (Of.SHEET, Of.DEVICE):
        count = sum(not isinstance(item.statement, Open) for item in edit.add)
        return f"{count} statement{'s' * (count > 1)}"
    if edit.of is Of.EXCHANGE:
        return f"the sheet of {edit.device}"
    if edit.of is Of.CABLE:
        return _cables(edit.cables[1]) or None
    return _wanted(edit) or None


def repair_text(edit: Edit) -> str:
    """Write the repair, as far as it can be as a line of the device language."""
    if edit.of is Of.ANSWER:
        return "answer the question anew" if edit.unread is not None else "answer the question"
    if edit.of is Of.CABLE:
        return _cables(edit.cables[1]) or f"without {_cables(edit.cables[0])}"
    if edit.of is Of.DEVICE:
        return f"go through the sheet of {edit.device}"
    if edit.of is Of.SHEET:
        return f"hand in the sheet of {edit.device}"
    if edit.of is Of.EXCHANGE:
        return f"hand in the sheets of {edit.device} and {edit.others[0].device} each under its own name"
    return _wanted(edit) or f"without {_texts(edit, edit.remove[:1])}"


def _cables(links: Sequence[Link]) -> str:
    """Write links, the first few of them."""
    return "; ".join(map(str, links[:MOST_SAID])) + (" …" if len(links) > MOST_SAID else "")


def _wanted(edit: Edit) -> str:
    """Write what is added: of a block whose header was not understood the header, which is all that is missing."""
    if not edit.add:
        return ""
    opens = edit.of is Of.NAME or (edit.unread is not None and isinstance(edit.add[0].statement, Open))
    if opens and edit.block is not None:
        return edit.block.header()
    return _with_others(edit, edit.add, [(part, part.add) for part in _further(edit)])


def _further(edit: Edit) -> tuple[Edit, ...]:
    """Return what belongs to the same mistake, and what has to follow."""
    return (*edit.others, *edit.following)


def _with_others(edit: Edit, own: Sequence[AnyItem], others: Sequence[tuple[Edit, Sequence[AnyItem]]]) -> str:
    """Write statements with those of the same mistake that are elsewhere, the first few of them."""
    texts = [_texts(edit, own)] if own else []
    for part, items in others:
        port = f" {part.block.port_name}" if part.block is not None and part.block.name else ""
        if items:
            texts.append(f"on {part.device}{port}: {_texts(part, items)}")
    return "; ".join(texts[:MOST_SAID]) + (" …" if len(texts) > MOST_SAID else "")


def _texts(edit: Edit, items: Sequence[AnyItem]) -> str:
    if edit.of is Of.BLOCK and edit.block is not None:
        return edit.block.header()
    if edit.of is Of.DESCRIPTION:
        return "; ".join(item.text() for item in items)
    written = _asks_for_the_mask(edit)
    return "; ".join(_with_mask(item) if written else plain_text(item) for item in items)


def _asks_for_the_mask(edit: Edit) -> bool:
    """Whether the same address is wanted with its mask written out."""
    return edit.add != () and edit.add == edit.remove and isinstance(edit.add[0].statement, OnPort)


def _with_mask(item: AnyItem) -> str:
    """Write an address with its mask as it was written."""
    statement = item.statement
    if isinstance(statement, OnPort) and statement.masked.written:
        return f"address {statement.interface.ip} mask {statement.interface.netmask}"
    return plain_text(item)
