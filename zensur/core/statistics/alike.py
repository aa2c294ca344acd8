"""Pairs of papers that are suspiciously alike: a question to ask, and never a verdict."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import log2

from ..marking.shapes import Result
from .wrong import written_things, wrong_values

SELDOM = 0.1
"""What more than so large a part of the class has says nothing about two of them; two always may."""
LEAST = 3
"""So many seldom things make a question."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """Two learners, the seldom things that their papers share, and the weight of these in bits.

    Each thing weighs the logarithm of how seldom it is in this class.
    """

    a: str
    b: str
    shared: tuple[str, ...]
    weight: float


def alike_pairs(results: Sequence[Result]) -> list[Pair]:
    """Return pairs that share several seldom wrong values, spellings or comments, those that weigh most first."""
    own = [(r.learner, wrong_values(r) | written_things(r)) for r in results]
    counts = Counter(thing for _, things in own for thing in things)
    bound = max(2, SELDOM * len(own))
    seldom = {thing for thing, n in counts.items() if 1 < n <= bound}
    holders: dict[str, list[int]] = {}
    for n, (_, things) in enumerate(own):
        for thing in things & seldom:
            holders.setdefault(thing, []).append(n)
    shared: dict[tuple[int, int], list[str]] = {}
    for thing, held in holders.items():
        for a, b in combinations(held, 2):
            shared.setdefault((a, b), []).append(thing)
    pairs = [
        Pair(
            a=own[a][0], b=own[b][0], shared=tuple(sorted(things)),
            weight=round(sum(log2(len(own) / counts[thing]) for thing in things), 2),
        )
        for (a, b), things in shared.items()
        if len(things) >= LEAST
    ]  # fmt: skip
    return sorted(pairs, key=lambda p: (-p.weight, p.a, p.b))
