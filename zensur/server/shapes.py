"""The JSON of the server, from which the OpenAPI document and the front end's types are made."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class Shape(BaseModel):
    """The base of all shapes: names as they stand, nothing unknown."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


class ErrorPlace(Shape):
    """Where a lab file is wrong; line and column count from 1."""

    place: str
    line: int
    column: int
    message: str


class Refusal(Shape):
    """Why something was not done."""

    message: str
    errors: list[ErrorPlace]


class LoopbackShape(Shape):
    """A loopback below a column's foot."""

    name: str
    address: str
    on: bool


class ColumnShape(Shape):
    """A device of the weave."""

    device: str
    kind: Literal["router", "switch", "host"]
    about: str
    first: int | None
    last: int | None
    loopbacks: list[LoopbackShape]


class RowShape(Shape):
    """A network of the weave."""

    name: str
    prefix: str
    serial: bool
    first: int
    last: int


class SubnetShape(Shape):
    """The network at a knot, worked out."""

    address: str
    network: str
    first: str
    last: str
    usable: int
    broadcast: str | None
    mask: str | None
    wildcard: str | None
    kind: str
    next_free: str | None


class KnotShape(Shape):
    """A device's ports in a network."""

    column: int
    row: int
    ports: list[str]
    label: str
    host: str
    address: str | None
    up: bool
    subnet: SubnetShape | None


class WeaveShape(Shape):
    """The chart of devices against networks."""

    columns: list[ColumnShape]
    rows: list[RowShape]
    knots: list[KnotShape]
    links: int
    down: list[str]


class PlaceShape(Shape):
    """A place in a lab's text; line and columns count from 1, ``end`` is the last column."""

    line: int
    column: int
    end: int


class MendShape(Shape):
    """An edit that mends: ``text`` in place of the columns from ``column`` to ``end`` of a line."""

    line: int
    column: int
    end: int
    text: str


class FindingShape(Shape):
    """A finding of the lab check, with its place in the lab's text."""

    severity: Literal["error", "warning", "note"]
    code: str
    place: str
    message: str
    mend: str
    at: PlaceShape
    edit: MendShape | None


class CheckShape(Shape):
    """What the lab check found."""

    findings: list[FindingShape]
    pings: int
    services: int
    holding: int
    blank: float
    out_of: float
    variants: int


class DiagnosticShape(Shape):
    """A remark on a line of a sheet."""

    severity: Literal["error", "warning", "note"]
    code: str
    line: int
    column: int
    end: int
    message: str
    suggestion: str | None
    mend: MendShape | None


class OptionShape(Shape):
    """Something that may be typed, and what it means."""

    text: str
    about: str


class CompletionShape(Shape):
    """What may stand at a place; ``column`` is the first column of the word that it completes."""

    column: int
    options: list[OptionShape]


class PingRow(BaseModel):
    """A row of ``ping --json``."""

    model_config = ConfigDict(populate_by_name=True, extra="forbid")

    id: str
    sender: str = Field(alias="from")
    source: str | None
    to: str
    address: str | None
    outcome: Literal["reply", "timeout", "unreachable", "no-route"]
    reason: str | None
    by: str | None
    seen_as: str | None
    answered_by: str | None
    expect: str | None
    as_expected: bool | None
    there: list[str]
    back: list[str]
    warnings: list[str]
    detail: str


class ServiceRow(BaseModel):
    """A row of the service checks of ``ping --json``: a service opened, or a name looked up."""

    model_config = ConfigDict(populate_by_name=True, extra="forbid")

    id: str
    sender: str = Field(alias="from")
    source: str | None
    open: str | None = None
    resolve: str | None = None
    address: str | None
    outcome: Literal["answer", "refused", "timeout", "unreachable", "no-route", "no-name"]
    reason: str | None
    by: str | None
    seen_as: str | None
    answered_by: str | None
    expect: str | None
    as_expected: bool | None
    there: list[str]
    back: list[str]
    warnings: list[str]
    detail: str


class LabCard(Shape):
    """A lab on the shelf."""

    slug: str
    title: str
    version: int
    saved_at: str
    topics: list[str]
    level: str
    minutes: int | None
    devices: int
    networks: int
    out_of: float
    errors: int
    papers: int
    weave: WeaveShape


class DeviceSheets(Shape):
    """A device's sheets in a lab, as they were typed."""

    device: str
    kind: Literal["router", "switch", "host"]
    about: str
    given: str | None
    start: str | None
    answer: str | None


class LabView(Shape):
    """A lab, its newest version."""

    slug: str
    title: str
    brief: str
    version: int
    saved_at: str
    text: str
    out_of: float
    weave: WeaveShape
    devices: list[DeviceSheets]
    check: CheckShape
    pings: list[PingRow]
    services: list[ServiceRow]
    papers: int


