"""What a blank paper would earn, and when that counts: a blank paper earns nothing."""

from collections.abc import Iterable, Sequence
from functools import cached_property

from .judging.attempt import Attempt
from .judging.judge import Judge
from .scheme import Numbered

ELSEWHERE = "It fails, but elsewhere or for another reason than it should."
UNTOUCHED = "A blank paper has this too: it counts once the device has met something else."


class Guard:
    """Takes back what a blank paper earns where nothing of the device was done, or for another reason."""

    def __init__(self, judge: Judge, criteria: Sequence[Numbered]) -> None:
        self.judge, self.criteria = judge, criteria

    @cached_property
    def blank(self) -> dict[str, float]:
        """What a blank paper would earn of each criterion."""
        return {i: self.judge.judge(c, self.judge.blank).fraction for i, _, c in self.criteria}

    @cached_property
    def unguarded(self) -> dict[str, list[str]]:
        """By device the ids of the criteria that a blank paper misses, without pings and checks."""
        found: dict[str, list[str]] = {}
        for ident, _, criterion in self.criteria:
            if not criterion.is_run and self.blank[ident] == 0:
                found.setdefault(criterion.device, []).append(ident)
        return found

    @cached_property
    def on_model_journey(self) -> dict[str, frozenset[str]]:
        """The devices that a ping or check passes in the model answer, by its id."""
        names, of = self.judge.wiring.names, self.judge.wiring.device_of_node
        return {
            ping: frozenset(names[of(n)] for n in (*ran.result.there, *ran.result.back))
            for ping, ran in self.judge.model_runs.items()
        }

    def take_back(self, attempt: Attempt, earned: dict[str, float]) -> tuple[dict[str, str], set[str]]:
        """Lower what is earned for nothing; returns what to say of it, and which of it no fault stands behind."""
        untouched: set[str] = set()
        before = dict(earned)
        notes: dict[str, str] = {}
        for ident, _, criterion in self.criteria:
            free = self.blank[ident]
            if not free or not earned[ident]:
                continue
            devices = self.on_model_journey[criterion.id] if criterion.is_run else {criterion.device}
            done = self._is_touched(attempt, devices, before)
            if criterion.is_run and done and not self.judge.ends_like_the_model(criterion.id, attempt):
                notes[ident] = ELSEWHERE
                earned[ident] = 0.0
            elif not done:
                notes[ident] = UNTOUCHED
                earned[ident] = max(0.0, before[ident] - free)
                if before[ident] == 1:
                    untouched.add(ident)
        return notes, untouched

    def _is_touched(self, attempt: Attempt, devices: Iterable[str], earned: dict[str, float]) -> bool:
        """Say whether something was done on one of the devices that a guarded criterion depends on.

        Some unguarded criterion of theirs is met; where they have none, a sheet adds something; and where
        the model answer adds nothing to them either, whatever else of the lab is met.
        """
        lab = self.judge.lab
        own = [i for d in devices for i in self.unguarded.get(d, [])]
        if own:
            return any(earned[i] > 0 for i in own)
        mine = [d for d in devices if lab.model[d] != lab.blank[d]]
        if mine:
            return any(attempt.configurations[d] != lab.blank[d] for d in mine)
        return any(earned[i] > 0 for idents in self.unguarded.values() for i in idents)
