"""Sittings: a version of a lab given to learners under rules; their seats, numbers and log."""

from typing import Any

from flask import Blueprint, Response
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel

from ..core.sittings import Learner, Rules
from ..store import LabVersion, Settings, Sitting
from ..work.archived_rows import BadSitting
from ..work.archiving import archived, restored
from ..work.desk import Desk
from ..work.numbers import numbers_csv, reseat, seat_newcomers, why_not
from ..work.progress import moving, progress
from .entries import entry_shapes
from .errors import NotThere, refused
from .files import as_file
from .groups import group_found, learner_shape
from .shapes import (
    ChangedFor,
    ChangedSeat,
    MoreSeats,
    Move,
    MovingView,
    NewSitting,
    Number,
    Progress,
    Refusal,
    Released,
    SeatShape,
    SittingCard,
    SittingList,
    SittingSettings,
    SittingView,
    VariableShape,
)
from .signing_in import by

Answer = Any


class SittingPath(BaseModel):
    """A sitting by its number."""

    number: Number


class SittingFile(BaseModel):
    """The file that a sitting was written into."""

    file: FileStorage


class SeatPath(SittingPath):
    """A learner of a sitting by id."""

    code: str


def sittings_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("sittings", __name__, url_prefix="/api/sittings")
    _of_all(api, desk)
    _of_one(api, desk)
    _of_seats(api, desk)
    _of_versions(api, desk)
    return api


def _of_all(api: APIBlueprint, desk: Desk) -> None:
    @api.get("", responses={200: SittingList})
    def all_of_them() -> Answer:
        """All sittings, the newest first."""
        return SittingList(sittings=[_card(desk, sitting) for sitting in desk.sittings.all()]).model_dump(
            mode="json"
        )

    @api.post("/restored", responses={201: SittingView, 422: Refusal})
    def restore(form: SittingFile) -> Answer:
        """Put a sitting back from the file that it was written into."""
        try:
            number = restored(desk.database, form.file.read())
        except BadSitting as bad:
            return refused(422, str(bad))
        return _again(desk, number), 201

    @api.post("", responses={201: SittingView, 404: Refusal, 422: Refusal})
    def add(body: NewSitting) -> Answer:
        """Give the newest version of a lab to the learners of some groups."""
        version = desk.labs.newest(body.slug)
        if version is None:
            raise NotThere(f"There is no lab {body.slug}.")
        lab = desk.lab(version, body.stage)
        if body.stage and lab.stage != body.stage:
            return refused(422, f"{body.slug} has no stage {body.stage}.")
        newcomers = _learners(desk, body.groups)
        wrong = _why_not(body)
        if wrong:
            return refused(422, wrong)
        sitting = _found(desk, desk.sittings.add(version.key, lab.stage, _settings(body)))
        return _view(desk, seat_newcomers(desk, sitting, newcomers, by())), 201


