"""Finding the neighbour that has an address (RFC 826, RFC 4861), or one that answers for it (RFC 1027)."""

from dataclasses import dataclass
from typing import Protocol

from .device import Node
from .numbers import SIX
from .ports import IpPort, Own
from .routes import RouteTable
from .segments import Passed, Receiver
from .translating import Rules
from .wiring import Wiring


class Surroundings(Protocol):
    """What has to be known of a network to find a neighbour in it."""

    wiring: Wiring

    def node(self, number: int) -> Node:
        """A node by its number."""

    def port(self, key: int) -> IpPort:
        """A port by its key."""

    def receivers(self, out: IpPort) -> tuple[Receiver, ...]:
        """Whom a frame sent out of a port reaches."""

    def delivers_to(self, out: IpPort, key: int) -> bool:
        """Whether a frame sent out of a port reaches another, by its key."""

    def own(self, node: int) -> Own:
        """The addresses that a node accepts packets to."""

    def unanswered(self, node: int) -> frozenset[int]:
        """The network and broadcast addresses of a node."""

    def table(self, node: int) -> RouteTable:
        """The active routes of a node."""

    def rules(self, node: int) -> Rules | None:
        """The translations of a node."""

    def source_for(self, node: int, out: IpPort, destination: int) -> int | None:
        """The source address of what a node sends out of a port."""


@dataclass(frozen=True, slots=True)
class Neighbour:
    """The node and port that take the packet in; ``others`` own the same address on the segment.

    ``key`` is that of the port, sub-port or VLAN interface. ``answers_for`` is empty where the neighbour has the
    address itself, else ``proxy`` or ``translation``.
    """

    node: int
    key: int
    path: tuple[Passed, ...] = ()
    answers_for: str = ""
    others: tuple[int, ...] = ()


def find_neighbour(network: Surroundings, node: int, out: IpPort, address: int) -> Neighbour | None:
    """Ask on a port for an address. An owner is preferred to who answers for it, then the order of the lab.

    On a serial link there is nothing to ask: what is sent at one end arrives at the other.
    """
    if out.serial:
        peer = network.wiring.peer[out.port]
        return Neighbour(network.port(peer).node, peer)
    if address >= SIX:
        return _owner(
            network,
            out,
            [r for r in network.receivers(out) if r.node != node and _bears(network, r, address)],
        )
    # A node that has the asker's own address does not answer it: to that node the request seems to come from
    # itself (so does Linux; RFC 5227 calls it a conflict).
    asker = network.source_for(node, out, address)
    receivers = [r for r in network.receivers(out) if r.node != node and asker not in network.own(r.node)]
    owner = _owner(network, out, [r for r in receivers if address in network.own(r.node)])
    if owner is not None:
        return owner
    for receiver in receivers:
        kind = answers_for(network, receiver, address)
        if kind and _answer_returns(network, out, receiver):
            return Neighbour(receiver.node, receiver.key, receiver.path, kind)
    return None


def _bears(network: Surroundings, receiver: Receiver, address: int) -> bool:
    """Whether the very port receiver bears an IPv6 address, or a link-local one (RFC 4861, 7.2.3)."""
    return network.port(receiver.key).bears(address)


def _owner(network: Surroundings, out: IpPort, owners: list[Receiver]) -> Neighbour | None:
    owners = [r for r in owners if _answer_returns(network, out, r)]
    if not owners:
        return None
    first = owners[0]
    others = {r.node for r in owners} - {first.node}
    return Neighbour(first.node, first.key, first.path, others=tuple(sorted(others)))


def _answer_returns(network: Surroundings, out: IpPort, by: Receiver) -> bool:
    """Whether what the answerer sends reaches the asker: tags may let a frame pass one way only."""
    return network.delivers_to(network.port(by.key), out.key)


def answers_for(network: Surroundings, by: Receiver, address: int) -> str:
    """Say as what a node answers for an address that it does not have: nothing, proxy, or translation."""
    node, port = network.node(by.node), network.port(by.key)
    rules = network.rules(by.node) if port.external else None
    if (
        rules is not None
        and rules.covers(address)
        and any(a.network == address & _mask(a.length) for a in port.four)
    ):
        return "translation"
    if not node.forwards or not port.proxy or address in network.unanswered(by.node):
        return ""
    route = network.table(by.node).find(address)
    return "proxy" if route is not None and route.out is not None and route.out.key != by.key else ""


def _mask(length: int) -> int:
    return (1 << 32) - (1 << (32 - length))
