"""Uploads of papers: sorted, asked about where something is doubtful, stored, and marked behind the answer."""

from typing import Annotated, Any

from flask import request
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel, Field, Json, model_validator

from ..core.formats import BadArchive, BadPattern, FlatNames, plain_name
from ..work.desk import Desk
from ..work.handing_in import Decision, Plan, Question
from ..work.occasion import Occasion
from ..work.taking import Answers, Taken, Unmatched, take
from .errors import refused
from .labs import LabPath
from .occasions import OfOccasion, occasion_at
from .shapes import (
    Arrived,
    ArrivedFile,
    FlatUpload,
    LearnerRef,
    Number,
    PaperAsked,
    PapersTaken,
    Refusal,
    UploadAsked,
    Whose,
)

Answer = Any
Name = Annotated[str, Field(max_length=240)]


class Upload(OfOccasion):
    """A zip or tar of papers, or the sheets of one learner.

    Of several learners' files side by side ``pattern`` says how their names are made up; where it was not ``shown``
    what comes of it, that is the answer, and nothing is stored. Where the answer was a question, ``decided`` says as a
    JSON object by name what becomes of each paper that was asked about, and ``seen`` which question that answers;
    ``matched`` says by name whose papers they are, empty for nobody's, and ``newcomers`` who gets a seat.
    """

    files: list[FileStorage]
    learner: Annotated[str, Field(max_length=120)] = ""
    pattern: Name = ""
    shown: bool = True
    seen: Name = ""
    decided: Json[dict[str, Decision]] = Field(default_factory=dict)
    matched: Json[dict[str, str]] = Field(default_factory=dict)
    newcomers: Json[list[str]] = Field(default_factory=list)

    @model_validator(mode="before")
    @classmethod
    def _as_it_was_sent(cls, told: dict[str, Any]) -> dict[str, Any]:
        """Take fields as text: what stands before us has read a learner's number as a number."""
        return {**told, **{name: text for name, text in request.form.items() if name in cls.model_fields}}


class ArrivalPath(BaseModel):
    """What arrived, by its number."""

    number: Number


def take_uploads(api: APIBlueprint, desk: Desk) -> None:
    """Add the upload to the blueprint of papers."""

    @api.post(
        "/labs/<slug>/papers", responses={201: PapersTaken, 404: Refusal, 409: UploadAsked, 422: Refusal}
    )
    def upload(path: LabPath, form: Upload) -> Answer:
        """Take papers, archives of one paper or a class, or the sheets of one learner; they are marked behind."""
        occasion = occasion_at(desk, path.slug, form)
        learner = plain_name(form.learner.strip())
        if "/" in learner or "\\" in learner:
            return refused(422, f"A learner's name has no stroke in it: {learner[:60]}.")
        uploads = [(f.filename or "sheet", f.read()) for f in request.files.getlist("files")]
        answers = Answers(
            learner=learner,
            pattern=form.pattern,
            shown=form.shown,
            matched=form.matched,
            newcomers=form.newcomers,
            decided=form.decided,
            seen=form.seen,
        )
        try:
            told = take(desk, occasion, uploads, "upload", answers)
        except FlatNames as flat:
            found = FlatUpload(pattern=flat.pattern.text, learners=list(flat.learners))
            return _question(str(flat), flat=found)
        except (BadArchive, BadPattern) as bad:
            return refused(422, str(bad))
        if isinstance(told, Taken):
            return PapersTaken(papers=list(told.papers), remarks=list(told.remarks)).model_dump(), 201
        return _unmatched(occasion, told) if isinstance(told, Unmatched) else _asked(desk, occasion, told)

    @api.get("/arrivals/<int:number>", responses={200: Arrived, 404: Refusal})
    def arrived(path: ArrivalPath) -> Answer:
        """What arrived, when and by which way, with the SHA-256 of each file: the receipt of a hand-in."""
        found = desk.papers.arrival(path.number)
        if found is None:
            return refused(404, f"There is no receipt {path.number}.")
        return Arrived(
            number=found.id,
            way=found.way,
            received_at=found.received_at,
            files=[ArrivedFile(name=name, sha256=digest) for name, digest in found.files],
            remarks=list(found.remarks),
        ).model_dump()


def _question(message: str, **more: Any) -> Answer:
    asked = UploadAsked(
        **{"message": message, "flat": None, "papers": [], "seen": "", "whose": [], "learners": [], **more}
    )
    return asked.model_dump(), 409


def _unmatched(occasion: Occasion, told: Unmatched) -> Answer:
    """Ask whose papers are of which that is not certain."""
    seats = [seat for own in occasion.seats.values() for seat in own]
    called = {seat.learner.code: seat.learner.name for seat in seats} | {
        seat.holder: f"Team {seat.learner.team}" for seat in seats if seat.learner.team
    }
    learners = [LearnerRef(code=code, name=name) for code, name in called.items()]
    number = len(told.matches)
    return _question(
        f"It is not certain whose paper {told.matches[0].name} is."
        if number == 1
        else f"Of {number} papers it is not certain whose they are.",
        whose=[Whose(name=m.name, proposed=m.code) for m in told.matches],
        learners=sorted(learners, key=lambda own: own.name.lower()),
    )


def _asked(desk: Desk, occasion: Occasion, planned: Plan) -> Answer:
    listed = {card.paper: (card, summary) for card, summary, _ in desk.listed(occasion)}
    overrules = desk.overrules.of(occasion.scope)

    def shape(question: Question) -> PaperAsked:
        card, summary = listed.get(question.paper or 0, (None, None))
        return PaperAsked(
            name=question.name,
            learner=occasion.called(question.learner),
            apart=question.apart,
            received_at=card.received_at if card else None,
            carried=summary.carried if summary else None,
            overruled=[o.criterion for o in overrules.get(question.learner, [])],
            devices=list(question.devices),
            missing=list(question.missing),
        )

    asked = [shape(question) for question in planned.questions]
    message = (
        f"{asked[0].learner} has handed in a paper already."
        if len(asked) == 1
        else f"{len(asked)} of these learners have handed in a paper already."
    )
    return _question(message, papers=asked, seen=planned.seen)
