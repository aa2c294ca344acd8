"""Route thinking: the networks that a router knows by itself, those it lacks, and the routes that would do."""

from collections import deque
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from ipaddress import ip_network
from itertools import islice

from ..addresses import Prefix
from ..sim import Network, domains, written
from ..sim.device import Node
from ..sim.numbers import is_link_local, is_six, last_of, number_of, same_network
from ..sim.ports import IpPort
from ..weave import Weave

Span = tuple[int, int]
"""A network by its number and the length of its prefix."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """A network, by name and prefix, and why a router knows it: ``connected``, or the route that leads there."""

    network: str
    name: str
    by: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Needed:
    """A network that a router lacks; ``statement`` is the route by the shortest way, empty where there is no way.

    ``ways`` is how many shortest ways there are, ``hops`` how many routers lie between.
    """

    network: str
    name: str
    statement: str
    hops: int
    ways: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Summary:
    """One route in the place of several: what it ``covers``, which networks ``beside`` them it takes in although they
    lie elsewhere, and how many ``more`` addresses that belong to no network of the lab."""

    statement: str
    covers: tuple[str, ...]
    beside: tuple[str, ...]
    more: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Thoughts:
    """What a node knows and lacks of the lab's networks; ``node`` is a device, or ``box/instance``."""

    node: str
    knows: tuple[Known, ...]
    lacks: tuple[Needed, ...]
    summaries: tuple[Summary, ...]


def thoughts(
    network: Network, chart: Weave, form: str = "via", loopbacks: bool = True
) -> tuple[Thoughts, ...]:
    """Work out what every forwarding node knows and lacks, and the routes in a form: ``via``, ``out`` or ``both``."""
    around = _Neighbourhood(network)
    names = _names(chart)
    held = sorted(
        {span for node in network.nodes.values() for span in _spans(node)}, key=lambda s: (is_six(s[0]), s)
    )
    wanted = [s for s in held if loopbacks or s[1] < _longest(s)]
    return tuple(
        _of_node(network, node, wanted, around, names, form)
        for node in network.nodes.values()
        if node.forwards
    )


def _of_node(
    network: Network,
    node: Node,
    wanted: Iterable[Span],
    around: "_Neighbourhood",
    names: Mapping[str, str],
    form: str,
) -> Thoughts:
    ways = around.ways(node)
    own = set(_spans(node))
    table = network.table(node.number)
    knows: list[Known] = []
    lacks: list[Needed] = []
    groups: dict[str, list[Span]] = {}
    for span in wanted:
        prefix = _text(span)
        if span in own:
            knows.append(Known(network=prefix, name=names.get(prefix, ""), by="connected"))
            continue
        route = table.find(last_of(*span) - (1 if span[1] < _longest(span) - 1 else 0))
        if route is not None:
            knows.append(Known(network=prefix, name=names.get(prefix, ""), by=route.text))
            continue
        found = ways.get(span, [])
        tail = _tail(node, found[0][0], found[0][1], form) if found else ""
        if tail:
            groups.setdefault(tail, []).append(span)
        lacks.append(
            Needed(
                network=prefix,
                name=names.get(prefix, ""),
                statement=f"route {prefix} {tail}" if tail else "",
                hops=found[0][2] if found else 0,
                ways=len(found),
            )
        )
    elsewhere = {
        tail: [s for s in wanted if s not in spans and s not in own] for tail, spans in groups.items()
    }
    summaries = [
        s for tail, spans in groups.items() for s in _summaries(tail, spans, elsewhere[tail], list(wanted))
    ]
    return Thoughts(node=node.name, knows=tuple(knows), lacks=tuple(lacks), summaries=tuple(summaries))


def _tail(node: Node, port: IpPort, hop: int, form: str) -> str:
    """Write the way of a route: its next hop, its port, or both, and the instance that it is of."""
    instance = f" in {node.instance}" if node.instance else ""
    if form == "out":
        return f"out {port.name}{instance}"
    out = f" out {port.name}" if form == "both" or is_link_local(hop) else ""
    return f"via {written(hop)}{out}{instance}"


