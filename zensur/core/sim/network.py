"""A lab compiled with one configuration per device: who is up, who reaches whom, what each device decides.

Everything is worked out when it is first needed and kept. ``with_device`` gives a network in which
one device has another configuration; what that device cannot touch is shared with the first.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from ..lab import Lab
from ..sheet import Configuration
from .decisions import Decision, Verb
from .device import ALL, CompiledDevice, IpPort, Own, compile_device
from .neighbours import Neighbour, find_neighbour
from .routes import RouteTable, settle
from .segments import Flood, Reached
from .wiring import Wiring


@dataclass(slots=True)
class _Known:
    """What has been worked out about one device; ``decisions`` also depend on its neighbours."""

    table: RouteTable | None = None
    own: Own | None = None
    dead: frozenset[int] | None = None
    decisions: dict[int, Decision] | None = None


class Network:
    """The network that a set of configurations makes of a lab. It never changes."""

    def __init__(self, wiring: Wiring, devices: list[CompiledDevice]) -> None:
        self.wiring = wiring
        self.devices = devices
        self.on = [False] * len(wiring.peer)
        self.clocking = [False] * len(wiring.peer)
        for device in devices:
            self._switch(device)
        self._known = [_Known() for _ in devices]
        self._reached: dict[int, tuple[Reached, ...]] = {}
        self._tagged = self._uses_vlans()

    @classmethod
    def of_lab(
        cls, lab: Lab, configurations: Mapping[str, Configuration], wiring: Wiring | None = None
    ) -> "Network":
        """Compile a lab with a configuration for every device."""
        wiring = wiring or Wiring(lab)
        return cls(
            wiring,
            [compile_device(wiring, device, configurations[name]) for name, device in lab.devices.items()],
        )

    def with_device(self, name: str, configuration: Configuration) -> "Network":
        """Return the network with another configuration for one device, at the cost of that device."""
        wiring, number = self.wiring, self.wiring.device[name.lower()]
        other = object.__new__(Network)
        other.wiring = wiring
        other.devices = list(self.devices)
        other.devices[number] = compile_device(
            wiring, wiring.lab.devices[wiring.names[number]], configuration
        )
        other.on, other.clocking = list(self.on), list(self.clocking)
        other._switch(other.devices[number])
        ports = wiring.ports_of[number].values()
        turned = [p for p in ports if other.link_up(p) != self.link_up(p) or other.on[p] != self.on[p]]
        rewired = other.devices[number].hearing != self.devices[number].hearing
        changed = {number} | {wiring.port_device[wiring.peer[p]] for p in turned if wiring.peer[p] >= 0}
        other._known = list(self._known)
        for affected in frozenset().union(*(wiring.touching[c] for c in changed)):
            known = self._known[affected]
            other._known[affected] = (
                _Known() if affected in changed else _Known(known.table, known.own, known.dead)
            )
        lost = {wiring.cluster[p] for p in (ports if rewired else turned)}
        other._reached = (
            {key: found for key, found in self._reached.items() if wiring.cluster_of(key) not in lost}
            if lost
            else dict(self._reached)
        )
        other._tagged = other._uses_vlans()
        return other

    def _uses_vlans(self) -> bool:
        """Whether any frame may bear a tag, or any VLAN but the first be carried."""
        return any(device.uses_vlans for device in self.devices)

    def _switch(self, device: CompiledDevice) -> None:
        for port in device.ports:
            if port.kind == "port":
                self.on[port.port] = port.on
                self.clocking[port.port] = port.clocking

    def is_up(self, port: IpPort) -> bool:
        """Whether a port or loopback is up."""
        if port.kind == "port":
            return self.link_up(port.port)
        if not port.on or port.is_loopback:
            return port.on
        return self.link_up(port.port) if port.kind == "sub-port" else self._has_member(port)

    def _has_member(self, own: IpPort) -> bool:
        """Whether a port of the switch that carries the VLAN of its own interface is up."""
        device = self.wiring.device_of(own.key)
        carries = self.devices[device].carries
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

    def up_ports(self, device: int) -> list[IpPort]:
        """Return the device's ports and loopbacks that are up, loopbacks last."""
        return [p for p in self.devices[device].ports if self.is_up(p)]

    def own(self, device: int) -> Own:
        """Return the addresses that the device accepts packets to: those of all ports that are up."""
        known = self._known[device]
        if known.own is None:
            known.own = {}
            for port in self.up_ports(device):
                for address in port.addresses:
                    known.own.setdefault(address.address, (port, address))
        return known.own

    def table(self, device: int) -> RouteTable:
        """Return the device's active routes."""
        known = self._known[device]
        if known.table is None:
            known.table = settle(self.up_ports(device), self.own(device), self.devices[device].statics)
        return known.table

    def dead(self, device: int) -> frozenset[int]:
        """Return the network and broadcast addresses of the device's ports, which never answer."""
        known = self._known[device]
        if known.dead is None:
            dead: set[int] = set()
            living: set[int] = set()
            for port in self.up_ports(device):
                for a in port.addresses:
                    edges = {a.network, a.network | (ALL >> a.length)} if a.length < 31 else set()
                    dead |= edges
                    if a.address not in edges:
                        living.add(a.address)
            known.dead = frozenset(dead - living)
        return known.dead

    def reached(self, device: int, out: IpPort) -> tuple[Reached, ...]:
        """Return whom a frame sent out of a port, sub-port or VLAN interface reaches."""
        found = self._reached.get(out.key)
        if found is None:
            flood = Flood(self.wiring, self.devices, self.link_up, self.is_up)
            found = self._reached[out.key] = flood.run(device, out)
        return found

    def hears(self, device: int, out: IpPort, key: int) -> bool:
        """Say whether a frame sent out of a port reaches another; where no VLANs are used, back as there."""
        return not self._tagged or any(r.key == key for r in self.reached(device, out))

    def decide(self, device: int, address: int) -> Decision:
        """Say what the device does with a packet to an address."""
        known = self._known[device]
        if known.decisions is None:
            known.decisions = {}
        found = known.decisions.get(address)
        if found is None:
            found = known.decisions[address] = self._decide(device, address)
        return found

    def _decide(self, device: int, address: int) -> Decision:
        if address >> 28 >= 14 or address >> 24 in (0, 127) or address in self.dead(device):
            return Decision(Verb.DEAD)  # multicast and above, this network, loopback: RFC 1122, 3.2.1.3
        own = self.own(device).get(address)
        if own is not None:
            return Decision(Verb.DELIVER, own=own)
        route = self.table(device).find(address)
        if route is None:
            return Decision(Verb.NO_ROUTE)
        if route.out is None:
            return Decision(Verb.DISCARD, route)
        if route.out.is_loopback:
            return Decision(Verb.EMPTY, route)
        ask = address if route.ask is None else route.ask
        neighbour: Neighbour | None = find_neighbour(self, device, route.out, ask)
        return Decision(Verb.SEND if neighbour else Verb.NO_NEIGHBOUR, route, ask, neighbour)

    def source_for(self, device: int, out: IpPort) -> int | None:
        """Return the source address of a packet that the device itself sends out of a port.

        The port's primary address; a port without one borrows the first of the other ports that are
        up, loopbacks last (RFC 1812, 4.3.2.4).
        """
        for port in (out, *self.up_ports(device)):
            if port.addresses:
                return port.addresses[0].address
        return None
