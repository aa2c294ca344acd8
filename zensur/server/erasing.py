"""A learner erased, with the figures of the class kept."""

from typing import Any

from flask_openapi3 import APIBlueprint

from ..work.desk import Desk
from ..work.erasing import erase_learner
from .errors import NotThere
from .shapes import Erased, Erasing, Refusal
from .signing_in import by

Answer = Any


def erasing_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("erasing", __name__, url_prefix="/api")

    @api.post("/learners/erased", responses={200: Erased, 404: Refusal})
    def erase(body: Erasing) -> Answer:
        """Erase a learner for good, from every group, sitting and lab: papers, names and comments; others' stay."""
        try:
            papers = erase_learner(desk, body.code, by(body.reason))
        except KeyError:
            raise NotThere(f"Nobody is known by the id {body.code}.") from None
        return Erased(papers=papers).model_dump()

    return api
