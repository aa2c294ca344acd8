"""The learner's edition of a lab: a page to print, and a lab file."""

from flask import Blueprint, Response, abort, request

from ..core.formats import learners_edition
from ..core.lab import Lab
from ..pages.hand_out import hand_out_page
from ..work.desk import Desk
from .files import as_file
from .security import style_nonce


def hand_out(desk: Desk) -> Blueprint:
    """Make the blueprint; ``?stage=ID`` chooses a stage, the last one where it is left out."""
    blueprint = Blueprint("hand_out", __name__)

    def chosen(slug: str) -> Lab:
        version = desk.labs.newest(slug)
        if version is None:
            abort(404, f"There is no lab {slug}.")
        lab = desk.lab(version)
        stage = request.args.get("stage")
        found = lab if stage is None else next((s for s in lab.stages if s.stage == stage), None)
        if found is None:
            abort(404, f"The lab has no stage {stage}.")
        return found

    @blueprint.get("/hand-out/<slug>")
    def page(slug: str) -> Response:
        return Response(hand_out_page(chosen(slug), style_nonce()), mimetype="text/html")

    @blueprint.get("/hand-out/<slug>.lab.yaml")
    def file(slug: str) -> Response:
        return as_file(learners_edition(chosen(slug)), "application/yaml", f"{slug}.lab.yaml")

    return blueprint
