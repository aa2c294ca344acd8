"""Changes single statements in the text of a sheet; every other line stays as it was typed, comments too."""

from .configuration import AnyItem, Block, Configuration
from .reader import read_sheet
from .statements import Open
from .words import Line

INDENT = "  "


class CannotEdit(ValueError):
    """A sheet cannot be changed that way; ``str()`` says why, and what to do."""


def put_statement(text: str, header: str, statement: str) -> str:
    """Return the sheet with a statement, under a header such as ``port p1`` or at the top where that is empty.

    It takes the line of what there can be only one of; else it stands where the canonical order has it. An empty
    statement puts in the header alone. Raises :class:`CannotEdit`.
    """
    item = _item(header, statement)
    sheet = read_sheet(text)
    there = next((i for i in sheet.configuration.items if i.slot == item.slot), None)
    if there is not None:
        if there.text() == item.text():
            return text
        return put_line(text, sheet.configuration, there, item.text())
    lines = text.rstrip("\n").split("\n") if text.strip() else []
    configuration = Configuration.of_items([*sheet.configuration.items, item])
    opened = item.block is None or item.block in {i.block for i in sheet.configuration.items}
    new = [(INDENT if item.block else "") + item.text()]
    if isinstance(item.statement, Open):
        new = [item.text()]
    elif item.block is not None and not opened:
        new = [item.block.header(), *new]
    at = _behind(configuration, item, opened)
    if item.block is not None and opened:
        _shared(sheet.configuration, item.block)
    lines[at:at] = new
    return "\n".join([*lines, ""])


def put_line(text: str, configuration: Configuration, item: AnyItem, statement: str) -> str:
    """Return the sheet with another statement in the line of one of its own; indent and comment stay."""
    number = _line_of(configuration, item)
    lines = text.split("\n")
    old = lines[number]
    indent = old[: len(old) - len(old.lstrip())]
    lines[number] = indent + statement + _comment(old)
    return "\n".join(lines)


def take_statement(text: str, item: AnyItem) -> str:
    """Return the sheet without a statement; a header goes with its block, and the last statement with its header.

    Raises :class:`CannotEdit`.
    """
    configuration = read_sheet(text).configuration
    own = next((i for i in configuration.items if i.slot == item.slot), None)
    if own is None:
        return text
    gone = {_line_of(configuration, own)}
    if own.block is not None:
        inside = [i for i in configuration.items if i.block == own.block]
        rest = [i for i in inside if i is not own and not isinstance(i.statement, Open)]
        if isinstance(own.statement, Open) or (not rest and not own.block.is_made):
            gone |= {_line_of(configuration, i) for i in inside}
    lines = text.split("\n")
    return "\n".join(line for n, line in enumerate(lines) if n not in gone)


def _item(header: str, statement: str) -> AnyItem:
    said = "\n".join(filter(None, (header, (INDENT if header else "") + statement if statement else "")))
    read = read_sheet(said)
    if read.errors:
        raise CannotEdit(read.errors[0].message)
    if not read.configuration.items:
        raise CannotEdit("There is nothing to write.")
    return read.configuration.items[-1]


def _behind(configuration: Configuration, item: AnyItem, opened: bool) -> int:
    """Return the number of the line that a new statement stands before, counted from 0."""
    at = next(n for n, i in enumerate(configuration.items) if i is item)
    earlier = configuration.items[:at]
    beside = [i for i in earlier if i.block == item.block] if item.block is not None and opened else earlier
    return max((i.where.line for i in beside if i.where), default=0)


def _line_of(configuration: Configuration, item: AnyItem) -> int:
    if item.where is None:
        raise CannotEdit(f"{item.text()} stands in no line.")
    if item.block is not None:
        _shared(configuration, item.block)
    beside = [
        i for i in configuration.items if i.where and i.where.line == item.where.line and i.slot != item.slot
    ]
    if any(i.block == item.block for i in beside):
        raise CannotEdit(f"{item.text()} shares its line with another statement: change it in the sheet.")
    return item.where.line - 1


def _shared(configuration: Configuration, block: Block) -> None:
    """Refuse to change a block whose header opens others, too, such as ``port p1-p4``."""
    header = configuration.header(block)
    if header is None or header.where is None:
        return
    others = [
        i.block.name
        for i in configuration.items
        if i.block and i.block != block and isinstance(i.statement, Open) and i.where == header.where
    ]
    if others:
        raise CannotEdit(
            f"{block.header()} is written together with {', '.join(others[:3])}: change it in the sheet."
        )


def _comment(line: str) -> str:
    """Return the comment at the end of a line, with the blanks before it."""
    words = Line(line).words
    behind = line[words[-1].end :] if words else ""
    return behind if "#" in behind else ""
