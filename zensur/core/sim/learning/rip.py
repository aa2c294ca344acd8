"""Learned routes: RIP version 2 (RFC 2453), run to a state of rest, with split horizon and infinity 16.

Where there are several states of rest, as between two routers that announce the same backup route, it is the one in
which the devices settle one after another in the order of the lab: who has not settled yet announces nothing.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ..device import LEARNED_PREFERENCE, Node, StaticRoute
from ..fabric import Fabric
from ..numbers import SIX, same_network
from ..ports import IpPort
from ..routes import ActiveRoute, settle
from .learned import LEARNED_ORDER, Learned

INFINITY = 16
_MOST_ROUNDS = 4 * INFINITY

Prefix = tuple[int, int]


@dataclass(frozen=True, slots=True)
class _Adjacency:
    """A port that receives the announcements of another node's port."""

    announcer: Node
    sends: IpPort
    listener: Node
    receives: IpPort


@dataclass(frozen=True, slots=True)
class _Way:
    """A route as it was learned: its metric, the neighbour's address and node, and the port that it came in by."""

    metric: int
    next_hop: int
    announcer: int
    port: str


Ways = dict[int, dict[Prefix, _Way]]
Announced = dict[Prefix, tuple[int, str | None]]
"""What a node announces: metrics by prefix, each with the port that it was learned on."""


def learn_routes(fabric: Fabric) -> Learned:
    """Work out the routes that every node learns. A node that does not forward learns and announces nothing."""
    speakers = [n for n in fabric.nodes.values() if n.serving.learning and n.forwards]
    adjacencies = [h for node in speakers for h in _adjacencies(fabric, node)]
    ways: Ways = {node.number: {} for node in speakers}
    if adjacencies:
        _rest(fabric, speakers, adjacencies, ways)
    learned = Learned()
    for node in speakers:
        routes = _routes(fabric, node, ways[node.number])
        if routes:
            learned.routes[node.number] = routes
    return learned


def announcements(fabric: Fabric, number: int) -> set[tuple[int, Prefix]]:
    """Return what a node of a settled fabric itself announces, and to which node; what it only relays is left out."""
    node = fabric.nodes.get(number)
    if node is None or node.serving.learning is None or not node.forwards:
        return set()
    winners: dict[Prefix, ActiveRoute] = {}
    for route in fabric.table(number).routes():
        winners.setdefault((route.network, route.length), route)
    announced = [
        prefix
        for prefix, route in winners.items()
        if prefix[0] < SIX and route.origin != "learned" and _is_announced(route, node)
    ]
    return {
        (adjacency.listener.number, prefix)
        for adjacency in _adjacencies(fabric, node)
        for prefix in announced
    }


def _adjacencies(fabric: Fabric, node: Node) -> Iterator[_Adjacency]:
    """Yield who receives the announcements of a node: each lies in a network of the other's port."""
    learning = node.serving.learning
    assert learning is not None
    for port in node.ports:
        name = port.name.lower()
        if name not in learning.run or name in learning.passive or not port.four or port.key < 0:
            continue
        for receiver in fabric.receivers(port) if fabric.is_up(port) else ():
            other, receives = fabric.nodes[receiver.node], fabric.port(receiver.key)
            theirs = other.serving.learning
            if theirs is None or not other.forwards or other.number == node.number or not receives.four:
                continue
            if receives.name.lower() in theirs.run | theirs.passive and _neighbours(port, receives):
                yield _Adjacency(node, port, other, receives)


def _neighbours(a: IpPort, b: IpPort) -> bool:
    """Whether the primary addresses lie in a network of each other's ports."""
    return any(same_network(a.four[0].address, n.network, n.length) for n in b.four) and any(
        same_network(b.four[0].address, n.network, n.length) for n in a.four
    )


def _routes(fabric: Fabric, node: Node, ways: dict[Prefix, _Way]) -> list[StaticRoute]:
    learning = node.serving.learning
    return [
        StaticRoute(
            LEARNED_ORDER + n, network, length, way.next_hop, way.port, LEARNED_PREFERENCE, "learned",
            learning.where if learning else None, f"a route learned from {fabric.name(way.announcer)}", way.metric,
        )
        for n, ((network, length), way) in enumerate(sorted(ways.items()))
    ]  # fmt: skip


