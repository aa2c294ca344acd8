"""What a class did not understand."""

from ...core.statistics import (
    Across,
    Borrowed,
    Cluster,
    Distribution,
    Item,
    Pair,
    Reliability,
    SlipCount,
    Term,
)
from .base import Shape
from .labs import StageRef
from .papers import SittingRef


class Earned(Shape):
    """The totals of a paper, and what is earned of each task and criterion."""

    carried: float
    score: float
    grade: str | None
    tasks: list[float]
    criteria: list[float]


class LearnerRow(Shape):
    """A learner in the grid: the paper, where there is one, what is earned of it, where it is marked, and the mistakes
    in words. ``doubts`` say why somebody should look at it who has not."""

    paper: int | None
    learner: str
    group: str
    handed_in: str | None
    days_late: int
    marked: Earned | None
    mistakes: list[str]
    overruled: bool
    doubts: list[str]


class TaskHead(Shape):
    """A task, or a criterion, with its marks."""

    name: str
    task: str
    marks: float


class ClassView(Shape):
    """The class of a lab and stage: the grid, and what it did not understand; ``waiting`` papers are not marked yet."""

    lab: str
    slug: str
    stage: str
    stages: list[StageRef]
    sitting: SittingRef | None
    released: str | None
    version: int
    waiting: int
    out_of: float
    tasks: list[TaskHead]
    criteria: list[TaskHead]
    learners: list[LearnerRow]
    distribution: Distribution | None
    items: list[Item]
    of_tasks: list[Item]
    reliability: Reliability
    slips: list[SlipCount]
    clusters: list[Cluster]
    pairs: list[Pair]
    borrowed: list[Borrowed]


class TermRef(Shape):
    """A sitting of those beside each other."""

    number: int
    made_at: str


class TermsView(Shape):
    """The newest sittings of a lab beside each other, the earliest of them first: what was earned of each task and
    criterion, and the part of papers with each mistake. ``sittings`` are as many as ``terms``."""

    lab: str
    sittings: list[TermRef]
    terms: list[Term]
    tasks: list[Across]
    criteria: list[Across]
    slips: list[Across]
