"""Marks one paper: judge every criterion, guard what a blank paper would earn, find the faults, add up."""

from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property

from ..lab import Criterion, Expected, Lab, review_sheet
from ..sheet import Diagnostic
from ..sim import row
from .judging.judge import Attempt, Judge
from .judging.pairing import named_by, with_model_names
from .judging.unread import unread_lines
from .result import Extra, Fault, Judged, Marked, Paper, Result, rounded
from .scheme import tasks_of
from .searching.edits import Edit, Of
from .searching.extras import find_extras, place
from .searching.faults import Search, find_faults
from .searching.texts import found_text, repair_text, required_text
from .slips.case import Case
from .slips.catalogue import name_slip


class Marker:
    """Marks papers of one lab; what does not depend on the paper is worked out once."""

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.judge = Judge(lab)
        self.criteria = _numbered(
            (task.title, criterion) for task in tasks_of(lab) for criterion in task.criteria
        )
        self.out_of = sum(criterion.marks for _, _, criterion in self.criteria)

    @cached_property
    def _blank(self) -> dict[str, float]:
        """What a blank paper would earn of each criterion."""
        return {i: self.judge.judge(c, self.judge.blank).fraction for i, _, c in self.criteria}

    @property
    def guarded(self) -> list[str]:
        """The ids of the criteria that a blank paper meets."""
        return [ident for ident, fraction in self._blank.items() if fraction]

    @cached_property
    def _on_model_journey(self) -> dict[str, frozenset[str]]:
        names, of = self.judge.wiring.names, self.judge.wiring.device_of_node
        return {
            ping: frozenset(names[of(n)] for n in (*ran.result.there, *ran.result.back))
            for ping, ran in self.judge.model_runs.items()
        }

    @cached_property
    def _strict(self) -> dict[str, set[str]]:
        """By device the names, in small letters, that a criterion asks for."""
        found: dict[str, set[str]] = {}
        for _, _, criterion in self.criteria:
            if criterion.own_name:
                found.setdefault(criterion.device, set()).update(named_by(self.judge.counted(criterion)))
        return found

    def attempt(self, paper: Paper) -> Attempt:
        """Compile a paper over what is given."""
        own = {
            name: with_model_names(sheet.configuration, self.lab.model[name], self._strict.get(name, set()))
            for name, sheet in paper.sheets.items()
            if name in self.lab.devices
        }
        unread = {
            name: lines
            for name, sheet in paper.sheets.items()
            if name in self.lab.devices and (lines := unread_lines(sheet, paper.files.get(name, "")))
        }
        sheets = {
            name: sheet.configuration for name, sheet in paper.sheets.items() if name in self.lab.devices
        }
        return self.judge.attempt(self.lab.with_sheets(own), unread, sheets)

    def _of_this_lab(self, paper: Paper) -> Paper:
        """Leave out sheets of devices that the lab does not have: a later version may have dropped them."""
        strange = [name for name in paper.sheets if name not in self.lab.devices]
        if not strange:
            return paper
        return replace(
            paper,
            sheets={name: sheet for name, sheet in paper.sheets.items() if name not in strange},
            remarks=(
                *paper.remarks,
                *(f"The lab has no device {name}: its sheet was not marked." for name in strange),
            ),
        )

    def mark(self, paper: Paper) -> Result:
        """Mark a paper. Never raises, whatever the paper holds."""
        self.judge.forget()
        paper = self._of_this_lab(paper)
        attempt = self.attempt(paper)
        judged = {ident: self.judge.judge(c, attempt) for ident, _, c in self.criteria}
        earned = {i: j.fraction for i, j in judged.items()}
        notes, untouched = self._guard(paper, attempt, earned)
        lost = {i: c for i, _, c in self.criteria if earned[i] < 1 and i not in untouched}
        missing = frozenset(
            name
            for name in self.lab.devices
            if name not in paper.sheets or not paper.sheets[name].configuration.items
        )
        search = find_faults(self.judge, attempt, lost, missing)
        named = self._name(paper, attempt, search, lost)
        marked, faults = self._charge(judged, earned, notes, search, named)
        score = sum(m.marks * m.fraction for m in marked)
        carried = sum(m.marks if m.carried else m.marks * m.fraction for m in marked)
        if not self.lab.scheme.carry_forward:
            carried = score
        extras = self._extras(attempt, [search.edits[n] for n in named])
        charges = sum(extra.charged for extra in extras)
        percent = rounded(100 * max(0.0, carried - charges) / self.out_of) if self.out_of else 0.0
        return Result(
            paper.learner,
            rounded(max(0.0, score - charges)),
            rounded(max(0.0, carried - charges)),
            rounded(self.out_of),
            tuple(marked),
            tuple(faults),
            tuple(self._diagnostics(paper)),
            tuple(self._rows(self.lab.pings, "ping", attempt)),
            tuple(self._rows(self.lab.services, "check", attempt)),
            paper.remarks,
            tuple(extras),
            percent,
            self.lab.scheme.grade(percent),
        )

    def _extras(self, attempt: Attempt, faults: Iterable[Edit]) -> list[Extra]:
        """Find what nobody asked for, and charge what changes the network where the scheme says so."""
        scheme = self.lab.scheme
        if scheme.extras == "ignore":
            return []
        found = list(faults)
        parts = [part for edit in found for part in edit.parts]
        faulty = {(part.device, place(item)) for part in parts for item in part.remove}
        whole = {part.device for part in parts if part.of is Of.SHEET}
        extras = [e for e in find_extras(self.judge, attempt, faulty) if e.device not in whole]
        if scheme.extras != "charge":
            return extras
        left = scheme.charge_limit if scheme.charge_limit is not None else float("inf")
        charged = []
        for extra in extras:
            cost = min(scheme.charge, left) if extra.changes else 0.0
            left -= cost
            charged.append(replace(extra, charged=cost))
        return charged

    def _rows(self, asked: Iterable[Expected], key: str, attempt: Attempt) -> Iterable[dict[str, object]]:
        for one in asked:
            yield {"id": one.id, **row(attempt.network, self.judge.run(f"{key}:{one.id}", attempt))}

    def _is_touched(
        self,
        attempt: Attempt,
        devices: Iterable[str],
        unguarded: dict[str, list[str]],
        earned: dict[str, float],
    ) -> bool:
        """Say whether something was done on one of the devices that a guarded criterion depends on.

        Some unguarded criterion of theirs is met; where they have none, a sheet adds something; and where
        the model answer adds nothing to them either, whatever else of the lab is met.
        """
        own = [i for d in devices for i in unguarded.get(d, [])]
        if own:
            return any(earned[i] > 0 for i in own)
        mine = [d for d in devices if self.lab.model[d] != self.lab.blank[d]]
        if mine:
            return any(attempt.configurations[d] != self.lab.blank[d] for d in mine)
        return any(earned[i] > 0 for idents in unguarded.values() for i in idents)

    def _guard(
        self, paper: Paper, attempt: Attempt, earned: dict[str, float]
    ) -> tuple[dict[str, str], set[str]]:
        """Take back what a blank paper earns where nothing of the device was done, or for another reason.

        Returns what to say of these criteria, and which of them no fault stands behind.
        """
        untouched: set[str] = set()
        unguarded: dict[str, list[str]] = {}
        for ident, _, criterion in self.criteria:
            if not criterion.is_run and self._blank[ident] == 0:
                unguarded.setdefault(criterion.device, []).append(ident)
        before = dict(earned)
        notes: dict[str, str] = {}
        for ident, _, criterion in self.criteria:
            free = self._blank[ident]
            if not free or not earned[ident]:
                continue
            on_ping = criterion.is_run
            devices = self._on_model_journey[criterion.id] if on_ping else {criterion.device}
            done = self._is_touched(attempt, devices, unguarded, before)
            if on_ping and done and not self.judge.ends_like_the_model(criterion.id, attempt):
                notes[ident] = "It fails, but elsewhere or for another reason than it should."
                earned[ident] = 0.0
            elif not done:
                notes[ident] = "A blank paper has this too: it counts once the device has met something else."
                earned[ident] = max(0.0, before[ident] - free)
                if before[ident] == 1:
                    untouched.add(ident)
        return notes, untouched

    def _name(
        self, paper: Paper, attempt: Attempt, search: Search, lost: dict[str, Criterion]
    ) -> dict[int, Fault]:
        """Name every edit that a lost criterion needs."""
        order = {name: n for n, name in enumerate(self.lab.devices)}
        used = {n for needs in search.needs.values() for n in needs}
        found: dict[int, Fault] = {}

        def place(n: int) -> tuple[int, int]:
            edit = search.edits[n]
            return order[edit.device], edit.where.line if edit.where else 0

        for number, n in enumerate(sorted(used, key=place), 1):
            edit = search.edits[n]
            case = Case(edit, self.judge, attempt, search.only_back.get(n, False))
            slip = name_slip(case)
            file = edit.where.file if edit.where else paper.files.get(edit.device)
            pings = tuple(i for i, c in lost.items() if c.is_run and n in search.needs[i])
            found[n] = Fault(
                number,
                slip.keyword,
                slip.title,
                slip.said(case),
                slip.told,
                edit.device,
                edit.block.port_name if edit.block and not edit.whole else None,
                file,
                edit.where.line if edit.where else None,
                found_text(edit),
                required_text(edit),
                repair_text(edit),
                0.0,
                pings,
                edit.also,
            )
        return found

    def _charge(
        self,
        judged: dict[str, Judged],
        earned: dict[str, float],
        notes: dict[str, str],
        search: Search,
        named: dict[int, Fault],
    ) -> tuple[list[Marked], list[Fault]]:
        """Say what each fault costs directly, and which pings are carried because it is charged already."""
        direct = dict.fromkeys(named, 0.0)
        behind: dict[str, int] = {}
        for ident, _, criterion in self.criteria:
            needs = search.needs.get(ident, ())
            if needs:
                behind[ident] = named[needs[0]].id
                if not criterion.is_run:
                    for n in needs:  # several statements of one criterion share what it loses
                        direct[n] += criterion.marks * (1 - earned[ident]) / len(needs)
        carried: set[str] = set()
        for ident, _, criterion in self.criteria:
            needs = search.needs.get(ident, ()) if criterion.is_run else ()
            unpaid = [n for n in needs if not direct[n] and not self._is_paid_before(search.edits[n])]
            if unpaid:  # nothing asks for the statement itself: its first consequence is what it costs
                direct[unpaid[0]] = criterion.marks * (1 - earned[ident])
                behind[ident] = named[unpaid[0]].id
                for n in unpaid:
                    named[n] = replace(
                        named[n], consequences=tuple(c for c in named[n].consequences if c != ident)
                    )
            elif needs and self._earned_on_the_way(criterion.id, earned):
                carried.add(ident)
            elif needs and self.lab.scheme.carry_forward:
                notes[ident] = "Not carried: less than half was done on a device that it passes."
        marked = [
            Marked(
                ident,
                task,
                criterion.device,
                criterion.marks,
                judged[ident],
                earned[ident],
                behind.get(ident),
                ident in carried,
                notes.get(ident, ""),
            )
            for ident, task, criterion in self.criteria
        ]
        faults = [replace(fault, direct=rounded(direct[n])) for n, fault in named.items()]
        return marked, sorted(faults, key=lambda f: f.id)

    @cached_property
    def _counted_before(self) -> frozenset[str]:
        """The ids of what earlier stages count."""
        stages = self.lab.stages[:-1]
        return frozenset(c.id for stage in stages for task in tasks_of(stage) for c in task.criteria)

    def _is_paid_before(self, edit: Edit) -> bool:
        """Whether an earlier stage charges a mistake: it carries forward across stages."""
        return not self._counted_before.isdisjoint(edit.subjects)

    def _earned_on_the_way(self, ping: str, earned: dict[str, float]) -> bool:
        """Whether every device on the model's journey earned half of its unguarded criteria directly."""
        shares: dict[str, list[tuple[float, float]]] = {}
        for ident, _, criterion in self.criteria:
            on_way = not criterion.is_run and criterion.device in self._on_model_journey[ping]
            if on_way and self._blank[ident] == 0:
                shares.setdefault(criterion.device, []).append((criterion.marks, earned[ident]))
        if not shares:  # this stage asks nothing of them: what was done elsewhere decides
            return any(earned[i] for i, _, c in self.criteria if not c.is_run and self._blank[i] == 0)
        return all(2 * sum(m * e for m, e in share) >= sum(m for m, _ in share) for share in shares.values())

    def _diagnostics(self, paper: Paper) -> Iterable[tuple[str, str, Diagnostic]]:
        for name, sheet in paper.sheets.items():
            file = paper.files.get(name, "")
            for diagnostic in review_sheet(sheet, self.lab, name):
                yield name, file, diagnostic


def _numbered(criteria: Iterable[tuple[str, Criterion]]) -> list[tuple[str, str, Criterion]]:
    """Give every criterion its id; repeated ones get #2 and so on."""
    seen: dict[str, int] = {}
    found = []
    for task, criterion in criteria:
        seen[criterion.id] = seen.get(criterion.id, 0) + 1
        again = f"#{seen[criterion.id]}" if seen[criterion.id] > 1 else ""
        found.append((criterion.id + again, task, criterion))
    return found
