"""What each fault costs: directly, once; what follows from it keeps its marks where it is carried forward."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property

from ..lab import Criterion, Lab
from .guarding import Guard
from .result import Fault, Judged, Marked, rounded
from .scheme import Numbered, tasks_of
from .searching.edits import Edit
from .searching.faults import Search

NOT_CARRIED = "Not carried: less than half was done on a device that it passes."


class Charging:
    """Charges the faults of a lab's papers."""

    def __init__(self, lab: Lab, criteria: Sequence[Numbered], guard: Guard) -> None:
        self.lab, self.criteria, self.guard = lab, criteria, guard

    def charge(
        self,
        judged: Mapping[str, Judged],
        earned: Mapping[str, float],
        notes: Mapping[str, str],
        search: Search,
        named: Mapping[int, Fault],
    ) -> tuple[list[Marked], list[Fault]]:
        """Say what each fault costs directly, and which outcomes are carried because it is charged already.

        ``named`` are the faults by the number of their edit.
        """
        faults, said = dict(named), dict(notes)
        direct = dict.fromkeys(faults, 0.0)
        behind: dict[str, int] = {}
        for ident, _, criterion in self.criteria:
            needs = search.needs.get(ident, ())
            if needs:
                behind[ident] = faults[needs[0]].id
                if not criterion.is_outcome:
                    for n in needs:  # several statements of one criterion share what it loses
                        direct[n] += criterion.marks * (1 - earned[ident]) / len(needs)
        carried: set[str] = set()
        for ident, _, criterion in self.criteria:
            needs = search.needs.get(ident, ()) if criterion.is_outcome else ()
            unpaid = [n for n in needs if not direct[n] and not self._is_paid_before(search.edits[n])]
            if unpaid:  # nothing asks for the statement itself: its first consequence is what it costs
                direct[unpaid[0]] = criterion.marks * (1 - earned[ident])
                behind[ident] = faults[unpaid[0]].id
                for n in unpaid:
                    left = tuple(c for c in faults[n].consequences if c != ident)
                    faults[n] = replace(faults[n], consequences=left)
            elif needs and self._is_earned_on_the_way(criterion, earned):
                carried.add(ident)
            elif needs and self.lab.scheme.carry_forward:
                said[ident] = NOT_CARRIED
        marked = [
            Marked(
                ident, task, c.device, c.marks, judged[ident], earned[ident], behind.get(ident), ident in carried,
                said.get(ident, ""),
            )
            for ident, task, c in self.criteria
        ]  # fmt: skip
        charged = [replace(fault, direct=rounded(direct[n])) for n, fault in faults.items()]
        return marked, sorted(charged, key=lambda f: f.id)

    @cached_property
    def _direct_marks(self) -> dict[str, float]:
        """What each criterion earns that is no outcome of the whole network."""
        return {i: c.marks for i, _, c in self.criteria if not c.is_outcome}

    @cached_property
    def _counted_before(self) -> frozenset[str]:
        """The ids of what earlier stages count."""
        stages = self.lab.stages[:-1]
        return frozenset(c.id for stage in stages for task in tasks_of(stage) for c in task.criteria)

    def _is_paid_before(self, edit: Edit) -> bool:
        """Whether an earlier stage charges a mistake: it carries forward across stages. A sheet is due in each."""
        return not edit.whole and not self._counted_before.isdisjoint(edit.subjects)

    def _is_earned_on_the_way(self, criterion: Criterion, earned: Mapping[str, float]) -> bool:
        """Whether every device on the model's journey earned half of its unguarded criteria directly."""
        devices = self.guard.on_model_journey[criterion.id] if criterion.is_run else {criterion.device}
        marks = self._direct_marks
        shares = [[i for i in self.guard.unguarded.get(d, ()) if i in marks] for d in devices]
        shares = [own for own in shares if own]
        if not shares:  # this stage asks nothing of them: what was done elsewhere decides
            return any(earned[i] for own in self.guard.unguarded.values() for i in own)
        return all(2 * sum(marks[i] * earned[i] for i in own) >= sum(marks[i] for i in own) for own in shares)
