"""The versions of a lab: all that were saved, what became of the lab in each, and the lab as a file."""

from typing import Annotated, Any

from flask import Blueprint, Response, abort
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field, RootModel

from ..core.formats import topology_json
from ..core.lab.changes import Change, changes
from ..work.desk import Desk
from .errors import refused
from .files import as_file
from .labs import LabPath, no_lab
from .shapes import ChangeShape, Number, Refusal, VersionRef, VersionView

Answer = Any


class VersionPath(LabPath):
    """A version of a lab by its number, from 1."""

    number: Number


class Against(BaseModel):
    """Which version it is compared with; the one before it where none is named."""

    against: Annotated[int | None, Field(ge=1, le=1_000_000)] = None


def versions_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("versions", __name__, url_prefix="/api/labs/<slug>/history")

    @api.get("", responses={200: RootModel[list[VersionRef]], 404: Refusal})
    def history(path: LabPath) -> Answer:
        """All versions of a lab, the newest first."""
        found = desk.labs.versions(path.slug)
        if not found:
            return no_lab(path.slug)
        return [VersionRef(number=number, saved_at=saved_at).model_dump() for number, saved_at in found]

    @api.get("/<int:number>", responses={200: VersionView, 404: Refusal})
    def version(path: VersionPath, query: Against) -> Answer:
        """A version with its text, and what became of the lab in it."""
        found = desk.labs.numbered(path.slug, path.number)
        if found is None:
            return refused(404, f"There is no version {path.number} of a lab {path.slug}.")
        against = query.against or path.number - 1
        other = desk.labs.numbered(path.slug, against)
        lab, before = desk.read(found).lab, desk.read(other).lab if other else None
        if lab is not None and before is not None:
            told = changes(before, lab)
        elif other is not None:
            told = (
                Change(
                    "",
                    "",
                    "One of the two cannot be read by this version of Zensur: they cannot be compared.",
                ),
            )
        else:
            told = ()
        return VersionView(
            slug=path.slug,
            title=lab.title if lab else path.slug,
            number=found.number,
            saved_at=found.saved_at,
            against=other.number if other else None,
            text=found.text,
            changes=[ChangeShape.model_validate(change) for change in told],
        ).model_dump()

    return api


def lab_files(desk: Desk) -> Blueprint:
    """Make the blueprint of labs as files, model answer and scheme included."""
    blueprint = Blueprint("lab_files", __name__)

    @blueprint.get("/lab-files/<slug>.lab.yaml")
    def file(slug: str) -> Response:
        version = desk.labs.newest(slug)
        if version is None:
            abort(404, f"There is no lab {slug}.")
        return as_file(version.text, "application/yaml", f"{slug}.lab.yaml")

    @blueprint.get("/lab-files/<slug>.topology.json")
    def topology(slug: str) -> Response:
        version = desk.labs.newest(slug)
        if version is None:
            abort(404, f"There is no lab {slug}.")
        return as_file(topology_json(desk.lab(version)), "application/json", f"{slug}.topology.json")

    return blueprint
