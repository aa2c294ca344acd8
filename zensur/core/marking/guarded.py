"""The fourth step of marking: what a blank paper would earn is taken back, for a blank paper earns nothing."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from .judged import Judgements, judge_all
from .memo import Memo
from .paper import Paper
from .session import Session
from .shapes import Judged

ELSEWHERE = "It fails, but elsewhere or for another reason than it should."
UNTOUCHED = "A blank paper has this too: it counts once the device has met something else."


@dataclass(frozen=True, slots=True)
class Guard:
    """What is guarded in a lab: it never changes.

    ``blank`` is the fraction that a blank paper would earn of each criterion; ``unguarded``, by device, the ids of
    those that a blank paper misses, without pings and checks; ``on_model_journey`` the devices that a ping or check
    passes in the model answer, by the id of its criterion.
    """

    blank: Mapping[str, float]
    unguarded: Mapping[str, tuple[str, ...]]
    on_model_journey: Mapping[str, frozenset[str]]

    @classmethod
    def of(cls, memo: Memo) -> "Guard":
        """Work it out from a blank paper."""
        facts, wiring = memo.facts, memo.facts.wiring
        blank = judge_all(Session(memo, memo.reader.read(Paper("", {})))).judged
        unguarded: dict[str, list[str]] = {}
        for ident, _, criterion in facts.criteria:
            if not criterion.is_run and blank[ident].fraction == 0:
                unguarded.setdefault(criterion.device, []).append(ident)
        names, of = wiring.names, wiring.device_of_node
        return cls(
            {ident: judged.fraction for ident, judged in blank.items()},
            {device: tuple(idents) for device, idents in unguarded.items()},
            {
                ident: frozenset(names[of(n)] for n in (*run.result.there, *run.result.back))
                for ident, run in facts.model.runs.items()
            },
        )

    @property
    def guarded(self) -> list[str]:
        """The ids of the criteria that a blank paper meets."""
        return [ident for ident, fraction in self.blank.items() if fraction]


@dataclass(frozen=True, slots=True)
class Guarded:
    """What is earned of each criterion, by id, once the guard has taken back what a blank paper would earn.

    ``notes`` say why it did; behind the ``untouched`` ones stands no mistake.
    """

    session: Session
    guard: Guard
    judged: Mapping[str, Judged]
    earned: Mapping[str, float]
    notes: Mapping[str, str]
    untouched: frozenset[str]


def guard_marks(judgements: Judgements, guard: Guard) -> Guarded:
    """Take back what a blank paper would earn where nothing of the device was done, or for another reason."""
    session = judgements.session
    before = {ident: judged.fraction for ident, judged in judgements.judged.items()}
    earned, notes, untouched = dict(before), dict[str, str](), set[str]()
    for ident, _, criterion in session.facts.criteria:
        free = guard.blank[ident]
        if not free or not before[ident]:
            continue
        devices = guard.on_model_journey[criterion.id] if criterion.is_run else {criterion.device}
        done = _is_touched(session, guard, devices, before)
        if not done:
            notes[ident] = UNTOUCHED
            earned[ident] = max(0.0, before[ident] - free)
            if before[ident] == 1:
                untouched.add(ident)
        elif criterion.is_run and not session.ends_like_the_model(criterion.id, session.paper):
            notes[ident] = ELSEWHERE
            earned[ident] = 0.0
    return Guarded(session, guard, judgements.judged, earned, notes, frozenset(untouched))


def _is_touched(session: Session, guard: Guard, devices: Iterable[str], earned: Mapping[str, float]) -> bool:
    """Say whether something was done on one of the devices that a guarded criterion depends on.

    Some unguarded criterion of theirs is met; where they have none, a sheet adds something; and where
    the model answer adds nothing to them either, whatever else of the lab is met.
    """
    lab = session.lab
    own = [i for d in devices for i in guard.unguarded.get(d, ())]
    if own:
        return any(earned[i] > 0 for i in own)
    mine = [d for d in devices if lab.model[d] != lab.blank[d]]
    if mine:
        return any(session.paper.configurations[d] != lab.blank[d] for d in mine)
    return any(earned[i] > 0 for idents in guard.unguarded.values() for i in idents)
