"""How a total adds up, so that an instructor can follow it: every mark that is lost stands in one line."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..lab import Scheme
from .charged import NOT_CARRIED
from .shapes import Marked, Result, rounded

DECIDED = "decided by hand"
BY_HAND = "still to be marked by hand"
NOT_ON_THE_WAY = "not carried: too little was done on the way"
FOLLOWS = "what follows from the mistakes"
NO_MISTAKE = "lost without a mistake of its own"
BEYOND = "beyond what was asked"
AT_LEAST = "a total is never below zero"
LATE = "handed in late"


@dataclass(frozen=True, slots=True)
class SumLine:
    """What marks are lost for, and how many; below zero where they are given back."""

    what: str
    marks: float


def sum_of(result: Result, scheme: Scheme) -> tuple[SumLine, ...]:
    """Return what is to be taken from all marks to arrive at ``carried``; nothing where the total is decided by hand.

    The mistakes first, then what is lost without one. Nothing is rounded.
    """
    if result.overruled is not None:
        return ()
    lines = [line for line in _lines(result, scheme) if line.marks]
    beyond = sum(line.marks for line in lines) - result.out_of
    if rounded(beyond) > 0:
        lines.append(SumLine(AT_LEAST, -beyond))
    if result.late is not None and result.late.marks:
        lines.append(SumLine(LATE, result.late.marks))
    return tuple(lines)


def _lines(result: Result, scheme: Scheme) -> Iterator[SumLine]:
    for fault in result.faults:
        costs = (cost.marks for c in result.criteria for cost in c.costs if cost.fault == fault.id)
        yield SumLine(f"{fault.id} {fault.title}, {fault.device or 'answers'}", sum(costs))
    for why in (DECIDED, BY_HAND, NOT_ON_THE_WAY, FOLLOWS, NO_MISTAKE):
        yield SumLine(why, sum(c.marks * (1 - c.fraction) for c in result.criteria if _why(c, scheme) == why))
    yield SumLine(BEYOND, sum(extra.charged for extra in result.extras))


def _why(criterion: Marked, scheme: Scheme) -> str | None:
    """Say why a criterion loses what no mistake costs; None where nothing does, as it is carried or paid."""
    if criterion.costs:
        return None
    if criterion.carried:
        return None if scheme.carry_forward else FOLLOWS
    if criterion.overruled is not None:
        return DECIDED
    if criterion.key == "manual":
        return BY_HAND
    if criterion.note == NOT_CARRIED:
        return NOT_ON_THE_WAY
    return FOLLOWS if criterion.fault is not None else NO_MISTAKE