def _of_one(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/<int:number>", responses={200: SittingView, 404: Refusal})
    def one(path: SittingPath) -> Answer:
        """One sitting with its settings, seats and log."""
        return _again(desk, path.number)

    @api.put("/<int:number>", responses={200: SittingView, 404: Refusal, 422: Refusal})
    def change(path: SittingPath, body: SittingSettings) -> Answer:
        """Change title and rules of a sitting; what counts is worked out anew."""
        _found(desk, path.number)
        wrong = _why_not(body)
        if wrong:
            return refused(422, wrong)
        desk.sittings.change(path.number, _settings(body), by())
        return _again(desk, path.number)

    @api.delete("/<int:number>", responses={204: None, 404: Refusal})
    def remove(path: SittingPath) -> Answer:
        """Take a sitting off the list; nothing of it is lost."""
        _found(desk, path.number)
        desk.sittings.remove(path.number, by())
        return Response(status=204)

    @api.post("/<int:number>/released", responses={200: SittingView, 404: Refusal})
    def release(path: SittingPath, body: Released) -> Answer:
        """Release the marks, or hold them again."""
        _found(desk, path.number)
        desk.sittings.release(path.number, body.released, by())
        return _again(desk, path.number)


def _of_seats(api: APIBlueprint, desk: Desk) -> None:
    @api.post("/<int:number>/seats", responses={200: SittingView, 404: Refusal})
    def more(path: SittingPath, body: MoreSeats) -> Answer:
        """Give the learners of groups a seat who have none; the others keep theirs, and their numbers."""
        sitting = _found(desk, path.number)
        return _view(desk, seat_newcomers(desk, sitting, _learners(desk, body.groups), by()))

    @api.put("/<int:number>/seats/<code>", responses={200: SittingView, 404: Refusal, 422: Refusal})
    def change_seat(path: SeatPath, body: ChangedSeat) -> Answer:
        """Give a learner another team or other numbers, before the first hand-in."""
        sitting = _found(desk, path.number)
        seat = next((s for s in sitting.seats if s.learner.code == path.code), None)
        if seat is None:
            raise NotThere("There is no such learner in this sitting.")
        wrong = why_not(desk, sitting, seat, body.drawn)
        if wrong:
            return refused(422, wrong)
        reseat(desk, sitting, seat, body.team.strip(), body.drawn, by())
        return _again(desk, path.number)


def _of_versions(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/<int:number>/version", responses={200: MovingView, 404: Refusal})
    def what_changes(path: SittingPath) -> Answer:
        """What taking over the newest version of the lab changes, and for whom."""
        sitting = _found(desk, path.number)
        newest = _newest(desk, sitting)
        occasion = desk.occasion_of(sitting)
        found = moving(desk, occasion, newest.key)
        return MovingView(
            version=occasion.version.number,
            newest=newest.number,
            papers=found.papers,
            waiting=found.waiting,
            failed=found.failed,
            changed=[ChangedFor.model_validate(one) for one in found.changed],
        ).model_dump()

    @api.post("/<int:number>/version", responses={200: SittingView, 404: Refusal, 409: Refusal})
    def take_over(path: SittingPath, body: Move) -> Answer:
        """Mark the sitting with a version of the lab from now on; results of before stay."""
        sitting = _found(desk, path.number)
        newest = _newest(desk, sitting)
        if newest.number != body.version:
            return refused(
                409, f"Version {newest.number} was saved meanwhile: look at what it changes first."
            )
        desk.sittings.move(path.number, newest, by(body.reason))
        return _again(desk, path.number)


def sitting_files(desk: Desk) -> Blueprint:
    """Make the blueprint of a sitting's numbers as the CSV that ``--values`` reads, and of all of it as one file."""
    blueprint = Blueprint("sitting-files", __name__)

    @blueprint.get("/archives/<int:number>.zip")
    def as_archive(number: int) -> Response:
        _found(desk, number)
        return as_file(archived(desk.database, number), "application/zip", f"sitting-{number}.zip")

    @blueprint.get("/numbers/<int:number>.csv")
    def as_csv(number: int) -> Response:
        return as_file(
            numbers_csv(_found(desk, number)).encode(), "text/csv", f"sitting-{number}-numbers.csv"
        )

    return blueprint


def _found(desk: Desk, number: int) -> Sitting:
    sitting = desk.sittings.get(number)
    if sitting is None:
        raise NotThere("There is no such sitting.")
    return sitting


def _newest(desk: Desk, sitting: Sitting) -> LabVersion:
    newest = desk.labs.newest(sitting.slug)
    assert newest is not None  # the sitting has a version of it
    return newest


def _again(desk: Desk, number: int) -> Answer:
    return _view(desk, _found(desk, number))


def _settings(body: SittingSettings) -> Settings:
    return Settings(title=body.title.strip(), rules=Rules(**dict(body.rules)), blind=body.blind)


def _why_not(body: SittingSettings) -> str:
    rules = body.rules
    if not body.title.strip():
        return "A sitting needs a title."
    if rules.opens and rules.closes and rules.closes <= rules.opens:
        return "A sitting closes after it opens."
    if rules.late != "marked" and rules.closes is None:
        return "A rule for late papers needs the time at which the sitting closes."
    return ""


def _learners(desk: Desk, groups: list[int]) -> list[tuple[str, Learner]]:
    """Return the learners of groups, each with the title of the first group; raises :class:`NotThere`."""
    found: dict[str, tuple[str, Learner]] = {}
    for number in groups:
        group = group_found(desk, number)
        for own in group.learners:
            found.setdefault(own.code, (group.title, own))
    return list(found.values())


def _card(desk: Desk, sitting: Sitting) -> SittingCard:
    return SittingCard(**_of_card(desk, sitting))


def _of_card(desk: Desk, sitting: Sitting) -> dict[str, Any]:
    occasion = desk.occasion_of(sitting)
    return {
        "number": sitting.id,
        "title": sitting.settings.title,
        "slug": sitting.slug,
        "lab": occasion.lab.title,
        "stage": occasion.lab.stage_title if sitting.stage else "",
        "closes": sitting.settings.rules.closes,
        "released": sitting.released_at,
        "progress": Progress.model_validate(progress(desk, occasion)),
    }


def _view(desk: Desk, sitting: Sitting) -> Answer:
    occasion = desk.occasion_of(sitting)
    handed_in = {stored.learner for stored in desk.papers.last(occasion.scope)}
    settings = sitting.settings
    return SittingView(
        **_of_card(desk, sitting),
        settings=SittingSettings.model_validate(
            {"title": settings.title, "blind": settings.blind, "rules": settings.rules}, from_attributes=True
        ),
        version=occasion.version.number,
        newest=_newest(desk, sitting).number,
        variables=[
            VariableShape(name=name, low=v.low, high=v.high) for name, v in occasion.lab.variables.items()
        ],
        seats=[
            SeatShape(
                learner=learner_shape(seat.learner),
                group=seat.group,
                drawn=dict(seat.drawn),
                handed_in=seat.holder in handed_in,
            )
            for seat in sitting.seats
        ],
        log=entry_shapes(occasion, desk.entries.newest(sitting=sitting.id, most=200)),
    ).model_dump(mode="json")
