"""Compiled devices joined by links: who is up, who reaches whom, what each node decides.

Everything is worked out when it is first needed and kept, in the fabric itself: a fabric belongs to one thread. What
threads share is *frozen*: all that is finite is worked out at once, and whatever is asked of it later is worked out
again each time and not kept. ``with_compiled`` gives a fabric in which some devices are compiled otherwise; what they
cannot touch is taken from the first.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Self

from .decisions import Action, Decision
from .device import CompiledDevice, Node
from .neighbours import Neighbour, find_neighbour
from .numbers import SIX, is_link_local, is_never_sent, last_of
from .ports import IpPort, Own, PortAddress
from .routes import ActiveRoute, RouteTable, settle
from .segments import Flood, Receiver, cabled
from .translating import Rules
from .wiring import Wiring

DecisionKey = tuple[int, ...]
"""A node and an address; for a link-local address also the key of the port that it is meant on."""


@dataclass(slots=True)
class _NodeFacts:
    """What has been worked out about one node, whatever is sent to it."""

    up: tuple[IpPort, ...] | None = None
    table: RouteTable | None = None
    own: Own | None = None
    unanswered: frozenset[int] | None = None
    rules: Rules | None = None


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
        self._facts: dict[int, _NodeFacts] = {}
        self._receivers: dict[int, tuple[Receiver, ...]] = {}
        self._decisions: dict[DecisionKey, Decision] = {}
        self._neighbours: dict[tuple[int, int], Neighbour | None] = {}
        """Neighbours found, by the port they were asked on and the address; of this fabric alone."""
        self._tagged = any(device.uses_vlans for device in devices)
        self.translates = any(node.translating for node in self.nodes.values())
        self._frozen = False
        self._like: Fabric | None = None
        self._changed_devices: frozenset[int] = frozenset()
        """The devices that may be otherwise than in the fabric that this one was made from."""
        self._affected_devices: frozenset[int] = frozenset()
        """Those, and all that share a segment with one of them."""
        self._changed_segments: frozenset[int] = frozenset()
        """The segments in which others may answer than in the fabric that this one was made from."""

    def freeze(self) -> None:
        """Work out all that is finite, and from now on keep nothing more: threads may share it."""
        for number in self.nodes:
            self.own(number)
            self.table(number)
            self.rules(number)
            self.unanswered(number)
            for port in self.up_ports(number):
                if not port.is_loopback:
                    self.receivers(port)
        self._frozen = True

    def with_compiled(self, changed: Mapping[int, CompiledDevice]) -> Self:
        """Return the fabric with other devices in the place of some, by number."""
        devices = list(self.devices)
        for number, device in changed.items():
            devices[number] = device
        other = type(self)(self.wiring, devices)
        other.inherit(self)
        return other

    def inherit(self, like: "Fabric") -> None:
        """Take over what another fabric of the same lab has worked out already and what is the same here."""
        wiring = self.wiring
        changed = [n for n, d in enumerate(self.devices) if d is not like.devices[n] and d != like.devices[n]]
        turned: list[int] = []
        lost: set[int] = set()
        for number in changed:
            ports = wiring.ports_of[number].values()
            own = [p for p in ports if self.link_up(p) != like.link_up(p) or self.on[p] != like.on[p]]
            turned += own
            rewired = self.devices[number].frame_rules != like.devices[number].frame_rules
            lost |= {wiring.segment[p] for p in (ports if rewired else own)}
        self._like = like
        peers = {wiring.port_device[wiring.peer[p]] for p in turned if wiring.peer[p] >= 0}
        self._changed_devices = frozenset({*changed, *peers})
        self._affected_devices = frozenset().union(*(wiring.touching[d] for d in self._changed_devices))
        self._changed_segments = frozenset(
            wiring.segment[p] for d in self._changed_devices for p in wiring.ports_of[d].values()
        )
        for number, facts in like._facts.items():
            if wiring.device_of_node(number) not in self._changed_devices:
                self._facts[number] = facts
        self._receivers = {
            key: found for key, found in like._receivers.items() if wiring.segment_of(key) not in lost
        }

    def _inherited(self, node: int, key: DecisionKey) -> Decision | None:
        """Return a decision of the fabric that this one was made from, where nothing that it depends on changed."""
        like, device = self._like, self.wiring.device_of_node(node)
        if like is None or device in self._changed_devices:
            return None
        found = like._decisions.get(key) or like._inherited(node, key)
        if found is None or device not in self._affected_devices:
            return found
        return None if found.segment in self._changed_segments else found

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
        facts = self._facts.get(node) or self._about(node)
        if facts.up is None:
            facts.up = tuple(p for p in self.nodes[node].ports if self.is_up(p))
        return facts.up

    def _about(self, node: int) -> _NodeFacts:
        facts = self._facts.get(node)
        if facts is None:
            facts = self._facts[node] = _NodeFacts()
        return facts

    def shares_node(self, other: "Fabric", node: int) -> bool:
        """Whether a node is the same in another fabric of the lab for certain: one of both was made from the other."""
        facts = self._facts.get(node)
        return facts is not None and facts is other._facts.get(node) and self.nodes[node] is other.nodes[node]

    def own(self, node: int) -> Own:
        """Return the addresses that the node accepts packets to on any port: those of all ports that are up.

        Link-local ones hold on their port only (RFC 4007) and are not among them.
        """
        facts = self._facts.get(node) or self._about(node)
        if facts.own is None:
            facts.own = {}
            for port in self.up_ports(node):
                for address in (*port.four, *port.six):
                    facts.own.setdefault(address.address, (port, address))
        return facts.own

    def table(self, node: int) -> RouteTable:
        """Return the node's active routes."""
        facts = self._about(node)
        if facts.table is None:
            facts.table = settle(self.up_ports(node), self.own(node), self.nodes[node].statics)
        return facts.table

    def rules(self, node: int) -> Rules | None:
        """Return the node's translations that are in effect; None where it has none."""
        translating = self.nodes[node].translating
        if translating is None:
            return None
        facts = self._about(node)
        if facts.rules is None:
            facts.rules = Rules(translating, self.up_ports(node))
        return facts.rules

    def unanswered(self, node: int) -> frozenset[int]:
        """Return what never answers: network and broadcast addresses of its ports; in IPv6 those without a host
        part."""
        facts = self._about(node)
        if facts.unanswered is None:
            edges_of_all: set[int] = set()
            usable: set[int] = set()
            for port in self.up_ports(node):
                for a in (*port.four, *port.six):
                    edges = _edges(a)
                    edges_of_all |= edges
                    if a.address not in edges:
                        usable.add(a.address)
            facts.unanswered = frozenset(edges_of_all - usable)
        return facts.unanswered

    def receivers(self, out: IpPort) -> tuple[Receiver, ...]:
        """Return whom a frame sent out of a port, sub-port or VLAN interface reaches."""
        found = self._receivers.get(out.key)
        if found is None:
            found = Flood(self.wiring, self.devices, self.link_up, self.is_up).run(out)
            if not self._frozen:
                self._receivers[out.key] = found
        return found

    def delivers_to(self, out: IpPort, key: int) -> bool:
        """Say whether a frame sent out of a port reaches another; where no VLANs are used, back as there."""
        return not self._tagged or any(r.key == key for r in self.receivers(out))

    def decide(self, node: int, address: int, on: IpPort | None = None) -> Decision:
        """Say what the node does with a packet to an address; a link-local one is meant ``on`` a port."""
        key: DecisionKey = (node, address) if on is None else (node, address, on.key)
        found = self._decisions.get(key)
        if found is None:
            found = self._inherited(node, key)
            if found is None:
                found = self._decide(node, address) if on is None else self._decide_on(node, address, on)
            if not self._frozen:
                self._decisions[key] = found
        return found

    def _decide(self, node: int, address: int) -> Decision:
        if is_never_sent(address) or is_link_local(address) or address in self.unanswered(node):
            return Decision(Action.UNANSWERED)
        own = self.own(node).get(address)
        if own is not None:
            return Decision(Action.DELIVER, own=own)
        route = self.table(node).find(address)
        if route is None:
            return Decision(Action.NO_ROUTE)
        if route.out is None:
            return Decision(Action.DISCARD, route)
        if route.out.is_loopback:
            return Decision(Action.UNASSIGNED, route)
        return self._ask(node, route, address if route.ask is None else route.ask)

    def _decide_on(self, node: int, address: int, on: IpPort) -> Decision:
        """Say what is done with a link-local address, which holds on its port only (RFC 4007)."""
        own = next((a for a in on.links if a.address == address), None)
        if own is not None:
            return Decision(Action.DELIVER, own=(on, own))
        if not on.links or not self.is_up(on):
            return Decision(Action.NO_ROUTE)
        return self._ask(
            node,
            ActiveRoute(on.links[0].network, 64, 0, on, None, "connected", None, own=on.links[0]),
            address,
        )

    def _ask(self, node: int, route: ActiveRoute, ask: int) -> Decision:
        assert route.out is not None
        key = (route.out.key, ask)
        if key in self._neighbours:
            neighbour = self._neighbours[key]
        else:
            neighbour = find_neighbour(self, node, route.out, ask)
            if not self._frozen:
                self._neighbours[key] = neighbour
        segment = self.wiring.segment_of(route.out.key)
        if neighbour is not None:
            return Decision(Action.SEND, route, ask, neighbour, None, segment)
        aside = self._tagged and self._is_aside(route.out, ask)
        action = Action.OTHER_VLAN if aside else Action.NO_NEIGHBOUR
        return Decision(action, route, ask, None, None, segment)

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
