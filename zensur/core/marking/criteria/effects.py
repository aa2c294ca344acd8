"""What routes and gateways do, compared with the model answer: the neighbour that packets go towards.

One slip is lost once: a device is judged with its ports and the routes its next hops are found by as
the learner has them, or as the model answer has them, whichever is better; every other device is as
in the model answer.
"""

from collections.abc import Callable, Iterable, Iterator
from itertools import pairwise

from ...addresses import Prefix
from ...sheet import AnyItem, Configuration, Route
from ...sheet.statements import Instance
from ...sim import Network
from ...sim.neighbours import Neighbour
from ...sim.numbers import SIX, is_link_local, is_never_sent, last_of, number_of, same_network

Forwarding = tuple[object, ...]
"""Where packets go: the action, the link, and the neighbour."""
_NEVER_SENT = (
    1,
    *(first << 24 for first in (127, 128, 224)),
    SIX + 2,
    *(SIX | first << 112 for first in (0xFE80, 0xFEC0, 0xFF00)),
)
"""Where ranges that are never forwarded begin or end (RFC 1122, 3.2.1.3; RFC 4291), so that no piece mixes them."""


def forwarding(network: Network, node: int, address: int, by_owner: bool = False) -> Forwarding:
    """Say where a node's packets to an address go: by which action, over which link, to which neighbour.

    ``by_owner`` lets no neighbour answer for a next hop that is another's.
    """
    decision = network.decide(node, address)
    out = decision.route.out if decision.route else None
    if decision.ask is None or out is None:
        return (decision.action,)
    link = (network.wiring.segment_of(out.key), out.vlan)
    answers = decision.neighbour
    if (
        answers is not None
        and by_owner
        and decision.ask != address
        and not _owns(network, answers, decision.ask)
    ):
        answers = None
    if answers is None:
        return (None, link, decision.ask)  # why nobody answers there is no matter of this device
    return (decision.action, link, answers.node)


def _owns(network: Network, neighbour: Neighbour, address: int) -> bool:
    return any(a.address == address for a in network.port(neighbour.key).addresses) or address in network.own(
        neighbour.node
    )


Span = tuple[int, int]
"""The first address of a network, and the length of its prefix."""


def networks_of(model: Network) -> list[Span]:
    """Return the networks of a lab, the longest prefixes first."""
    ports = (port for node in model.nodes for port in model.up_ports(node))
    found = {(a.network, a.length) for port in ports for a in (*port.four, *port.six)}
    return sorted(found, key=lambda n: -n[1])


