"""The class of a lab: the grid, what it did not understand, and results that leave the application."""

import io
import re
import zipfile
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence, Set
from datetime import datetime
from itertools import count
from typing import Any

from flask import Blueprint, Response, abort, request
from flask_openapi3 import APIBlueprint

from ..core.formats import File, HandIn
from ..core.marking.shapes import Result
from ..core.sittings import days_late
from ..core.statistics import (
    COLUMNS,
    USUAL,
    Charged,
    alike_pairs,
    charged,
    clusters,
    distribution,
    items,
    reliability,
    results_csv,
    results_json,
    slip_counts,
)
from ..pages.marked import Written, marked_page
from ..store import StoredPaper
from ..work.desk import Desk
from ..work.occasion import Occasion
from .files import as_file
from .labs import LabPath
from .occasions import OfOccasion, occasion_asked, occasion_at
from .papers import sitting_ref, stages_of
from .shapes import ClassView, Earned, LearnerRow, Refusal, TaskHead

Answer = Any


def classes_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("classes", __name__, url_prefix="/api")

    @api.get("/labs/<slug>/class", responses={200: ClassView, 404: Refusal})
    def whole_class(path: LabPath, query: OfOccasion) -> Answer:
        """The grid of a class, and what it did not understand."""
        return _class(desk, occasion_at(desk, path.slug, query)).model_dump()

    return api


def _class(desk: Desk, occasion: Occasion) -> ClassView:
    found, waiting = desk.results_of(occasion, want=True)
    results = [result for _, result in found]
    table = charged(results)
    criteria, tasks = items(table)
    out_of = results[0].out_of if results else 0.0
    doubts = desk.doubts(occasion)
    return ClassView(
        lab=occasion.lab.title,
        slug=occasion.version.slug,
        stage=occasion.lab.stage,
        stages=stages_of(desk, occasion),
        sitting=sitting_ref(occasion),
        released=occasion.sitting.released_at if occasion.sitting else None,
        version=occasion.version.number,
        waiting=waiting,
        out_of=out_of,
        tasks=[TaskHead(name=t.id, task=t.task, marks=t.marks) for t in tasks],
        criteria=[TaskHead(name=c.id, task=c.task, marks=c.marks) for c in criteria],
        learners=[
            *(_row(occasion, stored, result, table, n, doubts) for n, (stored, result) in enumerate(found)),
            *_unmarked(desk, occasion, {stored.id for stored, _ in found}, doubts),
        ],
        distribution=distribution([r.carried for r in results], out_of),
        items=criteria,
        of_tasks=tasks,
        reliability=reliability(table),
        slips=slip_counts(results),
        clusters=clusters(results),
        pairs=alike_pairs(results),
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
    desk: Desk, occasion: Occasion, marked: Set[int], doubts: Mapping[int, Sequence[str]]
) -> Iterator[LearnerRow]:
    """Yield the rows of papers that are not marked, and of learners whose paper is awaited or does not count."""
    there = desk.papers_of(occasion)
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


def results_files(desk: Desk) -> Blueprint:
    """Make the blueprint of results as files: CSV, JSON, and the marked papers as pages."""
    blueprint = Blueprint("results", __name__)

    @blueprint.get("/results/<slug>.csv")
    def as_csv(slug: str) -> Response:
        occasion = occasion_asked(desk, slug)
        asked = [c for c in request.args.get("columns", "").split(",") if c] or list(USUAL)
        unknown = [c for c in asked if c not in COLUMNS]
        if unknown:
            abort(400, f"There is no column {unknown[0][:40]}: there are {', '.join(COLUMNS)}.")
        separator = ";" if request.args.get("separator") == ";" else ","
        text = results_csv(desk.entrants(occasion), asked, separator)
        return as_file(text.encode("utf-8-sig"), "text/csv", _named(occasion, "csv"))

    @blueprint.get("/results/<slug>.json")
    def as_json(slug: str) -> Response:
        occasion = occasion_asked(desk, slug)
        text = results_json(slug, occasion.lab.stage, [r for _, r in desk.results_of(occasion)[0]])
        return as_file(text.encode(), "application/json", _named(occasion, "json"))

    @blueprint.get("/results/<slug>.zip")
    def as_pages(slug: str) -> Response:
        occasion = occasion_asked(desk, slug)
        stream = io.BytesIO()
        taken: set[str] = set()
        names: list[str] = []
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
            for stored, result in desk.results_of(occasion)[0]:
                files = {
                    d: File(path, content) for d, (path, content) in desk.papers.files(stored.id).items()
                }
                lab = desk.lab(occasion.version, occasion.lab.stage, stored.drawn)
                comments = [
                    Written(c.text, c.criterion, c.device, c.line) for c in desk.comments.of_paper(stored.id)
                ]
                page = marked_page(lab, result, HandIn(result.learner, files, stored.remarks), comments)
                folder = result.learner if occasion.blind else stored.came_as or result.learner
                archive.writestr(f"{_folder(folder, taken)}/marked.html", page)
                names += _archive_name(desk, stored)
        name = f"{Counter(names).most_common(1)[0][0]}.zip" if names else _named(occasion, "zip")
        return as_file(stream.getvalue(), "application/zip", name)

    return blueprint


def _archive_name(desk: Desk, stored: StoredPaper) -> list[str]:
    """Return what the archive was called that a paper came in, as far as a file can be called so."""
    arrival = desk.papers.arrival(stored.arrival) if stored.arrival is not None else None
    names = [name for name, _ in arrival.files] if arrival else []
    stems = [re.sub(r"\.(zip|tar|tgz|tar\.gz)$", "", name, flags=re.IGNORECASE) for name in names]
    return [re.sub(r"[^A-Za-z0-9._-]+", "_", s)[:80] for s, n in zip(stems, names, strict=True) if s != n]


def _folder(learner: str, taken: set[str]) -> str:
    """Name a learner's folder as the learner is called, as far as a file can be."""
    stem = re.sub(r"[^\w .-]+", "_", learner).strip(" .")[:80] or "learner"
    name = next(n for k in count(1) if (n := stem if k == 1 else f"{stem} {k}").lower() not in taken)
    taken.add(name.lower())
    return name


def _named(occasion: Occasion, suffix: str) -> str:
    parts = [occasion.version.slug, occasion.lab.stage]
    parts += [f"sitting-{occasion.sitting.id}"] if occasion.sitting else []
    return f"{'-'.join(part for part in parts if part)}-results.{suffix}"
