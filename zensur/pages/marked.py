"""A learner's marked paper as one page that prints well: both totals, the mistakes, the sheets with marks at their lines."""

from collections import defaultdict
from dataclasses import dataclass
from itertools import groupby

from ..core.formats import HandIn
from ..core.lab import Lab
from ..core.marking import Result
from ..core.sheet import Diagnostic, Severity
from .environment import TEMPLATES


@dataclass(frozen=True, slots=True)
class _Line:
    """A line of a sheet: what stands in its margin, whether something was lost there, and the marker's notes."""

    number: int
    text: str
    mark: str
    lost: bool
    notes: tuple[str, ...]


def marked_page(lab: Lab, result: Result, hand_in: HandIn) -> str:
    """Return the page. Nothing on it is of other learners, nor of the model answer but what lost marks needed."""
    return TEMPLATES.get_template("marked.html").render(
        title=f"{lab.title}: {lab.stage_title}" if lab.stage else lab.title,
        result=result,
        sheets=_sheets(lab, result, hand_in),
        tasks=[(task, list(own)) for task, own in groupby(result.criteria, key=lambda c: c.task)],
        marks=_marks,
    )


def _marks(value: float) -> str:
    return f"{round(value, 2):g}"


def _sheets(lab: Lab, result: Result, hand_in: HandIn) -> list[tuple[str, list[_Line]]]:
    found = []
    for device in lab.devices:
        file = hand_in.files.get(device)
        if file is None:
            continue
        text = file.content.decode("utf-8", "replace").replace("\r\n", "\n").rstrip("\n")
        found.append((device, list(_lines(result, file.path, text))))
    return found


def _lines(result: Result, path: str, text: str) -> list[_Line]:
    earned: defaultdict[int, float] = defaultdict(float)
    out_of: defaultdict[int, float] = defaultdict(float)
    for criterion in result.criteria:
        own = [w.line for w in criterion.judged.lines if w.file == path]
        if own and criterion.device:
            earned[own[0]] += criterion.marks * criterion.fraction
            out_of[own[0]] += criterion.marks
    notes: defaultdict[int, list[str]] = defaultdict(list)
    for fault in result.faults:
        if fault.file == path and fault.line is not None:
            notes[fault.line].append(f"{fault.repair} ({fault.id})")
        for where in fault.also:
            if where.file == path:
                notes[where.line].append(f"({fault.id})")
    for _, file, diagnostic in result.diagnostics:
        if file == path and diagnostic.severity is Severity.ERROR:
            notes[diagnostic.line].append(_said(diagnostic))
    return [
        _Line(
            number,
            line,
            "" if number not in out_of else f"{_marks(earned[number])} of {_marks(out_of[number])}",
            number in out_of and earned[number] < out_of[number],
            tuple(notes[number]),
        )
        for number, line in enumerate(text.split("\n"), 1)
    ]


def _said(diagnostic: Diagnostic) -> str:
    return diagnostic.message
