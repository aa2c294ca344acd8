"""Networks as the cabling and the VLANs make them: who could hear whom if every port were on."""

from collections.abc import Iterator
from dataclasses import dataclass

from .device import CompiledDevice
from .network import Network
from .ports import IpPort

Node = tuple[str, int, int]
"""An interface by its key, or a VLAN inside a switch by device and number."""


@dataclass(frozen=True, slots=True)
class Domain:
    """The ports, sub-ports and VLAN interfaces of one network, and the linked ports of switches that carry it."""

    interfaces: tuple[tuple[int, IpPort], ...]
    carried: tuple[tuple[int, int], ...]
    """Switch and physical port, in the order of the lab."""


class _Joined:
    """Nodes that are joined, by union and find."""

    def __init__(self) -> None:
        self.parent: dict[Node, Node] = {}

    def find(self, node: Node) -> Node:
        self.parent.setdefault(node, node)
        while self.parent[node] != node:
            self.parent[node] = self.parent[self.parent[node]]
            node = self.parent[node]
        return node

    def join(self, a: Node, b: Node) -> None:
        self.parent[self.find(b)] = self.find(a)


def domains(network: Network) -> list[Domain]:
    """Work out the networks of a lab, those first whose first port stands first in the lab.

    Ports that are off count as if they were on. Where tags let frames pass one way only, both sides
    are one network.
    """
    wiring = network.wiring
    joined = _Joined()
    carried: dict[Node, list[tuple[int, int]]] = {}
    for device in network.devices:
        for own in device.ports:
            if own.kind == "vlan":
                joined.join(("vlan", device.number, own.vlan), ("port", 0, own.key))
    for a, b in enumerate(wiring.peer):
        if b < 0:
            continue
        for node, tag in _sent(network, a):
            other = _taken(network, b, tag)
            if other is not None:
                joined.join(node, other)
            if node[0] == "vlan":
                carried.setdefault(node, []).append((wiring.port_device[a], a))
    members = _members(network, joined)
    through: dict[Node, list[tuple[int, int]]] = {}
    for node, ports in carried.items():
        through.setdefault(joined.find(node), []).extend(ports)
    return [Domain(tuple(own), tuple(sorted(set(through.get(root, []))))) for root, own in members.items()]


def _members(network: Network, joined: _Joined) -> dict[Node, list[tuple[int, IpPort]]]:
    """Return the ports that may bear an address, each with its device, by the root of their network."""
    members: dict[Node, list[tuple[int, IpPort]]] = {}
    for device in network.devices:
        for own in device.ports:
            if own.key >= 0 and not (device.is_switch and own.kind == "port"):
                members.setdefault(joined.find(("port", 0, own.key)), []).append((device.number, own))
    return members


def _sent(network: Network, port: int) -> Iterator[tuple[Node, int]]:
    """Yield what sends out of a physical port, each with the tag."""
    device = network.devices[network.wiring.port_device[port]]
    if device.is_switch:
        carrying = device.carries[port]
        for vlan in sorted(device.declared):
            tag = carrying.tag_of(vlan)
            if tag is not None:
                yield ("vlan", device.number, vlan), tag
        return
    yield from ((("port", 0, own.key), own.vlan) for own in device.ports if own.port == port)


def _taken(network: Network, port: int, tag: int) -> Node | None:
    """Return what takes in a frame with a tag at a physical port."""
    device: CompiledDevice = network.devices[network.wiring.port_device[port]]
    if device.is_switch:
        vlan = device.carries[port].vlan_of(tag)
        return ("vlan", device.number, vlan) if vlan is not None and vlan in device.declared else None
    key = network.wiring.key_of(port, tag)
    return ("port", 0, key) if key in device.by_key else None
