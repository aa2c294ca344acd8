"""What being late takes off a total, after everything else was added up."""

from dataclasses import replace

from ..lab import Scheme
from .shapes import LateCharge, Result, rounded


def charged_late(result: Result, days: int, percent: float, scheme: Scheme) -> Result:
    """Return a result of a paper that came some days begun too late, with so many per cent off its totals.

    A total that was decided by hand stands as it was decided. A paper that came in time is returned as it is.
    """
    if not days:
        return result
    if result.overruled is not None or not percent:
        return replace(result, late=LateCharge(days, 0.0, 0.0))
    left = 1 - percent / 100
    carried = rounded(result.carried * left)
    of_all = rounded(100 * carried / result.out_of) if result.out_of else 0.0
    return replace(
        result,
        score=rounded(result.score * left),
        carried=carried,
        percent=of_all,
        grade=scheme.grade(of_all),
        late=LateCharge(days, percent, rounded(result.carried - carried)),
    )
