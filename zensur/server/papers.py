"""Papers: upload, list, one marked paper, and its journeys."""

from typing import Any

from flask import request
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel

from ..core.formats import (
    ANSWERS,
    CABLING,
    CABLING_FILE,
    BadArchive,
    BadPattern,
    File,
    FlatNames,
    HandIn,
    Pattern,
    is_archive,
    nothing_named,
    plain_name,
    read_archive,
    sort_papers,
)
from ..core.marking import TOTAL, Result, margin, sum_of, tasks_of
from ..store import LabVersion, StoredPaper
from ..work.marking import Desk
from .errors import refused
from .labs import LabPath, journey_view
from .shapes import (
    FlatUpload,
    JourneyView,
    Overruling,
    PaperCard,
    PaperList,
    PaperSheet,
    PapersTaken,
    PaperView,
    Refusal,
    StageRef,
)

Answer = Any


class PaperPath(BaseModel):
    """A paper by its number."""

    paper: int


class PaperPingPath(PaperPath):
    """A ping of the paper's lab, from 1."""

    number: int


class Upload(BaseModel):
    """A zip or tar of papers, or the sheets of one learner.

    Of several learners' files side by side ``pattern`` says how their names are made up; where it was not ``shown``
    what comes of it, that is the answer, and nothing is stored.
    """

    files: list[FileStorage]
    learner: str = ""
    stage: str = ""
    pattern: str = ""
    shown: bool = True


class OfStage(BaseModel):
    """The stage that is meant; the last where it is left out."""

    stage: str = ""


def papers_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("papers", __name__, url_prefix="/api")
    _of_a_class(api, desk)
    _of_one_paper(api, desk)
    return api


