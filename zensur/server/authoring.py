"""A lab that is worked on: edits of its text, and what is shown of it. Nothing of it is stored here."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import wraps
from typing import Any

from flask_openapi3 import APIBlueprint

from ..core.addresses import BadValue
from ..core.authoring.draft import CannotEdit, Draft
from ..core.authoring.edits import edited
from ..core.authoring.look import asked_ping, pairs, ran, remarks_on_typed, statements
from ..core.authoring.routes import thoughts
from ..core.authoring.scheming import scheme_rows
from ..core.authoring.subnets import subnet_help
from ..core.formats import form_of
from ..core.lab import Expected, FreeNetwork, Medium, read_lab
from ..core.lab.completion import surroundings
from ..core.marking.facts import LabFacts
from ..core.marking.marker import Marker
from ..core.marking.paper import Paper, full_paper
from ..core.sheet import write_sheet
from ..core.sheet.completion import Completion, complete
from ..core.sim import PingRow, Runs, journey, neighbours_to_find, row
from .errors import refused
from .shapes import (
    CompletionShape,
    DeviceSheets,
    Edited,
    Editing,
    ErrorPlace,
    JourneyAsked,
    JourneyView,
    LinkShape,
    Look,
    PairsView,
    Refusal,
    RoutesAsked,
    RouteThoughts,
    SchemeView,
    SheetAsked,
    SheetInDraft,
    SheetRemarks,
    StageRef,
    SubnetAsked,
    SubnetView,
    Variant,
    WorkedOn,
)
from .views import chart_shape, diagnostic_shape

Answer = Any


def authoring_api() -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("authoring", __name__, url_prefix="/api/authoring")
    _of_text(api)
    _of_figures(api)
    return api


def mended(answer: Callable[..., Answer]) -> Callable[..., Answer]:
    """Refuse with a sentence what cannot be read, or cannot be done."""

    @wraps(answer)
    def asked(body: Any) -> Answer:
        try:
            return answer(body)
        except (CannotEdit, BadValue) as cannot:
            return refused(422, str(cannot), read_lab(body.text).errors)

    return asked


def _of_text(api: APIBlueprint) -> None:
    @api.post("/look", responses={200: Look, 422: Refusal})
    @mended
    def look(body: WorkedOn) -> Answer:
        """What is shown of a lab's text."""
        return _look(Draft(body.text, body.stage), body.sheet).model_dump(by_alias=True)

    @api.post("/edit", responses={200: Edited, 422: Refusal})
    @mended
    def edit(body: Editing) -> Answer:
        """The text after edits, of which all are made, or none."""
        draft = edited(Draft(body.text, body.stage), body.edits)
        shown = _look(draft, body.sheet)
        return Edited(text=draft.text, stage=draft.stage, look=shown).model_dump(by_alias=True)

    @api.post("/variant", responses={200: Look, 422: Refusal})
    @mended
    def variant(body: Variant) -> Answer:
        """The lab with the numbers of a learner."""
        return _look(Draft(body.text, body.stage, body.values), body.sheet).model_dump(by_alias=True)

    @api.post("/complete", responses={200: CompletionShape, 422: Refusal})
    @mended
    def offer(body: SheetInDraft) -> Answer:
        """What may be typed next at a place of a sheet."""
        lab = Draft(body.text, body.stage).lab
        device = lab.device(body.device)
        if device is None:
            return refused(422, f"There is no device {body.device[:40]}.")
        found = Completion(body.column, ())
        if form_of(body.typed) == "sheet":
            found = complete(body.typed, body.line, body.column, surroundings(lab, device.name))
        return CompletionShape.model_validate(found).model_dump()


