"""Another right answer accepted for everybody: from a paper into a new version of the lab."""

from typing import Any

from flask_openapi3 import APIBlueprint

from ..core.authoring.accepting import AcceptAnswer
from ..core.authoring.draft import CannotEdit, Draft
from ..core.authoring.edits import edited
from ..work.desk import Desk
from .errors import refused
from .papers import PaperPath, paper_found
from .shapes import Accepted, Accepting, Refusal
from .signing_in import by

Answer = Any


def accepting_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("accepting", __name__, url_prefix="/api/papers/<int:paper>")

    @api.post("/accept", responses={201: Accepted, 404: Refusal, 409: Refusal, 422: Refusal})
    def accept(path: PaperPath, body: Accepting) -> Answer:
        """Let an answer count for everybody: the lab gets a new version with it.

        A sitting stays at its version until the new one is taken over; without one the new version marks at once.
        """
        occasion, stored = paper_found(desk, path.paper)
        newest = desk.labs.newest(stored.slug)
        assert newest is not None  # it has papers
        try:
            draft = edited(
                Draft(newest.text, occasion.lab.stage),
                [AcceptAnswer(criterion=body.criterion, text=body.text)],
            )
        except CannotEdit as cannot:
            return refused(422, str(cannot))
        number = desk.labs.save(stored.slug, draft.text, newest.number)
        if number is None:
            return refused(409, "Somebody else has saved the lab meanwhile: do it again.")
        desk.entries.accepted(stored.id, body.criterion, body.text, by(body.reason))
        return Accepted(
            version=number, sitting=occasion.sitting.id if occasion.sitting else None
        ).model_dump(), 201

    return api
