"""Overrules: what an instructor decides against the marking, with a reason. They survive marking anew."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..lab import Scheme
from .shapes import Marked, Overruled, Result, rounded, verdict_of

TOTAL = ""
"""The criterion that stands for the total."""


@dataclass(frozen=True, slots=True)
class Overrule:
    """A criterion, or the total, with the marks that it earns all the same, and why."""

    criterion: str
    marks: float
    reason: str


def overruled(result: Result, overrules: Sequence[Overrule], scheme: Scheme) -> Result:
    """Return a result with overrules applied and its totals anew; what the lab no longer asks for is left out.

    What was overruled says so: ``overruled`` has the marks, the reason, and what it ``was``.
    """
    if not overrules:
        return result
    of = {o.criterion: o for o in overrules}
    criteria = tuple(_criterion(c, of[c.id]) if c.id in of else c for c in result.criteria)
    charges = sum(extra.charged for extra in result.extras)
    score = sum(c.marks * c.fraction for c in criteria)
    carried = sum(c.marks if c.carried else c.marks * c.fraction for c in criteria)
    found = replace(
        result,
        criteria=criteria,
        faults=tuple(replace(f, direct=_cost(f.id, criteria)) for f in result.faults),
        score=rounded(max(0.0, score - charges)),
        carried=rounded(max(0.0, (carried if scheme.carry_forward else score) - charges)),
    )
    total = of.get(TOTAL)
    if total is not None and total.marks >= found.out_of:  # nothing is lost that a mistake could cost
        found = replace(
            found,
            criteria=tuple(replace(c, costs=()) for c in found.criteria),
            faults=tuple(replace(f, direct=0.0) for f in found.faults),
        )
    if total is not None:
        told = Overruled(total.marks, total.reason, found.carried)
        found = replace(found, score=total.marks, carried=total.marks, overruled=told)
    percent = rounded(100 * found.carried / found.out_of) if found.out_of else 0.0
    return replace(found, percent=percent, grade=scheme.grade(percent))


def _cost(fault: int, criteria: Sequence[Marked]) -> float:
    return rounded(sum(cost.marks for c in criteria for cost in c.costs if cost.fault == fault))


def _criterion(criterion: Marked, overrule: Overrule) -> Marked:
    """Give a criterion other marks; it is not carried any more, for it has what it was given."""
    whole = criterion.marks
    fraction = min(1.0, max(0.0, overrule.marks / whole)) if whole else criterion.fraction
    was = whole if criterion.carried else whole * criterion.fraction
    told = Overruled(overrule.marks, overrule.reason, rounded(was))
    lost, before = whole * (1 - fraction), sum(c.marks for c in criterion.costs)
    costs = tuple(replace(c, marks=c.marks * lost / before) for c in criterion.costs) if before else ()
    return replace(
        criterion, fraction=fraction, verdict=verdict_of(fraction), carried=False, overruled=told, costs=costs
    )
