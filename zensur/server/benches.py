"""Benches that are kept with a lab, each under an address of its own."""

from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint

from ..store.benches import MOST_BENCHES
from ..work.desk import Desk
from .errors import refused
from .labs import LabPath, no_lab
from .shapes import BenchKept, BenchList, BenchRef, Number, Refusal

Answer = Any


class BenchPath(LabPath):
    """A bench by its number."""

    number: Number


def benches_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("benches", __name__, url_prefix="/api/labs/<slug>/benches")

    @api.get("", responses={200: BenchList, 404: Refusal})
    def all_of_them(path: LabPath) -> Answer:
        """The benches that are kept with a lab, the newest first."""
        if desk.labs.newest(path.slug) is None:
            return no_lab(path.slug)
        kept = desk.benches.of_lab(path.slug)
        refs = [BenchRef(number=b.id, name=b.name, stage=b.stage, kept_at=b.kept_at) for b in kept]
        return BenchList(benches=refs).model_dump()

    @api.post("", responses={201: BenchRef, 404: Refusal, 422: Refusal})
    def keep(path: LabPath, body: BenchKept) -> Answer:
        """Keep a bench: always as one of its own."""
        if desk.labs.newest(path.slug) is None:
            return no_lab(path.slug)
        number = desk.benches.keep(path.slug, body.name, body.stage, body.model_dump_json())
        if number is None:
            return refused(422, f"{MOST_BENCHES} benches are kept with this lab: remove one first.")
        kept = next(b for b in desk.benches.of_lab(path.slug) if b.id == number)
        told = BenchRef(number=number, name=kept.name, stage=kept.stage, kept_at=kept.kept_at)
        return told.model_dump(), 201

    @api.get("/<int:number>", responses={200: BenchKept, 404: Refusal})
    def one(path: BenchPath) -> Answer:
        """The sheets and questions of a bench."""
        found = next((b for b in desk.benches.of_lab(path.slug) if b.id == path.number), None)
        if found is None:
            return refused(404, "There is no such bench any more: it was removed.")
        return BenchKept.model_validate_json(found.work).model_dump()

    @api.delete("/<int:number>", responses={204: None})
    def remove(path: BenchPath) -> Answer:
        """Remove a bench."""
        desk.benches.remove(path.slug, path.number)
        return Response(status=204)

    return api
