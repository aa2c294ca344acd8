"""Criteria and tasks as items of a test: difficulty, discrimination, and the alpha of the whole."""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from .charged import Charged, Floats

STRONG = 0.25
"""So large a part of the class, by total, are its strong learners."""
MISSED = 0.5
"""What strong learners earn less than this of is what they miss."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """A criterion, or a task.

    ``difficulty`` is the mean fraction that is earned (1 is easy); ``discrimination`` the correlation of its marks with
    the marks of all others (corrected point-biserial; None where either is the same for everybody); ``strong`` the mean
    fraction of the strongest quarter.
    """

    id: str
    task: str
    marks: float
    difficulty: float
    discrimination: float | None
    strong: float
    missed_by_strong: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Reliability:
    """Cronbach's alpha of the criteria (L. J. Cronbach, 1951), None where it has no meaning; and by criterion what it
    would be without it."""

    alpha: float | None
    without: dict[str, float | None]


def items(table: Charged) -> tuple[list[Item], list[Item]]:
    """Return the criteria and the tasks of a class as items."""
    earned = table.fractions * table.marks
    strong = _strong(table)
    criteria = [
        _item(name, table.tasks[n], earned, np.array([n]), float(table.marks[n]), strong)
        for n, name in enumerate(table.criteria)
    ]
    tasks = []
    for task in dict.fromkeys(table.tasks):
        columns = np.array([n for n, own in enumerate(table.tasks) if own == task])
        tasks.append(_item(task, task, earned, columns, float(table.marks[columns].sum()), strong))
    return criteria, tasks


def reliability(table: Charged) -> Reliability:
    """Return the alpha of the scheme, and what leaving one criterion out would do to it."""
    earned = table.fractions * table.marks
    columns = list(range(len(table.criteria)))
    return Reliability(
        alpha=_alpha(earned),
        without={
            name: _alpha(earned[:, [c for c in columns if c != n]]) for n, name in enumerate(table.criteria)
        },
    )


def _strong(table: Charged) -> Floats:
    """Return which learners are strong: the first quarter by total, all who are equal to its last."""
    if not len(table.totals):
        return np.zeros(0, dtype=np.float64)
    number = max(1, round(len(table.totals) * STRONG))
    bound = np.sort(table.totals)[::-1][number - 1]
    strong: Floats = (table.totals >= bound).astype(np.float64)
    return strong


def _item(name: str, task: str, earned: Floats, columns: Floats, marks: float, strong: Floats) -> Item:
    own = earned[:, columns].sum(axis=1)
    rest = earned.sum(axis=1) - own
    fractions = own / marks if marks else np.zeros_like(own)
    of_strong = float((fractions * strong).sum() / strong.sum()) if strong.sum() else 0.0
    return Item(
        id=name,
        task=task,
        marks=marks,
        difficulty=float(fractions.mean()) if len(fractions) else 0.0,
        discrimination=_correlation(own, rest),
        strong=of_strong,
        missed_by_strong=of_strong < MISSED,
    )


def _correlation(a: Floats, b: Floats) -> float | None:
    """Return Pearson's correlation; None where one of both does not vary."""
    if len(a) < 2:
        return None
    da, db = a - a.mean(), b - b.mean()
    spread = sqrt(float((da**2).sum()) * float((db**2).sum()))
    return None if spread < 1e-12 else float((da * db).sum()) / spread


def _alpha(earned: Floats) -> float | None:
    learners, number = earned.shape
    if learners < 2 or number < 2:
        return None
    whole = float(earned.sum(axis=1).var(ddof=1))
    if whole < 1e-12:
        return None
    parts = float(earned.var(axis=0, ddof=1).sum())
    return float(number / (number - 1) * (1 - parts / whole))
