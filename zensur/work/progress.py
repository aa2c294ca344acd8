"""How far a sitting is, and what another version of its lab would change for whom."""

from dataclasses import dataclass, replace
from datetime import datetime

from ..core.marking.shapes import Result
from ..core.sittings import days_late
from .desk import Desk
from .occasion import Occasion


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """Learners (or teams) of an occasion, papers that count, those of them that came late, are marked, are doubtful."""

    learners: int
    handed_in: int
    late: int
    marked: int
    doubtful: int


def progress(desk: Desk, occasion: Occasion) -> Progress:
    """Count how far an occasion is."""
    listed = desk.listed(occasion)
    late = [
        p for p, _, _ in listed if days_late(occasion.rules.closes, datetime.fromisoformat(p.received_at))
    ]
    return Progress(
        learners=len(occasion.seats) or len(listed),
        handed_in=len(listed),
        late=len(late),
        marked=sum(summary is not None for _, summary, _ in listed),
        doubtful=len(desk.doubts(occasion, desk.papers_of(occasion))),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """What changes for a learner: the totals and grades before and after, and the criteria that change, by id."""

    paper: int
    learner: str
    was: float
    becomes: float
    grade_was: str | None
    grade_becomes: str | None
    criteria: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Moving:
    """What another version of a lab changes in a sitting: for whom, and of how many papers; ``waiting`` of them are not
    marked under it yet, ``failed`` cannot be."""

    changed: tuple[Changed, ...]
    papers: int
    waiting: int
    failed: int


def under(desk: Desk, occasion: Occasion, version: int) -> Occasion:
    """Return an occasion as it were under another version of its lab, by its row."""
    found = desk.labs.version(version)
    return replace(occasion, version=found, lab=desk.lab(found, occasion.lab.stage))


def moving(desk: Desk, occasion: Occasion, version: int) -> Moving:
    """Compare the results of an occasion with those under another version of its lab; what is not marked is marked
    behind the answers."""
    now, _ = desk.results_of(occasion, want=True)
    moved = under(desk, occasion, version)
    then, waiting = desk.results_of(moved, want=True)
    papers = len(desk.counting(moved))
    before = {stored.learner: result for stored, result in now}
    changed = [
        one
        for stored, result in then
        if stored.learner in before
        and (one := _changed(stored.id, before[stored.learner], result)) is not None
    ]
    return Moving(changed=tuple(changed), papers=papers, waiting=waiting, failed=papers - len(then) - waiting)


def _changed(paper: int, was: Result, becomes: Result) -> Changed | None:
    marks = {c.id: (c.marks, c.fraction, c.carried) for c in was.criteria}
    new = {c.id: (c.marks, c.fraction, c.carried) for c in becomes.criteria}
    criteria = tuple(i for i in {**marks, **new} if marks.get(i) != new.get(i))
    if not criteria and (was.carried, was.grade) == (becomes.carried, becomes.grade):
        return None
    return Changed(
        paper=paper,
        learner=becomes.learner,
        was=was.carried,
        becomes=becomes.carried,
        grade_was=was.grade,
        grade_becomes=becomes.grade,
        criteria=criteria,
    )
