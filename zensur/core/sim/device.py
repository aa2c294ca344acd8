"""One device compiled from its configuration, without regard to any other device."""

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Interface, IPv4Network

from ..lab import Device, forwards
from ..sheet import Block, Configuration, Gateway, OnPort, Route, Switched, Where
from ..sheet.statements import Clocking, Member
from .serving import Serving, serving_of
from .wiring import Wiring

ALL = (1 << 32) - 1


def dotted(address: int) -> str:
    """Write an address number in dotted form."""
    return f"{address >> 24}.{address >> 16 & 255}.{address >> 8 & 255}.{address & 255}"


@dataclass(frozen=True, slots=True)
class PortAddress:
    """An IPv4 address of a port: the number, the length of its prefix, the line that gives it."""

    address: int
    length: int
    where: Where | None

    @property
    def network(self) -> int:
        """The number of the network's own address."""
        return self.address & (ALL << (32 - self.length))


@dataclass(frozen=True, slots=True)
class IpPort:
    """A port or loopback as IP sees it. ``port`` is the physical port's number, -1 for a loopback."""

    name: str
    port: int
    on: bool
    where: Where | None
    addresses: tuple[PortAddress, ...]
    serial: bool = False
    clocking: bool = False

    @property
    def is_loopback(self) -> bool:
        """Whether it is a loopback, which is up when it is on."""
        return self.port < 0


Own = dict[int, tuple[IpPort, PortAddress]]
"""The addresses of a device, each with the port that bears it."""


@dataclass(frozen=True, slots=True)
class StaticRoute:
    """A static route or a gateway, not yet resolved; ``order`` is its place in the sheet."""

    order: int
    network: int
    length: int
    next_hop: int | None
    port: str | None
    preference: int
    origin: str
    where: Where | None
    text: str

    @property
    def discard(self) -> bool:
        """Whether packets to it are dropped."""
        return self.next_hop is None and self.port is None


@dataclass(frozen=True, slots=True)
class CompiledDevice:
    """All that one configuration says about one device, in numbers."""

    number: int
    name: str
    forwards: bool
    is_switch: bool
    ports: tuple[IpPort, ...]
    statics: tuple[StaticRoute, ...]
    by_port: dict[int, IpPort]
    serving: Serving


def compile_device(wiring: Wiring, device: Device, configuration: Configuration) -> CompiledDevice:
    """Compile a device; ports that the topology does not give it are left out."""
    number = wiring.device[device.name.lower()]
    own = wiring.ports_of[number]
    ports = [
        _port(configuration, Block("port", name), own[name], wiring, device.on_by_default) for name in own
    ]
    ports += [
        _port(configuration, block, -1, wiring, True)
        for block in configuration.blocks("loopback")
        if block.name.lower() not in own
    ]
    return CompiledDevice(
        number,
        device.name,
        forwards(device, configuration),
        wiring.is_switch[number],
        tuple(ports),
        tuple(_statics(configuration, device)),
        {p.port: p for p in ports if p.port >= 0},
        serving_of(configuration),
    )


def _port(configuration: Configuration, block: Block, port: int, wiring: Wiring, default: bool) -> IpPort:
    switched = configuration.one(Switched, block)
    header = configuration.header(block)
    found = [(i.statement.interface, i.where) for i in configuration.all(OnPort, block)]
    member = configuration.one(Member, block) is not None  # other instances are not simulated yet
    carries = port >= 0 and wiring.is_switch[wiring.port_device[port]]
    return IpPort(
        wiring.port_name[port] if port >= 0 else block.name,
        port,
        switched.statement.on if switched else default,
        switched.where if switched else header.where if header else None,
        tuple(
            PortAddress(int(interface.ip), interface.network.prefixlen, where)
            for interface, where in found
            if isinstance(interface, IPv4Interface) and not carries and not member
        ),
        port >= 0 and wiring.serial[port],
        configuration.one(Clocking, block) is not None,
    )


def _statics(configuration: Configuration, device: Device) -> Iterator[StaticRoute]:
    for order, item in enumerate(configuration.all(Route)):
        route, dest = item.statement, item.statement.dest
        if isinstance(dest, IPv4Network) and route.instance is None:
            yield StaticRoute(
                order,
                int(dest.network_address),
                dest.prefixlen,
                None if route.next_hop is None else int(route.next_hop),
                route.port.lower() if route.port else None,
                route.preference,
                "static",
                item.where,
                route.text(),
            )
    for gate in () if forwards(device, configuration) else configuration.all(Gateway):
        address, port = gate.statement.address, gate.statement.port
        if isinstance(address, IPv4Address) and gate.statement.instance is None:
            yield StaticRoute(
                -1, 0, 0, int(address), port.lower() if port else None, 20, "gateway", gate.where, gate.text()
            )