class RouteClasses:
    """The addresses on which a model route is judged: each of the lab's networks in it, and all others. It never
    changes.

    Only addresses for which the model answer uses this very route count.
    """

    def __init__(self, networks: Iterable[Span], node: int, dest: Prefix) -> None:
        self.node = node
        self.low, self.high = _span(dest)
        self.dest = (self.low, dest.prefixlen)
        self.networks = [n for n in networks if n[1] >= dest.prefixlen and self.low <= n[0] < self.high]

    def _cuts(self, *spans: Span) -> list[int]:
        """Cut the destination so that no span begins or ends inside a piece."""
        cuts = {self.low, self.high, *_NEVER_SENT}
        for network, length in (*self.networks, *spans):
            cuts |= {network, last_of(network, length) + 1}
        return sorted(cut for cut in cuts if self.low <= cut <= self.high)

    def pieces(self, model: Network, learner: Network) -> Iterator[tuple[Span | None, int]]:
        """Yield the lab's network (None for all others) and one address of every piece in which both have one route."""
        table = model.table(self.node)
        spans = {*table.spans(), *learner.table(self.node).spans()}
        for start, end in pairwise(self._cuts(*spans)):
            address = start + 1 if end - start > 2 else start
            route = table.find(address)
            if route is None or route.static is None or (route.network, route.length) != self.dest:
                continue
            if not is_never_sent(address) and not is_link_local(address):
                yield next((n for n in self.networks if same_network(address, *n)), None), address

    def earned(self, model: Network, learner: Network, by_owner: bool = False) -> float | None:
        """Return what the learner's network earns; None where the model answer never uses this route.

        All where every network of the lab goes right, and so do all other addresses; half where only the networks do.
        """
        networks: dict[Span, bool] = {}
        others: list[bool | None] = []
        for network, address in self.pieces(model, learner):
            right = forwarding(learner, self.node, address, by_owner) == forwarding(model, self.node, address)
            if network is not None:
                networks[network] = networks.get(network, True) and right
            else:
                others.append(right or (None if self._is_forgiven(model, learner, address) else False))
        if not networks and not others:
            return None
        if not all(networks.values()):
            return 0.0
        if not others or (True in others and False not in others):
            return 1.0
        return 0.5 if networks else 0.0

    def _is_forgiven(self, model: Network, learner: Network, address: int) -> bool:
        """Say whether an address that nobody has may go elsewhere.

        That is where the learner discards it by a longer prefix, or sends it where another route of the model answer
        leads, as a summary wider than planned does; unless the model answer discards it.
        """
        ours, theirs = model.table(self.node).find(address), learner.table(self.node).find(address)
        if ours is None or ours.out is None or theirs is None or theirs.length <= self.dest[1]:
            return False
        return theirs.out is None or forwarding(learner, self.node, address) in self._other_ways(model)

    def _other_ways(self, model: Network) -> set[Forwarding]:
        """Return where the other routes of the model answer lead."""
        table = model.table(self.node)
        samples = (r.network + (r.length < 31) for r in table.routes() if r.static and r.out is not None)
        found = ((a, table.find(a)) for a in samples)
        return {
            forwarding(model, self.node, a)
            for a, r in found
            if r is not None and r.static and (r.network, r.length) != self.dest
        }

    def holds(self, route: Route) -> bool:
        """Say whether a route is to a part of the destination only."""
        low, high = _span(route.dest)
        return self.low <= low and high <= self.high and route.dest.prefixlen > self.dest[1]

    def reaches(self, route: Route) -> bool:
        """Say whether a route holds for any address that is judged."""
        low, high = _span(route.dest)
        return low < self.high and high > self.low


def _span(prefix: Prefix) -> tuple[int, int]:
    """Return the first address of a prefix, and the first behind it."""
    return number_of(prefix.network_address), number_of(prefix.broadcast_address) + 1


def with_ports_of(learner: Configuration, model: Configuration) -> Configuration:
    """Return a configuration with the ports of the model answer."""
    ports = [i for i in model.items if _is_of_port(i)]
    return Configuration.of_items([*ports, *(i for i in learner.items if not _is_of_port(i))])


def with_routes_of(
    learner: Configuration, model: Configuration, judged: Callable[[Route], bool]
) -> Configuration:
    """Return a configuration with all routes of the model answer but those that are judged."""

    def helps(item: AnyItem) -> bool:
        return isinstance(item.statement, Route) and not judged(item.statement)

    own = [i for i in learner.items if not helps(i)]
    return Configuration.of_items([*own, *(i for i in model.items if helps(i))])


def _is_of_port(item: AnyItem) -> bool:
    """Whether a statement is about a port, a loopback or a VLAN, or declares the instance of one."""
    return isinstance(item.statement, Instance) or (
        item.block is not None and item.block.kind in ("port", "loopback", "vlan")
    )


def gateway_is_right(learner: Network, model: Network, node: int, six: bool) -> bool:
    """Say whether the gateway is an address of the model's gateway device on that link, in either network."""
    required, found = _gate(model, node, six), _gate(learner, node, six)
    if required is None or found is None:
        return False
    return found[:2] == required[:2] and found[2] in required[3] | found[3]


def _gate(network: Network, node: int, six: bool) -> tuple[int, tuple[int, int], int, frozenset[int]] | None:
    """Return the gateway's node, the port it is asked on, the address, and all its addresses there."""
    somewhere = SIX | 0x2000 << 112 if six else 1 << 24
    route = network.table(node).find(SIX if six else 0)
    if route is None or route.length or route.out is None:
        return None
    decision = network.decide(node, somewhere)
    neighbour, ask = decision.neighbour, decision.ask
    if neighbour is None or ask is None:
        return None
    there = frozenset(a.address for a in network.port(neighbour.key).addresses)
    link = (network.wiring.segment_of(route.out.key), route.out.vlan)
    return neighbour.node, link, ask, there
