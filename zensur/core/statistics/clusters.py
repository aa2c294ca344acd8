"""Papers with the same mistakes, found by hierarchical clustering on what went wrong in each."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.cluster.hierarchy import fcluster, linkage
from scipy.spatial.distance import pdist

from ..marking.shapes import Result
from .wrong import wrong_things

NEAR = 0.6
"""Papers of one cluster are on average no further apart than this (Jaccard distance)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cluster:
    """Learners whose papers go wrong alike, and what at least half of them have in common."""

    learners: tuple[str, ...]
    shared: tuple[str, ...]


def clusters(results: Sequence[Result]) -> list[Cluster]:
    """Group papers by their mistakes, the largest groups first; papers without a mistake, or alone, are in none.

    Average linkage on the Jaccard distance of mistakes by kind, device and place.
    """
    own = [(r.learner, wrong_things(r)) for r in results]
    having = [(learner, things) for learner, things in own if things]
    if len(having) < 2:
        return []
    every = sorted({thing for _, things in having for thing in things})
    matrix = np.array([[thing in things for thing in every] for _, things in having], dtype=bool)
    groups = fcluster(linkage(pdist(matrix, "jaccard"), "average"), NEAR, "distance")
    found = []
    for group in dict.fromkeys(groups.tolist()):
        members = [n for n, own_group in enumerate(groups) if own_group == group]
        if len(members) > 1:
            shared = [every[c] for c in np.flatnonzero(matrix[members].mean(axis=0) >= 0.5)]
            found.append(Cluster(learners=tuple(having[n][0] for n in members), shared=tuple(shared)))
    return sorted(found, key=lambda c: (-len(c.learners), c.learners))
