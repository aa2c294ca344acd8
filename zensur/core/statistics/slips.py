"""The mistakes of a class, each with the papers that have it."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..marking.shapes import Result


@dataclass(frozen=True, slots=True, kw_only=True)
class SlipCount:
    """A kind of mistake: the learners who made it, how often in all, and what it cost directly, in marks."""

    slip: str
    title: str
    learners: tuple[str, ...]
    times: int
    cost: float


def slip_counts(results: Sequence[Result]) -> list[SlipCount]:
    """Count kinds of mistakes, those of most learners first; ties by cost, then by name."""
    learners: dict[str, list[str]] = {}
    times: dict[str, int] = {}
    cost: dict[str, float] = {}
    titles: dict[str, str] = {}
    for result in results:
        for fault in result.faults:
            titles.setdefault(fault.slip, fault.title)
            times[fault.slip] = times.get(fault.slip, 0) + 1
            cost[fault.slip] = cost.get(fault.slip, 0.0) + fault.direct
            own = learners.setdefault(fault.slip, [])
            if result.learner not in own:
                own.append(result.learner)
    found = [
        SlipCount(
            slip=slip, title=titles[slip], learners=tuple(own), times=times[slip], cost=round(cost[slip], 2)
        )
        for slip, own in learners.items()
    ]
    return sorted(found, key=lambda s: (-len(s.learners), -s.cost, s.slip))
