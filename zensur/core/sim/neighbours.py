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

    def reached(self, device: int, out: IpPort) -> tuple[Reached, ...]:
        """Whom a frame sent out of a port reaches."""

    def hears(self, device: int, out: IpPort, key: int) -> bool:
        """Whether a frame sent out of a port reaches another, by its key."""

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
    """The device and port that take the packet in; ``others`` own the same address on the segment.

    ``key`` is that of the port, sub-port or VLAN interface.
    """

    device: int
    key: int
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
        r for r in network.reached(device, out) if r.device != device and asker not in network.own(r.device)
    ]
    owners = [
        r for r in heard if address in network.own(r.device) and _answer_returns(network, device, out, r)
    ]
    if owners:
        first = owners[0]
        others = {r.device for r in owners} - {first.device}
        return Neighbour(first.device, first.key, first.path, others=tuple(sorted(others)))
    for reached in heard:
        if _answers_for(network, reached, address) and _answer_returns(network, device, out, reached):
            return Neighbour(reached.device, reached.key, reached.path, proxy=True)
    return None


def _answer_returns(network: Surroundings, device: int, out: IpPort, by: Reached) -> bool:
    """Whether what the answerer sends reaches the asker: tags may let a frame pass one way only."""
    return network.hears(by.device, network.devices[by.device].by_key[by.key], out.key)


def _answers_for(network: Surroundings, by: Reached, address: int) -> bool:
    proxy = network.devices[by.device]
    if not proxy.forwards or not proxy.by_key[by.key].proxy or address in network.dead(by.device):
        return False
    route = network.table(by.device).find(address)
    return route is not None and route.out is not None and route.out.key != by.key
