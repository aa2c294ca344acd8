"""Papers: the list, one paper and what became of it, and its journeys."""

from dataclasses import asdict
from datetime import datetime
from typing import Any

from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from ..core.formats import ANSWERS, CABLING, CABLING_FILE
from ..core.marking.adding import sum_of
from ..core.marking.margin import margin
from ..core.marking.overruling import TOTAL
from ..core.marking.scheme import tasks_of
from ..core.marking.shapes import Result
from ..core.sittings import days_late
from ..store import Listed, StoredPaper, Summary
from ..work.desk import Desk
from ..work.occasion import Occasion
from .entries import entry_shapes
from .errors import NotThere, refused
from .labs import LabPath, journey_view
from .occasions import OfOccasion, occasion_at
from .shapes import (
    Attempt,
    CardResult,
    CommentShape,
    Counting,
    JourneyView,
    LookAgain,
    Number,
    Overruling,
    PaperCard,
    PaperList,
    PaperSheet,
    PaperView,
    Refusal,
    SittingRef,
    StageRef,
)
from .signing_in import by
from .uploads import take_uploads

Answer = Any


class PaperPath(BaseModel):
    """A paper by its number."""

    paper: Number


class PaperPingPath(PaperPath):
    """A ping of the paper's lab, from 1."""

    number: Number


def papers_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("papers", __name__, url_prefix="/api")
    _of_a_class(api, desk)
    take_uploads(api, desk)
    _of_one_paper(api, desk)
    return api