def _of_a_class(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/labs/<slug>/papers", responses={200: PaperList, 404: Refusal})
    def papers(path: LabPath, query: OfStage) -> Answer:
        """The latest paper of every learner, marked with the newest version of the lab."""
        version = desk.labs.newest(path.slug)
        if version is None:
            return refused(404, f"There is no lab {path.slug}.")
        lab = desk.lab(version, query.stage)
        stages = desk.lab(version).stages if lab.stage else ()
        return PaperList(
            lab=lab.title,
            slug=version.slug,
            version=version.number,
            stage=lab.stage,
            stages=[StageRef(id=s.stage, title=s.stage_title) for s in stages],
            papers=_cards(desk, version, lab.stage),
        ).model_dump()

    @api.post(
        "/labs/<slug>/papers", responses={201: PapersTaken, 404: Refusal, 409: FlatUpload, 422: Refusal}
    )
    def upload(path: LabPath, form: Upload) -> Answer:
        """Take papers and mark them: archives of one paper or a class, or the sheets of one learner."""
        version = desk.labs.newest(path.slug)
        if version is None:
            return refused(404, f"There is no lab {path.slug}.")
        learner = plain_name(form.learner.strip())
        if "/" in learner or "\\" in learner:
            return refused(422, f"A learner's name has no stroke in it: {learner[:60]}.")
        try:
            pattern = Pattern(form.pattern) if form.pattern.strip() else None
            hand_ins = _sorted(desk, version, learner, pattern)
            if pattern is not None and not form.shown:
                raise FlatNames(pattern, [h.learner for h in hand_ins])
        except FlatNames as flat:
            told = FlatUpload(message=str(flat), pattern=flat.pattern.text, learners=list(flat.learners))
            return told.model_dump(), 409
        except (BadArchive, BadPattern) as bad:
            return refused(422, str(bad))
        if not any(h.files for h in hand_ins):
            return refused(422, nothing_named(hand_ins, list(desk.lab(version).devices)))
        rows = desk.hand_in(version, [h for h in hand_ins if h.files], form.stage)
        remarks = [f"{h.learner}: {remark}" for h in hand_ins for remark in h.remarks]
        return PapersTaken(papers=rows, remarks=remarks).model_dump(), 201


def _of_one_paper(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/papers/<int:paper>", responses={200: PaperView, 404: Refusal})
    def paper(path: PaperPath) -> Answer:
        """One marked paper."""
        stored = desk.papers.get(path.paper)
        version = desk.labs.newest(stored.slug) if stored else None
        if stored is None or version is None:
            return refused(404, "There is no such paper.")
        return _view(desk, version, stored).model_dump(by_alias=True)

    @api.post("/papers/<int:paper>/overrules", responses={200: PaperView, 404: Refusal, 422: Refusal})
    def overrule(path: PaperPath, body: Overruling) -> Answer:
        """Overrule a criterion or the total of a paper, or take that back."""
        stored = desk.papers.get(path.paper)
        version = desk.labs.newest(stored.slug) if stored else None
        if stored is None or version is None:
            return refused(404, "There is no such paper.")
        wrong = _why_not(desk.result(stored, version), body)
        if wrong is not None:
            return refused(422, wrong)
        desk.papers.overrule(stored.id, body.criterion, body.marks, body.reason.strip())
        return _view(desk, version, stored).model_dump(by_alias=True)

    @api.get("/papers/<int:paper>/journeys/<int:number>", responses={200: JourneyView, 404: Refusal})
    def paper_journey(path: PaperPingPath) -> Answer:
        """The journey of a ping on a paper."""
        stored = desk.papers.get(path.paper)
        version = desk.labs.newest(stored.slug) if stored else None
        if stored is None or version is None:
            return refused(404, "There is no such paper.")
        return journey_view(desk, version, path.number, stored.id)


def _sorted(desk: Desk, version: LabVersion, learner: str, pattern: Pattern | None) -> list[HandIn]:
    """Sort what was uploaded into papers; raises BadArchive, and FlatNames where a pattern is wanted."""
    devices = list(desk.lab(version).devices)
    uploads = [(f.filename or "sheet", f.read()) for f in request.files.getlist("files")]
    sheets = [File(name, content) for name, content in uploads if not is_archive(content)]
    found: list[HandIn] = []
    for name, content in uploads:
        if is_archive(content):
            found += sort_papers(read_archive(content), devices, name, pattern)
    if sheets and (pattern is not None or not learner):
        found += sort_papers(sheets, devices, "", pattern)  # of several learners, side by side
        if pattern is None:
            raise BadArchive("Whose sheets are these? Write the learner's name beside them.")
    elif sheets:
        found += sort_papers([File(f"{learner}/{f.path}", f.content) for f in sheets], devices, learner)
    return found


MOST_REASON = 500


def _why_not(result: Result, body: Overruling) -> str | None:
    """Say why a result cannot be overruled so."""
    of = {c.id: c.marks for c in result.criteria} | {TOTAL: result.out_of}
    most = of.get(body.criterion)
    if most is None:
        return f"The paper has no criterion {body.criterion[:80]}."
    if body.marks is None:
        return None
    if not 0 <= body.marks <= most:
        return f"From 0 to {most:g} marks are to be had there, not {body.marks:g}."
    if not body.reason.strip():
        return "An overrule needs its reason: the learner will ask."
    return f"A reason has {MOST_REASON} characters at most." if len(body.reason) > MOST_REASON else None


def _cards(desk: Desk, version: LabVersion, stage: str) -> list[PaperCard]:
    """Return the latest paper of every learner; those that an earlier revision marked are marked again first."""
    papers = desk.papers_of(version, stage)
    return [
        PaperCard(
            id=stored.id,
            learner=stored.learner,
            received_at=stored.received_at,
            score=found.result.score,
            carried=found.result.carried,
            out_of=found.result.out_of,
            grade=found.result.grade,
            mistakes=[fault.title for fault in found.result.faults],
            sheets=len(desk.papers.files(stored.id).keys() - {ANSWERS, CABLING}),
            was=found.was,
        )
        for stored, found in zip(papers, desk.results(papers, version), strict=True)
    ]


def _view(desk: Desk, version: LabVersion, stored: StoredPaper) -> PaperView:
    lab = desk.lab(version, stored.stage)
    order = [p.id for p in desk.papers_of(version, stored.stage)]
    at = order.index(stored.id) if stored.id in order else None
    files = desk.papers.files(stored.id)
    paper = desk.paper(stored)
    asked = {c.device for task in tasks_of(lab) for c in task.criteria if c.device}
    result = desk.result(stored, version)
    return PaperView(
        id=stored.id,
        lab=lab.title,
        slug=version.slug,
        stage=lab.stage,
        stage_title=lab.stage_title if lab.stage else "",
        version=version.number,
        received_at=stored.received_at,
        number=0 if at is None else at + 1,
        of=len(order),
        previous=order[at - 1] if at else None,
        next=order[at + 1] if at is not None and at + 1 < len(order) else None,
        sheets=[
            *([_cabling(result, files.get(CABLING))] if lab.asks_cabling else []),
            *(
                PaperSheet(
                    device=name,
                    kind=device.kind.value,
                    file=files[name][0] if name in files else None,
                    text=paper.sheets[name].text if name in files else None,
                    given=lab.given[name].text if name in lab.given else None,
                    asked=name in asked,
                    margin=margin(
                        result,
                        name,
                        files[name][0] if name in files else None,
                        paper.sheets[name].text if name in files else None,
                        name in asked,
                    ),
                )
                for name, device in lab.devices.items()
            ),
        ],
        result=result,
        sum=list(sum_of(result, lab.scheme)),
    )


def _cabling(result: Result, handed_in: tuple[str, bytes] | None) -> PaperSheet:
    """Show how the learner joined the devices beside the sheets."""
    file, content = handed_in or (None, None)
    text = None if content is None else content.decode("utf-8", "replace")
    return PaperSheet(
        device=CABLING_FILE, kind="cabling", file=file, text=text, given=None, asked=True,
        margin=margin(result, CABLING_FILE, file, text, True),
    )  # fmt: skip
