"""The sheets of a lab: checked and completed while they are typed, saved into the lab's text."""

from typing import Any

from flask import abort, make_response
from flask_openapi3 import APIBlueprint

from ..core.lab import Lab, read_lab, review_sheet
from ..core.lab.completion import surroundings
from ..core.lab.splice import CannotSplice, put, take, texts
from ..core.marking.checking.lab_check import check_text
from ..core.sheet import Diagnostic, read_sheet
from ..core.sheet.completion import complete
from ..core.sim import Model, PingRow
from ..store import LabVersion
from ..work.desk import Desk
from .errors import refused
from .labs import LabPath, no_lab
from .shapes import CompletionShape, LabSaved, Refusal, SheetAt, SheetCheck, SheetText
from .views import finding_shape, place_of_sheet

Answer = Any
_MEANWHILE = "Somebody else has saved this lab meanwhile. Your sheet is kept here; copy it, and load theirs."


def sheets_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("sheets", __name__, url_prefix="/api/labs/<slug>/sheets")

    @api.post("/check", responses={200: SheetCheck, 404: Refusal, 422: Refusal})
    def check(path: LabPath, body: SheetText) -> Answer:
        """What is said of a sheet as typed, and how the lab's pings go with it."""
        version, lab = _found(desk, path, body)
        try:
            text = with_sheet(version.text, lab, body)
        except CannotSplice as cannot:
            return refused(422, str(cannot))
        draft = read_lab(text).draft
        changed = next((s for s in draft.stages if s.stage == lab.stage), lab) if draft else lab
        sheet = read_sheet(body.text, f"{body.side}/{body.device}")
        placed = getattr(changed, body.side).get(body.device, sheet)
        remarks = review_sheet(placed, changed, body.device, body.side != "given")
        model = Model(changed)
        typed = body.text.split("\n")
        return SheetCheck.model_validate(
            {
                "diagnostics": [diagnostic_shape(d, typed) for d in remarks],
                "more": placed.more,
                "pings": [r for r in model.rows.values() if isinstance(r, PingRow)],
                "findings": [finding_shape(f) for f in check_text(text).errors],
            }
        ).model_dump(by_alias=True)

    @api.post("/complete", responses={200: CompletionShape, 404: Refusal})
    def offer(path: LabPath, body: SheetAt) -> Answer:
        """What may be typed next at a place of a sheet."""
        around = surroundings(_found(desk, path, body)[1], body.device)
        return CompletionShape.model_validate(
            complete(body.text, body.line, body.column, around)
        ).model_dump()

    @api.post("", responses={201: LabSaved, 404: Refusal, 409: Refusal, 422: Refusal})
    def save(path: LabPath, body: SheetText) -> Answer:
        """Save a sheet into the lab's text, of which nothing else changes, as a new version."""
        version, lab = _found(desk, path, body)
        if version.number != body.base:
            return refused(409, _MEANWHILE)
        try:
            text = with_sheet(version.text, lab, body)
        except CannotSplice as cannot:
            return refused(422, str(cannot))
        read = read_lab(text)
        if read.lab is None:
            return refused(422, "With this sheet the lab could not be read.", list(read.errors))
        number = desk.labs.save(path.slug, text, body.base)
        if number is None:
            return refused(409, _MEANWHILE)
        return LabSaved(version=number).model_dump(), 201

    return api


def _found(desk: Desk, path: LabPath, body: SheetText) -> tuple[LabVersion, Lab]:
    """Return the lab of a request, in which the device is; ends the request where there is none."""
    version = desk.labs.newest(path.slug)
    if version is None:
        abort(make_response(no_lab(path.slug)))
    lab = desk.lab(version, body.stage)
    if body.device not in lab.devices:
        abort(make_response(refused(404, f"The lab has no device {body.device[:40]}.")))
    return version, lab


def with_sheet(text: str, lab: Lab, body: SheetText) -> str:
    """Return the lab's text with another sheet; an empty one is taken away. Raises :class:`CannotSplice`."""
    place = place_of_sheet(lab, texts(text), body.side, body.device)
    if not body.text.strip():
        return take(text, place)
    ended = body.text if body.text.endswith("\n") else body.text + "\n"
    return put(text, place, ended)


def diagnostic_shape(said: Diagnostic, typed: list[str]) -> dict[str, Any]:
    """Return a remark; without its mend on a line that holds a variable, whose columns are not those read."""
    shape = {name: getattr(said, name) for name in said.__slots__}
    if said.line <= len(typed) and "${" in typed[said.line - 1]:
        shape["mend"] = None
    return {**shape, "severity": said.severity.value}
