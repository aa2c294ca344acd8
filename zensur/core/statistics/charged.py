"""Results as a table of marks: learners down, criteria across."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..marking.shapes import Marked, Result

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Charged:
    """The fractions that learners earn of criteria, shape (learners, criteria), between 0 and 1; ``marks`` are those of
    the criteria, ``totals`` of the learners as they stand in their results."""

    learners: tuple[str, ...]
    criteria: tuple[str, ...]
    tasks: tuple[str, ...]
    fractions: Floats
    marks: Floats
    totals: Floats

    @property
    def out_of(self) -> float:
        """What all criteria are worth."""
        return float(self.marks.sum())


def charged(results: Sequence[Result]) -> Charged:
    """Make the table of results of one lab and stage; what is carried forward counts as earned."""
    first = results[0].criteria if results else ()
    fractions = np.zeros((len(results), len(first)))
    for row, result in enumerate(results):
        for column, criterion in zip(_columns(first, result.criteria), result.criteria, strict=True):
            if column is not None:
                fractions[row, column] = 1.0 if criterion.carried else criterion.fraction
    return Charged(
        tuple(r.learner for r in results),
        tuple(c.id for c in first),
        tuple(c.task for c in first),
        fractions,
        np.array([c.marks for c in first], dtype=np.float64),
        np.array([r.carried for r in results], dtype=np.float64),
    )


def _columns(first: Sequence[Marked], own: Sequence[Marked]) -> Sequence[int | None]:
    """Return the column of each criterion: by its id, or by its place where learners have numbers of their own, which
    stand in the ids; then there are the same criteria in the same order."""
    if [(c.task, c.key, c.device, c.marks) for c in first] == [
        (c.task, c.key, c.device, c.marks) for c in own
    ]:
        return range(len(first))
    at = {criterion.id: n for n, criterion in enumerate(first)}
    return [at.get(criterion.id) for criterion in own]
