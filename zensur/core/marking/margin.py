"""The margin of a marked sheet: the learner's lines with their marks, what is struck, and what the pencil adds where.

Worked out here once; the browser and the printed page only draw it.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

from ..formats import CABLING_FILE
from .criteria.cables import CABLE_KEYS
from .shapes import Fault, Marked, Result, SheetRemark


@dataclass(frozen=True, slots=True)
class Span:
    """Part of a line, from a column up to another, counted from 0."""

    start: int
    end: int


@dataclass(frozen=True, slots=True)
class MarkedLine:
    """A line as it is shown. ``number`` is None for one that the marker pencils in.

    ``criteria`` are the ids of the criteria marked there, with what they ``earned`` of their marks; ``fault`` is the
    number of the mistake that has its line here, ``also`` those that this line belongs to. What is ``wrong`` is struck,
    and ``correction`` stands behind it. ``remarks`` are the reader's.
    """

    number: int | None
    text: str
    criteria: tuple[str, ...] = ()
    earned: float = 0.0
    out_of: float = 0.0
    fault: int | None = None
    also: tuple[int, ...] = ()
    wrong: Span | None = None
    correction: str = ""
    remarks: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Margin:
    """One device's sheet as it is shown. ``unlined`` are the ids of its criteria that no line shows.

    ``absent`` says in sentences why there is no sheet to show.
    """

    lines: tuple[MarkedLine, ...] = ()
    unlined: tuple[str, ...] = ()
    absent: tuple[str, ...] = ()


@dataclass(slots=True)
class _Line:
    """A line while marks are laid beside it."""

    number: int | None
    text: str
    criteria: list[Marked] = field(default_factory=list)
    fault: Fault | None = None
    also: list[int] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)

    def done(self, form: str) -> MarkedLine:
        """Return the line as it is shown."""
        wrong, right = (None, "")
        if self.fault is not None and self.number is not None and form != "sheet":
            right = self.fault.repair if self.fault.required is not None else "not wanted"
        elif self.fault is not None and self.number is not None:
            struck, right = correction(self.fault)
            at = self.text.find(struck) if struck else -1
            wrong = Span(at, at + len(struck)) if at >= 0 else None
        return MarkedLine(
            self.number,
            self.text,
            tuple(c.id for c in self.criteria),
            sum(c.marks * c.fraction for c in self.criteria),
            sum(c.marks for c in self.criteria),
            self.fault.id if self.fault is not None else None,
            tuple(n for n in self.also if self.fault is None or n != self.fault.id),
            wrong,
            right,
            tuple(self.remarks),
        )


def margin(
    result: Result, device: str, file: str | None, text: str | None, asked: bool, form: str = "sheet"
) -> Margin:
    """Lay the marks of one device beside the lines of its sheet; what is missing is pencilled in where it belongs.

    In another form than ours the pencil writes what is needed beside a line, and what is missing at the end.

    The cabling of a paper is shown in the same way, as if ``links.cabling`` were a device.
    ``text`` is None where no sheet was handed in; ``asked`` says whether anything is asked of the device.
    """
    remarks = [r for r in result.diagnostics if r.device == device]
    if text is None or not text.strip():
        return Margin(absent=_why_absent(device, text, asked, remarks))
    lines = [_Line(n, line) for n, line in enumerate(_lines_of(text), 1)]
    for line in lines:
        line.also = [
            f.id for f in result.faults if any((w.file, w.line) == (file, line.number) for w in f.also)
        ]
        line.remarks = [r.message for r in remarks if r.line == line.number and r.severity != "note"]
    faults = [f for f in result.faults if not f.whole and _is_of(f, file, device)]
    put = _put if form == "sheet" else _put_in_data
    pencilled = {f.id: new for f in faults if (new := put(lines, f, file)) is not None}
    unlined = []
    for criterion in result.criteria:
        if not _is_about(criterion, device):
            continue
        fault = next((f for f in faults if f.id == criterion.fault), None)
        place = pencilled.get(fault.id) if fault is not None else None
        own = next(
            (w.line for w in criterion.lines if w.file == file), fault.line if fault is not None else None
        )
        place = place or _numbered(lines, own)
        if place is None:
            unlined.append(criterion.id)
        else:
            place.criteria.append(criterion)
    return Margin(tuple(line.done(form) for line in lines), tuple(unlined))


def _is_about(criterion: Marked, device: str) -> bool:
    """Whether a criterion is marked in the sheet of a device, or in the cabling."""
    return criterion.key in CABLE_KEYS if device == CABLING_FILE else criterion.device == device


def _lines_of(text: str) -> list[str]:
    return text.replace("\r\n", "\n").rstrip("\n").split("\n")


def _why_absent(device: str, text: str | None, asked: bool, remarks: list[SheetRemark]) -> tuple[str, ...]:
    """Say why there is no sheet to show: not asked for, not handed in, empty, or no text at all."""
    if remarks:
        return tuple(r.message for r in remarks)
    if device == CABLING_FILE:
        return (f"{device} was not handed in.",)
    if not asked:
        return (f"Nothing is asked of {device}.",)
    return (f"No sheet of {device} was handed in." if text is None else f"The sheet of {device} is empty.",)


def _is_of(fault: Fault, file: str | None, device: str) -> bool:
    """Whether a mistake is shown in a sheet: its line stands there, or it has none and is about the device."""
    return fault.device == device if fault.line is None or fault.file is None else fault.file == file


def _numbered(lines: Iterable[_Line], number: int | None) -> _Line | None:
    return None if number is None else next((line for line in lines if line.number == number), None)


def _put(lines: list[_Line], fault: Fault, file: str | None) -> _Line | None:
    """Put a mistake at its line; where something is missing, pencil it in and return the new line."""
    own = _numbered(lines, fault.line) if fault.file == file else None
    if fault.found is not None and own is not None:
        if own.fault is None:
            own.fault = fault
        else:
            own.also.append(fault.id)
        return None
    behind = _numbered(lines, fault.in_front_of.line if fault.in_front_of else None)
    if fault.missing and own is None:
        return _insert_all(lines, fault, behind)
    if behind is not None:
        indent = "  " if fault.block else ""
        return _insert(lines, lines.index(behind), _Line(None, f"{indent}{fault.repair}", fault=fault))
    if fault.block is None:
        return _insert(lines, _last_like(lines, fault.repair), _Line(None, fault.repair, fault=fault))
    header = own or _header(lines, fault.block)
    if header is None:
        header = _insert(lines, len(lines), _Line(None, fault.block))
    if fault.repair == fault.block and header.fault is None:
        header.fault = fault
        return header
    return _insert(lines, _end_of_block(lines, header), _Line(None, f"  {fault.repair}", fault=fault))


def _put_in_data(lines: list[_Line], fault: Fault, file: str | None) -> _Line | None:
    """Put a mistake at its line; what is missing is pencilled in at the end, in the form of the file if it can be."""
    own = _numbered(lines, fault.line) if fault.file == file else None
    if own is not None:
        if own.fault is None:
            own.fault = fault
        else:
            own.also.append(fault.id)
        return None
    words = fault.in_form.rstrip("\n") or "\n".join(fault.missing or (fault.repair,))
    new = [_Line(None, text) for text in words.split("\n")]
    new[0].fault = fault
    lines += new
    return new[0]


def _insert_all(lines: list[_Line], fault: Fault, behind: _Line | None) -> _Line:
    """Pencil several lines in: in front of what has to stand ``behind`` them, below their header, or at the end."""
    header, put = _header(lines, fault.missing[0]), list(fault.missing)
    at = len(lines) if behind is None else lines.index(behind)
    if header is not None:
        at, put = _end_of_block(lines, header), put[1:]
    new = [_Line(None, text) for text in put]
    new[0].fault = fault
    lines[at:at] = new
    return new[0]


def _insert(lines: list[_Line], at: int, line: _Line) -> _Line:
    lines.insert(at, line)
    return line


def _last_like(lines: list[_Line], repair: str) -> int:
    """Return the place behind the last line that begins with the same word; the end where there is none."""
    word = repair.partition(" ")[0]
    return max(
        (n for n, line in enumerate(lines, 1) if line.text.lower().startswith(word)), default=len(lines)
    )


def _header(lines: list[_Line], header: str) -> _Line | None:
    """Return the line that opens a block, whether the learner or the pencil wrote it."""
    words = header.lower().split()
    return next((line for line in lines if line.text.lower().split() == words), None)


def _end_of_block(lines: list[_Line], header: _Line) -> int:
    end = lines.index(header) + 1
    while end < len(lines) and lines[end].text[:1].isspace():
        end += 1
    return end


def correction(fault: Fault) -> tuple[str, str]:
    """Return what of a line is wrong, and what should stand there, as the marker would write it."""
    found = (fault.found or "").split()
    if fault.required is None:
        return " ".join(found[1:]), "not wanted"
    if fault.in_front_of is not None:
        return " ".join(found), f"{fault.required}, above line {fault.in_front_of.line}"
    if fault.found == fault.required:
        return " ".join(found[1:]), f"belongs on {fault.port or fault.device}"
    if "; " in fault.required:
        return "", fault.in_a_sentence
    required = fault.required.split()
    wrong = [word for n, word in enumerate(found) if n >= len(required) or required[n] != word]
    first = next((n for n, word in enumerate(required) if n >= len(found) or found[n] != word), None)
    if first is None:
        return " ".join(wrong), f"without {' '.join(wrong)}"
    was, wanted = found[first] if first < len(found) else "", required[first]
    if len(required) == len(found) and len(wrong) == 1:
        if "/" in wanted and was.partition("/")[0] == wanted.partition("/")[0]:
            return wrong[0], f"/{wanted.partition('/')[2]}"
        if first == 0:
            return wrong[0], wanted
    keyword = first > 1 and re.fullmatch("[a-z]+", required[first - 1])
    return " ".join(wrong), " ".join(required[first - 1 if keyword else first :])
