"""Papers and what marking says of them. Results and margins are the core's own types."""

from typing import Literal

from ...core.marking import Margin, Result, SumLine
from .base import Shape


class PaperCard(Shape):
    """A paper in the list."""

    id: int
    learner: str
    received_at: str
    score: float
    carried: float
    out_of: float
    grade: str | None
    mistakes: list[str]
    sheets: int
    was: float | None
    """The total that an earlier revision of the marking gave, where it was another."""


class StageRef(Shape):
    """A stage of a lab."""

    id: str
    title: str


class PaperList(Shape):
    """The latest paper of every learner, of one stage where the lab has stages."""

    lab: str
    slug: str
    version: int
    stage: str
    stages: list[StageRef]
    papers: list[PaperCard]


class PapersTaken(Shape):
    """What an upload brought: the papers' numbers, in the order of the learners."""

    papers: list[int]
    remarks: list[str]


class FlatUpload(Shape):
    """An upload of several learners' files side by side: how their names seem to be made up, and whose they would
    be."""

    message: str
    pattern: str
    learners: list[str]


class PaperSheet(Shape):
    """A sheet of a paper; ``text`` is None where none was handed in, ``given`` what lies below it.

    The cabling is shown as a sheet, too, where learners hand it in.
    """

    device: str
    kind: Literal["router", "switch", "host", "cabling"]
    file: str | None
    text: str | None
    given: str | None
    asked: bool
    margin: Margin


class PaperView(Shape):
    """A paper as it was marked, with the papers before and behind it in the list."""

    id: int
    lab: str
    slug: str
    stage: str
    stage_title: str
    version: int
    received_at: str
    number: int
    of: int
    previous: int | None
    next: int | None
    sheets: list[PaperSheet]
    result: Result
    sum: list[SumLine]
    """What is to be taken from all marks to arrive at the total."""


class Overruling(Shape):
    """An overrule of a criterion, or of the total where it is empty; ``marks`` None takes it back."""

    criterion: str
    marks: float | None
    reason: str
