"""What an instructor writes beside a paper, and that somebody looked at what is doubtful about it."""

from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint

from ..work.desk import Desk
from .errors import refused
from .papers import PaperPath, paper_found
from .shapes import Commenting, CommentShape, Number, Refusal
from .signing_in import by

Answer = Any


class CommentPath(PaperPath):
    """A comment on a paper, by its number."""

    number: Number


def comments_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("comments", __name__, url_prefix="/api/papers/<int:paper>")

    @api.post("/comments", responses={201: CommentShape, 404: Refusal, 422: Refusal})
    def add(path: PaperPath, body: Commenting) -> Answer:
        """Write a comment: it stays with the paper when that is marked anew, and is on its page."""
        paper_found(desk, path.paper)
        text = body.text.strip()
        if not text:
            return refused(422, "There is nothing written in the comment.")
        number = desk.comments.add(
            path.paper, text, criterion=body.criterion, device=body.device, line=body.line, by=by()
        )
        kept = next(c for c in desk.comments.of_paper(path.paper) if c.id == number)
        return CommentShape.model_validate(kept).model_dump(), 201

    @api.delete("/comments/<int:number>", responses={204: None, 404: Refusal})
    def remove(path: CommentPath) -> Answer:
        """Take a comment back."""
        if not desk.comments.remove(path.paper, path.number, by()):
            return refused(404, "There is no such comment on this paper.")
        return Response(status=204)

    @api.post("/looked", responses={204: None, 404: Refusal})
    def looked(path: PaperPath) -> Answer:
        """Say that somebody looked at what is doubtful about a paper."""
        occasion, stored = paper_found(desk, path.paper)
        desk.entries.look(path.paper, desk.doubts(occasion, [stored]).get(path.paper, []), by())
        return Response(status=204)

    return api
