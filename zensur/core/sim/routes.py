"""The routing table of one device: longest prefix match (RFC 1812, 5.2.4.3) and routes found by other routes."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from ..sheet import Where
from .device import StaticRoute
from .numbers import SIX, is_link_local, mask_of
from .ports import IpPort, PortAddress

MOST_STEPS = 8


@dataclass(frozen=True, slots=True)
class ActiveRoute:
    """A route in use. ``out`` is None for a discard.

    ``ask`` is the neighbour to ask for, None for the destination itself; ``chain`` are the routes
    that the next hop was found by; it is of a static route or gateway, or of an address of its own.
    """

    network: int
    length: int
    preference: int
    out: IpPort | None
    ask: int | None
    origin: str
    where: Where | None
    chain: "tuple[ActiveRoute, ...]" = ()
    static: StaticRoute | None = None
    own: PortAddress | None = None

    @property
    def text(self) -> str:
        """The statement that makes it, as it is written."""
        if self.static is not None:
            return self.static.text
        return f"address {self.own.text}" if self.own else ""


def _precedence(route: ActiveRoute) -> tuple[int, int]:
    return route.preference, route.static.order if route.static else -2


_Lengths = dict[int, dict[int, list[ActiveRoute]]]


class RouteTable:
    """Active routes by length of prefix; of equal ones the lowest preference, then the first in the sheet."""

    __slots__ = ("_four", "_six")

    def __init__(self, routes: Iterable[ActiveRoute]) -> None:
        four: _Lengths = {}
        six: _Lengths = {}
        for route in routes:
            family = six if route.network >= SIX else four
            family.setdefault(route.length, {}).setdefault(route.network, []).append(route)
        for level in (*four.values(), *six.values()):
            for same in level.values():
                same.sort(key=_precedence)
        self._four = [(mask_of(n, False), four[n]) for n in sorted(four, reverse=True)]
        self._six = [(mask_of(n, True), six[n]) for n in sorted(six, reverse=True)]

    def find(self, address: int) -> ActiveRoute | None:
        """Find the route for an address."""
        for mask, level in self._six if address >= SIX else self._four:
            found = level.get(address & mask)
            if found is not None:
                return found[0]
        return None

    def spans(self) -> Iterator[tuple[int, int]]:
        """Yield the network and length of every prefix in the table."""
        for six, lengths in ((0, self._four), (1, self._six)):
            for mask, level in lengths:
                for network in level:
                    yield network, mask.bit_count() - six

    def routes(self) -> Iterator[ActiveRoute]:
        """Yield all active routes, IPv4 first, of each prefix the one that wins first."""
        for _, level in (*self._four, *self._six):
            for same in level.values():
                yield from same

    def find_without(self, address: int, static: StaticRoute) -> ActiveRoute | None:
        """Find the route for a next hop, leaving out the route whose next hop it is."""
        for mask, level in self._six if address >= SIX else self._four:
            for route in level.get(address & mask, ()):
                if route.static is not static:
                    return route
        return None


def connected(ports: Iterable[IpPort]) -> list[ActiveRoute]:
    """Return a route to the network of every address of the ports, all of them up."""
    return [
        ActiveRoute(a.network, a.length, 0, port, None, "connected", a.where, own=a)
        for port in ports
        for a in (*port.four, *port.six)
    ]


def settle(ports: Sequence[IpPort], own: Iterable[int], statics: Sequence[StaticRoute]) -> RouteTable:
    """Work out which routes are active, given the ports that are up and the device's own addresses.

    A next hop is found through the routes that are active, so this runs to a fixed point: a chain of
    at most 8 routes is found in as many rounds; what has not come to rest by then does not resolve.
    """
    own = frozenset(own)
    up = {port.name.lower(): port for port in ports}
    base = connected(ports)
    waiting = []
    for static in statics:
        if static.discard:
            base.append(_active(static, None, None))
        elif static.port is not None:
            if static.port in up:
                base.append(_active(static, up[static.port], static.next_hop))
        else:
            waiting.append(static)
    if not waiting:
        return RouteTable(base)
    found: list[ActiveRoute | None] = [None] * len(waiting)
    for _ in range(MOST_STEPS + 1):
        table = RouteTable([*base, *(f for f in found if f)])
        before, found = found, [_resolve(static, table, own) for static in waiting]
        if found == before:
            return table if all(found) else _in_order(base, found)
    return _in_order(base, _prune(base, waiting, found, own))


def _in_order(base: list[ActiveRoute], found: Iterable[ActiveRoute | None]) -> RouteTable:
    return RouteTable([*base, *(f for f in found if f)])


def _prune(
    base: list[ActiveRoute],
    waiting: list[StaticRoute],
    found: list[ActiveRoute | None],
    own: frozenset[int],
) -> list[ActiveRoute | None]:
    """Take away what does not resolve until everything left does."""
    while True:
        table = _in_order(base, found)
        left = [f and _resolve(static, table, own) for static, f in zip(waiting, found, strict=True)]
        if [bool(f) for f in left] == [bool(f) for f in found]:
            return left
        found = left


def _resolve(static: StaticRoute, table: RouteTable, own: frozenset[int]) -> ActiveRoute | None:
    hop = static.next_hop
    if hop is None or hop in own or is_link_local(hop):
        return None
    route = table.find_without(hop, static)
    if route is None or route.out is None or route.out.is_loopback or len(route.chain) >= MOST_STEPS:
        return None
    if any(r.static is static for r in route.chain):
        return None
    ask = hop if route.ask is None else route.ask
    return _active(static, route.out, ask, (route, *route.chain))


def _active(
    static: StaticRoute, out: IpPort | None, ask: int | None, chain: tuple[ActiveRoute, ...] = ()
) -> ActiveRoute:
    return ActiveRoute(
        static.network,
        static.length,
        static.preference,
        out,
        ask,
        static.origin,
        static.where,
        chain,
        static,
    )
