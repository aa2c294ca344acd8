"""One device compiled from its configuration, without regard to any other device."""

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Interface, IPv4Network

from ..lab import Device, forwards
from ..sheet import Block, Configuration, Gateway, OnPort, Route, Statement, Switched, Where
from ..sheet.statements import Clocking, Member, Proxy
from .carrying import Carrying, carrying_of, declared_of
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
    """A port, sub-port, VLAN interface or loopback as IP sees it.

    ``port`` is the physical port's number, -1 for a loopback and for a VLAN interface, whose frames start
    inside the switch. ``vlan`` is the tag of a sub-port and the VLAN of a VLAN interface, else 0. ``key``
    is the number by which frames arrive at it, -1 for a loopback.
    """

    name: str
    kind: str
    port: int
    vlan: int
    key: int
    on: bool
    where: Where | None
    addresses: tuple[PortAddress, ...]
    serial: bool = False
    clocking: bool = False
    proxy: bool = False

    @property
    def is_loopback(self) -> bool:
        """Whether it is a loopback, which is up when it is on."""
        return self.kind == "loopback"


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
    statement: Statement

    @property
    def text(self) -> str:
        """The statement as it is written."""
        return self.statement.text()

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
    by_key: dict[int, IpPort]
    carries: dict[int, Carrying]
    declared: frozenset[int]
    serving: Serving

    @property
    def uses_vlans(self) -> bool:
        """Whether its frames may bear a tag, or it carries any VLAN but the first."""
        return any(p.vlan for p in self.ports) or any(c != Carrying() for c in self.carries.values())

    @property
    def hearing(self) -> tuple[object, ...]:
        """All that decides which frames it hears and passes on, but whether its physical ports are on."""
        tagged = tuple((p.key, p.on) for p in self.ports if p.vlan)
        return tagged, tuple(self.carries.items()), self.declared


def compile_device(wiring: Wiring, device: Device, configuration: Configuration) -> CompiledDevice:
    """Compile a device; ports that the topology does not give it are left out."""
    number = wiring.device[device.name.lower()]
    own = wiring.ports_of[number]
    is_switch = wiring.is_switch[number]
    does_forward = forwards(device, configuration)
    compiling = _Compiling(wiring, configuration, does_forward and device.forwards)
    ports: list[IpPort] = []
    for name, port in own.items():
        ports.append(compiling.port(Block("port", name), "port", port, 0, port, device.on_by_default))
        if not is_switch and not wiring.serial[port]:
            ports += [
                compiling.port(block, "sub-port", port, vlan, wiring.key_of(port, vlan), True)
                for block, vlan in _sub_ports(configuration, name)
            ]
    if is_switch:
        ports += [
            compiling.port(block, "vlan", -1, int(block.name), wiring.vlan_key(number, int(block.name)), True)
            for block in configuration.blocks("vlan")
        ]
    ports += [
        compiling.port(block, "loopback", -1, 0, -1, True)
        for block in configuration.blocks("loopback")
        if block.name.lower() not in own
    ]
    return CompiledDevice(
        number,
        device.name,
        does_forward,
        is_switch,
        tuple(ports),
        tuple(_statics(configuration, device)),
        {p.key: p for p in ports if p.key >= 0},
        {port: carrying_of(configuration, name) for name, port in own.items()} if is_switch else {},
        declared_of(configuration) if is_switch else frozenset(),
        serving_of(configuration),
    )


def _sub_ports(configuration: Configuration, port: str) -> list[tuple[Block, int]]:
    found = [
        (block, sub[1])
        for block in configuration.blocks("port")
        if (sub := block.sub_port_of) is not None and sub[0].lower() == port
    ]
    return sorted(found, key=lambda pair: pair[1])


@dataclass(frozen=True, slots=True)
class _Compiling:
    """What all ports of a device are compiled with; ``proxies`` is what a port does without a word."""

    wiring: Wiring
    configuration: Configuration
    proxies: bool

    def port(self, block: Block, kind: str, port: int, vlan: int, key: int, default: bool) -> IpPort:
        """Compile one port, sub-port, VLAN interface or loopback."""
        configuration, wiring = self.configuration, self.wiring
        switched, header = configuration.one(Switched, block), configuration.header(block)
        found = [(i.statement.interface, i.where) for i in configuration.all(OnPort, block)]
        member = configuration.one(Member, block) is not None  # other instances are not simulated yet
        carries = kind == "port" and wiring.is_switch[wiring.port_device[port]]
        proxy = configuration.one(Proxy, block)
        return IpPort(
            wiring.port_name[port] if kind == "port" else block.port_name,
            kind,
            port,
            vlan,
            key,
            switched.statement.on if switched else default,
            switched.where if switched else header.where if header else None,
            tuple(
                PortAddress(int(interface.ip), interface.network.prefixlen, where)
                for interface, where in found
                if isinstance(interface, IPv4Interface) and not carries and not member
            ),
            kind == "port" and wiring.serial[port],
            configuration.one(Clocking, block) is not None,
            proxy.statement.on if proxy else self.proxies,
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
                route,
            )
    for gate in () if forwards(device, configuration) else configuration.all(Gateway):
        address, port = gate.statement.address, gate.statement.port
        if isinstance(address, IPv4Address) and gate.statement.instance is None:
            yield StaticRoute(
                -1,
                0,
                0,
                int(address),
                port.lower() if port else None,
                20,
                "gateway",
                gate.where,
                gate.statement,
            )