def _rest(fabric: Fabric, speakers: list[Node], adjacencies: list[_Adjacency], ways: Ways) -> None:
    """Let the nodes settle one after another, again and again, until none learns anything else.

    There may be no state of rest, as where a router hears its own backup route come round a ring that is heard one
    way only: what still comes and goes after so many rounds is no longer learned by the first node where it does.
    """
    settled = {node.number: _settled(fabric, node) for node in speakers}
    own = {
        node.number: {(a.network, a.length) for p in fabric.up_ports(node.number) for a in p.four}
        for node in speakers
    }
    heard: dict[int, list[_Adjacency]] = {node.number: [] for node in speakers}
    for adjacency in adjacencies:
        heard[adjacency.listener.number].append(adjacency)
    announced: dict[int, Announced] = {node.number: {} for node in speakers}
    while True:
        for _ in range(_MOST_ROUNDS):
            before = dict(ways)
            for node in speakers:
                ways[node.number] = _best(heard[node.number], announced, own[node.number])
                announced[node.number] = _announced(fabric, node, ways[node.number], settled[node.number])
            if ways == before:
                return
        restless = next(n for n, best in ways.items() if best != before[n])
        own[restless] |= {prefix for prefix, _ in ways[restless].items() ^ before[restless].items()}


def _best(heard: list[_Adjacency], announced: dict[int, Announced], own: set[Prefix]) -> dict[Prefix, _Way]:
    """Return the best of what a node hears; its own networks it does not learn."""
    best: dict[Prefix, _Way] = {}
    for adjacency in heard:
        next_hop = adjacency.sends.four[0].address
        for prefix, (metric, learned_on) in announced[adjacency.announcer.number].items():
            if learned_on == adjacency.sends.name.lower() or metric + 1 >= INFINITY or prefix in own:
                continue  # split horizon (RFC 2453, 3.4.3)
            way = _Way(metric + 1, next_hop, adjacency.announcer.number, adjacency.receives.name.lower())
            known = best.get(prefix)
            if known is None or (way.metric, way.next_hop) < (known.metric, known.next_hop):
                best[prefix] = way
    return best


def _announced(
    fabric: Fabric, node: Node, ways: dict[Prefix, _Way], settled: dict[Prefix, ActiveRoute] | None
) -> Announced:
    """Return what a node announces.

    ``settled`` are the routes that stay in use whatever is learned, where that can be announced.
    """
    found: Announced = {}
    if settled is None:
        routes = _in_use(fabric, node, _routes(fabric, node, ways))
    else:
        routes = settled
        found = {prefix: (way.metric, way.port) for prefix, way in ways.items() if prefix not in settled}
    for prefix, route in routes.items():
        if route.origin == "learned":
            assert route.static is not None
            found[prefix] = (route.static.metric, route.static.port)
        elif _is_announced(route, node):
            found[prefix] = (1, None)
    return found


def _in_use(fabric: Fabric, node: Node, learned: list[StaticRoute]) -> dict[Prefix, ActiveRoute]:
    """Return the IPv4 routes in use with what was learned, by prefix."""
    table = settle(fabric.up_ports(node.number), fabric.own(node.number), (*node.statics, *learned))
    found: dict[Prefix, ActiveRoute] = {}
    for route in table.routes():
        if route.network < SIX:
            found.setdefault((route.network, route.length), route)
    return found


def _settled(fabric: Fabric, node: Node) -> dict[Prefix, ActiveRoute] | None:
    """Return the routes in use before anything is learned; None where that may change which they are.

    It may not where every static route is in use, and before any that could be learned.
    """
    routes = _in_use(fabric, node, [])
    used = {id(r.static) for r in routes.values()}
    four = [s for s in node.statics if s.network < SIX]
    stays = all(id(s) in used and s.preference < LEARNED_PREFERENCE for s in four)
    return routes if stays else None


def _is_announced(route: ActiveRoute, node: Node) -> bool:
    learning = node.serving.learning
    assert learning is not None
    if route.length == 0:
        return learning.announces_default
    if route.origin == "connected":
        return route.out is not None and route.out.name.lower() in learning.run | learning.passive
    return learning.announces_static and route.origin == "static"
