"""A learner's marked paper as one page that prints well: both totals, the mistakes, the sheets with marks at their
lines."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from ..core.formats import CABLING, CABLING_FILE, HandIn, form_of
from ..core.lab import Lab
from ..core.marking.adding import sum_of
from ..core.marking.margin import Margin, margin
from ..core.marking.shapes import Result
from ..core.sheet.decoding import text_of
from .environment import TEMPLATES
from .fonts import embedded_fonts


@dataclass(frozen=True, slots=True)
class Written:
    """What the instructor wrote beside the paper: about a criterion, a line of a device's sheet, or the whole."""

    text: str
    criterion: str = ""
    device: str = ""
    line: int | None = None

    @property
    def place(self) -> str:
        """Where it is written, in words; nothing where it is about the whole."""
        if self.criterion:
            return self.criterion.replace(":", " ")
        return self.device if self.line is None else f"{self.device} line {self.line}"


def marked_page(
    lab: Lab, result: Result, hand_in: HandIn, comments: Sequence[Written] = (), nonce: str = ""
) -> str:
    """Return the page; ``nonce`` lets its style pass a content policy.

    Nothing on it is of other learners, nor of the model answer but what lost marks needed.
    """
    return TEMPLATES.get_template("marked.html").render(
        title=f"{lab.title}: {lab.stage_title}" if lab.stage else lab.title,
        nonce=nonce,
        fonts=embedded_fonts() if nonce else "",  # as a file it is sent to many
        result=result,
        comments=comments,
        sum=sum_of(result, lab.scheme),
        sheets=_sheets(lab, result, hand_in),
        tasks=[(task, list(own)) for task, own in groupby(result.criteria, key=lambda c: c.task)],
        marks=_marks,
    )


def _marks(value: float) -> str:
    return f"{round(value, 2):g}"


def _sheets(lab: Lab, result: Result, hand_in: HandIn) -> list[tuple[str, Margin]]:
    """Return the margin of every sheet that was handed in, and of every one that is asked for and was not."""
    asked = {c.device for c in result.criteria if c.device}
    found = []
    cabling = hand_in.files.get(CABLING)
    if lab.asks_cabling:
        text = None if cabling is None else cabling.content.decode("utf-8", "replace")
        of_cabling = margin(result, CABLING_FILE, cabling.path if cabling else None, text, True)
        found.append((CABLING_FILE, of_cabling))
    for device in lab.devices:
        file = hand_in.files.get(device)
        if file is None and device not in asked:
            continue
        text = None if file is None else text_of(file.content)
        form = "sheet" if file is None else form_of(file.content)
        path = file.path if file else None
        found.append((device, margin(result, device, path, text, device in asked, form)))
    return found
