"""Marks papers of one lab: a pass of eight steps, each of which takes what the one before gives.

sheets, session, judged, guarded, searched, named, charged, result: each step is in the file of that name.
"""

from dataclasses import replace
from functools import lru_cache

from ..lab import Lab, OwnChoice
from ..sheet import Configuration
from ..sim import Model
from .charged import charge
from .differences.edits import apply
from .facts import LabFacts
from .guarded import Guard, Guarded, guard_marks
from .judged import judge_all
from .memo import Memo
from .mended import without
from .named import name_faults
from .paper import Paper, full_paper
from .reading.chosen import choice_of, read_chosen, said
from .result import result_of
from .searched import Searched, search
from .session import Session
from .shapes import Fault, Result
from .twins import Twin, at_own_lines, twin_key


class Marker:
    """Marks papers of one lab. It never changes: any number of threads may use it.

    A memo keeps what the papers of a class share; it belongs to one thread, which makes it and hands it in with each
    paper. Every memo begins with what a blank and a full paper have shown.
    """

    def __init__(self, lab: Lab, model: Model | None = None) -> None:
        self.facts = LabFacts(lab, model)
        self._first = Memo(self.facts)
        self.guard = Guard.of(self._first)
        full = Session(self._first, self._first.reader.read(full_paper(lab)))
        judge_all(full)
        self._first.runs.close()

    @property
    def lab(self) -> Lab:
        """The lab."""
        return self.facts.lab

    def for_paper(self, paper: Paper) -> "tuple[Marker, Paper]":
        """Return what marks a paper: where the lab leaves something free, a marker of the lab as the paper chooses it.

        The paper then says what it has chosen.
        """
        if not (self.lab.free or self.lab.asks_cabling):
            return self, paper
        sheets = {name: sheet.configuration for name, sheet in paper.sheets.items()}
        choice = choice_of(self.lab, sheets, paper.cabling)
        values = tuple(self.lab.values.items())
        marker = _chosen_marker(self.lab.text, self.lab.stage, values, choice) if choice else None
        if marker is None:
            return self, paper
        return marker, replace(paper, remarks=(*paper.remarks, said(choice, self.lab, sheets)))

    def memo(self) -> Memo:
        """Make a memo for a class."""
        return Memo(self.facts, self._first)

    def session(self, paper: Paper, memo: Memo | None = None) -> Session:
        """Open a session for a paper."""
        memo = memo or self.memo()
        memo.tidy()
        return Session(memo, memo.reader.read(paper))

    def configurations(self, paper: Paper) -> dict[str, Configuration]:
        """Return the configurations of all devices as a paper makes them, each with its own lines."""
        marker, paper = self.for_paper(paper)
        return dict(marker.session(paper).sheets.configurations)

    def earned(self, paper: Paper, memo: Memo | None = None) -> Guarded:
        """Judge a paper, without looking for the mistakes behind what is lost."""
        marker, paper = self.for_paper(paper)
        session = marker.session(paper, memo if marker is self else None)
        return guard_marks(judge_all(session), marker.guard)

    def mark(self, paper: Paper, memo: Memo | None = None) -> Result:
        """Mark a paper. Never raises, whatever the paper holds."""
        marker, paper = self.for_paper(paper)
        return marker._mark(marker.session(paper, memo if marker is self else None))

    def _mark(self, session: Session) -> Result:
        key, twins = twin_key(session), session.memo.twins
        twin = twins.get(key) if key is not None else None
        charged = at_own_lines(twin, session) if isinstance(twin, Twin) else None
        if charged is None:
            charged = charge(name_faults(self._search(session)))
            if key is not None:
                twins[key] = Twin.of(charged)
        return result_of(charged)

    def repaired(self, paper: Paper) -> dict[str, Configuration]:
        """Return the configurations of all devices with the repairs of all faults made."""
        marker, paper = self.for_paper(paper)
        found = marker._search(marker.session(paper))
        own = found.session.paper.configurations
        return {**own, **apply([found.edits[n] for n in sorted(found.used)], own)}

    def mended(self, paper: Paper, fault: Fault, memo: Memo | None = None) -> Result:
        """Mark a paper as it would be if one of its faults were mended, and the others were not."""
        marker, paper = self.for_paper(paper)
        named = name_faults(marker._search(marker.session(paper, memo if marker is self else None)))
        numbers = {n for n, found in named.faults.items() if found.what == fault.what}
        return result_of(charge(without(named, numbers, marker.guard)))

    def _search(self, session: Session) -> Searched:
        return search(guard_marks(judge_all(session), self.guard))


@lru_cache(maxsize=64)
def _chosen_marker(
    text: str, stage: str, values: tuple[tuple[str, int], ...], choice: OwnChoice
) -> Marker | None:
    """Return the marker of a lab in which a learner's choices stand; None where it cannot be read with them."""
    lab = read_chosen(text, stage, dict(values), choice)
    return Marker(lab) if lab else None
