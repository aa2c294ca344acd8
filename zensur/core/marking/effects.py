"""What routes and gateways do, compared with the model answer: the neighbour that packets go towards.

One slip is lost once: a device is judged with its ports and the routes its next hops are found by as
the learner has them, or as the model answer has them, whichever is better; every other device is as
in the model answer.
"""

from collections.abc import Callable, Iterator
from ipaddress import IPv4Network
from itertools import pairwise

from ..sheet import Configuration, Route
from ..sim import Network, Verb

Towards = tuple[object, ...]
_NEVER_SENT = tuple(first << 24 for first in (1, 127, 128, 224))
"""Where ranges that are never on a wire begin or end (RFC 1122, 3.2.1.3), so that no piece mixes them."""


def towards(network: Network, device: int, address: int) -> Towards:
    """Say where a device's packets to an address go: which verb, over which link, to which neighbour."""
    decision = network.decide(device, address)
    out = decision.route.out if decision.route else None
    if decision.verb not in (Verb.SEND, Verb.NO_NEIGHBOUR) or out is None:
        return (decision.verb,)
    link = (network.wiring.cluster_of(out.key), out.vlan)
    if decision.neighbour is None:
        return (decision.verb, link, decision.ask)
    return (decision.verb, link, decision.neighbour.node)


class RouteClasses:
    """The addresses on which a model route is judged: each of the lab's networks in it, and all others.

    Only addresses for which the model answer uses this very route count.
    """

    def __init__(self, model: Network, device: int, dest: IPv4Network) -> None:
        self.model, self.device = model, device
        self.low, self.high = int(dest.network_address), int(dest.broadcast_address) + 1
        self.dest = (self.low, dest.prefixlen)
        self.networks = sorted(
            {
                (a.network, a.length)
                for d in range(len(model.devices))
                for port in model.up_ports(d)
                for a in port.four
                if a.length >= dest.prefixlen and self.low <= a.network < self.high
            },
            key=lambda n: -n[1],
        )

    def _cuts(self, *spans: tuple[int, int]) -> list[int]:
        """Cut the destination so that no span begins or ends inside a piece."""
        cuts = {self.low, self.high, *_NEVER_SENT}
        for network, length in (*self.networks, *spans):
            cuts |= {network, network + (1 << (32 - length))}
        return sorted(cut for cut in cuts if self.low <= cut <= self.high)

    def pieces(self, learner: Network) -> Iterator[tuple[object, int]]:
        """Yield the class and one address of every piece in which both networks have one route each."""
        spans = {span for network in (self.model, learner) for span in network.table(self.device).spans()}
        cuts = self._cuts(*spans)
        for start, end in pairwise(cuts):
            address = start + 1 if end - start > 2 else start
            route = self.model.table(self.device).find(address)
            if route is None or route.static is None or (route.network, route.length) != self.dest:
                continue
            inside = next((n for n in self.networks if (address ^ n[0]) >> (32 - n[1]) == 0), "others")
            yield inside, address

    def wrong(self, learner: Network) -> int | None:
        """Count the classes that go elsewhere in the learner's network; None where there is no class."""
        classes: dict[object, bool] = {}
        for key, address in self.pieces(learner):
            right = towards(learner, self.device, address) == towards(self.model, self.device, address)
            classes[key] = classes.get(key, True) and right
        return sum(not right for right in classes.values()) if classes else None

    def reaches(self, route: Route) -> bool:
        """Say whether a route holds for any address that is judged."""
        if not isinstance(route.dest, IPv4Network):
            return False
        low, high = int(route.dest.network_address), int(route.dest.broadcast_address) + 1
        return low < self.high and high > self.low


def arrangements(
    learner: Configuration, model: Configuration, concerns: Callable[[Route], bool]
) -> Iterator[Configuration]:
    """Yield the configurations in which a device is judged, the learner's own first.

    ``concerns`` says which routes are judged; the others only serve to find next hops.
    """
    yield learner
    theirs = [i for i in learner.items if i.block is None]
    ports = [i for i in model.items if i.block is not None]
    yield Configuration.of_items([*ports, *theirs])
    judged = [i for i in theirs if not isinstance(i.statement, Route) or concerns(i.statement)]
    helping = [i for i in model.items if isinstance(i.statement, Route) and not concerns(i.statement)]
    own = [i for i in learner.items if i.block is not None]
    yield Configuration.of_items([*own, *judged, *helping])
    yield Configuration.of_items([*ports, *judged, *helping])


def gateway_is_right(learner: Network, model: Network, device: int) -> bool:
    """Say whether the gateway is an address of the model's gateway device on that link."""
    required, found = _gate(model, device), _gate(learner, device)
    if required is None or found is None:
        return False
    return found[:2] == required[:2] and found[2] in required[3]


def _gate(network: Network, device: int) -> tuple[int, tuple[int, int], int, frozenset[int]] | None:
    """Return the gateway's device, the port it is asked on, the address, and all its addresses there."""
    route = network.table(device).find(0)
    if route is None or route.length or route.out is None:
        return None
    decision = network.decide(device, 1 << 24)
    neighbour, ask = decision.neighbour, decision.ask
    if neighbour is None or ask is None:
        return None
    there = frozenset(a.address for a in network.port(neighbour.key).addresses)
    link = (network.wiring.cluster_of(route.out.key), route.out.vlan)
    return neighbour.node, link, ask, there
