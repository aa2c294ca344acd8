"""Pings, service checks and journeys."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from .base import Shape
from .weave import WeaveShape


class RunRow(BaseModel):
    """What the rows of pings and of service checks have in common."""

    model_config = ConfigDict(populate_by_name=True, extra="forbid")

    id: str
    sender: str = Field(alias="from")
    source: str | None
    address: str | None
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


class PingRow(RunRow):
    """A row of ``ping --json``."""

    to: str
    outcome: Literal["reply", "timeout", "unreachable", "no-route"]


class ServiceRow(RunRow):
    """A row of the service checks of ``ping --json``: a service opened, or a name looked up."""

    open: str | None = None
    resolve: str | None = None
    outcome: Literal["answer", "refused", "timeout", "unreachable", "no-route", "no-name"]


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
    vlan: int


class ArrivalShape(Shape):
    """Where a packet is taken in next."""

    device: str
    port: str


class RewrittenShape(Shape):
    """A translation of one end of the packet; addresses bear a port number where one counts."""

    end: Literal["source", "destination"]
    before: str
    after: str
    kind: str


class LegShape(Shape):
    """One device, or instance of a box, handling a packet; ``vlan`` is the tag with which it came in."""

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
    rewritten: list[RewrittenShape]
    vlan: int | None


class JourneyView(Shape):
    """The journey of one ping or service check, with the weave it runs on.

    ``of`` is how many pings and checks the lab has; the first of them are its ``pings``.
    """

    lab: str
    slug: str
    paper: int | None
    learner: str | None
    number: int
    of: int
    pings: int
    note: str
    ping: PingRow | ServiceRow
    legs: list[LegShape]
    neighbours_to_find: int
    weave: WeaveShape
