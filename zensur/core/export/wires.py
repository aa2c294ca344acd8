"""The links of a network as pairs of virtual Ethernet ends.

Each VLAN of a switch becomes a bridge of its own, and a link has one pair for every tag that passes it both
ways: so a kernel needs no 802.1Q devices. Each network instance is a namespace of its own.
"""

import re
from typing import NamedTuple

from ..sim import Network

_LONGEST = 15
_PLAIN = re.compile(r"[A-Za-z][A-Za-z0-9._-]*\Z")


class End(NamedTuple):
    """One end of a pair: its node, its name, the bridge it belongs to (empty: none), and whether it is on."""

    node: int
    name: str
    bridge: str
    on: bool


class Wires:
    """The pairs of a network, with names that a kernel takes."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.one_way: set[tuple[int, int]] = set()
        """Links by their physical ports on which some VLAN passes one way only, and is left out."""
        self._names: dict[tuple[int, str], str] = {}
        self.pairs = sorted(self._pairs())

    def name(self, node: int, wanted: str) -> str:
        """Return an interface's name: the port's own where a kernel takes it, else one with a number."""
        found = self._names.get((node, wanted))
        if found is None:
            taken = {n for (other, _), n in self._names.items() if other == node} | {"lo", "all", "default"}
            found = wanted
            if not _PLAIN.match(wanted) or len(wanted) > _LONGEST or wanted in taken:
                found = next(n for n in (f"port{i}" for i in range(len(taken) + 1)) if n not in taken)
            self._names[node, wanted] = found
        return found

    def _pairs(self) -> set[tuple[End, End]]:
        wiring = self.network.wiring
        found: set[tuple[End, End]] = set()
        for a, b in enumerate(wiring.peer):
            for own, tag in self._sent(a) if b >= 0 else ():
                far = self._end(b, tag)
                if far is not None and own != self._end(a, self._tag_back(b, tag)):
                    self.one_way.add((min(a, b), max(a, b)))
                    far = None
                if far is None and wiring.is_switch[wiring.device_of_node(own.node)]:
                    continue
                other = far or self._dropped(b, tag)
                found.add((own, other) if own < other else (other, own))
        return found

    def _dropped(self, port: int, tag: int) -> End:
        """Return an end that takes in what the port drops."""
        wiring, device = self.network.wiring, self.network.wiring.port_device[port]
        return End(device, self.name(device, f"{wiring.port_name[port]}x{tag}"), "", self.network.on[port])

    def _sent(self, port: int) -> list[tuple[End, int]]:
        """Return what sends out of a physical port, each with the tag."""
        device = self.network.devices[self.network.wiring.port_device[port]]
        if device.is_switch:
            tags = [device.carries[port].tag_of(vlan) for vlan in device.declared]
        else:
            tags = [own.vlan for own in device.ports if own.port == port]
        return [(end, tag) for tag in tags if tag is not None and (end := self._end(port, tag)) is not None]

    def _end(self, port: int, tag: int | None) -> End | None:
        """Return what takes in a frame with a tag at a port."""
        wiring = self.network.wiring
        number, name = wiring.port_device[port], wiring.port_name[port]
        device = self.network.devices[number]
        if tag is None:
            return None
        if device.is_switch:
            vlan = device.carries[port].vlan_of(tag)
            if vlan is None or vlan not in device.declared:
                return None
            called = f"{name}.{vlan}" if tag else name
            return End(number, self.name(number, called), f"vlan{vlan}", self.network.on[port])
        own = device.by_key.get(wiring.key_of(port, tag))
        if own is None:
            return None
        up = own.on and self.network.on[port]
        if own.serial:
            up = self.network.link_up(port)  # a missing clock is no matter of either end alone
        return End(own.node, self.name(own.node, own.name), "", up)

    def _tag_back(self, port: int, tag: int) -> int | None:
        """Return the tag with which the answer to what came in with a tag leaves."""
        device = self.network.devices[self.network.wiring.port_device[port]]
        if not device.is_switch:
            return tag
        vlan = device.carries[port].vlan_of(tag)
        return None if vlan is None else device.carries[port].tag_of(vlan)