def _of_a_class(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/labs/<slug>/papers", responses={200: PaperList, 404: Refusal})
    def papers(path: LabPath, query: OfOccasion) -> Answer:
        """The paper of every learner that counts, as far as it is marked."""
        occasion = occasion_at(desk, path.slug, query)
        return PaperList(
            lab=occasion.lab.title,
            slug=path.slug,
            version=occasion.version.number,
            stage=occasion.lab.stage,
            stages=stages_of(desk, occasion),
            sitting=sitting_ref(occasion),
            papers=[_card(listed, summary, len(again)) for listed, summary, again in desk.listed(occasion)],
        ).model_dump()


def stages_of(desk: Desk, occasion: Occasion) -> list[StageRef]:
    """Return the stages of a lab to turn to; a sitting is of one."""
    if occasion.sitting is not None or not occasion.lab.stage:
        return []
    return [StageRef(id=s.stage, title=s.stage_title) for s in desk.lab(occasion.version).stages]


def sitting_ref(occasion: Occasion) -> SittingRef | None:
    """Return the sitting that an occasion is."""
    sitting = occasion.sitting
    return (
        None
        if sitting is None
        else SittingRef(number=sitting.id, title=sitting.settings.title, blind=occasion.blind)
    )


def _of_one_paper(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/papers/<int:paper>", responses={200: PaperView, 404: Refusal})
    def paper(path: PaperPath) -> Answer:
        """One paper, as far as it is marked."""
        return _view(desk, *paper_found(desk, path.paper)).model_dump(by_alias=True)

    @api.post("/papers/<int:paper>/count", responses={200: PaperView, 404: Refusal, 422: Refusal})
    def count(path: PaperPath, body: Counting) -> Answer:
        """Make a paper the one of its learner that counts, or leave that to the rules of its sitting again."""
        occasion, stored = paper_found(desk, path.paper)
        if not body.chosen and occasion.sitting is None:
            return refused(422, "Without a sitting the paper counts that was handed in or chosen last.")
        decide = desk.papers.choose if body.chosen else desk.papers.leave_to_rules
        decide(path.paper, by(body.reason))
        return _view(desk, occasion, stored).model_dump(by_alias=True)

    @api.post("/papers/<int:paper>/marking", responses={200: PaperView, 404: Refusal})
    def mark_again(path: PaperPath) -> Answer:
        """Have a paper marked again that could not be marked."""
        occasion, stored = paper_found(desk, path.paper)
        desk.mark_again(stored, occasion)
        return _view(desk, occasion, stored).model_dump(by_alias=True)

    @api.post("/papers/<int:paper>/overrules", responses={200: PaperView, 404: Refusal, 422: Refusal})
    def overrule(path: PaperPath, body: Overruling) -> Answer:
        """Overrule a criterion or the total of a paper, or take that back."""
        occasion, stored = paper_found(desk, path.paper)
        result = desk.standing(stored, occasion).result
        wrong = _why_not(result, body)
        if wrong is not None:
            return refused(422, wrong)
        was = _earned(result, body.criterion)
        desk.overrules.add(stored.id, body.criterion, body.marks, by(body.reason), was)
        return _view(desk, occasion, stored).model_dump(by_alias=True)

    @api.get("/papers/<int:paper>/journeys/<int:number>", responses={200: JourneyView, 404: Refusal})
    def paper_journey(path: PaperPingPath) -> Answer:
        """The journey of a ping on a paper."""
        occasion, _ = paper_found(desk, path.paper)
        return journey_view(desk, occasion.version, path.number, path.paper)


def paper_found(desk: Desk, paper: int) -> tuple[Occasion, StoredPaper]:
    """Return a paper with what it was handed in for; raises :class:`NotThere`."""
    stored = desk.papers.get(paper)
    occasion = desk.occasion_of_paper(stored) if stored else None
    if stored is None or occasion is None:
        raise NotThere("There is no such paper.")
    return occasion, stored


def _earned(result: Result | None, criterion: str) -> float | None:
    """Return what a criterion, or the total, stands at."""
    if result is None or criterion == TOTAL:
        return result.carried if result else None
    return next((c.marks * c.fraction for c in result.criteria if c.id == criterion), None)


def _why_not(result: Result | None, body: Overruling) -> str | None:
    """Say why a result cannot be overruled so."""
    if result is None:
        return "The paper is not marked yet."
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
    return None


def _card(listed: Listed, summary: Summary | None, look_again: int) -> PaperCard:
    result = None
    if summary is not None:
        was = None if listed.summary is None or listed.was == listed.summary.carried else listed.was
        result = CardResult(**asdict(summary), was=was)
    return PaperCard(
        id=listed.paper,
        learner=listed.learner,
        received_at=listed.received_at,
        sheets=len(listed.devices - {ANSWERS, CABLING, ""}),
        result=result,
        failure=listed.failure,
        look_again=look_again,
    )


def _view(desk: Desk, occasion: Occasion, stored: StoredPaper) -> PaperView:
    lab = desk.lab(occasion.version, occasion.lab.stage, stored.drawn)
    order = [p.id for p in desk.papers_of(occasion)]
    at = order.index(stored.id) if stored.id in order else None
    files = desk.files_of(stored, occasion)
    paper = desk.paper(stored, lab)
    asked = {c.device for task in tasks_of(lab) for c in task.criteria if c.device}
    standing = desk.standing(stored, occasion)
    result = standing.result
    attempts = desk.papers.of_learner(occasion.scope, stored.learner)
    received = datetime.fromisoformat(stored.received_at)
    return PaperView(
        id=stored.id,
        learner=occasion.called(stored.learner),
        lab=lab.title,
        slug=stored.slug,
        sitting=sitting_ref(occasion),
        stage=lab.stage,
        stage_title=lab.stage_title if lab.stage else "",
        version=occasion.version.number,
        received_at=stored.received_at,
        arrival=None if occasion.blind else stored.arrival,  # names of files may tell whose they are
        days_late=days_late(occasion.rules.closes, received),
        drawn=dict(stored.drawn),
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
                    form=paper.sheets[name].form if name in files else "sheet",
                    asked=name in asked,
                    margin=None
                    if result is None
                    else margin(
                        result,
                        name,
                        files[name][0] if name in files else None,
                        paper.sheets[name].text if name in files else None,
                        name in asked,
                        paper.sheets[name].form if name in files else "sheet",
                    ),
                )
                for name, device in lab.devices.items()
            ),
        ],
        result=result,
        failure=standing.failure,
        sum=list(sum_of(result, lab.scheme)) if result else [],
        attempts=[
            Attempt(
                id=own.id,
                received_at=own.received_at,
                counts=own.id in order,
                carried=desk.total(own, occasion),
            )
            for own in attempts
        ],
        comments=[CommentShape.model_validate(c) for c in desk.comments.of_paper(stored.id)],
        doubts=desk.doubts(occasion, [stored]).get(stored.id, []),
        log=entry_shapes(occasion, desk.entries.newest(paper=stored.id, most=50)),
        chosen=desk.papers.chosen(occasion.scope).get(stored.learner) == stored.id,
        look_again=[
            LookAgain(criterion=o.criterion, marks=o.marks, reason=o.reason, paper=o.paper, made_at=o.made_at)
            for o in standing.look_again
        ],
    )


def _cabling(result: Result | None, handed_in: tuple[str, bytes] | None) -> PaperSheet:
    """Show how the learner joined the devices beside the sheets."""
    file, content = handed_in or (None, None)
    text = None if content is None else content.decode("utf-8", "replace")
    return PaperSheet(
        device=CABLING_FILE, kind="cabling", file=file, text=text, given=None, form="sheet", asked=True,
        margin=None if result is None else margin(result, CABLING_FILE, file, text, True),
    )  # fmt: skip
