"""The mistakes behind the lost marks, found by repairing one statement at a time and simulating again."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from itertools import combinations

from ...lab import Criterion
from ...sim import AnyRun
from ..judging.attempt import Attempt
from ..judging.judge import Judge
from .differences import differences
from .edits import Edit, apply
from .rereading import reread

MOST_TOGETHER = 3
BY_SHARE = ("access", "trunk", "resolver", "dhcp", "dns", "rip", "translation")
"""Keys for which something too much is a loss, too."""


@dataclass
class Search:
    """What was found: every edit that some criterion needs, with the criteria that need it."""

    edits: list[Edit]
    base: Attempt
    """The paper as it was compared: with exchanged sheets put right, and headers that were not understood read."""
    needs: dict[str, tuple[int, ...]] = field(default_factory=dict)
    """For the id of each lost criterion, the numbers of the edits that mend it together."""
    only_back: dict[int, bool] = field(default_factory=dict)
    """For each edit, whether all pings that need it arrive and only their answers are lost without it."""


class _Repairs:
    """The learner's network with some of the edits made; each set is compiled once."""

    def __init__(self, judge: Judge, attempt: Attempt, edits: list[Edit], needed: int) -> None:
        self.judge, self.attempt, self.edits, self.needed = judge, attempt, edits, needed
        self._made: dict[frozenset[int], Attempt] = {frozenset(): attempt}
        self._alone: dict[str, bool] = {}
        self.whole = frozenset(range(needed))

    def with_edits(self, chosen: Iterable[int]) -> Attempt:
        """Make some of the edits; most of them from where all that are needed were made, which is nearer."""
        key = frozenset(chosen)
        if key not in self._made:
            made = apply([self.edits[n] for n in sorted(key)], self.attempt.configurations)
            from_all = self._made.get(self.whole) if 2 * len(key) > len(self.whole) else None
            if from_all is None:
                self._made[key] = self.attempt.with_devices(made)
            else:
                nearer = {**self.attempt.configurations, **made}
                self._made[key] = from_all.with_devices(
                    {
                        n: c
                        for n, c in nearer.items()
                        if c is not from_all.configurations[n] and c != from_all.configurations[n]
                    }
                )
        return self._made[key]

    def stands_alone(self, criterion: Criterion) -> bool:
        """Say whether a ping may be run by itself."""
        found = self._alone.get(criterion.id)
        if found is None:
            found = self._alone[criterion.id] = self.judge.stands_alone(criterion.id, self.attempt)
        return found

    def run(self, criterion: Criterion, attempt: Attempt) -> AnyRun:
        """Run a ping on an attempt, by itself where it may be."""
        return (attempt.alone if self.stands_alone(criterion) else attempt.runs)[criterion.id]

    def mends(self, criterion: Criterion, chosen: Iterable[int]) -> bool:
        mended = self.with_edits(chosen)
        if criterion.is_run:
            return self.judge.as_it_should(criterion.id, mended, self.stands_alone(criterion))
        return self.judge.judge(criterion, mended).fraction == 1


def find_faults(
    judge: Judge, attempt: Attempt, lost: Mapping[str, Criterion], missing: frozenset[str]
) -> Search:
    """Find, for every lost criterion, the smallest set of edits that mends it.

    ``lost`` are the criteria that are not fully met, by id; ``missing`` the devices without a sheet.
    """
    if not lost:
        return Search([], attempt)
    first, mended = reread(judge, attempt)
    edits, surplus = differences(judge, mended, missing)
    repairs = _further(judge, attempt, lost, [*first, *edits], surplus)
    needed = range(repairs.needed)
    spare = range(repairs.needed, len(repairs.edits))
    search = Search(repairs.edits, mended)
    for ident, criterion in lost.items():
        if criterion.is_outcome:
            search.needs[ident] = _explain(repairs, criterion, needed, spare)
        else:
            search.needs[ident] = _subject(repairs, criterion, needed, spare)
    _look_back(search, repairs, lost, needed)
    return search


def _further(
    judge: Judge, attempt: Attempt, lost: Mapping[str, Criterion], edits: list[Edit], surplus: list[Edit]
) -> "_Repairs":
    """Look once more where the edits do not mend a ping: one may have hidden what another lacks.

    An address with far too wide a mask, for one, reaches networks for which the route is missing.
    """
    repairs = _Repairs(judge, attempt, [*edits, *surplus], len(edits))
    runs = [c for c in lost.values() if c.is_run]
    everything, all_of_it = range(len(edits)), range(len(repairs.edits))
    if not edits or all(repairs.mends(c, everything) or repairs.mends(c, all_of_it) for c in runs):
        return repairs
    more, also = differences(judge, repairs.with_edits(everything), frozenset())
    added = [edit for edit in more if edit not in edits]
    if not added:
        return repairs
    further = [*edits, *added]
    return _Repairs(
        judge, attempt, [*further, *surplus, *(e for e in also if e not in surplus)], len(further)
    )


