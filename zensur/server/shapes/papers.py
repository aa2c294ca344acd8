"""Papers and what marking says of them. Results and margins are the core's own types."""

from typing import Literal

from pydantic import Field

from ...core.marking.adding import SumLine
from ...core.marking.margin import Margin
from ...core.marking.shapes import Result
from ...core.sheet import SheetForm
from .base import Number, Shape
from .labs import StageRef


class CardResult(Shape):
    """What the list shows of a paper's result."""

    score: float
    carried: float
    out_of: float
    grade: str | None
    mistakes: list[str]
    was: float | None
    """The total that an earlier revision of the marking gave, where it was another."""


class PaperCard(Shape):
    """A paper in the list; without a result it waits to be marked, or has failed for a reason."""

    id: int
    learner: str
    received_at: str
    sheets: int
    result: CardResult | None
    failure: str | None
    look_again: int
    """How much was overruled on an earlier paper of the learner, and stands for this one."""


class SittingRef(Shape):
    """The sitting that papers are of; ``blind`` says that nobody is to know whose they are."""

    number: int
    title: str
    blind: bool


class PaperList(Shape):
    """The paper of every learner that counts, of one stage where the lab has stages."""

    lab: str
    slug: str
    version: int
    stage: str
    stages: list[StageRef]
    sitting: SittingRef | None
    papers: list[PaperCard]


class ArrivedFile(Shape):
    """A file that arrived, with the SHA-256 of its contents."""

    name: str
    sha256: str


class Arrived(Shape):
    """The receipt of a hand-in: what arrived, when and by which way, and what was noticed while it was read."""

    number: int
    way: str
    received_at: str
    files: list[ArrivedFile]
    remarks: list[str]


class PapersTaken(Shape):
    """What an upload brought: the papers' numbers, in the order of the learners."""

    papers: list[int]
    remarks: list[str]


class FlatUpload(Shape):
    """An upload of several learners' files side by side: how their names seem to be made up, and whose they would
    be."""

    pattern: str
    learners: list[str]


class PaperAsked(Shape):
    """A paper of an upload whose learner has one already, or is called nearly like somebody who has."""

    name: str
    """Whose it is, as the upload says."""
    learner: str
    """Whose paper is there."""
    apart: bool
    """Whether the two names differ, in capitals or spaces."""
    received_at: str | None
    """When the paper there came; None where it is of the same upload."""
    carried: float | None
    """Its total, where it is marked."""
    overruled: list[str]
    """The criteria of it that were overruled; an empty one is the total."""
    devices: list[str]
    missing: list[str]
    """The devices that only the paper there has a sheet of."""


class Whose(Shape):
    """A name in an upload of which it is not certain whose it is, with the id of the learner whose it probably is."""

    name: str
    proposed: str | None


class LearnerRef(Shape):
    """A learner of a sitting."""

    code: str
    name: str


class UploadAsked(Shape):
    """What has to be answered before an upload is stored: how names are made up, whose papers are, or what becomes of
    them; ``learners`` are those that papers may be of.

    ``seen`` is sent back with the answers, so that none is taken for another question.
    """

    message: str
    flat: FlatUpload | None
    papers: list[PaperAsked]
    seen: str
    whose: list[Whose]
    learners: list[LearnerRef]


class PaperSheet(Shape):
    """A sheet of a paper; ``text`` is None where none was handed in, ``given`` what lies below it.

    The cabling is shown as a sheet, too, where learners hand it in.
    """

    device: str
    kind: Literal["router", "switch", "host", "cabling"]
    file: str | None
    text: str | None
    given: str | None
    form: SheetForm
    asked: bool
    margin: Margin | None
    """None where the paper is not marked yet."""


class Attempt(Shape):
    """One of a learner's papers."""

    id: int
    received_at: str
    counts: bool
    carried: float | None
    """Its total, where it is marked."""


class LookAgain(Shape):
    """What was overruled on an earlier paper of the learner and stands for this one, too."""

    criterion: str
    marks: float
    reason: str
    paper: int
    made_at: str


class CommentShape(Shape):
    """What an instructor wrote: about a criterion, a line of a device's sheet, or the whole where neither is told."""

    id: int
    criterion: str
    device: str
    line: int | None
    text: str
    made_at: str


class Commenting(Shape):
    """A comment to be kept."""

    criterion: str = Field("", max_length=400)
    device: str = Field("", max_length=64)
    line: Number | None = None
    text: str = Field(min_length=1, max_length=2000)


class EntryShape(Shape):
    """An entry of the log."""

    made_at: str
    who: str
    what: str
    learner: str
    paper: int | None
    told: str
    reason: str


class PaperView(Shape):
    """A paper as it was marked, with the papers before and behind it in the list.

    Without a result it waits to be marked, or has failed for a reason.
    """

    id: int
    learner: str
    lab: str
    slug: str
    sitting: SittingRef | None
    stage: str
    stage_title: str
    version: int
    received_at: str
    arrival: int | None
    """The receipt of what it came in."""
    days_late: int
    drawn: dict[str, int]
    """The learner's own numbers for the lab's variables."""
    number: int
    of: int
    previous: int | None
    next: int | None
    sheets: list[PaperSheet]
    result: Result | None
    failure: str | None
    sum: list[SumLine]
    """What is to be taken from all marks to arrive at the total."""
    attempts: list[Attempt]
    """All papers of the learner, the one that counts first."""
    look_again: list[LookAgain]
    comments: list[CommentShape]
    doubts: list[str]
    """Why somebody should look at it who has not."""
    chosen: bool
    """Whether it was chosen by hand to count."""
    log: list[EntryShape]
    """What was changed about its marks, the newest first."""


class IfMended(Shape):
    """What a paper would earn if one of its mistakes were mended, and the others were not.

    ``holds`` are the criteria that are met then and are not now, ``lost`` those that are met now and are not then.
    """

    score: float
    carried: float
    out_of: float
    percent: float
    grade: str | None
    holds: list[str]
    lost: list[str]


class Counting(Shape):
    """Whether a paper is chosen to count, or the rules are to decide again, and why."""

    chosen: bool = True
    reason: str = Field("", max_length=500)


class Overruling(Shape):
    """An overrule of a criterion, or of the total where it is empty; ``marks`` None takes it back."""

    criterion: str = Field(max_length=400)
    marks: float | None = Field(ge=0, le=1e6, allow_inf_nan=False)
    reason: str = Field(max_length=500)


class Accepting(Shape):
    """Lines of a sheet, or an answer, that are to count for a criterion for everybody, and why."""

    criterion: str = Field(min_length=1, max_length=400)
    text: str = Field(max_length=2000)
    reason: str = Field("", max_length=500)


class Accepted(Shape):
    """The version of the lab that has it, and the sitting that may take it over."""

    version: int
    sitting: int | None


class GivenAnswer(Shape):
    """What a paper has for a question: the answer, what it earns, and whether somebody decided that."""

    paper: int
    learner: str
    answer: str
    earned: float
    decided: bool


class QuestionByHand(Shape):
    """A criterion that is marked by hand, with the papers that somebody has to look at."""

    criterion: str
    asks: str
    required: str
    marks: float
    given: list[GivenAnswer]


class ByHandView(Shape):
    """What is marked by hand of the papers of a lab or sitting."""

    lab: str
    slug: str
    stage: str
    sitting: SittingRef | None
    questions: list[QuestionByHand]
