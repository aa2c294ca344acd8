"""What is marked by hand, question after question over all papers."""

from typing import Any

from flask_openapi3 import APIBlueprint

from ..work.by_hand import questions
from ..work.desk import Desk
from .labs import LabPath
from .occasions import OfOccasion, occasion_at
from .papers import sitting_ref
from .shapes import ByHandView, QuestionByHand, Refusal

Answer = Any


def by_hand_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("by-hand", __name__, url_prefix="/api")

    @api.get("/labs/<slug>/by-hand", responses={200: ByHandView, 404: Refusal})
    def by_hand(path: LabPath, query: OfOccasion) -> Answer:
        """What is marked by hand, with every paper that somebody has to look at; marks are given as overrules."""
        occasion = occasion_at(desk, path.slug, query)
        return ByHandView(
            lab=occasion.lab.title,
            slug=path.slug,
            stage=occasion.lab.stage,
            sitting=sitting_ref(occasion),
            questions=[QuestionByHand.model_validate(q) for q in questions(desk, occasion)],
        ).model_dump()

    return api
