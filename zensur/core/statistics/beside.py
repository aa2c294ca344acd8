"""Several sittings of a lab beside each other: what got better from term to term, and what did not."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..marking.shapes import Result
from .understood import Understood, understood


@dataclass(frozen=True, slots=True, kw_only=True)
class Term:
    """A sitting in short: its title, how many papers are marked, the median and the mean as a part of the marks, and
    alpha. What has no meaning without papers is None."""

    title: str
    learners: int
    median: float | None
    mean: float | None
    alpha: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Across:
    """Something in each sitting, in their order: a part from 0 to 1, None where a sitting does not have it."""

    name: str
    parts: tuple[float | None, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """Sittings beside each other: what was earned of each task and criterion, and the part of papers with each
    mistake."""

    terms: tuple[Term, ...]
    tasks: tuple[Across, ...]
    criteria: tuple[Across, ...]
    slips: tuple[Across, ...]


def beside(sittings: Sequence[tuple[str, Sequence[Result]]]) -> Beside:
    """Put sittings beside each other, given by title and results, in the order given.

    Tasks and criteria are the same where they are called the same; mistakes stand in the order of how often they were
    made in the last sitting.
    """
    told = [understood(results) for _, results in sittings]
    made = [_made(own) for own in told]
    last = made[-1] if made else {}
    never = [0.0 if own.distribution else None for own in told]
    slips = _across(made, never)
    nothing = [None for _ in told]
    return Beside(
        terms=tuple(_term(title, own) for own, (title, _) in zip(told, sittings, strict=True)),
        tasks=_across([{item.id: item.difficulty for item in own.of_tasks} for own in told], nothing),
        criteria=_across([{item.id: item.difficulty for item in own.items} for own in told], nothing),
        slips=tuple(sorted(slips, key=lambda slip: (-last.get(slip.name, 0.0), slip.name))),
    )


def _made(told: Understood) -> dict[str, float]:
    """Return the part of papers with each mistake."""
    learners = told.distribution.learners if told.distribution else 1
    return {slip.title: len(slip.learners) / learners for slip in told.slips}


def _term(title: str, told: Understood) -> Term:
    spread = told.distribution
    if spread is None:
        return Term(title=title, learners=0, median=None, mean=None, alpha=None)
    return Term(
        title=title,
        learners=spread.learners,
        median=spread.median / spread.out_of if spread.out_of else None,
        mean=spread.mean / spread.out_of if spread.out_of else None,
        alpha=told.reliability.alpha,
    )


def _across(sittings: Sequence[Mapping[str, float]], missing: Sequence[float | None]) -> tuple[Across, ...]:
    """Return each name in the order of the first sitting that has it, with what stands for it where one has not."""
    names = dict.fromkeys(name for own in sittings for name in own)
    return tuple(
        Across(name=name, parts=tuple(own.get(name, m) for own, m in zip(sittings, missing, strict=True)))
        for name in names
    )