class NewLab(Shape):
    """A new lab to be made from the starter."""

    title: str = Field(min_length=1, max_length=120)


class LabMade(Shape):
    """The lab that was made."""

    slug: str


class LabText(Shape):
    """A lab's text on top of a version; ``base`` is not needed for a mere check."""

    text: str = Field(max_length=1024 * 1024)
    base: int = 0


class LabTextCheck(Shape):
    """The lab check of a text; ``readable`` says whether it can be saved."""

    readable: bool
    check: CheckShape


class TypedAt(Shape):
    """A lab's text with the place of the cursor, counted from 1."""

    text: str = Field(max_length=1024 * 1024)
    line: int = Field(ge=1)
    column: int = Field(ge=1)


class SheetText(Shape):
    """A sheet of a lab as typed, on top of a version. An empty one of the model answer is taken away."""

    side: Literal["given", "answer", "start"]
    device: str = Field(max_length=64)
    text: str = Field(max_length=256 * 1024)
    base: int = 0


class SheetAt(SheetText):
    """A sheet as typed with the place of the cursor, counted from 1."""

    line: int = Field(ge=1)
    column: int = Field(ge=1)


class SheetCheck(Shape):
    """What is said of a sheet in its lab, and what the lab does with it."""

    diagnostics: list[DiagnosticShape]
    more: int
    pings: list["PingRow"]
    findings: list[FindingShape]


class LabSaved(Shape):
    """The number of the version that was saved."""

    version: int


class SheetLineShape(Shape):
    """The line of a sheet that decided something."""

    file: str | None
    line: int | None
    text: str


class SwitchShape(Shape):
    """A switch that was passed."""

    device: str
    enters: str
    leaves: str


class ArrivalShape(Shape):
    """Where a packet is taken in next."""

    device: str
    port: str


class LegShape(Shape):
    """One device handling a packet."""

    number: int
    way: Literal["there", "back", "error"]
    device: str
    enters: str | None
    leaves: str | None
    arrives: ArrivalShape | None
    said: str
    lines: list[SheetLineShape]
    switches: list[SwitchShape]
    found_first: bool
    ended: bool
    source: str
    destination: str


class JourneyView(Shape):
    """The journey of one ping, with the weave it runs on. ``of`` is how many pings the lab has."""

    lab: str
    slug: str
    paper: int | None
    learner: str | None
    number: int
    of: int
    note: str
    ping: PingRow
    legs: list[LegShape]
    neighbours_to_find: int
    weave: WeaveShape


class LineRef(Shape):
    """A line of a file."""

    file: str
    line: int


class CriterionShape(Shape):
    """A criterion marked."""

    id: str
    task: str
    device: str
    verdict: Literal["met", "partly", "missed"]
    fraction: float
    marks: float
    required: str
    found: str
    lines: list[LineRef]
    fault: int | None
    carried: bool
    note: str


class FaultShape(Shape):
    """A root mistake."""

    id: int
    slip: str
    title: str
    said: str
    device: str
    port: str | None
    file: str | None
    line: int | None
    found: str | None
    required: str | None
    repair: str
    direct: float
    consequences: list[str]


class RemarkShape(Shape):
    """A diagnostic of one of the paper's sheets."""

    device: str
    file: str
    line: int
    severity: Literal["error", "warning", "note"]
    code: str
    message: str


class ResultShape(Shape):
    """A marked paper, in the shape of ``mark --json``."""

    learner: str
    score: float
    carried: float
    out_of: float
    criteria: list[CriterionShape]
    faults: list[FaultShape]
    extras: list[str]
    diagnostics: list[RemarkShape]
    pings: list[PingRow]
    services: list[ServiceRow]
    remarks: list[str]


class PaperCard(Shape):
    """A paper in the list."""

    id: int
    learner: str
    received_at: str
    score: float
    carried: float
    out_of: float
    mistakes: list[str]
    sheets: int


class PaperList(Shape):
    """The latest paper of every learner."""

    lab: str
    slug: str
    version: int
    papers: list[PaperCard]


class PapersTaken(Shape):
    """What an upload brought: the papers' numbers, in the order of the learners."""

    papers: list[int]
    remarks: list[str]


class PaperSheet(Shape):
    """A sheet of a paper; ``text`` is None where none was handed in, ``given`` what lies below it."""

    device: str
    kind: Literal["router", "switch", "host"]
    file: str | None
    text: str | None
    given: str | None
    asked: bool


class PaperView(Shape):
    """A paper as it was marked, with the papers before and behind it in the list."""

    id: int
    lab: str
    slug: str
    version: int
    received_at: str
    number: int
    of: int
    previous: int | None
    next: int | None
    sheets: list[PaperSheet]
    result: ResultShape
