"""Lines of a sheet that were not understood, and what they were probably meant to be."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from difflib import SequenceMatcher

from ..sheet import AnyItem, Block, Sheet, Where
from ..sheet.statements import OnPort, Open

ALIKE, NEARLY = 0.75, 0.5
"""How alike a line and a statement are when one was probably meant as the other: by itself, and with a further sign."""
MOST_LINES = 60
"""So many lines are looked at in a sheet; one of thousands of strange lines is no slip."""


@dataclass(frozen=True, slots=True)
class Unread:
    """A line that was left out: its text, the header it stands under, and the lines that were left out with it."""

    where: Where
    text: str
    header: str = ""
    code: str = ""
    suggestion: str = ""
    under: tuple[str, ...] = ()


def unread_lines(sheet: Sheet, file: str) -> tuple[Unread, ...]:
    """Return the lines that an error is reported of and that nothing was read from."""
    read = {i.where.line for i in sheet.configuration.items if i.where is not None}
    errors = {d.line: d for d in reversed(sheet.errors) if d.line not in read}
    if not errors:
        return ()
    lines, header = sheet.text.split("\n"), ""
    found: list[Unread] = []
    for number, line in enumerate(lines, 1):
        text = _plain(line)
        indented = line[:1] in " \t"
        error = errors.get(number)
        if error is not None and text and len(found) < MOST_LINES:
            under = () if indented else tuple(_under(lines, number))
            found.append(Unread(Where(file, number), text, header, error.code, error.suggestion or "", under))
        if text and not indented and error is None:
            header = text
    return tuple(found)


def _plain(line: str) -> str:
    return " ".join(line.partition("#")[0].split())


def _under(lines: list[str], number: int) -> Iterator[str]:
    """Yield the indented lines below a line, which are left out with a header that is."""
    for line in lines[number:]:
        if line.strip() and line[:1] not in " \t":
            return
        yield line


def is_meant_as(line: Unread, item: AnyItem) -> bool:
    """Say whether a line was probably meant as a statement, in that statement's block."""
    if isinstance(item.statement, Open):
        return False
    if not _stands_in(line, item.block):
        return False
    text = line.text.lower()
    wanted = item.statement.plain().text().lower()
    alike = max(_alike(text, form) for form in _forms(item, wanted))
    numbers = re.findall(r"\d[0-9a-f]*(?:[.:]+[0-9a-f]+){2,}", wanted)
    if numbers and all(number in text.replace("/", " ").split() or number in text for number in numbers):
        return alike >= NEARLY
    if line.suggestion and line.suggestion.lower().split()[0] == wanted.split()[0]:
        return alike >= NEARLY
    return alike >= ALIKE


def _forms(item: AnyItem, wanted: str) -> Iterator[str]:
    """Yield the ways in which a statement may be written: with a length, and with a mask."""
    yield wanted
    if isinstance(item.statement, OnPort) and item.statement.interface.version == 4:
        yield f"address {item.statement.interface.ip} mask {item.statement.interface.netmask}"


def _alike(one: str, other: str) -> float:
    return SequenceMatcher(None, one, other, autojunk=False).ratio()


def _stands_in(line: Unread, block: Block | None) -> bool:
    if block is None:
        return True
    words = line.header.lower().split()
    return block.header().lower() == " ".join(words) or (
        len(words) > 1 and words[0] == block.kind and block.name.lower() in words[1:]
    )


def header_meant(line: Unread, blocks: list[Block]) -> Block | None:
    """Return the block whose header a line was probably meant as."""
    words = line.text.lower().split()

    def alike(block: Block) -> float:
        named = bool(block.name) and block.name.lower() in words
        ratio = _alike(" ".join(words[: len(block.header().split())]), block.header().lower())
        return ratio if ratio >= ALIKE or (named and len(words) <= 4) else 0.0

    best = max(blocks, key=alike, default=None)
    return best if best is not None and alike(best) else None
