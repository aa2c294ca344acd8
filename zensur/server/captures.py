"""The packets of a ping as a file that a packet analyser opens."""

from flask import Blueprint, Response, abort, request

from ..core.export import capture
from ..store import LabVersion
from ..work.desk import Desk
from .files import PACKETS, as_file
from .labs import find_run
from .papers import paper_found


def captures(desk: Desk) -> Blueprint:
    """Make the blueprint: pings of the model answer by lab, and of papers, by their number in the lab's list."""
    blueprint = Blueprint("captures", __name__, url_prefix="/captures")

    def packets(version: LabVersion | None, number: int, paper: int | None) -> Response:
        found = find_run(desk, version, number, paper, request.args.get("stage", "")) if version else None
        if version is None or found is None:
            abort(404, "There is no such ping.")
        name = f"{version.slug}-{f'paper-{paper}-' if paper is not None else ''}ping-{number}.pcapng"
        return as_file(capture(found.network, [found.ran]), PACKETS, name)

    @blueprint.get("/labs/<slug>/<int:number>.pcapng")
    def of_model(slug: str, number: int) -> Response:
        return packets(desk.labs.newest(slug), number, None)

    @blueprint.get("/papers/<int:paper>/<int:number>.pcapng")
    def of_paper(paper: int, number: int) -> Response:
        return packets(paper_found(desk, paper)[0].version, number, paper)

    return blueprint
