"""How the totals of a class are spread."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

BARS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Distribution:
    """Totals of a class, in marks: quartiles by linear interpolation, the standard deviation of a sample (0 for one).

    ``bars`` counts learners in ten equal parts of what can be earned, the last with its upper end.
    """

    learners: int
    out_of: float
    least: float
    lower: float
    median: float
    upper: float
    most: float
    mean: float
    deviation: float
    bars: tuple[int, ...]


def distribution(totals: Sequence[float], out_of: float) -> Distribution | None:
    """Describe totals; None where there are none."""
    if not len(totals):
        return None
    held = np.asarray(totals, dtype=np.float64)
    least, lower, median, upper, most = (float(q) for q in np.percentile(held, [0, 25, 50, 75, 100]))
    shares = np.clip(held / out_of if out_of else np.zeros_like(held), 0.0, 1.0)
    bars = np.bincount(np.minimum((shares * BARS).astype(int), BARS - 1), minlength=BARS)
    return Distribution(
        learners=len(held),
        out_of=out_of,
        least=least,
        lower=lower,
        median=median,
        upper=upper,
        most=most,
        mean=float(held.mean()),
        deviation=float(held.std(ddof=1)) if len(held) > 1 else 0.0,
        bars=tuple(int(n) for n in bars),
    )
