"""The class of a lab: the grid, and what it did not understand."""

from collections.abc import Iterator, Mapping, Sequence, Set
from datetime import datetime
from typing import Any

from flask_openapi3 import APIBlueprint

from ..core.marking.shapes import Result
from ..core.sittings import days_late
from ..core.statistics import Charged, alike_pairs, beside, borrowed, clusters, understood
from ..store import StoredPaper
from ..work.desk import Desk
from ..work.occasion import Occasion
from .errors import NotThere
from .labs import LabPath
from .occasions import OfOccasion, occasion_at
from .papers import sitting_ref, stages_of
from .shapes import ClassView, Earned, LearnerRow, Refusal, TaskHead, TermRef, TermsView

Answer = Any
MOST_TERMS = 8
"""So many sittings stand beside each other: a table of more is not read, and each has all its results read."""


def classes_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("classes", __name__, url_prefix="/api")

    @api.get("/labs/<slug>/class", responses={200: ClassView, 404: Refusal})
    def whole_class(path: LabPath, query: OfOccasion) -> Answer:
        """The grid of a class, and what it did not understand."""
        return _class(desk, occasion_at(desk, path.slug, query)).model_dump()

    @api.get("/labs/<slug>/terms", responses={200: TermsView, 404: Refusal})
    def terms(path: LabPath) -> Answer:
        """The newest sittings of a lab beside each other, as far as they are marked."""
        version = desk.labs.newest(path.slug)
        if version is None:
            raise NotThere(f"There is no lab {path.slug}.")
        sittings = desk.sittings.all(path.slug)[:MOST_TERMS][::-1]
        marked = [[result for _, result in desk.results_of(desk.occasion_of(own))[0]] for own in sittings]
        found = beside([(s.settings.title, results) for s, results in zip(sittings, marked, strict=True)])
        return TermsView(
            lab=desk.lab(version).title,
            sittings=[TermRef(number=own.id, made_at=own.made_at) for own in sittings],
            terms=list(found.terms),
            tasks=list(found.tasks),
            criteria=list(found.criteria),
            slips=list(found.slips),
        ).model_dump()

    return api


def _class(desk: Desk, occasion: Occasion) -> ClassView:
    papers = desk.papers_of(occasion)
    found, waiting = desk.results_of(occasion, want=True, papers=papers)
    results = [result for _, result in found]
    told = understood(results)
    table, criteria, tasks = told.table, told.items, told.of_tasks
    doubts = desk.doubts(occasion, papers)
    return ClassView(
        lab=occasion.lab.title,
        slug=occasion.version.slug,
        stage=occasion.lab.stage,
        stages=stages_of(desk, occasion),
        sitting=sitting_ref(occasion),
        released=occasion.sitting.released_at if occasion.sitting else None,
        version=occasion.version.number,
        waiting=waiting,
        out_of=told.out_of,
        tasks=[TaskHead(name=t.id, task=t.task, marks=t.marks) for t in tasks],
        criteria=[TaskHead(name=c.id, task=c.task, marks=c.marks) for c in criteria],
        learners=[
            *(_row(occasion, stored, result, table, n, doubts) for n, (stored, result) in enumerate(found)),
            *_unmarked(occasion, papers, {stored.id for stored, _ in found}, doubts),
        ],
        distribution=told.distribution,
        items=criteria,
        of_tasks=tasks,
        reliability=told.reliability,
        slips=told.slips,
        clusters=clusters(results),
        pairs=alike_pairs(results),
        borrowed=borrowed(results),
    )


def _row(
    occasion: Occasion,
    stored: StoredPaper,
    result: Result,
    table: Charged,
    n: int,
    doubts: Mapping[int, Sequence[str]],
) -> LearnerRow:
    earned = table.fractions[n] * table.marks
    of_task = dict.fromkeys(table.tasks, 0.0)
    for task, marks in zip(table.tasks, earned, strict=True):
        of_task[task] += float(marks)
    return LearnerRow(
        paper=stored.id,
        learner=result.learner,
        group=_group(occasion, stored.learner),
        handed_in=stored.received_at,
        days_late=result.late.days if result.late else 0,
        marked=Earned(
            carried=result.carried,
            score=result.score,
            grade=result.grade,
            tasks=[round(marks, 2) for marks in of_task.values()],
            criteria=[round(float(marks), 2) for marks in earned],
        ),
        mistakes=[fault.title for fault in result.faults],
        overruled=result.overruled is not None or any(c.overruled for c in result.criteria),
        doubts=list(doubts.get(stored.id, ())),
    )


def _unmarked(
    occasion: Occasion, there: Sequence[StoredPaper], marked: Set[int], doubts: Mapping[int, Sequence[str]]
) -> Iterator[LearnerRow]:
    """Yield the rows of papers that are not marked, and of learners whose paper is awaited or does not count."""
    for stored in there:
        if stored.id not in marked:
            late = days_late(occasion.rules.closes, datetime.fromisoformat(stored.received_at))
            told = doubts.get(stored.id, ())
            yield _without_marks(occasion, stored.learner, stored.id, stored.received_at, late, told)
    for holder in occasion.seats.keys() - {stored.learner for stored in there}:
        yield _without_marks(occasion, holder)


def _without_marks(
    occasion: Occasion,
    holder: str,
    paper: int | None = None,
    handed_in: str | None = None,
    late: int = 0,
    doubts: Sequence[str] = (),
) -> LearnerRow:
    return LearnerRow(
        paper=paper,
        learner=occasion.called(holder),
        group=_group(occasion, holder),
        handed_in=handed_in,
        days_late=late,
        marked=None,
        mistakes=[],
        overruled=False,
        doubts=list(doubts),
    )


def _group(occasion: Occasion, holder: str) -> str:
    seats = () if occasion.blind else occasion.seats.get(holder, ())
    return seats[0].group if seats else ""
