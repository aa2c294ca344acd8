"""Results that leave the application: CSV, JSON, the marked papers as pages, and the statistics as one."""

import io
import re
import zipfile
from collections import Counter
from itertools import count

from flask import Blueprint, Response, abort, request

from ..core.formats import File, HandIn
from ..core.marking.shapes import Result
from ..core.statistics import COLUMNS, USUAL, clusters, results_csv, results_json, understood
from ..pages.marked import Written, marked_page
from ..pages.statistics import statistics_page
from ..store import StoredPaper
from ..work.desk import Desk
from ..work.occasion import Occasion
from .errors import NotThere
from .files import as_file
from .occasions import occasion_asked
from .papers import paper_found
from .security import style_nonce


def results_files(desk: Desk) -> Blueprint:
    """Make the blueprint."""
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
                page = _marked(desk, occasion, stored, result)
                folder = result.learner if occasion.blind else stored.came_as or result.learner
                archive.writestr(f"{_folder(folder, taken)}/marked.html", page)
                names += _archive_name(desk, stored)
        name = f"{Counter(names).most_common(1)[0][0]}.zip" if names else _named(occasion, "zip")
        return as_file(stream.getvalue(), "application/zip", name)

    @blueprint.get("/results/<slug>/statistics")
    def statistics(slug: str) -> Response:
        """What the class did not understand, as a page that names nobody."""
        occasion = occasion_asked(desk, slug)
        results = [result for _, result in desk.results_of(occasion)[0]]
        page = statistics_page(occasion.title, understood(results), clusters(results), style_nonce())
        return Response(page, mimetype="text/html")

    @blueprint.get("/papers/<int:paper>/marked")
    def marked(paper: int) -> Response:
        """A paper as its learner gets it."""
        occasion, stored = paper_found(desk, paper)
        result = desk.standing(stored, occasion).result
        if result is None:
            raise NotThere("The paper is not marked yet.")
        return Response(_marked(desk, occasion, stored, result, style_nonce()), mimetype="text/html")

    return blueprint


def _marked(desk: Desk, occasion: Occasion, stored: StoredPaper, result: Result, nonce: str = "") -> str:
    """Return a marked paper as the page that its learner gets."""
    files = {d: File(path, content) for d, (path, content) in desk.files_of(stored, occasion).items()}
    lab = desk.lab(occasion.version, occasion.lab.stage, stored.drawn)
    comments = [Written(c.text, c.criterion, c.device, c.line) for c in desk.comments.of_paper(stored.id)]
    return marked_page(lab, result, HandIn(result.learner, files, result.remarks), comments, nonce)


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
