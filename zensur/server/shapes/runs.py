"""Pings, service checks and journeys. Rows and legs are the core's own types."""

from ...core.sim import Leg, OpenedRow, PingRow, ResolvedRow
from .base import Shape
from .weave import WeaveShape


class JourneyView(Shape):
    """The journey of one ping or service check, with the weave it runs on.

    ``of`` is how many pings and checks the lab has; the first of them are its ``pings``.
    """

    lab: str
    slug: str
    stage: str
    paper: int | None
    learner: str | None
    number: int
    of: int
    pings: int
    note: str
    ping: PingRow | OpenedRow | ResolvedRow
    legs: list[Leg]
    neighbours_to_find: int
    weave: WeaveShape
