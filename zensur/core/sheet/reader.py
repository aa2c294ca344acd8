"""Reads sheets. It never raises: what can be read counts, what cannot is left out and reported."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..addresses import BadValue
from .configuration import AnyItem, Block, Configuration, Item, Where
from .decoding import decode
from .diagnostics import Diagnostic, Mend, Remarks, Severity
from .headers import HEADERS, read_header
from .spelling import KNOWN, PLACES, SUGGESTS_IN_PLACE, at_first, belongs, read_statements, unknown
from .statements import TOP, Open, Statement
from .words import Line, check_name

MOST_BYTES = 256 * 1024
MOST_LINES = 20_000
_DEVICE = re.compile(r"device(?=[ \t\r]|$)", re.IGNORECASE)
_FEW_LINES = 5


SheetForm = Literal["sheet", "yang-json", "yang-xml", "snapshot"]
"""The forms that the configuration of a device comes in; all but the first are read in ``formats``."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet as read: its configuration, the remarks on it (``more`` beyond the first 200), its text.

    ``device`` is the name in the ``device`` line above it, None where there is none. Lines count from
    the top of the file, of which ``text`` is the whole. ``form`` is ``sheet``, ``yang-json``, ``yang-xml``, or
    ``snapshot``.
    """

    configuration: Configuration
    diagnostics: tuple[Diagnostic, ...]
    more: int
    text: str
    device: str | None = None
    form: SheetForm = "sheet"

    @property
    def errors(self) -> tuple[Diagnostic, ...]:
        """The remarks that tell of something left out."""
        return tuple(d for d in self.diagnostics if d.severity is Severity.ERROR)


def read_sheet(source: str | bytes, file: str = "") -> Sheet:
    """Read a file that holds one sheet; ``file`` is the name that every value remembers."""
    text, remarks = decode(source, MOST_BYTES, MOST_LINES)
    reading = _Reading(file, remarks)
    for number, line in enumerate(text.split("\n"), 1):
        reading.line(number, Line(line))
    return reading.sheet(text, None)


def read_sheets(source: str | bytes, file: str = "") -> tuple[Sheet, ...]:
    """Read a file that may hold several sheets, each under a line ``device NAME``.

    A file without such a line is one sheet. What stands above the first such line belongs to no
    device and is reported with the first.
    """
    text, remarks = decode(source, MOST_BYTES, MOST_LINES)
    lines = text.split("\n")
    starts = [number for number, line in enumerate(lines) if _DEVICE.match(line)]
    if not starts:
        return (read_sheet(source, file),)
    sheets = []
    for start, stop in zip(starts, [*starts[1:], len(lines)], strict=True):
        reading = _Reading(file, remarks if start == starts[0] else Remarks())
        if (
            start == starts[0]
            and (stray := next((n for n in range(start) if Line(lines[n]).words), None)) is not None
        ):
            reading.say(
                Severity.ERROR, "before-device", (stray + 1, 1, max(1, len(lines[stray]))),
                "What stands above the first device line belongs to no device.",
            )  # fmt: skip
        device = reading.device(start + 1, Line(lines[start]))
        for number in range(start + 1, stop):
            reading.line(number + 1, Line(lines[number]))
        sheets.append(reading.sheet(text, device))
    return tuple(sheets)


def refused_sheet(why: str) -> Sheet:
    """Return what stands for a sheet that was not read at all, with the reason as its one error."""
    return Sheet(Configuration(), (Diagnostic(Severity.ERROR, "too-large", 1, 1, 1, why),), 0, "")


def devices_named(source: bytes) -> tuple[str, ...]:
    """Return the names in the ``device`` lines of a file that opens with one; none where it does not."""
    text, _ = decode(source, MOST_BYTES, MOST_LINES)
    lines = [line for line in text.split("\n") if Line(line).words]
    if not lines or not _DEVICE.match(lines[0]):
        return ()
    named = [Line(line).words for line in lines if _DEVICE.match(line)]
    return tuple(words[1].text for words in named if len(words) > 1)


def sheet_of(sheets: Sequence[Sheet], device: str) -> Sheet:
    """Return the sheet of one device among those of a file; the first where none bears its name."""
    own = (s for s in sheets if s.device is not None and s.device.lower() == device.lower())
    return next(own, sheets[0])


class _Reading:
    """The state between two lines: the open blocks, and what has been read so far by its slot."""

    def __init__(self, file: str, remarks: Remarks) -> None:
        self.file = file
        self.remarks = remarks
        self.items: dict[tuple[object, ...], AnyItem] = {}
        self.blocks: list[Block] | None = None
        self.lost = False  # the header above could not be read: its lines are left out with it
        self.said = self.strange = 0

    def sheet(self, text: str, device: str | None) -> Sheet:
        """Close the reading."""
        if not self.said and not self.remarks.kept:
            self.remarks.add(
                Diagnostic(
                    Severity.WARNING, "empty-sheet", 1, 1, 1, "The sheet is empty: it configures nothing."
                )
            )
        if self.strange >= _FEW_LINES and self.strange * 2 > self.said:
            self.remarks.put_first(
                Diagnostic(
                    Severity.ERROR,
                    "other-language",
                    1,
                    1,
                    1,
                    "Most of these lines are not in the device language: this looks like a text in another one. "
                    "A sheet has lines such as port p1, address 10.64.8.1/24 and route default via 10.64.8.2.",
                )
            )
        configuration = Configuration.of_items(self.items.values())
        return Sheet(configuration, tuple(self.remarks.kept), self.remarks.more, text, device)

    def device(self, number: int, line: Line) -> str | None:
        """Read the line above a sheet that says whose it is."""
        line.take("device")
        self.said += 1
        try:
            name = check_name(line.take("The device's name"))
            if line.left:
                word = line.take("A word")
                raise BadValue(
                    "extra-words", f"The line is complete before {word[:40]}. Put a # before a comment."
                )
        except BadValue as bad:
            self._refuse(number, line, bad)
            return None
        return name

    def line(self, number: int, line: Line) -> None:
        """Read one line."""
        if not line.words:
            return
        self.said += 1
        where = Where(self.file, number)
        line.hints = not self.remarks.full
        try:
            if line.indented:
                self._in_block(line, where)
            elif line.peek() in HEADERS:
                self._header(line, where)
            else:
                self._top(line, where)
        except BadValue as bad:
            self.strange += bad.code in ("unknown-word", "indented-outside")
            self._refuse(number, line, bad)

    def _refuse(self, number: int, line: Line, bad: BadValue) -> None:
        column, end = line.span(max(0, line.at - bad.words) if bad.code != "unexpected-word" else line.at)
        if bad.code == "missing-word":
            column = end = line.words[-1].end
        mend = None
        if bad.code == "not-indented":
            mend = Mend(number, 1, 0, "  ")
        elif bad.code == "statement-in-header":
            mend = Mend(number, column - 1, end, bad.suggestion or "")
        elif bad.suggestion and bad.code in SUGGESTS_IN_PLACE:
            mend = Mend(number, column, end, bad.suggestion)
        self.say(Severity.ERROR, bad.code, (number, column, end), str(bad), bad.suggestion, mend)

    def _header(self, line: Line, where: Where) -> None:
        self.blocks, self.lost = None, True
        self.blocks, self.lost = read_header(line), False
        for block in self.blocks:
            opened: AnyItem = Item(block, Open(), where)
            self.items.setdefault(opened.slot, opened)

    def _top(self, line: Line, where: Where) -> None:
        kinds = PLACES[TOP].get(line.peek() or "")
        if kinds is None:
            if line.peek() == "device":
                raise at_first(
                    line,
                    BadValue(
                        "device-line", "A device line opens one of several sheets; here there is only one."
                    ),
                )
            inside = [place for place in HEADERS if line.peek() in PLACES[place]]
            if inside:  # the block above stays open: forgetting the indent should not cost the lines below
                raise at_first(line, belongs(line, inside))
            self.blocks, self.lost = None, True
            raise at_first(line, unknown(line, [*PLACES[TOP], *HEADERS]))
        self.blocks, self.lost = None, False
        self._keep([None], read_statements(kinds, line), where, line)

    def _in_block(self, line: Line, where: Where) -> None:
        if self.lost:
            self.strange += line.peek() not in KNOWN
            return
        if self.blocks is None:
            raise at_first(
                line,
                BadValue(
                    "indented-outside",
                    "This line is indented, but stands under no header: indented lines belong to a port or "
                    "another block above them.",
                ),
            )
        place = self.blocks[0].place
        kinds = PLACES[place].get(line.peek() or "")
        if kinds is None:
            word = line.words[0].text
            if place == "sub-port" and line.peek() in PLACES["port"]:
                raise at_first(
                    line,
                    BadValue(
                        "not-on-sub-port", f"{word} is a matter of the physical port, not of a sub-port."
                    ),
                )
            if line.peek() in PLACES[TOP] or line.peek() in HEADERS:
                raise at_first(
                    line, BadValue("top-level-indented", f"{word} stands in the first column, not indented.")
                )
            raise at_first(line, unknown(line, PLACES[place], f" under {self.blocks[0].kind}"))
        self._keep(self.blocks, read_statements(kinds, line), where, line)

    def _keep(
        self, blocks: Sequence[Block | None], statements: Sequence[Statement], where: Where, line: Line
    ) -> None:
        for bad, at in line.warnings:
            word = line.words[at]
            mend = Mend(where.line, word.column, word.end, bad.suggestion) if bad.suggestion else None
            self.say(
                Severity.WARNING, bad.code, (where.line, word.column, word.end),
                str(bad), bad.suggestion, mend,
            )  # fmt: skip
        for block in blocks:
            for statement in statements:
                self._keep_one(Item(block, statement, where), line)

    def _keep_one(self, item: AnyItem, line: Line) -> None:
        before = self.items.get(item.slot)
        if before is not None and before.where is not None and item.where is not None:
            twice = item.statement.SPEC.twice
            counts = "this line" if twice.last_counts else "that line"
            self.say(
                Severity.ERROR if twice.is_error else Severity.NOTE,
                item.statement.SPEC.twice_code,
                (item.where.line, line.words[0].column, line.words[-1].end),
                f"This was said before, in line {before.where.line}; {counts} counts.",
            )
            if not twice.last_counts:
                return
            del self.items[item.slot]
        self.items[item.slot] = item

    def say(
        self,
        severity: Severity,
        code: str,
        place: tuple[int, int, int],
        message: str,
        suggestion: str | None = None,
        mend: Mend | None = None,
    ) -> None:
        """Report something at a line, from its first to its last column."""
        self.remarks.add(Diagnostic(severity, code, *place, message, suggestion, mend))
