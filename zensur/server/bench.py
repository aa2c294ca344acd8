"""The bench: what a network of sheets does. Nothing of it is stored here."""

from typing import Any

from flask_openapi3 import APIBlueprint

from ..core.authoring.draft import CannotEdit, Draft
from ..core.authoring.look import asked_ping, asked_service, grid
from ..core.authoring.routes import thoughts
from ..core.bench import Bench, bench_of, starting_sheets
from ..core.export import capture, folder, namespaces_script, own_pings
from ..core.lab import Expected
from ..core.marking.marker import Marker
from ..core.marking.paper import Paper
from ..core.marking.reading.pairing import meant_in
from ..core.sheet import write_sheet
from ..core.sim import PingRow, neighbours_to_find
from ..core.weave import weave
from .authoring import mended
from .errors import refused
from .files import PACKETS, as_file
from .shapes import (
    BenchAsked,
    BenchFile,
    BenchLook,
    BenchMarks,
    BenchRoutes,
    BenchSheets,
    BenchStart,
    JourneyView,
    Mistake,
    OnBench,
    PacketsSeen,
    PairsView,
    Refusal,
)
from .views import chart_shape, diagnostic_shape

Answer = Any


def bench_api() -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("bench", __name__, url_prefix="/api/bench")
    _of_looks(api)
    _of_questions(api)
    _of_files(api)
    return api


def _of_looks(api: APIBlueprint) -> None:
    @api.post("/start", responses={200: BenchSheets, 422: Refusal})
    @mended
    def start(body: BenchStart) -> Answer:
        """The sheets to start from, and what is given below them."""
        lab = Draft(body.text, body.stage).lab
        under = {name: write_sheet(c) for name, c in lab.under.items() if c.items}
        return BenchSheets(sheets=starting_sheets(lab, body.start), under=under).model_dump()

    @api.post("/look", responses={200: BenchLook, 422: Refusal})
    @mended
    def look(body: OnBench) -> Answer:
        """What the network of the sheets does."""
        draft, bench = _bench(body)
        device = draft.lab.device(body.device)
        name = device.name if device and device.name in bench.sheets else ""
        typed = body.sheets.get(name, "").split("\n")
        return BenchLook(
            stage=draft.lab.stage,
            weave=chart_shape(weave(draft.lab, bench.network)),
            states=bench.states,
            rows=bench.rows,
            own=len(draft.lab.expected),
            remarks=[diagnostic_shape(d, typed) for d in bench.remarks(name)] if name else [],
            canonical=write_sheet(bench.sheets[name].configuration) if name else "",
        ).model_dump(by_alias=True)

    @api.post("/routes", responses={200: BenchRoutes, 422: Refusal})
    @mended
    def routes(body: OnBench) -> Answer:
        """The networks that every router knows and lacks."""
        draft, bench = _bench(body)
        found = thoughts(bench.network, weave(draft.lab, bench.network))
        return BenchRoutes(nodes=list(found)).model_dump()

    @api.post("/marks", responses={200: BenchMarks, 422: Refusal})
    @mended
    def marks(body: OnBench) -> Answer:
        """What the sheets would earn as a paper, with the mistakes behind what they lose and what mends each."""
        draft, bench = _bench(body)
        marker = Marker(draft.lab)
        result = marker.mark(Paper("", bench.sheets), marker.memo())
        mistakes = [
            Mistake(
                title=fault.title, told=fault.told, device=fault.device, line=fault.line, repair=fault.repair,
                direct=fault.direct,
                pings=[c.removeprefix("ping:") for c in fault.consequences if c.startswith("ping:")],
            )
            for fault in result.faults
        ]  # fmt: skip
        return BenchMarks(carried=result.carried, out_of=result.out_of, mistakes=mistakes).model_dump()


def _of_questions(api: APIBlueprint) -> None:
    @api.post("/journey", responses={200: JourneyView, 404: Refusal, 422: Refusal})
    @mended
    def follow(body: BenchAsked) -> Answer:
        """The journey of a ping or check, by its number among the lab's and the questions."""
        draft, bench = _bench(body)
        if not 1 <= body.number <= len(bench.expected):
            return refused(404, f"There are {len(bench.expected)} pings and checks.")
        legs = bench.journey(body.number)
        asked = list(bench.expected.values())[body.number - 1]
        return JourneyView(
            lab=draft.lab.title, slug=draft.lab.id, stage=draft.lab.stage, paper=None, learner=None,
            number=body.number, of=len(bench.expected), pings=len(draft.lab.pings), note=asked.note,
            ping=bench.rows[body.number - 1], legs=list(legs), neighbours_to_find=neighbours_to_find(legs),
            weave=chart_shape(weave(draft.lab, bench.network)),
        ).model_dump(by_alias=True)  # fmt: skip

    @api.post("/seen", responses={200: PacketsSeen, 422: Refusal})
    @mended
    def seen(body: BenchAsked) -> Answer:
        """The packets that a device saw over all runs, or one of its ports."""
        draft, bench = _bench(body)
        return PacketsSeen(packets=list(bench.seen(draft.device(body.device).name, body.port))).model_dump()

    @api.post("/pairs", responses={200: PairsView, 422: Refusal})
    @mended
    def everybody(body: OnBench) -> Answer:
        """Everybody pings everybody."""
        draft, bench = _bench(body)
        sources, rows = grid(draft.lab, bench.network, draft.network)
        own = [r for r in rows if isinstance(r, PingRow)]
        return PairsView(sources=sources, targets=sources, rows=own).model_dump(by_alias=True)


_A_FILE = {
    "description": "The file.",
    "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
}


def _of_files(api: APIBlueprint) -> None:
    @api.post("/file", responses={200: _A_FILE, 404: Refusal, 422: Refusal})
    @mended
    def file(body: BenchFile) -> Answer:
        """The bench as a file."""
        draft, bench = _bench(body)
        name = f"{draft.lab.id}-bench"
        if body.form == "sheets":
            return as_file(folder(name, body.sheets), "application/zip", f"{name}.zip")
        if body.form == "namespaces":
            pings = own_pings(bench.network, bench.model or bench.network, bench.expected.values())
            script = namespaces_script(bench.network, pings)
            return as_file(script.encode(), "application/x-sh", f"{name}.sh")
        runs = list(bench.runs.values())
        if body.number > len(runs) or not runs:
            return refused(404, f"There are {len(runs)} pings and checks.")
        seen = [runs[body.number - 1]] if body.number else runs
        which = f"-ping-{body.number}" if body.number else ""
        return as_file(capture(bench.packets_of, seen), PACKETS, f"{name}{which}.pcapng")


def _bench(body: OnBench) -> tuple[Draft, Bench]:
    """Put the sheets of a request on its lab; raises :class:`CannotEdit`."""
    draft = Draft(body.text, body.stage)
    for name in body.sheets:
        if name not in draft.lab.devices:
            raise CannotEdit(f"There is no device {name[:40]}.")
    asked: list[Expected] = [
        asked_service(draft, one.from_, one.open, one.resolve, one.source)
        if one.open or one.resolve
        else asked_ping(draft, one.from_, one.to, one.source)
        for one in body.asked
    ]
    return draft, bench_of(draft.lab, body.sheets, asked, body.after, draft.network, meant_in(draft.lab))
