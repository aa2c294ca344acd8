"""One device compiled from its configuration, without regard to any other device."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from ..lab import Device, forwards
from ..sheet import Block, Configuration, Gateway, Route, Statement, Where
from ..sheet.statements import Instance
from .carrying import Carrying, carrying_of, declared_of
from .numbers import is_link_local, is_six, number_of
from .ports import IpPort, PortCompiler
from .serving import Serving, serving_of
from .translating import Translating, translating_of
from .wiring import Wiring


@dataclass(frozen=True, slots=True)
class StaticRoute:
    """A static route, a gateway, or one that was learned, not yet resolved; ``order`` is its place in the sheet."""

    order: int
    network: int
    length: int
    next_hop: int | None
    port: str | None
    preference: int
    origin: str
    where: Where | None
    source: Statement | str
    metric: int = 0

    @property
    def text(self) -> str:
        """The statement as it is written, or what made the route."""
        return self.source if isinstance(self.source, str) else self.source.text()

    @property
    def discard(self) -> bool:
        """Whether packets to it are dropped."""
        return self.next_hop is None and self.port is None


@dataclass(frozen=True, slots=True)
class Node:
    """A network instance of a device, for most devices the only one: all that IP is about there.

    The main instance has the number and the name of its device; others are named ``box/instance``.
    """

    number: int
    device: int
    name: str
    instance: str | None
    forwards: bool
    ports: tuple[IpPort, ...]
    statics: tuple[StaticRoute, ...]
    serving: Serving
    translating: Translating | None


@dataclass(frozen=True)
class CompiledDevice:
    """All that one configuration says about one device, in numbers."""

    number: int
    name: str
    is_switch: bool
    nodes: tuple[Node, ...]
    carries: dict[int, Carrying]
    declared: frozenset[int]

    def __post_init__(self) -> None:
        """Work out at once what otherwise would be when it is asked for: threads share compiled devices."""
        for name in ("ports", "by_key", "uses_vlans", "frame_rules"):
            getattr(self, name)

    @cached_property
    def ports(self) -> tuple[IpPort, ...]:
        """Its ports in the order of the lab, sub-ports behind theirs, then VLAN interfaces, then loopbacks."""
        return tuple(sorted((port for node in self.nodes for port in node.ports), key=_place))

    @cached_property
    def by_key(self) -> dict[int, IpPort]:
        """The ports that frames arrive at, by their keys."""
        return {p.key: p for p in self.ports if p.key >= 0}

    @cached_property
    def uses_vlans(self) -> bool:
        """Whether its frames may bear a tag, or it carries any VLAN but the first."""
        return any(p.vlan for p in self.ports) or any(c != Carrying() for c in self.carries.values())

    @cached_property
    def frame_rules(self) -> tuple[object, ...]:
        """All that decides which frames it receives and passes on, but whether its physical ports are on."""
        tagged = tuple((p.key, p.on, p.kind == "vlan" and bool(p.addresses)) for p in self.ports if p.vlan)
        instances = tuple((p.key, p.node) for p in self.ports if p.key >= 0)
        return tagged, instances, tuple(self.carries.items()), self.declared


def _place(port: IpPort) -> tuple[bool, bool, int, int]:
    return port.is_loopback, port.kind == "vlan", port.port, port.vlan


def compile_device(wiring: Wiring, device: Device, configuration: Configuration) -> CompiledDevice:
    """Compile a device; ports that the topology does not give it are left out."""
    number = wiring.device[device.name.lower()]
    own, is_switch = wiring.ports_of[number], wiring.is_switch[number]
    does_forward = forwards(device, configuration)
    names = [i.statement.name for i in configuration.all(Instance)]
    instances = {name.lower(): wiring.node_of(number, n) for n, name in enumerate(names, 1)}
    compiling = PortCompiler(
        wiring, device, configuration, does_forward and device.forwards, number, instances
    )
    ports = list(_ports(compiling, own, number, is_switch, device.on_by_default))
    statics = tuple(_statics(configuration, does_forward, list(own)))
    return CompiledDevice(
        number,
        device.name,
        is_switch,
        tuple(
            Node(
                node,
                number,
                f"{device.name}/{name}" if name else device.name,
                name,
                does_forward,
                tuple(p for p in ports if p.node == node),
                tuple(static for instance, static in statics if instance == (name.lower() if name else None)),
                serving_of(configuration, name),
                translating_of(configuration, name),
            )
            for node, name in [(number, None), *zip(instances.values(), names, strict=True)]
        ),
        {port: carrying_of(configuration, name) for name, port in own.items()} if is_switch else {},
        declared_of(configuration) if is_switch else frozenset(),
    )


def _ports(
    compiling: PortCompiler, own: dict[str, int], number: int, is_switch: bool, on_by_default: bool
) -> Iterator[IpPort]:
    wiring, configuration = compiling.wiring, compiling.configuration
    for name, port in own.items():
        yield compiling.port(Block("port", name), "port", port, 0, port, on_by_default)
        if not is_switch and not wiring.serial[port]:
            for block, vlan in _sub_ports(configuration, name):
                yield compiling.port(block, "sub-port", port, vlan, wiring.key_of(port, vlan), True)
    if is_switch:
        for block in configuration.blocks("vlan"):
            vlan = int(block.name)
            yield compiling.port(block, "vlan", -1, vlan, wiring.vlan_key(number, vlan), True)
    for block in configuration.blocks("loopback"):
        if block.name.lower() not in own:
            yield compiling.port(block, "loopback", -1, 0, -1, True)


def _sub_ports(configuration: Configuration, port: str) -> list[tuple[Block, int]]:
    found = [
        (block, sub[1])
        for block in configuration.blocks("port")
        if (sub := block.sub_port_of) is not None and sub[0].lower() == port
    ]
    return sorted(found, key=lambda pair: pair[1])


def _statics(
    configuration: Configuration, does_forward: bool, ports: list[str]
) -> Iterator[tuple[str | None, StaticRoute]]:
    """Yield static routes and gateways with their instance; a gateway counts where nothing is forwarded."""
    for order, item in enumerate(configuration.all(Route)):
        route = item.statement
        dest = route.dest
        hop = None if route.next_hop is None else number_of(route.next_hop)
        port = _port_of(hop, route.port, ports)
        if hop is None or port is not None or not is_link_local(hop):
            yield _folded(route.instance), StaticRoute(
                order, number_of(dest.network_address), dest.prefixlen, hop, port, route.preference,
                "static", item.where, route,
            )  # fmt: skip
    for gate in () if does_forward else configuration.all(Gateway):
        hop = number_of(gate.statement.address)
        port = _port_of(hop, gate.statement.port, ports)
        if port is not None or not is_link_local(hop):
            yield _folded(gate.statement.instance), StaticRoute(
                -1, default_of(hop), 0, hop, port, GATEWAY_PREFERENCE, "gateway", gate.where, gate.statement
            )  # fmt: skip


GATEWAY_PREFERENCE, LEARNED_PREFERENCE = 20, 50


def default_of(number: int) -> int:
    """Return the network of the default route of an address's family."""
    return number & (1 << 128) if is_six(number) else 0


def _port_of(hop: int | None, port: str | None, ports: list[str]) -> str | None:
    """Return the port named; a link-local next hop needs none where there is only one (RFC 4007)."""
    if port is None and hop is not None and is_link_local(hop) and len(ports) == 1:
        return ports[0]
    return port.lower() if port else None


def _folded(instance: str | None) -> str | None:
    return instance.lower() if instance else None
