"""Finding the neighbour that has an address (RFC 826), or one that answers for it (RFC 1027)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from .device import CompiledDevice, IpPort, Own
from .routes import RouteTable
from .segments import Passed, Reached
from .wiring import Wiring


class Surroundings(Protocol):
    """What has to be known of a network to find a neighbour in it."""

    wiring: Wiring

    @property
    def devices(self) -> Sequence[CompiledDevice]:
        """All devices by number."""

    def reached(self, port: int) -> tuple[Reached, ...]:
        """Whom a frame sent out of a port reaches."""

    def own(self, device: int) -> Own:
        """The addresses that a device accepts packets to."""

    def dead(self, device: int) -> frozenset[int]:
        """The network and broadcast addresses of a device."""

    def table(self, device: int) -> RouteTable:
        """The active routes of a device."""

    def source_for(self, device: int, out: IpPort) -> int | None:
        """The source address of what a device sends out of a port."""


@dataclass(frozen=True, slots=True)
class Neighbour:
    """The device and port that take the packet in; ``others`` own the same address on the segment."""

    device: int
    port: int
    path: tuple[Passed, ...] = ()
    proxy: bool = False
    others: tuple[int, ...] = ()


def find_neighbour(network: Surroundings, device: int, out: IpPort, address: int) -> Neighbour | None:
    """Ask on a port for an address. An owner is preferred to a proxy, then the order of the lab.

    A device that has the asker's own address does not answer it: to that device the request seems to
    come from itself (so does Linux; RFC 5227 calls it a conflict). On a serial link there is nothing to ask: what is sent at one end arrives at the other.
    """
    wiring = network.wiring
    if out.serial:
        peer = wiring.peer[out.port]
        return Neighbour(wiring.port_device[peer], peer)
    asker = network.source_for(device, out)
    heard = [
        r
        for r in network.reached(out.port)
        if wiring.port_device[r.port] != device and asker not in network.own(wiring.port_device[r.port])
    ]
    owners = [r for r in heard if address in network.own(wiring.port_device[r.port])]
    if owners:
        first = owners[0]
        found = wiring.port_device[first.port]
        others = {wiring.port_device[r.port] for r in owners} - {found}
        return Neighbour(found, first.port, first.path, others=tuple(sorted(others)))
    for reached in heard:
        proxy = wiring.port_device[reached.port]
        if _answers_for(network, proxy, reached.port, address):
            return Neighbour(proxy, reached.port, reached.path, proxy=True)
    return None


def _answers_for(network: Surroundings, proxy: int, port: int, address: int) -> bool:
    if not network.devices[proxy].forwards or address in network.dead(proxy):
        return False
    route = network.table(proxy).find(address)
    return route is not None and route.out is not None and route.out.port != port