def _subject(repairs: _Repairs, criterion: Criterion, needed: range, spare: range) -> tuple[int, ...]:
    """Find the edits about a criterion's own statement; where there is none, one that makes it better."""
    own = tuple(n for n in needed if criterion.id in repairs.edits[n].subjects)
    if own:
        return _with_needless(repairs, criterion, own, spare) if criterion.key in BY_SHARE else own
    before = repairs.judge.judge(criterion, repairs.attempt).fraction
    for n in (*spare, *needed):
        mended = criterion.device in repairs.edits[n].devices and repairs.judge.judge(
            criterion, repairs.with_edits([n])
        )
        if mended and mended.fraction > before:
            return (n,)
    return ()


def _with_needless(
    repairs: _Repairs, criterion: Criterion, own: tuple[int, ...], spare: range
) -> tuple[int, ...]:
    """Add the statements that have to go, where what is missing is not all that is wrong."""
    chosen = list(own)
    best = repairs.judge.judge(criterion, repairs.with_edits(chosen)).fraction
    for n in spare:
        if best == 1:
            break
        if criterion.device in repairs.edits[n].devices:
            also = repairs.judge.judge(criterion, repairs.with_edits([*chosen, n])).fraction
            if also > best:
                best = also
                chosen.append(n)
    return tuple(chosen)


def _explain(repairs: _Repairs, asked: Criterion, needed: range, spare: range) -> tuple[int, ...]:
    """Find the smallest set of edits that makes a ping or check as expected, or a port be up; empty where none does."""
    everything = list(needed)
    if not repairs.mends(asked, everything):
        everything += spare
        if not repairs.mends(asked, everything):
            return ()
    concerned = _concerned(repairs, asked)
    candidates = [n for n in everything if repairs.edits[n].devices & concerned]
    # What is missing when everything else is mended is needed in every set.
    core = [n for n in candidates if not repairs.mends(asked, [m for m in everything if m != n])]
    if repairs.mends(asked, core):
        return tuple(core)
    rest = [n for n in candidates if n not in core]
    for size in range(1, MOST_TOGETHER + 1 - len(core)):
        for more in combinations(rest, size):
            if repairs.mends(asked, [*core, *more]):
                return tuple(sorted([*core, *more]))
    return _greedy(repairs, asked, everything)


def _greedy(repairs: _Repairs, asked: Criterion, everything: list[int]) -> tuple[int, ...]:
    """Leave out one edit after another as long as the ping stays mended."""
    kept = list(everything)
    for n in everything:
        fewer = [m for m in kept if m != n]
        if repairs.mends(asked, fewer):
            kept = fewer
    return tuple(kept)


def _concerned(repairs: _Repairs, asked: Criterion) -> set[str]:
    """Return the devices on the learner's journey and on the model's, with the switches they pass."""
    judge = repairs.judge
    if not asked.is_run:
        return set(judge.lab.devices)
    found: set[int] = set()
    for ran in (judge.run(asked.id, repairs.attempt), judge.model_runs[asked.id]):
        of = judge.wiring.device_of_node
        found.add(of(ran.result.sender))
        for step in ran.result.steps:
            found.add(of(step.node))
            neighbour = step.decision.neighbour
            if neighbour is not None:
                found.update(map(of, neighbour.others), (passed.device for passed in neighbour.path))
    names = {judge.wiring.names[n] for n in found}
    return names | _on_link(judge, found)


def _on_link(judge: Judge, devices: set[int]) -> set[str]:
    """Return the switches beside the devices: one that is off hides the rest of the way."""
    wiring = judge.wiring
    return {
        wiring.names[other]
        for device in devices
        for other in wiring.touching[device]
        if wiring.is_switch[other]
    }


def _look_back(search: Search, repairs: _Repairs, lost: Mapping[str, Criterion], needed: range) -> None:
    for n in needed:
        pings = [c for i, c in lost.items() if c.is_run and n in search.needs[i]]
        without = repairs.with_edits(m for m in needed if m != n) if pings else None
        search.only_back[n] = without is not None and all(
            repairs.run(c, without).result.seen_as is not None for c in pings
        )
