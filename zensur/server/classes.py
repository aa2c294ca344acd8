"""The class of a lab: the grid, what it did not understand, and results that leave the application."""

import io
import re
import zipfile
from itertools import count
from typing import Annotated, Any

from flask import Blueprint, Response, abort, request
from flask_openapi3 import APIBlueprint
from pydantic import Field

from ..core.formats import File, HandIn
from ..core.jsonable import to_json
from ..core.marking.shapes import Result
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
    slip_counts,
)
from ..pages.marked import marked_page
from ..store import LabVersion, StoredPaper
from ..work.desk import Desk
from .files import as_file
from .labs import LabPath, OfStage, no_lab
from .shapes import ClassView, LearnerRow, Refusal, StageRef, TaskHead

Answer = Any
Separator = Annotated[str, Field(pattern="^[,;]$")]


def classes_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("classes", __name__, url_prefix="/api")

    @api.get("/labs/<slug>/class", responses={200: ClassView, 404: Refusal})
    def whole_class(path: LabPath, query: OfStage) -> Answer:
        """The grid of a class, and what it did not understand."""
        version = desk.labs.newest(path.slug)
        if version is None:
            return no_lab(path.slug)
        return _class(desk, version, query.stage).model_dump()

    return api


def _class(desk: Desk, version: LabVersion, stage: str) -> ClassView:
    lab = desk.lab(version, stage)
    found, waiting = desk.results_of(version, lab.stage, want=True)
    results = [result for _, result in found]
    table = charged(results)
    criteria, tasks = items(table)
    stages = desk.lab(version).stages if lab.stage else ()
    return ClassView(
        lab=lab.title,
        slug=version.slug,
        stage=lab.stage,
        stages=[StageRef(id=s.stage, title=s.stage_title) for s in stages],
        version=version.number,
        waiting=waiting,
        out_of=results[0].out_of if results else 0.0,
        tasks=[TaskHead(name=t.id, task=t.task, marks=t.marks) for t in tasks],
        criteria=[TaskHead(name=c.id, task=c.task, marks=c.marks) for c in criteria],
        learners=[_row(stored, result, table, n) for n, (stored, result) in enumerate(found)],
        distribution=distribution([r.carried for r in results], results[0].out_of if results else 0.0),
        items=criteria,
        of_tasks=tasks,
        reliability=reliability(table),
        slips=slip_counts(results),
        clusters=clusters(results),
        pairs=alike_pairs(results),
    )


def _row(stored: StoredPaper, result: Result, table: Charged, n: int) -> LearnerRow:
    earned = table.fractions[n] * table.marks
    of_task = dict.fromkeys(table.tasks, 0.0)
    for task, marks in zip(table.tasks, earned, strict=True):
        of_task[task] += float(marks)
    return LearnerRow(
        paper=stored.id,
        learner=stored.learner,
        handed_in=stored.received_at,
        carried=result.carried,
        score=result.score,
        grade=result.grade,
        tasks=[round(marks, 2) for marks in of_task.values()],
        criteria=[round(float(marks), 2) for marks in earned],
        mistakes=[fault.title for fault in result.faults],
        overruled=result.overruled is not None or any(c.overruled for c in result.criteria),
    )


def results_files(desk: Desk) -> Blueprint:
    """Make the blueprint of results as files: CSV, JSON, and the marked papers as pages."""
    blueprint = Blueprint("results", __name__)

    def found(slug: str) -> tuple[LabVersion, str, list[tuple[StoredPaper, Result]]]:
        version = desk.labs.newest(slug)
        if version is None:
            abort(404, f"There is no lab {slug}.")
        stage = desk.lab(version, request.args.get("stage", "")[:64]).stage
        return version, stage, desk.results_of(version, stage)[0]

    @blueprint.get("/results/<slug>.csv")
    def as_csv(slug: str) -> Response:
        _, stage, results = found(slug)
        asked = [c for c in request.args.get("columns", "").split(",") if c] or list(USUAL)
        unknown = [c for c in asked if c not in COLUMNS]
        if unknown:
            abort(400, f"There is no column {unknown[0][:40]}: there are {', '.join(COLUMNS)}.")
        separator = ";" if request.args.get("separator") == ";" else ","
        text = results_csv([r for _, r in results], asked, separator)
        return as_file(text.encode("utf-8-sig"), "text/csv", _named(slug, stage, "csv"))

    @blueprint.get("/results/<slug>.json")
    def as_json(slug: str) -> Response:
        _, stage, results = found(slug)
        entries = ", ".join(to_json(r) for _, r in results)
        text = f'{{"lab": {to_json(slug)}, "stage": {to_json(stage)}, "papers": [{entries}]}}'
        return as_file(text.encode(), "application/json", _named(slug, stage, "json"))

    @blueprint.get("/results/<slug>.zip")
    def as_pages(slug: str) -> Response:
        version, stage, results = found(slug)
        lab = desk.lab(version, stage)
        stream = io.BytesIO()
        taken: set[str] = set()
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
            for stored, result in results:
                files = {
                    d: File(path, content) for d, (path, content) in desk.papers.files(stored.id).items()
                }
                page = marked_page(lab, result, HandIn(stored.learner, files, stored.remarks))
                archive.writestr(f"{_folder(stored.learner, taken)}/marked.html", page)
        return as_file(stream.getvalue(), "application/zip", _named(slug, stage, "zip"))

    return blueprint


def _folder(learner: str, taken: set[str]) -> str:
    """Name a learner's folder as the learner is called, as far as a file can be."""
    stem = re.sub(r"[^\w .-]+", "_", learner).strip(" .")[:80] or "learner"
    name = next(n for k in count(1) if (n := stem if k == 1 else f"{stem} {k}").lower() not in taken)
    taken.add(name.lower())
    return name


def _named(slug: str, stage: str, suffix: str) -> str:
    return f"{slug}{f'-{stage}' if stage else ''}-results.{suffix}"