def _of_figures(api: APIBlueprint) -> None:
    @api.post("/routes", responses={200: RouteThoughts, 422: Refusal})
    @mended
    def routes(body: RoutesAsked) -> Answer:
        """The networks that every router knows and lacks, and the routes that would do."""
        draft = Draft(body.text, body.stage)
        found = thoughts(draft.network, draft.chart, body.form, body.loopbacks)
        return RouteThoughts(nodes=list(found)).model_dump()

    @api.post("/scheme", responses={200: SchemeView, 422: Refusal})
    @mended
    def scheme(body: WorkedOn) -> Answer:
        """The scheme with what a blank paper and the model answer earn."""
        draft = Draft(body.text, body.stage)
        facts = LabFacts(draft.lab)
        marker = Marker(draft.lab, facts.model)
        memo = marker.memo()
        blank = marker.mark(Paper("", {}), memo)
        model = marker.mark(full_paper(draft.lab), memo)
        return SchemeView(
            scheme=scheme_rows(draft, facts),
            blank={c.id: c.marks * c.fraction for c in blank.criteria},
            model={c.id: c.marks * c.fraction for c in model.criteria},
        ).model_dump()

    @api.post("/pairs", responses={200: PairsView, 422: Refusal})
    @mended
    def everybody(body: WorkedOn) -> Answer:
        """Everybody pings everybody on the model answer."""
        sources, targets, rows = pairs(Draft(body.text, body.stage))
        own = [r for r in rows if isinstance(r, PingRow)]
        return PairsView(sources=sources, targets=targets, rows=own).model_dump(by_alias=True)

    @api.post("/journey", responses={200: JourneyView, 404: Refusal, 422: Refusal})
    @mended
    def follow(body: JourneyAsked) -> Answer:
        """The journey of a ping or check on the model answer."""
        draft = Draft(body.text, body.stage)
        expected = draft.lab.expected
        if body.number > len(expected):
            return refused(404, f"The lab has {len(expected)} pings and checks.")
        if body.number == 0:
            expected = {"asked": asked_ping(draft, body.from_, body.to, body.source)}
        return _journey(draft, expected, body.number).model_dump(by_alias=True)

    @api.post("/subnet", responses={200: SubnetView, 422: Refusal})
    @mended
    def subnet(body: SubnetAsked) -> Answer:
        """The figures of a network, what it overlaps, and what is free."""
        draft = Draft(body.text, body.stage)
        return SubnetView(subnet=subnet_help(body.typed, draft.lab, draft.chart, body.length)).model_dump()


def _journey(draft: Draft, expected: Mapping[str, Expected], number: int) -> JourneyView:
    """Follow a ping of a run; those before it run as well, for translations stay."""
    lab, network = draft.lab, draft.network
    ident, asked = list(expected.items())[max(number - 1, 0)]
    one = Runs(network, network, expected)[ident]
    legs = journey(network, one.result)
    shown = row(network, replace(one, listed=number > 0))
    return JourneyView(
        lab=lab.title,
        slug=lab.id,
        stage=lab.stage,
        paper=None,
        learner=None,
        number=number,
        of=len(lab.expected),
        pings=len(lab.pings),
        note=asked.note,
        ping=shown,
        legs=list(legs),
        neighbours_to_find=neighbours_to_find(legs),
        weave=chart_shape(draft.chart),
    )


def _look(draft: Draft, sheet: SheetAsked | None) -> Look:
    lab, found, typed = draft.lab, ran(draft), draft.typed
    before = lab.before.model if lab.before else {}
    asked = [*lab.pings, *lab.services]
    return Look(
        title=lab.title,
        brief=lab.brief,
        stage=lab.stage,
        stages=[StageRef(id=s.stage, title=s.stage_title) for s in draft.whole.stages if s.stage],
        weave=chart_shape(draft.chart),
        devices=[
            DeviceSheets(
                device=name,
                kind=device.kind.value,
                about=device.about,
                given=typed.get(draft.sheet_place("given", name)),
                start=typed.get(draft.sheet_place("start", name)),
                answer=typed.get(draft.sheet_place("answer", name)),
                before=write_sheet(before[name]) if name in before else None,
                taken=list(lab.removed.get(name, ())),
            )
            for name, device in lab.devices.items()
        ],
        statements={name: list(statements(draft, name)) for name in lab.devices},
        ports={name: list(ports) for name, ports in found.ports.items()},
        serial=[f"{n}:{p.name}" for n, d in lab.devices.items() for p in d.ports if p.medium is Medium.SERIAL],
        links=[
            LinkShape(
                a=str(link.a), b=str(link.b), serial=link.medium is Medium.SERIAL,
                clock=str(link.clock) if link.clock else None, hidden=link.clock_hidden,
            )
            for link in lab.links
        ],
        networks=[n.name for n in lab.networks],
        variables={name: [v.low, v.high] for name, v in lab.variables.items()},
        free=[f.name if isinstance(f, FreeNetwork) else f"{f.device}:{f.port}" for f in lab.free],
        pings=[r for r in found.rows if isinstance(r, PingRow)],
        services=[r for r in found.rows if not isinstance(r, PingRow)],
        seen=[one.shown for one in asked],
        remarks=_remarks(draft, sheet) if sheet and lab.device(sheet.device) else None,
        errors=[ErrorPlace.model_validate(e) for e in draft.errors],
    )  # fmt: skip


def _remarks(draft: Draft, sheet: SheetAsked) -> SheetRemarks:
    name = draft.device(sheet.device).name
    remarks, more = remarks_on_typed(draft, sheet.side, name)
    typed = draft.typed.get(draft.sheet_place(sheet.side, name), "").split("\n")
    return SheetRemarks.model_validate(
        {
            "side": sheet.side,
            "device": name,
            "diagnostics": [diagnostic_shape(d, typed) for d in remarks],
            "more": more,
            "joined": write_sheet(draft.lab.model[name]),
        }
    )
