"""The seventh step of marking: what each mistake costs, directly and once, and which outcomes keep their marks."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..lab import Criterion, Lab
from .differences.edits import Edit, Of
from .differences.extras import find_extras, place
from .guarded import Guard
from .named import Named
from .session import Session
from .shapes import Cost, Extra, Fault, Judged, Marked, rounded, verdict_of

NOT_CARRIED = "Not carried: less than half was done on a device that it passes."


@dataclass(frozen=True, slots=True)
class Charged:
    """The criteria with what is earned, the mistakes with what they cost, and what nobody asked for."""

    session: Session
    criteria: tuple[Marked, ...]
    faults: tuple[Fault, ...]
    extras: tuple[Extra, ...]
    cut_short: bool = False

    @property
    def charges(self) -> float:
        """What extras cost."""
        return sum(extra.charged for extra in self.extras)

    @property
    def score(self) -> float:
        """The sum as it stands, less charges; not rounded."""
        return max(0.0, sum(m.marks * m.fraction for m in self.criteria) - self.charges)

    @property
    def carried(self) -> float:
        """The sum with each mistake charged once, where the scheme carries forward; not rounded."""
        if not self.session.lab.scheme.carry_forward:
            return self.score
        earned = sum(m.marks if m.carried else m.marks * m.fraction for m in self.criteria)
        return max(0.0, earned - self.charges)


def charge(named: Named) -> Charged:
    """Charge every mistake of a paper."""
    searched = named.searched
    session, guarded = searched.session, searched.guarded
    ledger = _Ledger(
        session, guarded.guard, guarded.earned, searched.needs, searched.edits, dict(named.faults)
    )
    ledger.charge_directly()
    ledger.carry()
    criteria = tuple(
        _marked(ident, task, c, guarded.judged[ident], ledger, guarded.notes.get(ident, ""))
        for ident, task, c in session.facts.criteria
    )
    faults = (replace(f, direct=rounded(ledger.direct[n])) for n, f in ledger.faults.items())
    extras = charged_extras(session.lab, _extras(named))
    return Charged(session, criteria, tuple(sorted(faults, key=lambda f: f.id)), extras, session.is_cut_short)


def _marked(ident: str, task: str, c: Criterion, judged: Judged, ledger: "_Ledger", note: str) -> Marked:
    fraction = ledger.earned[ident]
    return Marked(
        ident, task, c.key, c.device, c.operand, c.instance, c.marks, judged.required, judged.found, judged.lines,
        fraction, verdict_of(fraction), ledger.behind.get(ident), ident in ledger.carried,
        NOT_CARRIED if ident in ledger.not_carried else note, costs=tuple(ledger.costs.get(ident, ())),
    )  # fmt: skip


class _Ledger:
    """Who pays for what is lost."""

    def __init__(
        self,
        session: Session,
        guard: Guard,
        earned: Mapping[str, float],
        needs: Mapping[str, tuple[int, ...]],
        edits: list[Edit],
        faults: dict[int, Fault],
    ) -> None:
        self.session, self.guard, self.earned, self.needs, self.edits = session, guard, earned, needs, edits
        self.faults = faults
        self.direct = dict.fromkeys(faults, 0.0)
        """What each fault costs directly, by the number of its edit."""
        self.costs: dict[str, list[Cost]] = {}
        """The same by criterion."""
        self.behind: dict[str, int] = {}
        """The fault behind each loss."""
        self.carried: set[str] = set()
        self.not_carried: set[str] = set()

    def charge_directly(self) -> None:
        """Charge what a criterion loses to the mistakes in its own statements, each an equal part."""
        for ident, _, criterion in self.session.facts.criteria:
            needs = self.needs.get(ident, ())
            if needs:
                self.behind[ident] = self.faults[needs[0]].id
            if not criterion.is_outcome:
                for n in needs:
                    self._charge(n, ident, criterion.marks * (1 - self.earned[ident]) / len(needs))

    def _charge(self, n: int, ident: str, marks: float) -> None:
        self.direct[n] += marks
        self.costs.setdefault(ident, []).append(Cost(self.faults[n].id, marks))

    def carry(self) -> None:
        """Carry what is lost as a consequence; where nothing else asks for a statement, that is what it costs."""
        for ident, _, criterion in self.session.facts.criteria:
            needs = self.needs.get(ident, ()) if criterion.is_outcome else ()
            unpaid = [n for n in needs if not self.direct[n] and not self._is_paid_before(self.edits[n])]
            if unpaid:
                self._charge(unpaid[0], ident, criterion.marks * (1 - self.earned[ident]))
                self.behind[ident] = self.faults[unpaid[0]].id
                for n in unpaid:
                    left = tuple(c for c in self.faults[n].consequences if c != ident)
                    self.faults[n] = replace(self.faults[n], consequences=left)
            elif needs and self._is_earned_on_the_way(criterion):
                self.carried.add(ident)
            elif needs and self.session.lab.scheme.carry_forward:
                self.not_carried.add(ident)

    def _is_paid_before(self, edit: Edit) -> bool:
        """Whether an earlier stage charges a mistake: it carries forward across stages. A sheet is due in each."""
        return not edit.whole and not self.session.facts.earlier.isdisjoint(edit.subjects)

    def _is_earned_on_the_way(self, criterion: Criterion) -> bool:
        """Whether every device on the model's journey earned half of its unguarded criteria directly."""
        guard, earned = self.guard, self.earned
        devices = guard.on_model_journey[criterion.id] if criterion.is_run else {criterion.device}
        marks = self.session.facts.direct_marks
        shares = [[i for i in guard.unguarded.get(d, ()) if i in marks] for d in devices]
        shares = [own for own in shares if own]
        if not shares:  # this stage asks nothing of them: what was done elsewhere decides
            return any(earned[i] for own in guard.unguarded.values() for i in own)
        return all(2 * sum(marks[i] * earned[i] for i in own) >= sum(marks[i] for i in own) for own in shares)


def _extras(named: Named) -> list[Extra]:
    """Find what nobody asked for, and what no mistake is about already."""
    searched = named.searched
    if searched.session.lab.scheme.extras == "ignore":
        return []
    parts = [part for n in named.faults for part in searched.edits[n].parts]
    faulty = {(part.device, place(item)) for part in parts for item in part.remove}
    whole = {part.device for part in parts if part.of is Of.SHEET}
    return [e for e in find_extras(searched.session, faulty) if e.device not in whole]


def charged_extras(lab: Lab, extras: list[Extra]) -> tuple[Extra, ...]:
    """Charge what changes the network where the scheme says so, up to its limit in all."""
    scheme = lab.scheme
    left = scheme.charge_limit if scheme.charge_limit is not None else float("inf")
    charged = []
    for extra in extras:
        cost = min(scheme.charge, left) if extra.changes and scheme.extras == "charge" else 0.0
        left -= cost
        charged.append(replace(extra, charged=cost))
    return tuple(charged)
