"""Uploads of papers: sorted, asked about where something is there already, stored, and marked behind the answer."""

from typing import Annotated, Any

from flask import request
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel, Field, Json, model_validator

from ..core.formats import (
    BadArchive,
    BadPattern,
    FlatNames,
    HandIn,
    Pattern,
    folded,
    nothing_named,
    plain_name,
)
from ..store import LabVersion, Overtaken
from ..work.desk import Desk
from ..work.handing_in import Decision, Plan, Present, Question, plan, sort_uploads
from .errors import refused
from .labs import LabPath, no_lab
from .shapes import FlatUpload, PaperAsked, PapersTaken, Refusal, UploadAsked

Answer = Any
Name = Annotated[str, Field(max_length=240)]


class Upload(BaseModel):
    """A zip or tar of papers, or the sheets of one learner.

    Of several learners' files side by side ``pattern`` says how their names are made up; where it was not ``shown``
    what comes of it, that is the answer, and nothing is stored. Where the answer was a question, ``decided`` says as a
    JSON object by name what becomes of each paper that was asked about, and ``seen`` which question that answers.
    """

    files: list[FileStorage]
    learner: Annotated[str, Field(max_length=120)] = ""
    stage: Name = ""
    pattern: Name = ""
    shown: bool = True
    seen: Name = ""
    decided: Json[dict[str, Decision]] = Field(default_factory=dict)

    @model_validator(mode="before")
    @classmethod
    def _as_it_was_sent(cls, told: dict[str, Any]) -> dict[str, Any]:
        """Take fields as text: what stands before us has read a learner's number as a number."""
        return {**told, **{name: text for name, text in request.form.items() if name in cls.model_fields}}


def take_uploads(api: APIBlueprint, desk: Desk) -> None:
    """Add the upload to the blueprint of papers."""

    @api.post(
        "/labs/<slug>/papers", responses={201: PapersTaken, 404: Refusal, 409: UploadAsked, 422: Refusal}
    )
    def upload(path: LabPath, form: Upload) -> Answer:
        """Take papers, archives of one paper or a class, or the sheets of one learner; they are marked behind."""
        version = desk.labs.newest(path.slug)
        if version is None:
            return no_lab(path.slug)
        learner = plain_name(form.learner.strip())
        if "/" in learner or "\\" in learner:
            return refused(422, f"A learner's name has no stroke in it: {learner[:60]}.")
        devices = list(desk.lab(version).devices)
        uploads = [(f.filename or "sheet", f.read()) for f in request.files.getlist("files")]
        try:
            pattern = Pattern(form.pattern) if form.pattern.strip() else None
            hand_ins = sort_uploads(uploads, learner, devices, pattern)
            if pattern is not None and not form.shown:
                raise FlatNames(pattern, [h.learner for h in hand_ins])
        except FlatNames as flat:
            found = FlatUpload(pattern=flat.pattern.text, learners=list(flat.learners))
            return UploadAsked(message=str(flat), flat=found, papers=[], seen="").model_dump(), 409
        except (BadArchive, BadPattern) as bad:
            return refused(422, str(bad))
        if not any(h.files for h in hand_ins):
            return refused(422, nothing_named(hand_ins, devices))
        return _take(desk, version, hand_ins, form)


def _take(desk: Desk, version: LabVersion, hand_ins: list[HandIn], form: Upload) -> Answer:
    """Store papers, or ask what becomes of those that concern another; anew where one came in meanwhile."""
    papers = [h for h in hand_ins if h.files]
    while True:
        there = _there(desk, version, form.stage, papers)
        planned = plan(papers, there)
        if planned.questions:
            if form.seen != planned.seen:
                return _asked(desk, version, planned, form.stage).model_dump(), 409
            planned = plan(papers, there, form.decided)
        try:
            rows = desk.hand_in(version, list(planned.papers.values()), form.stage, planned.before)
        except Overtaken:
            continue
        remarks = [
            *(f"{h.learner}: {remark}" for h in hand_ins for remark in h.remarks),
            *(f"{learner}: the paper that was there still counts." for learner in planned.left),
        ]
        return PapersTaken(papers=rows, remarks=remarks).model_dump(), 201


def _there(desk: Desk, version: LabVersion, stage: str, papers: list[HandIn]) -> dict[str, Present]:
    """Return what is there of those who hand in, and of those who are called nearly so."""
    called = {folded(h.learner) for h in papers}
    return {
        p.learner: Present(p.id, desk.papers.files(p.id))
        for p in desk.papers_of(version, stage)
        if folded(p.learner) in called
    }


def _asked(desk: Desk, version: LabVersion, planned: Plan, stage: str) -> UploadAsked:
    listed = {card.paper: (card, summary) for card, summary, _ in desk.listed(version, stage)}
    overrules = desk.overrules.of_lab(version.slug, desk.stages(version, stage))

    def shape(question: Question) -> PaperAsked:
        card, summary = listed.get(question.paper or 0, (None, None))
        return PaperAsked(
            name=question.name,
            learner=question.learner,
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
    return UploadAsked(message=message, flat=None, papers=asked, seen=planned.seen)
