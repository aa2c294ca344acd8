"""Leases: who gives an address to a port that asks for one (RFC 2131), directly or through a relay (RFC 1542)."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..device import GATEWAY_PREFERENCE, StaticRoute
from ..fabric import Fabric
from ..numbers import same_network
from ..packets import NO_TRANSLATION, Packet, carry
from ..ports import IpPort, PortAddress
from ..serving import LeaseBlock
from ..translation import Sessions
from .learned import LEASED_ORDER, Learned

_SERVER_NUMBER = 67


@dataclass(frozen=True, slots=True)
class Lease:
    """An address given by a node, out of one of its blocks, to a port by its key."""

    server: int
    block: LeaseBlock
    address: int
    port: int


def give_leases(fabric: Fabric) -> tuple[tuple[Lease, ...], Learned]:
    """Give a lease to every port that asks for one, in the order of the lab."""
    learned = Learned()
    leases: list[Lease] = []
    for device in fabric.devices:
        for port in device.ports:
            if port.asks_lease is None or not fabric.is_up(port):
                continue
            lease = _first_offer(fabric, port, leases)
            if lease is None:
                continue
            leases.append(lease)
            block = lease.block
            learned.addresses[port.key] = [
                PortAddress(lease.address, block.length, port.asks_lease, "leased")
            ]
            learned.resolvers.setdefault(port.node, []).extend(block.resolvers)
            if block.gateway is not None:
                text = f"the gateway of the lease from {fabric.name(lease.server)}"
                route = StaticRoute(
                    LEASED_ORDER + len(leases), 0, 0, block.gateway, port.name.lower(), GATEWAY_PREFERENCE,
                    "leased", port.asks_lease, text,
                )  # fmt: skip
                learned.routes.setdefault(port.node, []).append(route)
    return tuple(leases), learned


def _first_offer(fabric: Fabric, port: IpPort, given: list[Lease]) -> Lease | None:
    held = {a.address for r in fabric.receivers(port) for a in fabric.port(r.key).four}
    held |= {a.address for a in port.four}
    for server, asked in _servers(fabric, port):
        for block in fabric.nodes[server].serving.leases:
            if not any(same_network(address, block.network, block.length) for address in asked):
                continue
            taken = held | {
                g.address for g in given if (g.server, g.block) == (server, block) or _beside(fabric, port, g)
            }
            address = _free(block, taken)
            if address is not None:
                return Lease(server, block, address, port.key)
    return None


def _beside(fabric: Fabric, port: IpPort, lease: Lease) -> bool:
    """Whether a lease was given to a port on the same segment."""
    return any(r.key == lease.port for r in fabric.receivers(port))


def _servers(fabric: Fabric, port: IpPort) -> Iterator[tuple[int, list[int]]]:
    """Yield the nodes that hear a request and can answer it, each with the addresses it is asked on.

    Those on the segment first, in the order of the lab, then those behind a relay.
    """
    receivers = fabric.receivers(port)
    for receiver in receivers:
        server = fabric.port(receiver.key)
        if fabric.nodes[receiver.node].serving.leases and fabric.delivers_to(server, port.key):
            yield receiver.node, [a.address for a in server.four]
    for receiver in receivers:
        relay = fabric.port(receiver.key)
        if relay.relay is not None and relay.four and fabric.delivers_to(relay, port.key):
            own = relay.four[0].address
            server_node = _relayed(fabric, receiver.node, own, relay.relay)
            if server_node is not None:
                yield server_node, [own]


def _relayed(fabric: Fabric, relay: int, own: int, server: int) -> int | None:
    """Carry a request from a relay to the server and the offer back; None where either is lost."""
    translator = Sessions(fabric) if fabric.translates else NO_TRANSLATION
    request = carry(fabric, relay, Packet(own, server, "udp", _SERVER_NUMBER, _SERVER_NUMBER), translator)
    if request.reason is not None or not fabric.nodes[request.node].serving.leases:
        return None
    offer = carry(
        fabric, request.node, Packet(server, own, "udp", _SERVER_NUMBER, _SERVER_NUMBER), translator
    )
    return request.node if offer.reason is None and offer.node == relay else None


def _free(block: LeaseBlock, taken: set[int]) -> int | None:
    """Return the lowest, or highest, address of a block that is neither taken nor excluded."""
    address, step = (block.last, -1) if block.highest else (block.first, 1)
    while block.first <= address <= block.last:
        span = next((s for s in block.excluded if s[0] <= address <= s[1]), None)
        if span is not None:
            address = span[0] - 1 if block.highest else span[1] + 1
        elif address in taken:
            address += step
        else:
            return address
    return None
