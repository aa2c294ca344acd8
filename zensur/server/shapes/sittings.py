"""Groups of learners, and sittings: a version of a lab given to learners under rules."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field

from ...core.sittings.rules import MOST_ATTEMPTS
from .base import MOST, Number, Shape
from .papers import EntryShape

Title = Annotated[str, Field(min_length=1, max_length=120)]
Code = Annotated[str, Field(min_length=1, max_length=120)]


class LearnerShape(Shape):
    """A learner: the id as the course system has it, a name, and perhaps a second id for export, an address, a team."""

    code: str
    name: str
    export_id: str
    mail: str
    team: str


class GroupRef(Shape):
    """A group in the list."""

    number: int
    title: str
    learners: int


class GroupList(Shape):
    """All groups, the newest first."""

    groups: list[GroupRef]


class GroupText(Shape):
    """A group as it is typed: its title, and the roster as CSV."""

    title: Title
    text: str = Field(max_length=2_000_000)


class RosterText(Shape):
    """A roster as CSV."""

    text: str = Field(max_length=2_000_000)


class RosterRead(Shape):
    """What was read of a roster, and which lines were left out and why."""

    learners: list[LearnerShape]
    remarks: list[str]


class GroupView(Shape):
    """A group with its roster, and as CSV; ``remarks`` say which lines were left out and why."""

    number: int
    title: str
    learners: list[LearnerShape]
    text: str
    remarks: list[str]


class SittingRules(Shape):
    """When a sitting opens and closes, what being late costs, and which of several papers of a learner counts.

    ``percent`` of the total is taken off for each day begun, at most ``most_percent``; ``attempts`` 0 is any number.
    """

    opens: AwareDatetime | None = None
    closes: AwareDatetime | None = None
    late: Literal["refused", "marked", "charged"] = "marked"
    percent: float = Field(default=10, ge=0, le=100, allow_inf_nan=False)
    most_percent: float = Field(default=100, ge=0, le=100, allow_inf_nan=False)
    counts: Literal["first", "last", "best"] = "last"
    attempts: int = Field(default=0, ge=0, le=MOST_ATTEMPTS)


class SittingSettings(Shape):
    """What an instructor sets of a sitting."""

    title: Title
    blind: bool = False
    rules: SittingRules = SittingRules()


class NewSitting(SittingSettings):
    """A sitting of a lab's newest version, of a stage where it has them, for the learners of some groups."""

    slug: Annotated[str, Field(min_length=1, max_length=64)]
    stage: Annotated[str, Field(max_length=64)] = ""
    groups: list[Number] = Field(default_factory=list, max_length=100)


class Progress(Shape):
    """How far a sitting is: learners (or teams), papers that count, those of them that came late, are marked, are
    doubtful."""

    learners: int
    handed_in: int
    late: int
    marked: int
    doubtful: int


class SittingCard(Shape):
    """A sitting in the list."""

    number: int
    title: str
    slug: str
    lab: str
    stage: str
    closes: datetime | None
    released: str | None
    progress: Progress


class SittingList(Shape):
    """Sittings, the newest first."""

    sittings: list[SittingCard]


class SeatShape(Shape):
    """A learner of a sitting with the numbers that were drawn for the lab's variables."""

    learner: LearnerShape
    group: str
    drawn: dict[str, int]
    handed_in: bool


class VariableShape(Shape):
    """A variable of the lab, with the ends of its range."""

    name: str
    low: int
    high: int


class SittingView(SittingCard):
    """A sitting with its settings, seats, and what was changed."""

    settings: SittingSettings
    version: int
    newest: int
    variables: list[VariableShape]
    seats: list[SeatShape]
    log: list[EntryShape]


class MoreSeats(Shape):
    """Groups whose learners get a seat where they have none."""

    groups: list[Number] = Field(max_length=100)


class ChangedSeat(Shape):
    """Another team, and other numbers for the lab's variables."""

    team: str = Field(max_length=120)
    drawn: dict[str, Annotated[int, Field(ge=0, le=MOST)]]


class Released(Shape):
    """Whether marks are released."""

    released: bool


class ChangedFor(Shape):
    """What another version of the lab changes for a learner: totals and grades, and which criteria."""

    paper: int
    learner: str
    was: float
    becomes: float
    grade_was: str | None
    grade_becomes: str | None
    criteria: list[str]


class MovingView(Shape):
    """What taking over the newest version of the lab changes, for whom; ``waiting`` papers are not marked under it
    yet, ``failed`` cannot be."""

    version: int
    newest: int
    papers: int
    waiting: int
    failed: int
    changed: list[ChangedFor]


class Move(Shape):
    """The version of the lab to be taken over, as it was shown, and why."""

    version: Number
    reason: str = Field("", max_length=500)


class MarkingProgress(Shape):
    """How many of the papers that count there are, are marked, have failed, and are left to be marked; ``stopped`` says
    that the rest is not marked before somebody has it go on."""

    papers: int
    marked: int
    failed: int
    left: int
    stopped: bool


class MarkingStop(Shape):
    """Whether marking is to stop, after the papers at hand, or to go on."""

    stopped: bool


class Erasing(Shape):
    """A learner to be erased for good, by id, and why."""

    code: Code
    reason: str = Field(min_length=1, max_length=500)


class Erased(Shape):
    """How many papers were those of a learner who was erased."""

    papers: int
