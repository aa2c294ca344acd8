"""What a device knows after a run, as rows: the shapes of ``state --json``.

``instance`` stands in the rows of any network instance but the main one; ``file`` and ``line`` say where a row comes
from.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar

from ...jsonable import LEFT_OUT


@dataclass(frozen=True, slots=True, kw_only=True)
class OfInstance:
    """A row of a network instance; the main one has no name."""

    instance: str | None = field(default=None, metadata=LEFT_OUT)


@dataclass(frozen=True, slots=True, kw_only=True)
class PortRow(OfInstance):
    """A port, sub-port, loopback or a switch's own interface; ``why`` it is not up, ``far_end`` as ``device:port``."""

    name: str
    kind: str
    on: bool
    up: bool
    why: str | None
    far_end: str | None
    addresses: tuple[str, ...]
    vlan: int | None
    realm: str | None
    file: str | None
    line: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RouteRow(OfInstance):
    """An own address or a route; ``why`` it is not active."""

    prefix: str
    origin: str
    preference: int
    next_hop: str | None
    port: str | None
    active: bool
    why: str | None
    file: str | None
    line: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NeighbourRow(OfInstance):
    """Who answered for an address on a port; a ``proxy`` answers for others."""

    address: str
    port: str
    device: str
    device_port: str
    proxy: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class NameRow(OfInstance):
    """A name that the device resolves itself."""

    name: str
    address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TranslationRow(OfInstance):
    """A mapping in effect (``standing``), or what a run added to the table; ends as address or address:number."""

    kind: str
    protocol: str | None
    internal: str
    external: str
    remote: str | None
    standing: bool
    file: str | None
    line: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LeaseRow(OfInstance):
    """A lease that the device gave, to ``device:port``."""

    pool: str
    address: str
    client: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LeasedRow(OfInstance):
    """A lease that a port of the device holds."""

    port: str
    address: str
    server: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceState:
    """All that one device knows; ``instances`` are those beside the main one."""

    ports: tuple[PortRow, ...]
    routes: tuple[RouteRow, ...]
    neighbours: tuple[NeighbourRow, ...]
    names: tuple[NameRow, ...]
    translations: tuple[TranslationRow, ...]
    leases: tuple[LeaseRow, ...]
    leased: tuple[LeasedRow, ...]
    instances: tuple[str, ...]


Row = TypeVar("Row", bound=OfInstance)


def of_instance(rows: Sequence[Row], instance: str | None) -> Sequence[Row]:
    """Return rows as those of a network instance."""
    return [replace(row, instance=instance) for row in rows] if instance else rows
