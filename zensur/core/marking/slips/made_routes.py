"""How slips in static routes are made: another route in the place of one, or one beside it."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import islice
from typing import Any

from ...sheet import AnyItem, Item, OnPort, Route
from ...sheet.statement import folded
from ...sheet.statements import Instance
from ..differences.edits import plain_text
from .made import Made, MadeSlip, Making, beside


def routes_changed(change: Callable[[Route], Route | None], what: str, *also: str) -> Made:
    """Put another route in the place of one of the model answer's."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.of(Route):
            other = change(item.statement)
            if other is not None:
                yield making.instead(what, item, other, *also)

    return made


def routes_left_out(discard: bool, *also: str) -> Made:
    """Leave discards out, or routes that lead somewhere."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.of(Route):
            if item.statement.discard is discard:
                yield making.instead("left out", item, None, *also)

    return made


def narrower(route: Route) -> Route | None:
    """Give a route a longer mask: it holds for the first half only."""
    if not 0 < route.dest.prefixlen < route.dest.max_prefixlen - 1:
        return None
    narrow: Any = next(iter(route.dest.subnets()))
    return replace(route, dest=narrow)


def elsewhere(route: Route) -> Route | None:
    """Give a route the network some places on."""
    moved = beside(route.dest, 8)
    return None if moved is None else replace(route, dest=moved)


def wider_discard(route: Route) -> Route | None:
    """Give a discard a shorter mask."""
    wide = route.discard and route.dest.prefixlen > 2
    return replace(route, dest=route.dest.supernet(2)) if wide else None


def to_itself(making: Making) -> Iterator[MadeSlip]:
    """Point a route at the device's own address on the link in place of the neighbour's."""
    own = making.model.everywhere(OnPort)
    for item in making.of(Route):
        hop = item.statement.next_hop
        near = (i.statement.interface.ip for i in own if hop and hop in i.statement.interface.network)
        mine = next(near, None)
        if mine is not None:
            yield making.instead("own address as next hop", item, replace(item.statement, next_hop=mine))


def by_another_port(making: Making) -> Iterator[MadeSlip]:
    """Send a route out of another port."""
    ports = [p.name for p in making.lab.devices[making.device].ports]
    for item in making.of(Route):
        port = item.statement.port
        other = next((name for name in ports if port and folded(name) != folded(port)), None)
        if other is not None:
            moved = replace(item.statement, port=other)
            yield making.instead("other port", item, moved, "next-hop-is-the-device-itself")


def in_another_instance(making: Making) -> Iterator[MadeSlip]:
    """Put a route into another network instance."""
    names = [None, *(i.statement.name for i in making.model.all(Instance))]
    for item in making.of(Route):
        for other in islice((n for n in names if folded(n) != folded(item.statement.instance)), 1):
            put: AnyItem = replace(item, statement=replace(item.statement, instance=other))
            if not making.has(put):
                yield making.change("another instance", [item], [put])


def half_discarded(making: Making) -> Iterator[MadeSlip]:
    """Drop half of a network that a route leads to, by a discard beside it."""
    held = {i.statement.interface.ip for m in making.lab.model.values() for i in m.everywhere(OnPort)}
    for item in making.of(Route):
        half = narrower(item.statement)
        if half is not None and not item.statement.discard and any(a in half.dest for a in held):
            put: AnyItem = Item(None, replace(half, next_hop=None, port=None))
            if not making.has(put) and half.dest.prefixlen < half.dest.max_prefixlen:
                yield MadeSlip(
                    "route: half of it discarded", making.device, frozenset({f"without {plain_text(put)}"}),
                    put=((making.device, put),),
                )  # fmt: skip


def host_route(making: Making) -> Iterator[MadeSlip]:
    """Drop one address of a network by a route of its own."""
    held = {i.statement.interface.ip for m in making.lab.model.values() for i in m.everywhere(OnPort)}
    for item in making.of(Route):
        dest = item.statement.dest
        inside = sorted(a for a in held if a in dest)
        if inside and 0 < dest.prefixlen < dest.max_prefixlen and not item.statement.discard:
            host = Route(type(dest)((inside[-1], dest.max_prefixlen)), instance=item.statement.instance)
            put: AnyItem = Item(None, host)
            if not making.has(put):
                yield MadeSlip(
                    "route: a host route beside it", making.device, frozenset({f"without {plain_text(put)}"}),
                    put=((making.device, put),),
                )  # fmt: skip
