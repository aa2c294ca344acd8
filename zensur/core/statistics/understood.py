"""The figures of a class, from its results: what it did not understand."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..marking.shapes import Result
from .charged import Charged, charged
from .distribution import Distribution, distribution
from .items import Item, Reliability, items, reliability
from .slips import SlipCount, slip_counts


@dataclass(frozen=True, slots=True, kw_only=True)
class Understood:
    """The figures of a class. ``distribution`` is None where nothing is marked; ``items`` are of the criteria."""

    out_of: float
    table: Charged
    distribution: Distribution | None
    items: list[Item]
    of_tasks: list[Item]
    reliability: Reliability
    slips: list[SlipCount]


def understood(results: Sequence[Result]) -> Understood:
    """Work out the figures of a class."""
    table = charged(results)
    criteria, tasks = items(table)
    out_of = results[0].out_of if results else 0.0
    return Understood(
        out_of=out_of,
        table=table,
        distribution=distribution([r.carried for r in results], out_of),
        items=criteria,
        of_tasks=tasks,
        reliability=reliability(table),
        slips=slip_counts(results),
    )