def _summaries(tail: str, spans: list[Span], elsewhere: list[Span], every: list[Span]) -> list[Summary]:
    """Summarize networks that are reached by the same way, of each family."""
    found = []
    for six in (False, True):
        own = [s for s in spans if is_six(s[0]) is six]
        if len(own) < 2:
            continue
        whole = _around(own)
        if whole.prefixlen == 0 and not six:
            continue  # which is a default route, and is told as such elsewhere
        inside = [s for s in every if is_six(s[0]) is six and ip_network(_text(s)).subnet_of(whole)]  # type: ignore[arg-type]
        held = sum(ip_network(_text(s)).num_addresses for s in _outermost(inside))
        found.append(
            Summary(
                statement=f"route {whole} {tail}",
                covers=tuple(map(_text, own)),
                beside=tuple(_text(s) for s in elsewhere if s in inside),
                more=whole.num_addresses - held,
            )
        )
    return found


def _around(spans: list[Span]) -> Prefix:
    """Return the longest prefix that covers all of some networks."""
    first, last = min(n for n, _ in spans), max(last_of(*s) for s in spans)
    length = min(length for _, length in spans)
    while not same_network(first, last, length):
        length -= 1
    return ip_network(f"{written(first)}/{length}", strict=False)


def _outermost(spans: list[Span]) -> list[Span]:
    return [
        s for s in spans if not any(o != s and o[1] <= s[1] and same_network(s[0], o[0], o[1]) for o in spans)
    ]


class _Neighbourhood:
    """Which forwarding nodes hear each other, and over which port and address."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.next: dict[int, list[tuple[int, IpPort, int]]] = {}
        for domain in domains(network):
            ports = [port for _, port in domain.interfaces if network.nodes[port.node].forwards]
            for own in ports:
                for other in ports:
                    for hop in _hops(own, other) if own.node != other.node else ():
                        self.next.setdefault(own.node, []).append((other.node, own, hop))

    def ways(self, node: Node) -> dict[Span, list[tuple[IpPort, int, int]]]:
        """Return by network the shortest ways of a node: port, next hop, and how many routers away it is."""
        distance = {node.number: 0}
        first: dict[int, list[tuple[IpPort, int]]] = {node.number: []}
        waiting = deque([node.number])
        found: dict[Span, list[tuple[IpPort, int, int]]] = {}
        while waiting:
            at = waiting.popleft()
            for span in _spans(self.network.nodes[at]) if at != node.number else ():
                there = found.setdefault(span, [])
                if not there or there[0][2] == distance[at]:
                    there += [(p, h, distance[at]) for p, h in first[at] if (p, h, distance[at]) not in there]
            for other, port, hop in self.next.get(at, ()):
                way = [(port, hop)] if at == node.number else first[at]
                if other not in distance:
                    distance[other], first[other] = distance[at] + 1, list(way)
                    waiting.append(other)
                elif distance[other] == distance[at] + 1:
                    first[other] += [w for w in way if w not in first[other]]
        return {span: [w for w in ways if is_six(w[1]) == is_six(span[0])] for span, ways in found.items()}


def _hops(own: IpPort, other: IpPort) -> Iterator[int]:
    """Yield the addresses of another port that may be next hops, one of each family.

    In IPv6 the link-local one where both have no global network in common (RFC 4861, section 8: routers know each other
    by it).
    """
    for mine, theirs in ((own.four, other.four), (own.six or own.links, other.six or other.links)):
        shared = (
            b.address
            for a in mine
            for b in theirs
            if a.length == b.length and same_network(a.address, b.address, a.length)
        )
        yield from islice(shared, 1)


def _spans(node: Node) -> list[Span]:
    return [(a.network, a.length) for port in node.ports for a in (*port.four, *port.six)]


def _longest(span: Span) -> int:
    return 128 if is_six(span[0]) else 32


def _text(span: Span) -> str:
    return f"{written(span[0])}/{span[1]}"


def _names(chart: Weave) -> dict[str, str]:
    """Return the names of networks by their prefixes; loopbacks by the device that has them."""
    named = {prefix: row.name for row in chart.rows for prefix in row.prefix.split(", ") if prefix}
    for column in chart.columns:
        for loopback in column.loopbacks:
            if loopback.address:
                address = ip_network(loopback.address)
                named.setdefault(f"{written(number_of(address.network_address))}/{address.prefixlen}",
                                 f"{column.device} {loopback.name}")  # fmt: skip
    return named
