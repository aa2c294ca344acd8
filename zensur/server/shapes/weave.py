"""The chart of devices against networks."""

from typing import Literal

from .base import Shape


class LoopbackShape(Shape):
    """A loopback below a column's foot."""

    name: str
    address: str
    on: bool


class ColumnShape(Shape):
    """A device of the weave, or an instance of a box that has several."""

    device: str
    instance: str
    kind: Literal["router", "switch", "host"]
    about: str
    first: int | None
    last: int | None
    loopbacks: list[LoopbackShape]


class RowShape(Shape):
    """A network of the weave; None: nothing is in it yet."""

    name: str
    prefix: str
    serial: bool
    first: int | None
    last: int | None


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
