"""Papers and what marking says of them."""

from typing import Literal

from .base import Shape
from .runs import PingRow, ServiceRow


class LineRef(Shape):
    """A line of a file."""

    file: str
    line: int


class OverruleShape(Shape):
    """What the instructor decided: the marks, why, and what it was before."""

    marks: float
    reason: str
    was: float


class CriterionShape(Shape):
    """A criterion marked."""

    id: str
    task: str
    device: str
    verdict: Literal["met", "partly", "missed"]
    fraction: float
    marks: float
    required: str
    found: str
    lines: list[LineRef]
    fault: int | None
    carried: bool
    note: str
    overruled: OverruleShape | None = None


class FaultShape(Shape):
    """A root mistake."""

    id: int
    slip: str
    title: str
    said: str
    told: str
    device: str
    port: str | None
    file: str | None
    line: int | None
    found: str | None
    required: str | None
    repair: str
    direct: float
    consequences: list[str]
    also: list[LineRef]


class ExtraShape(Shape):
    """A statement beyond what was asked, and whether the network would do otherwise without it."""

    device: str
    file: str | None
    line: int | None
    found: str
    changes: bool
    charged: float


class RemarkShape(Shape):
    """A diagnostic of one of the paper's sheets."""

    device: str
    file: str
    line: int
    severity: Literal["error", "warning", "note"]
    code: str
    message: str


class ResultShape(Shape):
    """A marked paper, in the shape of ``mark --json``."""

    learner: str
    score: float
    carried: float
    out_of: float
    percent: float
    grade: str | None
    criteria: list[CriterionShape]
    faults: list[FaultShape]
    extras: list[ExtraShape]
    diagnostics: list[RemarkShape]
    pings: list[PingRow]
    services: list[ServiceRow]
    remarks: list[str]
    overruled: OverruleShape | None = None


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
    """An upload of several learners' files side by side: how their names seem to be made up, and whose they would be."""

    message: str
    pattern: str
    learners: list[str]


class PaperSheet(Shape):
    """A sheet of a paper; ``text`` is None where none was handed in, ``given`` what lies below it."""

    device: str
    kind: Literal["router", "switch", "host"]
    file: str | None
    text: str | None
    given: str | None
    asked: bool


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
    result: ResultShape


class Overruling(Shape):
    """An overrule of a criterion, or of the total where it is empty; ``marks`` None takes it back."""

    criterion: str
    marks: float | None
    reason: str
