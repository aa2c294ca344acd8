"""The lab: devices, links, networks, given sheets, model answer, expected pings and the marking scheme."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from ..addresses import Prefix
from ..sheet import Configuration, Sheet

EMPTY = Configuration()


class Kind(StrEnum):
    """What a device is."""

    ROUTER = "router"
    SWITCH = "switch"
    HOST = "host"


class Medium(StrEnum):
    """What kind of link a port takes."""

    ETHERNET = "ethernet"
    SERIAL = "serial"


@dataclass(frozen=True, slots=True)
class Port:
    """A physical port that the topology gives a device."""

    name: str
    medium: Medium = Medium.ETHERNET


@dataclass(frozen=True, slots=True)
class Device:
    """A router, switch or host with its physical ports in the order of the lab file."""

    name: str
    kind: Kind
    ports: tuple[Port, ...]
    about: str = ""

    def port(self, name: str) -> Port | None:
        """Find a port by name, without regard to case."""
        return next((p for p in self.ports if p.name.lower() == name.lower()), None)

    @property
    def on_by_default(self) -> bool:
        """Whether its physical ports are on where the sheet does not say."""
        return self.kind is not Kind.ROUTER

    @property
    def forwards(self) -> bool:
        """Whether it forwards packets between its ports."""
        return self.kind is Kind.ROUTER


@dataclass(frozen=True, slots=True)
class End:
    """One port of one device."""

    device: str
    port: str

    def __str__(self) -> str:
        return f"{self.device}:{self.port}"


@dataclass(frozen=True, slots=True)
class Link:
    """Two ports joined."""

    a: End
    b: End
    medium: Medium = Medium.ETHERNET


@dataclass(frozen=True, slots=True)
class NamedNetwork:
    """A name for a network on the chart; the network itself is where its ports are."""

    name: str
    prefixes: tuple[Prefix, ...]


class Outcome(StrEnum):
    """How a ping ends."""

    REPLY = "reply"
    TIMEOUT = "timeout"
    UNREACHABLE = "unreachable"
    NO_ROUTE = "no-route"


@dataclass(frozen=True, slots=True)
class ExpectedPing:
    """A ping of the lab and what has to come of it. ``expect`` is an outcome or ``no-reply``."""

    id: str
    sender: str
    to: str
    expect: str
    source: str | None = None
    note: str = ""
    shown: bool = False


@dataclass(frozen=True, slots=True)
class Criterion:
    """One thing that earns marks: a key, the device, and what of it is compared."""

    key: str
    device: str
    operand: str
    marks: float

    @property
    def id(self) -> str:
        """``KEY:DEVICE[:OPERAND]``, or ``ping:ID``."""
        return ":".join(part for part in (self.key, self.device, self.operand) if part)


@dataclass(frozen=True, slots=True)
class Task:
    """A heading of the scheme with its criteria."""

    title: str
    criteria: tuple[Criterion, ...]


@dataclass(frozen=True, slots=True)
class Scheme:
    """The marking scheme. ``tasks`` is None where it is derived from the model answer."""

    tasks: tuple[Task, ...] | None = None
    carry_forward: bool = True


@dataclass(frozen=True)
class Lab:
    """A lab as its file says it. Devices are kept in the order of the file."""

    id: str
    title: str
    devices: Mapping[str, Device]
    brief: str = ""
    level: str = ""
    minutes: int | None = None
    topics: tuple[str, ...] = ()
    links: tuple[Link, ...] = ()
    networks: tuple[NamedNetwork, ...] = ()
    given: Mapping[str, Sheet] = field(default_factory=dict)
    answer: Mapping[str, Sheet] = field(default_factory=dict)
    pings: tuple[ExpectedPing, ...] = ()
    scheme: Scheme = field(default_factory=Scheme)

    def device(self, name: str) -> Device | None:
        """Find a device by name, without regard to case."""
        return self._lower.get(name.lower())

    @cached_property
    def _lower(self) -> dict[str, Device]:
        return {name.lower(): device for name, device in self.devices.items()}

    @cached_property
    def blank(self) -> dict[str, Configuration]:
        """Every device's configuration on a blank paper."""
        return {
            name: self.given[name].configuration if name in self.given else EMPTY for name in self.devices
        }

    @cached_property
    def model(self) -> dict[str, Configuration]:
        """Every device's configuration in the model answer, laid over what is given."""
        return self.with_sheets({name: sheet.configuration for name, sheet in self.answer.items()})

    def with_sheets(self, own: Mapping[str, Configuration]) -> dict[str, Configuration]:
        """Lay sheets over what is given; devices without one have what is given."""
        return {name: own[name].over(blank) if name in own else blank for name, blank in self.blank.items()}
