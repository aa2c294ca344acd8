"""Compiled devices joined by links: who is up, who reaches whom, what each node decides.

Everything is worked out when it is first needed and kept. ``with_compiled`` gives a fabric in which some
devices are compiled otherwise; what they cannot touch is shared with the first.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Self

from .decisions import Decision, Verb
from .device import CompiledDevice, Node
from .neighbours import Neighbour, find_neighbour
from .numbers import SIX, is_link_local, is_never_sent, last_of
from .ports import IpPort, Own, PortAddress
from .routes import ActiveRoute, RouteTable, settle
from .segments import Flood, Reached, cabled
from .translating import Rules
from .wiring import Wiring


@dataclass(slots=True)
class _Known:
    """What has been worked out about one node; ``decisions`` also depend on its neighbours."""

    up: tuple[IpPort, ...] | None = None
    table: RouteTable | None = None
    own: Own | None = None
    dead: frozenset[int] | None = None
    rules: Rules | None = None
    decisions: dict[int | tuple[int, int], Decision] = field(default_factory=dict)


class Fabric:
    """The devices of a lab, each with one configuration. It never changes."""

    def __init__(self, wiring: Wiring, devices: list[CompiledDevice]) -> None:
        self.wiring = wiring
        self.devices = devices
        self.nodes = {node.number: node for device in devices for node in device.nodes}
        self.on = [False] * len(wiring.peer)
        self.clocking = [False] * len(wiring.peer)
        for device in devices:
            self._switch(device)
        self._known: dict[int, _Known] = {}
        self._reached: dict[int, tuple[Reached, ...]] = {}
        self._asked: dict[tuple[int, int], Neighbour | None] = {}
        """Neighbours found, by the port they were asked on and the address; of this fabric alone."""
        self._tagged = any(device.uses_vlans for device in devices)
        self.translates = any(node.translating for node in self.nodes.values())
        self.moved: frozenset[int] = frozenset(range(len(devices)))
        """The devices that may be otherwise than in the fabric that this one was made from."""
        self.stirred: frozenset[int] = frozenset(wiring.cluster)
        """The clusters in which others may answer than in the fabric that this one was made from."""

    def with_compiled(self, changed: Mapping[int, CompiledDevice]) -> Self:
        """Return the fabric with other devices in the place of some, by number."""
        devices = list(self.devices)
        for number, device in changed.items():
            devices[number] = device
        other = type(self)(self.wiring, devices)
        other.take_over(self)
        return other

    def take_over(self, like: "Fabric") -> None:
        """Take over what another fabric of the same lab has worked out already and what is the same here."""
        wiring = self.wiring
        changed = [n for n, d in enumerate(self.devices) if d is not like.devices[n] and d != like.devices[n]]
        turned: list[int] = []
        lost: set[int] = set()
        for number in changed:
            ports = wiring.ports_of[number].values()
            own = [p for p in ports if self.link_up(p) != like.link_up(p) or self.on[p] != like.on[p]]
            turned += own
            rewired = self.devices[number].hearing != like.devices[number].hearing
            lost |= {wiring.cluster[p] for p in (ports if rewired else own)}
        moved = {*changed, *(wiring.port_device[wiring.peer[p]] for p in turned if wiring.peer[p] >= 0)}
        self.moved = frozenset(moved)
        self.stirred = frozenset(wiring.cluster[p] for m in moved for p in wiring.ports_of[m].values())
        affected = frozenset().union(*(wiring.touching[m] for m in moved))
        for number, known in like._known.items():
            device = wiring.device_of_node(number)
            if device not in affected:
                self._known[number] = known
            elif device not in moved:
                self._known[number] = _Known(
                    known.up, known.table, known.own, known.dead, known.rules, self._still(known.decisions)
                )
        self._reached = {
            key: found for key, found in like._reached.items() if wiring.cluster_of(key) not in lost
        }

    def _still(
        self, decisions: Mapping[int | tuple[int, int], Decision]
    ) -> dict[int | tuple[int, int], Decision]:
        """Keep the decisions of a node that did not move for which nobody is asked where something did."""
        return {
            key: decision for key, decision in decisions.items() if self.asks(decision) not in self.stirred
        }

    def asks(self, decision: Decision) -> int | None:
        """Return the cluster in which a decision asks for a neighbour; None where it asks nobody."""
        if decision.ask is None or decision.route is None or decision.route.out is None:
            return None
        return self.wiring.cluster_of(decision.route.out.key)

    def _switch(self, device: CompiledDevice) -> None:
        for port in device.ports:
            if port.kind == "port":
                self.on[port.port] = port.on
                self.clocking[port.port] = port.clocking

    def node(self, number: int) -> Node:
        """Return a node by its number."""
        return self.nodes[number]

    def name(self, number: int) -> str:
        """Return the name of a node: its device's, or ``box/instance``."""
        return self.nodes[number].name

    def find_node(self, name: str) -> int | None:
        """Find a node by the name of its device, or by ``box/instance``."""
        box, _, instance = name.lower().partition("/")
        device = self.wiring.device.get(box)
        if device is None:
            return None
        nodes = self.devices[device].nodes
        if not instance:
            return device
        return next((n.number for n in nodes if n.instance and n.instance.lower() == instance), None)

    def port(self, key: int) -> IpPort:
        """Return a port by its key."""
        return self.devices[self.wiring.device_of(key)].by_key[key]

    def is_up(self, port: IpPort) -> bool:
        """Whether a port or loopback is up."""
        if port.kind == "port":
            return self.link_up(port.port)
        if not port.on or port.is_loopback:
            return port.on
        return self.link_up(port.port) if port.kind == "sub-port" else self._has_member(port)

    def _has_member(self, own: IpPort) -> bool:
        """Whether a port of the switch that carries the VLAN of its own interface is up."""
        carries = self.devices[own.node].carries
        return any(self.link_up(p) and c.tag_of(own.vlan) is not None for p, c in carries.items())

    def link_up(self, port: int) -> bool:
        """Whether a physical port is on, linked, the far end is on, and the clock is given where one has to be."""
        peer, clock = self.wiring.peer[port], self.wiring.clock[port]
        return peer >= 0 and self.on[port] and self.on[peer] and (clock < 0 or self.clocking[clock])

    def why_down(self, port: IpPort) -> str | None:
        """Say why a port is down: off, not linked, far end off, no clock, no member up; None where it is up."""
        if not port.on:
            return "off"
        if port.is_loopback:
            return None
        if port.kind == "vlan":
            return None if self._has_member(port) else "no member up"
        if not self.on[port.port]:
            return "off"  # a sub-port needs its physical port
        peer = self.wiring.peer[port.port]
        if peer < 0:
            return "not linked"
        if not self.on[peer]:
            return "far end off"
        return None if self.link_up(port.port) else "no clock"

    def up_ports(self, node: int) -> tuple[IpPort, ...]:
        """Return the node's ports and loopbacks that are up, loopbacks last."""
        known = self._known.get(node) or self._about(node)
        if known.up is None:
            known.up = tuple(p for p in self.nodes[node].ports if self.is_up(p))
        return known.up

    def _about(self, node: int) -> _Known:
        known = self._known.get(node)
        if known is None:
            known = self._known[node] = _Known()
        return known

    def own(self, node: int) -> Own:
        """Return the addresses that the node accepts packets to on any port: those of all ports that are up.

        Link-local ones hold on their port only (RFC 4007) and are not among them.
        """
        known = self._known.get(node) or self._about(node)
        if known.own is None:
            known.own = {}
            for port in self.up_ports(node):
                for address in (*port.four, *port.six):
                    known.own.setdefault(address.address, (port, address))
        return known.own

    def table(self, node: int) -> RouteTable:
        """Return the node's active routes."""
        known = self._about(node)
        if known.table is None:
            known.table = settle(self.up_ports(node), self.own(node), self.nodes[node].statics)
        return known.table

    def rules(self, node: int) -> Rules | None:
        """Return the node's translations that are in effect; None where it has none."""
        translating = self.nodes[node].translating
        if translating is None:
            return None
        known = self._about(node)
        if known.rules is None:
            known.rules = Rules(translating, self.up_ports(node))
        return known.rules

    def dead(self, node: int) -> frozenset[int]:
        """Return what never answers: network and broadcast addresses of its ports; in IPv6 those without a host part."""
        known = self._about(node)
        if known.dead is None:
            dead: set[int] = set()
            living: set[int] = set()
            for port in self.up_ports(node):
                for a in (*port.four, *port.six):
                    edges = _edges(a)
                    dead |= edges
                    if a.address not in edges:
                        living.add(a.address)
            known.dead = frozenset(dead - living)
        return known.dead

    def reached(self, out: IpPort) -> tuple[Reached, ...]:
        """Return whom a frame sent out of a port, sub-port or VLAN interface reaches."""
        found = self._reached.get(out.key)
        if found is None:
            flood = Flood(self.wiring, self.devices, self.link_up, self.is_up)
            found = self._reached[out.key] = flood.run(out)
        return found

    def hears(self, out: IpPort, key: int) -> bool:
        """Say whether a frame sent out of a port reaches another; where no VLANs are used, back as there."""
        return not self._tagged or any(r.key == key for r in self.reached(out))

    def decide(self, node: int, address: int, on: IpPort | None = None) -> Decision:
        """Say what the node does with a packet to an address; a link-local one is meant ``on`` a port."""
        known = self._known.get(node) or self._about(node)
        key = address if on is None else (address, on.key)
        found = known.decisions.get(key)
        if found is None:
            found = known.decisions[key] = (
                self._decide(node, address) if on is None else self._decide_on(node, address, on)
            )
        return found

    def _decide(self, node: int, address: int) -> Decision:
        if is_never_sent(address) or is_link_local(address) or address in self.dead(node):
            return Decision(Verb.DEAD)
        own = self.own(node).get(address)
        if own is not None:
            return Decision(Verb.DELIVER, own=own)
        route = self.table(node).find(address)
        if route is None:
            return Decision(Verb.NO_ROUTE)
        if route.out is None:
            return Decision(Verb.DISCARD, route)
        if route.out.is_loopback:
            return Decision(Verb.EMPTY, route)
        return self._ask(node, route, address if route.ask is None else route.ask)

    def _decide_on(self, node: int, address: int, on: IpPort) -> Decision:
        """Say what is done with a link-local address, which holds on its port only (RFC 4007)."""
        own = next((a for a in on.links if a.address == address), None)
        if own is not None:
            return Decision(Verb.DELIVER, own=(on, own))
        if not on.links or not self.is_up(on):
            return Decision(Verb.NO_ROUTE)
        return self._ask(
            node,
            ActiveRoute(on.links[0].network, 64, 0, on, None, "connected", None, own=on.links[0]),
            address,
        )

    def _ask(self, node: int, route: ActiveRoute, ask: int) -> Decision:
        assert route.out is not None
        key = (route.out.key, ask)
        if key not in self._asked:
            self._asked[key] = find_neighbour(self, node, route.out, ask)
        neighbour = self._asked[key]
        if neighbour is not None:
            return Decision(Verb.SEND, route, ask, neighbour)
        aside = self._tagged and self._is_aside(route.out, ask)
        return Decision(Verb.OTHER_VLAN if aside else Verb.NO_NEIGHBOUR, route, ask)

    def _is_aside(self, out: IpPort, address: int) -> bool:
        """Say whether cables lead from a port to one that bears an address, so that only a VLAN parts them."""
        wiring = self.wiring
        start = [out.port] if out.port >= 0 else [*wiring.ports_of[wiring.device_of(out.key)].values()]
        joined = cabled(wiring, self.link_up, start)
        devices = {wiring.port_device[p] for p in joined}
        return any(
            port.bears(address) and (port.port in joined or port.kind == "vlan") and self.is_up(port)
            for device in devices
            for port in self.devices[device].ports
            if port.key != out.key
        )

    def source_for(self, node: int, out: IpPort, destination: int) -> int | None:
        """Return the source address of a packet that the node itself sends out of a port.

        The port's primary address, in IPv6 the one with most in common with the destination (RFC 6724,
        section 5, rules 2 and 8); a port without one borrows the first of the other ports that are up,
        loopbacks last (RFC 1812, 4.3.2.4). Only where there is no other, a link-local one goes further.
        """
        if destination < SIX:
            if out.four:
                return out.four[0].address
            return next((p.four[0].address for p in self.up_ports(node) if p.four), None)
        if is_link_local(destination):
            return out.links[0].address if out.links else None
        if out.six:
            return min(out.six, key=lambda a: (a.address ^ destination).bit_length()).address
        borrowed: Iterator[int] = (p.six[0].address for p in self.up_ports(node) if p.six)
        return next(borrowed, out.links[0].address if out.links else None)


def _edges(own: PortAddress) -> set[int]:
    """Return the addresses of a network that no device may have (RFC 1122, 3.2.1.3; RFC 3021; RFC 4291, 2.6.1)."""
    if own.address >= SIX:
        return {own.network} if own.length < 127 else set()
    return {own.network, last_of(own.network, own.length)} if own.length < 31 else set()
