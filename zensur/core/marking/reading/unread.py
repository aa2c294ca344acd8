"""Lines of a sheet that were not understood."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ...sheet import Sheet, Where

MOST_LINES = 60
"""So many lines are looked at in a sheet; one of thousands of strange lines is no slip."""
MOST_LETTERS = 160
"""So much of a line is looked at: no statement that can be missed is longer, and comparing letters takes time."""


@dataclass(frozen=True, slots=True)
class Unread:
    """A line that was left out: its text, the header it stands under, and the lines that were left out with it."""

    where: Where
    text: str
    header: str = ""
    code: str = ""
    suggestion: str = ""
    under: tuple[str, ...] = ()
    why: str = ""
    """What the reader said of it."""


UnreadLines = Mapping[str, tuple[Unread, ...]]
"""Such lines by device."""


def unread_lines(sheet: Sheet, file: str) -> tuple[Unread, ...]:
    """Return the lines that an error is reported of and that nothing was read from; in other forms than ours none."""
    if sheet.form != "sheet":
        return ()
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
            found.append(
                Unread(
                    Where(file, number),
                    text,
                    header,
                    error.code,
                    error.suggestion or "",
                    under,
                    error.message,
                )
            )
        if text and not indented and error is None:
            header = text
    return tuple(found)


def _plain(line: str) -> str:
    return " ".join(line[: 4 * MOST_LETTERS].partition("#")[0].split())[:MOST_LETTERS]


def _under(lines: list[str], number: int) -> Iterator[str]:
    """Yield the indented lines below a line, which are left out with a header that is."""
    for line in lines[number:]:
        if line.strip() and line[:1] not in " \t":
            return
        yield line
