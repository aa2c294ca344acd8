"""The rules of a sitting: when it closes, what being late costs, and which of several attempts counts."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

Late = Literal["refused", "marked", "charged"]
"""What is handed in late does not count; counts as if it were in time; loses a part of its total."""
Counts = Literal["first", "last", "best"]
_DAY = timedelta(days=1)

MOST_ATTEMPTS = 1000
"""So many papers of a learner may be allowed to count; more is a slip of the hand."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """The rules of a sitting. ``percent`` of the total is taken off for each day begun, at most ``most_percent``;
    ``attempts`` is how many of a learner's papers may count, the earliest of them, 0 for any number. Raises
    :class:`ValueError` where a number is out of its range."""

    opens: datetime | None = None
    closes: datetime | None = None
    late: Late = "marked"
    percent: float = 10.0
    most_percent: float = 100.0
    counts: Counts = "last"
    attempts: int = 0

    def __post_init__(self) -> None:
        if not (0 <= self.percent <= 100 and 0 <= self.most_percent <= 100):
            raise ValueError("from 0 to 100 per cent can be taken off")
        if not 0 <= self.attempts <= MOST_ATTEMPTS:
            raise ValueError(f"from 0 to {MOST_ATTEMPTS} papers may count")

    def percent_off(self, received: datetime) -> float:
        """Return how many per cent of its total a paper loses that came at a moment."""
        if self.late != "charged":
            return 0.0
        return min(self.percent * days_late(self.closes, received), self.most_percent)


@dataclass(frozen=True, slots=True, kw_only=True)
class Attempt:
    """A paper of a learner: when it came, and its total before anything is taken off; None while it is not marked."""

    paper: int
    received: datetime
    total: float | None = None


def days_late(closes: datetime | None, received: datetime) -> int:
    """Return the days begun since the end of a sitting: 0 at the very moment that it closes, 1 right after it."""
    return 0 if closes is None else max(0, -((closes - received) // _DAY))


def counting(attempts: Sequence[Attempt], rules: Rules) -> int | None:
    """Return the paper that counts of a learner's, in the order they were handed in; None: none of them does.

    Of equally good ones the earlier counts; as long as none is marked the last is taken for the best.
    """
    allowed = attempts[: rules.attempts] if rules.attempts else attempts
    if rules.late == "refused":
        allowed = [a for a in allowed if not days_late(rules.closes, a.received)]
    if not allowed:
        return None
    if rules.counts == "first":
        return allowed[0].paper
    marked = [
        (a.total * (1 - rules.percent_off(a.received) / 100), a) for a in allowed if a.total is not None
    ]
    if rules.counts == "last" or not marked:
        return allowed[-1].paper
    return max(marked, key=lambda own: own[0])[1].paper
