"""A lab that is worked on: its text goes to and fro, and what is shown of it is worked out anew."""

from typing import Annotated, Literal

from pydantic import Field

from ...core.authoring.edits import Edit
from ...core.authoring.look import StatementRow
from ...core.authoring.routes import Thoughts
from ...core.authoring.scheming import SchemeRows
from ...core.authoring.subnets import SubnetHelp
from ...core.sim import OpenedRow, PingRow, ResolvedRow
from ...core.sim.running.state_rows import PortRow
from .base import MOST, ErrorPlace, Number, Shape
from .labs import DeviceSheets, StageRef
from .remarks import DiagnosticShape
from .weave import WeaveShape

LabFileText = Annotated[str, Field(max_length=1024 * 1024)]
StageId = Annotated[str, Field(max_length=64)]


class SheetAsked(Shape):
    """A sheet of which the remarks are wanted."""

    side: Literal["given", "answer", "start"]
    device: str = Field(max_length=64)


class WorkedOn(Shape):
    """A lab's text as it is worked on, and the stage that is looked at: the last where none is named."""

    text: LabFileText
    stage: StageId = ""
    sheet: SheetAsked | None = None


class Editing(WorkedOn):
    """Edits of a lab's text, made one after another: all of them, or none."""

    edits: list[Annotated[Edit, Field(discriminator="do")]] = Field(min_length=1, max_length=400)


class SheetInDraft(WorkedOn):
    """A sheet as typed with the place of the cursor, counted from 1."""

    device: str = Field(max_length=64)
    typed: str = Field(max_length=256 * 1024)
    line: Number
    column: Number


class JourneyAsked(WorkedOn):
    """A ping or check by its number in the lab's list, service checks behind the pings; or one that is not listed, with
    number 0."""

    number: int = Field(0, ge=0, le=100_000)
    from_: str = Field("", max_length=80)
    to: str = Field("", max_length=200)
    source: str = Field("", max_length=80)


class LinkShape(Shape):
    """A link, its ends as ``DEVICE:PORT``; ``clock`` is the end that has to give it."""

    a: str
    b: str
    serial: bool
    clock: str | None
    hidden: bool


class SheetRemarks(Shape):
    """What is said of the sheet that was asked for."""

    side: str
    device: str
    diagnostics: list[DiagnosticShape]
    more: int
    joined: str
    """The device's configuration in the model answer, in canonical form."""


class Look(Shape):
    """All that is shown of a lab's text; ``ports`` are those of each device, ``media`` the serial ones among them."""

    title: str
    brief: str
    stage: str
    stages: list[StageRef]
    weave: WeaveShape
    devices: list[DeviceSheets]
    ports: dict[str, list[PortRow]]
    statements: dict[str, list[StatementRow]]
    """What the model answer says of each device, but for the headers of blocks."""
    serial: list[str]
    links: list[LinkShape]
    networks: list[str]
    variables: dict[str, list[int]]
    free: list[str]
    pings: list[PingRow]
    services: list[OpenedRow | ResolvedRow]
    seen: list[bool]
    """Of each ping and check whether learners see it as a target."""
    remarks: SheetRemarks | None
    errors: list[ErrorPlace]
    """Why the text cannot be saved as a lab yet; the rest is what could be made of it."""


class Edited(Shape):
    """The text after edits, the stage that is looked at then, and what is shown of it."""

    text: str
    stage: str
    look: Look


class RoutesAsked(WorkedOn):
    """What routers know and lack, and the form of the routes that would do."""

    form: Literal["via", "out", "both"] = "via"
    loopbacks: bool = True


class RouteThoughts(Shape):
    """What every router knows and lacks."""

    nodes: list[Thoughts]


class SchemeView(Shape):
    """The scheme, and by criterion what a blank paper earns of it, and what the model answer does."""

    scheme: SchemeRows
    blank: dict[str, float]
    model: dict[str, float]


class PairsView(Shape):
    """Everybody pings everybody: the rows source by source, without themselves."""

    sources: list[str]
    targets: list[str]
    rows: list[PingRow]


class SubnetAsked(WorkedOn):
    """An address with its length, or a prefix, and the length of a network that is looked for."""

    typed: str = Field(max_length=120)
    length: int | None = Field(None, ge=1, le=128)


class SubnetView(Shape):
    """A network worked out."""

    subnet: SubnetHelp


class Variant(WorkedOn):
    """A lab with the numbers of a learner."""

    values: dict[str, int] = Field(max_length=64)


class DraftKept(Shape):
    """A text that is not saved, kept for a window, on top of a version."""

    text: LabFileText
    base: int = Field(ge=0, le=MOST)


class DraftRef(Shape):
    """A text that another window has not saved yet."""

    window: str
    base: int
    kept_at: str


class DraftList(Shape):
    """The texts of a lab that windows have not saved yet, the newest first."""

    drafts: list[DraftRef]
