"""The bench: sheets of one's own on a lab, and what the network does with them."""

from typing import Literal

from pydantic import Field

from ...core.authoring.routes import Thoughts
from ...core.bench import Packet
from ...core.sim import OpenedRow, PingRow, ResolvedRow
from ...core.sim.running.state_rows import DeviceState
from .authoring import WorkedOn
from .base import Shape
from .remarks import DiagnosticShape
from .weave import WeaveShape


class Question(Shape):
    """A ping, a service to open (``open`` holds ``tcp TARGET:N``), or a name to look up; the lab does not list it."""

    from_: str = Field(max_length=80)
    to: str = Field("", max_length=200)
    source: str = Field("", max_length=80)
    open: str = Field("", max_length=200)
    resolve: str = Field("", max_length=200)


class OnBench(WorkedOn):
    """A lab's text with sheets by device; ``device`` is looked at, ``after`` is how many pings have run."""

    sheets: dict[str, str] = Field(max_length=400)
    device: str = Field("", max_length=64)
    asked: list[Question] = Field(default_factory=list, max_length=200)
    after: int | None = Field(None, ge=0, le=100_000)


class BenchStart(WorkedOn):
    """What a bench starts from."""

    start: Literal["given", "answer"] = "given"


class BenchSheets(Shape):
    """A sheet for every device, and what lies below them."""

    sheets: dict[str, str]
    under: dict[str, str]


class BenchLook(Shape):
    """What the sheets make: the states of all devices, the lab's pings, the questions, remarks on the sheet at hand."""

    stage: str
    weave: WeaveShape
    states: dict[str, DeviceState]
    rows: list[PingRow | OpenedRow | ResolvedRow]
    own: int
    """How many of the rows are the lab's own; the questions stand behind them."""
    remarks: list[DiagnosticShape]
    canonical: str


class BenchAsked(OnBench):
    """A ping by its number among the lab's and the questions, from 1; or a device, and perhaps one of its ports."""

    number: int = Field(0, ge=0, le=100_000)
    port: str = Field("", max_length=64)


class BenchFile(BenchAsked):
    """A bench as a file: its sheets, a script that builds it on Linux, its packets; ``number`` 0 is all runs."""

    form: Literal["sheets", "namespaces", "packets"]


class BenchKept(Shape):
    """A bench to come back to: its sheets and questions, by the name that it was kept under."""

    name: str = Field(min_length=1, max_length=80)
    stage: str = Field("", max_length=64)
    sheets: dict[str, str] = Field(max_length=400)
    asked: list[Question] = Field(default_factory=list, max_length=200)


class BenchRef(Shape):
    """A bench that is kept, without its sheets."""

    number: int
    name: str
    stage: str
    kept_at: str


class BenchList(Shape):
    """The benches that are kept with a lab."""

    benches: list[BenchRef]


class PacketsSeen(Shape):
    """The packets that a device saw over all runs, in their order."""

    packets: list[Packet]


class BenchRoutes(Shape):
    """What every router knows and lacks."""

    nodes: list[Thoughts]


class Mistake(Shape):
    """A mistake that the search found behind lost marks: where it is, what mends it, and the pings that it costs."""

    title: str
    told: str
    device: str
    line: int | None
    repair: str
    direct: float
    pings: list[str]


class BenchMarks(Shape):
    """What the sheets would earn, and the mistakes behind what they lose."""

    carried: float
    out_of: float
    mistakes: list[Mistake]
