"""What a class did not understand."""

from ...core.statistics import Cluster, Distribution, Item, Pair, Reliability, SlipCount
from .base import Shape
from .labs import StageRef


class LearnerRow(Shape):
    """A learner in the grid: the paper, what is earned of each task, and the mistakes in words."""

    paper: int
    learner: str
    handed_in: str
    carried: float
    score: float
    grade: str | None
    tasks: list[float]
    criteria: list[float]
    mistakes: list[str]
    overruled: bool


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
