"""Labs: one lab, its text and versions, and its journeys on the model answer."""

from dataclasses import dataclass
from typing import Annotated, Any

from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from ..core.lab import Expected, Lab, LabError, read_lab
from ..core.lab.completion import complete_lab
from ..core.lab.splice import texts
from ..core.sheet import write_sheet
from ..core.sim import (
    AnyRun,
    Network,
    OpenedRow,
    PingRow,
    ResolvedRow,
    RunRow,
    journey,
    neighbours_to_find,
)
from ..store import LabVersion, StoredPaper
from ..work.desk import Desk
from ..work.workers import Refused
from .errors import refused
from .shapes import (
    CompletionShape,
    DeviceSheets,
    JourneyView,
    LabSaved,
    LabText,
    LabTextCheck,
    LabView,
    Refusal,
    Slug,
    StageRef,
    TypedAt,
)
from .views import check_shape, place_of_sheet, weave_shape

Answer = Any


class LabPath(BaseModel):
    """A lab by its id."""

    slug: Slug


class OfStage(BaseModel):
    """The stage that is meant; the last where it is left out."""

    stage: Annotated[str, Field(max_length=64)] = ""


def labs_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("labs", __name__, url_prefix="/api")
    _of_texts(api, desk)
    _of_one_lab(api, desk)
    return api


def _of_texts(api: APIBlueprint, desk: Desk) -> None:
    @api.post("/labs/check", responses={200: LabTextCheck, 422: Refusal})
    def check(body: LabText) -> Answer:
        """The lab check of a text that is not saved."""
        try:
            found = desk.check_of(body.text)
        except Refused as refused_:
            return refused(422, f"The lab could not be checked. {refused_}")
        readable = not any(f.code == "lab-file" for f in found.findings)
        return LabTextCheck(readable=readable, check=check_shape(found)).model_dump()

    @api.post("/labs/complete", responses={200: CompletionShape})
    def complete(body: TypedAt) -> Answer:
        """What may be typed next at a place of a lab's text."""
        lab = last_readable(body.text, body.line)
        return CompletionShape.model_validate(
            complete_lab(body.text, body.line, body.column, lab), from_attributes=True
        ).model_dump()


def _of_one_lab(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/labs/<slug>", responses={200: LabView, 404: Refusal})
    def view(path: LabPath, query: OfStage) -> Answer:
        """One lab, its newest version, or one of its stages."""
        version = desk.labs.newest(path.slug)
        return _view(desk, version, query.stage).model_dump(by_alias=True) if version else no_lab(path.slug)

    @api.post("/labs/<slug>/versions", responses={201: LabSaved, 404: Refusal, 409: Refusal, 422: Refusal})
    def save(path: LabPath, body: LabText) -> Answer:
        """Save a lab's text as a new version, where it can be read."""
        if desk.labs.newest(path.slug) is None:
            return no_lab(path.slug)
        found = read_lab(body.text)
        errors = list(found.errors)
        if found.lab is not None and found.lab.id != path.slug:
            line = next((n for n, t in enumerate(body.text.split("\n"), 1) if t.startswith("id:")), 1)
            errors.append(LabError("id", line, 1, f"The id of a lab stays: {path.slug}."))
        if errors:
            return refused(422, "The text cannot be saved as a lab yet.", errors)
        number = desk.labs.save(path.slug, body.text, body.base)
        if number is None:
            return refused(
                409,
                "Somebody else has saved this lab meanwhile. Your text is kept here; load theirs beside it.",
            )
        return LabSaved(version=number).model_dump(), 201


def last_readable(text: str, line: int) -> Lab | None:
    """Read a text in which a line is being typed: as it is, else without that line."""
    lab = read_lab(text).lab
    if lab is None:
        lines = text.split("\n")
        lab = read_lab("\n".join([*lines[: line - 1], "", *lines[line:]])).lab
    return lab


def no_lab(slug: str) -> Answer:
    """Refuse because there is no such lab."""
    return refused(404, f"There is no lab {slug}.")


def _view(desk: Desk, version: LabVersion, stage: str) -> LabView:
    lab, model = desk.lab(version, stage), desk.model(version, stage)
    ended = lab.before.model if lab.before else {}
    typed = texts(version.text)
    return LabView(
        slug=version.slug,
        title=lab.title,
        brief=lab.brief,
        stage=lab.stage,
        stages=[StageRef(id=s.stage, title=s.stage_title) for s in desk.lab(version).stages if s.stage],
        version=version.number,
        saved_at=version.saved_at,
        text=version.text,
        out_of=desk.check(version).out_of,
        weave=weave_shape(lab, model.network),
        devices=[
            DeviceSheets(
                device=name,
                kind=device.kind.value,
                about=device.about,
                **{
                    side: typed.get(place_of_sheet(lab, typed, side, name))
                    for side in ("given", "start", "answer")
                },
                before=write_sheet(ended[name]) if name in ended else None,
                taken=list(lab.removed.get(name, ())),
            )
            for name, device in lab.devices.items()
        ],
        check=check_shape(desk.check(version)),
        services=[r for r in model.rows.values() if isinstance(r, OpenedRow | ResolvedRow)],
        pings=[r for r in model.rows.values() if isinstance(r, PingRow)],
        papers=desk.papers.count(version.slug),
    )


@dataclass(frozen=True, slots=True)
class FoundRun:
    """A ping or service check of a lab, run on the model answer or on a paper."""

    lab: Lab
    asked: Expected
    network: Network
    ran: AnyRun
    row: RunRow
    paper: StoredPaper | None


def find_run(
    desk: Desk, version: LabVersion, number: int, paper: int | None, stage: str = ""
) -> FoundRun | None:
    """Run a ping by its number in the lab's list, or a service check, which follow the pings; None where there is
    none."""
    stored = desk.papers.get(paper) if paper is not None else None
    model = desk.model(version, stored.stage if stored else stage, stored.drawn if stored else None)
    if stored is not None:
        marker, handed_in = desk.marker(version, stored.stage, stored.drawn).for_paper(
            desk.paper(stored, model.lab)
        )
        model = marker.facts.model
    lab = model.lab
    if not 1 <= number <= len(lab.expected):
        return None
    ident, asked = list(lab.expected.items())[number - 1]
    if stored is None:
        return FoundRun(lab, asked, model.network, model.runs[ident], model.rows[ident], None)
    attempt = marker.session(handed_in).paper
    return FoundRun(lab, asked, attempt.network, attempt.runs[ident], attempt.row(ident), stored)


def _called(desk: Desk, stored: StoredPaper) -> str:
    occasion = desk.occasion_of_paper(stored)
    return occasion.called(stored.learner) if occasion else stored.learner


def journey_view(desk: Desk, version: LabVersion, number: int, paper: int | None, stage: str = "") -> Answer:
    """Return the journey of a ping on the model answer of a stage, or on a paper."""
    found = find_run(desk, version, number, paper, stage)
    if found is None:
        return refused(404, f"The lab has {len(desk.lab(version, stage).expected)} pings and checks.")
    network = found.network
    legs = journey(network, found.ran.result)
    return JourneyView(
        lab=found.lab.title,
        slug=version.slug,
        stage=found.lab.stage,
        paper=paper,
        learner=_called(desk, found.paper) if found.paper else None,
        number=number,
        of=len(found.lab.expected),
        pings=len(found.lab.pings),
        note=found.asked.note,
        ping=found.row,
        legs=list(legs),
        neighbours_to_find=neighbours_to_find(legs),
        weave=weave_shape(found.lab, network),
    ).model_dump(by_alias=True)
