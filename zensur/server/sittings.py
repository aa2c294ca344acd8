"""Sittings: a version of a lab given to learners under rules; their seats, numbers and log."""

from collections.abc import Iterator
from typing import Any

from flask import Blueprint, Response, abort
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel

from ..core.sittings import Learner, Rules
from ..store import Entry, Settings, Sitting
from ..work.archived_rows import BadSitting
from ..work.archiving import archived, restored
from ..work.desk import Desk
from ..work.numbers import numbers_csv, reseat, seat_newcomers, why_not
from ..work.progress import moving, progress
from .errors import refused
from .files import as_file
from .groups import learner_shape
from .shapes import (
    ChangedFor,
    ChangedSeat,
    EntryShape,
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
            return refused(404, f"There is no lab {body.slug}.")
        lab = desk.lab(version, body.stage)
        if body.stage and lab.stage != body.stage:
            return refused(422, f"{body.slug} has no stage {body.stage}.")
        newcomers = _learners(desk, body.groups)
        if newcomers is None:
            return refused(404, "There is no such group.")
        wrong = _why_not(body)
        if wrong:
            return refused(422, wrong)
        sitting = desk.sittings.get(desk.sittings.add(version.key, lab.stage, _settings(body)))
        assert sitting is not None
        return _view(desk, seat_newcomers(desk, sitting, newcomers)), 201


def _of_one(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/<int:number>", responses={200: SittingView, 404: Refusal})
    def one(path: SittingPath) -> Answer:
        """One sitting with its settings, seats and log."""
        sitting = desk.sittings.get(path.number)
        return _view(desk, sitting) if sitting else _no_sitting()

    @api.put("/<int:number>", responses={200: SittingView, 404: Refusal, 422: Refusal})
    def change(path: SittingPath, body: SittingSettings) -> Answer:
        """Change title and rules of a sitting; what counts is worked out anew."""
        if desk.sittings.get(path.number) is None:
            return _no_sitting()
        wrong = _why_not(body)
        if wrong:
            return refused(422, wrong)
        desk.sittings.change(path.number, _settings(body), by())
        return _again(desk, path.number)

    @api.delete("/<int:number>", responses={204: None, 404: Refusal})
    def remove(path: SittingPath) -> Answer:
        """Take a sitting off the list; nothing of it is lost."""
        if desk.sittings.get(path.number) is None:
            return _no_sitting()
        desk.sittings.remove(path.number, by())
        return Response(status=204)

    @api.post("/<int:number>/released", responses={200: SittingView, 404: Refusal})
    def release(path: SittingPath, body: Released) -> Answer:
        """Release the marks, or hold them again."""
        if desk.sittings.get(path.number) is None:
            return _no_sitting()
        desk.sittings.release(path.number, body.released, by())
        return _again(desk, path.number)


def _of_seats(api: APIBlueprint, desk: Desk) -> None:
    @api.post("/<int:number>/seats", responses={200: SittingView, 404: Refusal})
    def more(path: SittingPath, body: MoreSeats) -> Answer:
        """Give the learners of groups a seat who have none; the others keep theirs, and their numbers."""
        sitting, newcomers = desk.sittings.get(path.number), _learners(desk, body.groups)
        if sitting is None:
            return _no_sitting()
        if newcomers is None:
            return refused(404, "There is no such group.")
        return _view(desk, seat_newcomers(desk, sitting, newcomers))

    @api.put("/<int:number>/seats/<code>", responses={200: SittingView, 404: Refusal, 422: Refusal})
    def change_seat(path: SeatPath, body: ChangedSeat) -> Answer:
        """Give a learner another team or other numbers, before the first hand-in."""
        sitting = desk.sittings.get(path.number)
        seat = next((s for s in sitting.seats if s.learner.code == path.code), None) if sitting else None
        if sitting is None or seat is None:
            return refused(404, "There is no such learner in this sitting.")
        wrong = why_not(desk, sitting, seat, body.drawn)
        if wrong:
            return refused(422, wrong)
        reseat(desk, sitting, seat, body.team.strip(), body.drawn)
        return _again(desk, path.number)


def _of_versions(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/<int:number>/version", responses={200: MovingView, 404: Refusal})
    def what_changes(path: SittingPath) -> Answer:
        """What taking over the newest version of the lab changes, and for whom."""
        sitting = desk.sittings.get(path.number)
        newest = desk.labs.newest(sitting.slug) if sitting else None
        if sitting is None or newest is None:
            return _no_sitting()
        occasion = desk.occasion_of(sitting)
        found = moving(desk, occasion, newest.key)
        return MovingView(
            version=occasion.version.number,
            newest=newest.number,
            papers=found.papers,
            waiting=found.waiting,
            changed=[ChangedFor.model_validate(one) for one in found.changed],
        ).model_dump()

    @api.post("/<int:number>/version", responses={200: SittingView, 404: Refusal, 409: Refusal})
    def take_over(path: SittingPath, body: Move) -> Answer:
        """Mark the sitting with a version of the lab from now on; results of before stay."""
        sitting = desk.sittings.get(path.number)
        newest = desk.labs.newest(sitting.slug) if sitting else None
        if sitting is None or newest is None:
            return _no_sitting()
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
        if desk.sittings.get(number) is None:
            abort(404, "There is no such sitting.")
        return as_file(archived(desk.database, number), "application/zip", f"sitting-{number}.zip")

    @blueprint.get("/numbers/<int:number>.csv")
    def as_csv(number: int) -> Response:
        sitting = desk.sittings.get(number)
        if sitting is None:
            abort(404, "There is no such sitting.")
        return as_file(numbers_csv(sitting).encode(), "text/csv", f"sitting-{number}-numbers.csv")

    return blueprint


def _again(desk: Desk, number: int) -> Answer:
    sitting = desk.sittings.get(number)
    assert sitting is not None
    return _view(desk, sitting)


def _no_sitting() -> Answer:
    return refused(404, "There is no such sitting.")


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


def _learners(desk: Desk, groups: list[int]) -> list[tuple[str, Learner]] | None:
    """Return the learners of groups, each with the title of the first group; None where there is no such group."""
    found: dict[str, tuple[str, Learner]] = {}
    for number in groups:
        group = desk.groups.get(number)
        if group is None:
            return None
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
    newest = desk.labs.newest(sitting.slug)
    handed_in = {stored.learner for stored in desk.papers.last(occasion.scope)}
    settings = sitting.settings
    return SittingView(
        **_of_card(desk, sitting),
        settings=SittingSettings.model_validate(
            {"title": settings.title, "blind": settings.blind, "rules": settings.rules}, from_attributes=True
        ),
        version=occasion.version.number,
        newest=newest.number if newest else occasion.version.number,
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
        log=[
            EntryShape(
                made_at=entry.made_at,
                who=entry.who,
                what=entry.what,
                learner=occasion.called(entry.learner) if entry.learner else "",
                paper=entry.paper,
                told="; ".join(_told(entry)),
                reason=entry.reason,
            )
            for entry in desk.entries.newest(sitting=sitting.id, most=200)
        ],
    ).model_dump(mode="json")


def _told(entry: Entry) -> Iterator[str]:
    """Yield the further facts of an entry in words."""
    told = entry.told
    if "criterion" in told:
        yield str(told["criterion"]) or "the total"
    if told.get("marks") is not None:
        was = told.get("was")
        yield f"{told['marks']:g} marks" + (f" in place of {was:g}" if isinstance(was, float | int) else "")
    if told.get("text"):
        yield str(told["text"])
    if told.get("doubts"):
        yield " ".join(map(str, told["doubts"]))  # type: ignore[call-overload]
