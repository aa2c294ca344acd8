"""Drafts of labs: kept as they are typed, each window's own; other windows are told of them, and may take them over."""

from typing import Annotated, Any

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import Field

from ..work.desk import Desk
from .errors import refused
from .labs import LabPath, no_lab
from .shapes import DraftKept, DraftList, DraftRef, Refusal

Answer = Any
Window = Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")]


class DraftPath(LabPath):
    """The draft of a window, which has made up its own name."""

    window: Window


def drafts_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("drafts", __name__, url_prefix="/api/labs/<slug>/drafts")

    @api.get("", responses={200: DraftList, 404: Refusal})
    def all_of_them(path: LabPath) -> Answer:
        """The texts of a lab that windows have not saved yet."""
        if desk.labs.newest(path.slug) is None:
            return no_lab(path.slug)
        drafts = [
            DraftRef(window=d.window, base=d.base, kept_at=d.kept_at) for d in desk.drafts.of_lab(path.slug)
        ]
        return DraftList(drafts=drafts).model_dump()

    @api.get("/<window>", responses={200: DraftKept, 404: Refusal})
    def one(path: DraftPath) -> Answer:
        """What a window has typed."""
        found = next((d for d in desk.drafts.of_lab(path.slug) if d.window == path.window), None)
        if found is None:
            return refused(404, "There is no such draft any more: it was saved, or dropped.")
        return DraftKept(text=found.text, base=found.base).model_dump()

    @api.put("/<window>", responses={204: None, 404: Refusal})
    def keep(path: DraftPath, body: DraftKept) -> Answer:
        """Keep what a window has typed."""
        if not desk.drafts.keep(path.slug, path.window, body.base, body.text):
            return no_lab(path.slug)
        return Response(status=204)

    @api.delete("/<window>", responses={204: None})
    def drop(path: DraftPath) -> Answer:
        """Forget what a window has typed."""
        desk.drafts.drop(path.slug, path.window)
        return Response(status=204)

    return api
