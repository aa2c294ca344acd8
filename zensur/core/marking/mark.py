"""Marks one paper: judge every criterion, guard what a blank paper would earn, find the faults, add up."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

from ..lab import Criterion, Expected, Lab, review_sheet
from ..sheet import Configuration, Diagnostic
from ..sim import row
from .charging import Charging
from .guarding import Guard
from .judging.attempt import Attempt
from .judging.judge import Judge
from .judging.keys import JUDGING
from .judging.pairing import named_by, with_model_names
from .judging.unread import unread_lines
from .naming import name_faults
from .result import Extra, Judged, Paper, Result, rounded
from .scheme import numbered, tasks_of
from .searching.edits import Edit, Of, apply
from .searching.extras import find_extras, place
from .searching.faults import Search, find_faults


@dataclass(frozen=True)
class _Searched:
    """A paper compiled and judged, and what was found behind its losses."""

    attempt: Attempt
    judged: dict[str, Judged]
    earned: dict[str, float]
    notes: dict[str, str]
    lost: dict[str, Criterion]
    search: Search


class Marker:
    """Marks papers of one lab; what does not depend on the paper is worked out once."""

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.judge = Judge(lab, JUDGING)
        self.criteria = numbered(tasks_of(lab))
        self.guard = Guard(self.judge, self.criteria)
        self.charging = Charging(lab, self.criteria, self.guard)
        self.out_of = sum(criterion.marks for _, _, criterion in self.criteria)

    @property
    def guarded(self) -> list[str]:
        """The ids of the criteria that a blank paper meets."""
        return [ident for ident, fraction in self.guard.blank.items() if fraction]

    @cached_property
    def _strict(self) -> dict[str, set[str]]:
        """By device the names, in small letters, that a criterion asks for."""
        found: dict[str, set[str]] = {}
        for _, _, criterion in self.criteria:
            if criterion.own_name:
                found.setdefault(criterion.device, set()).update(named_by(self.judge.counted(criterion)))
        return found

    def attempt(self, paper: Paper) -> Attempt:
        """Compile a paper over what is given. A sheet of which nothing can be read is as good as none."""
        own = {
            name: with_model_names(sheet.configuration, self.lab.model[name], self._strict.get(name, set()))
            for name, sheet in paper.sheets.items()
            if name in self.lab.devices and sheet.configuration.items
        }
        unread = {
            name: lines
            for name, sheet in paper.sheets.items()
            if name in self.lab.devices and (lines := unread_lines(sheet, paper.files.get(name, "")))
        }
        sheets = {
            name: sheet.configuration for name, sheet in paper.sheets.items() if name in self.lab.devices
        }
        return self.judge.attempt(self.lab.with_sheets(own), unread, sheets, paper.answers)

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

    def _missing(self, paper: Paper) -> frozenset[str]:
        """Return the devices of which nothing was handed in, or nothing that could be read."""
        return frozenset(
            name
            for name in self.lab.devices
            if name not in paper.sheets or not paper.sheets[name].configuration.items
        )

    def _search(self, paper: Paper) -> "_Searched":
        """Judge every criterion of a paper, and search for what would mend those that are lost."""
        self.judge.forget()
        attempt = self.attempt(paper)
        judged = {ident: self.judge.judge(c, attempt) for ident, _, c in self.criteria}
        earned = {i: j.fraction for i, j in judged.items()}
        notes, untouched = self.guard.take_back(attempt, earned)
        lost = {i: c for i, _, c in self.criteria if earned[i] < 1 and i not in untouched}
        search = find_faults(self.judge, attempt, lost, self._missing(paper))
        return _Searched(attempt, judged, earned, notes, lost, search)

    def repaired(self, paper: Paper) -> dict[str, Configuration]:
        """Return the configurations of all devices with the repairs of all faults made."""
        found = self._search(self._of_this_lab(paper))
        used = {n for needs in found.search.needs.values() for n in needs}
        own = found.attempt.configurations
        return {**own, **apply([found.search.edits[n] for n in sorted(used)], own)}

    def mark(self, paper: Paper) -> Result:
        """Mark a paper. Never raises, whatever the paper holds."""
        paper = self._of_this_lab(paper)
        found = self._search(paper)
        attempt, search = found.attempt, found.search
        named = name_faults(self.judge, paper, attempt, search, found.lost)
        marked, faults = self.charging.charge(found.judged, found.earned, found.notes, search, named)
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

    def _diagnostics(self, paper: Paper) -> Iterable[tuple[str, str, Diagnostic]]:
        for name, sheet in paper.sheets.items():
            file = paper.files.get(name, "")
            for diagnostic in review_sheet(sheet, self.lab, name):
                yield name, file, diagnostic
