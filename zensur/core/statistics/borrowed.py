"""Papers with the numbers of another learner: a question to ask, and never a verdict."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from ..marking.shapes import Marked, Result

LEAST = 2
"""So many criteria have to be right with the other's numbers; one may be a slip of the hand."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Borrowed:
    """A learner whose paper is right for the numbers of another, and in which criteria, by the learner's own ids."""

    learner: str
    of: str
    criteria: tuple[str, ...]


def borrowed(results: Sequence[Result]) -> list[Borrowed]:
    """Return whose papers have numbers of whom, those with most criteria first.

    Criteria are put side by side by their place, for their ids hold numbers. A learner's numbers are known by what the
    paper is required to have: of who has handed nothing in they are not.
    """
    places = list(zip(*(r.criteria for r in results), strict=False))
    owners = [_owners(place) for place in places]
    found = []
    for result in results:
        lost = [
            (c.id, own[c.found])
            for c, own in zip(result.criteria, owners, strict=False)
            if c.fraction < 1 and c.found in own
        ]
        others = Counter(other for _, held in lost for other in held)
        if others:
            other, times = others.most_common(1)[0]  # of a team, the first
            if times >= LEAST:
                criteria = tuple(ident for ident, held in lost if other in held)
                found.append(Borrowed(learner=result.learner, of=results[other].learner, criteria=criteria))
    return sorted(found, key=lambda b: (-len(b.criteria), b.learner))


def _owners(place: Sequence[Marked]) -> dict[str, list[int]]:
    """Return the papers by what a criterion requires of them; nothing where that is the same of all."""
    owners: dict[str, list[int]] = {}
    for n, criterion in enumerate(place):
        owners.setdefault(criterion.required, []).append(n)
    return owners if len(owners) > 1 else {}
