"""Static routes and gateways from a machine's routing tables, as ``ip -json route`` tells them."""

from collections import Counter
from collections.abc import Mapping
from ipaddress import ip_address, ip_network
from typing import Any

from ...addresses import Address, Prefix
from ...sheet import Gateway, Route, Where
from .kept import Kept
from .links import Link
from .parts import Snapshot

_OWN = ("local", "broadcast", "multicast", "anycast", "nat")
"""What the kernel puts into its tables by itself."""
_LEARNED = ("kernel", "ra", "dhcp", "redirect")
_DISCARDS = ("blackhole", "unreachable", "prohibit", "throw")
_LAST = 255


def read_routes(snapshot: Snapshot, kept: Kept, links: Mapping[str, Link], forwards: bool | None) -> None:
    """Read the routes of both families in the order of their metrics, which become preferences."""
    for part, version in (("routes", 4), ("routes6", 6)):
        found: list[tuple[int, Prefix, Address | None, str | None, Where]] = []
        for told in snapshot.entries(part):
            where = snapshot.where(part, told)
            read = _route(told, version, where, kept, links)
            if read is not None:
                found.append((_metric(told), *read, where))
        found.sort(key=lambda route: route[0])
        ranks = _preferences([metric for metric, *_ in found])
        times = Counter(dest for _, dest, *_ in found)
        for metric, dest, hop, port, where in found:
            preference = ranks[metric]
            alone = times[dest] == 1
            if hop is not None and dest.prefixlen == 0 and forwards is False and alone:
                kept.keep(None, Gateway(hop, port), where)
            else:
                kept.keep(None, Route(dest, hop, port, 10 if alone else preference), where)


def _metric(told: dict[str, Any]) -> int:
    metric = told.get("metric", 0)
    return metric if isinstance(metric, int) else 0


def _preferences(metrics: list[int]) -> dict[int, int]:
    """Return preferences in the order of metrics: the metrics themselves where they fit, else their ranks."""
    every = sorted(set(metrics))
    if all(1 <= m <= _LAST for m in every):
        return {m: m for m in every}
    return {m: min(10 + rank, _LAST) for rank, m in enumerate(every)}


def _route(
    told: dict[str, Any], version: int, where: Where, kept: Kept, links: Mapping[str, Link]
) -> tuple[Prefix, Address | None, str | None] | None:
    kind, protocol = str(told.get("type", "unicast")), str(told.get("protocol", ""))
    if kind in _OWN or protocol in _LEARNED:
        return None
    dest = _prefix(str(told.get("dst", "")), version)
    if dest is None or (dest.is_multicast and kind == "unicast"):
        return None
    said = f"The route to {told.get('dst')}"
    table = str(told.get("table", "main"))
    if table not in ("main", "254"):
        kept.note(
            "other-table", where, f"{said} stands in the table {table[:20]}: only the main one is read."
        )
        return None
    if told.get("tos") or told.get("from"):
        kept.note("not-read", where, f"{said} is for some packets only, and is not read.")
        return None
    if kind in _DISCARDS:
        if kind != "blackhole":
            kept.note("like-discard", where, f"{said} is {kind}, and is read as discard, which says nothing.")
        return dest, None, None
    return _with_hop(told, dest, said, where, kept, links)


def _with_hop(
    told: dict[str, Any], dest: Prefix, said: str, where: Where, kept: Kept, links: Mapping[str, Link]
) -> tuple[Prefix, Address | None, str | None] | None:
    hops = told.get("nexthops")
    if isinstance(hops, list) and hops and isinstance(hops[0], dict):
        kept.note("first-next-hop", where, f"{said} has several next hops; the first is read.")
        told = {**told, **hops[0]}
    if told.get("via"):
        kept.note("not-read", where, f"{said} has a next hop of the other family, and is not read.")
        return None
    if told.get("prefsrc"):
        kept.note("source-ignored", where, f"{said} names the source {told['prefsrc']}, which is not read.")
    gateway = told.get("gateway")
    hop = _address(str(gateway)) if gateway is not None else None
    link = links.get(str(told.get("dev", "")))
    if gateway is not None and hop is None:
        kept.note(
            "bad-address", where, f"{said} has {str(gateway)[:40]} as its next hop, which is no address."
        )
        return None
    onlink = "onlink" in (told.get("flags") or [])
    if hop is None or hop.is_link_local or onlink:
        if link is not None and link.block.kind == "vlan" and hop is not None and _covers(link, hop):
            return dest, hop, None
        if link is None or link.block.kind != "port":
            kept.note(
                "not-read", where, f"{said} leaves by {str(told.get('dev'))[:20]}, which is no port here."
            )
            return None
        return dest, hop, link.block.port_name if hop is None or not _covers(link, hop) else None
    return dest, hop, None


def _covers(link: Link, hop: Address) -> bool:
    """Whether a next hop lies in a network of the port, so that the port need not be named."""
    if hop.is_link_local:
        return False
    for told in link.addresses:
        network = _prefix(f"{told.get('local', '')}/{told.get('prefixlen', '')}", hop.version)
        if network is not None and hop in network:
            return True
    return False


def _prefix(text: str, version: int) -> Prefix | None:
    if text == "default":
        text = "0.0.0.0/0" if version == 4 else "::/0"
    try:
        found = ip_network(text, strict=False)
    except ValueError:
        return None
    return found if found.version == version else None


def _address(text: str) -> Address | None:
    try:
        return ip_address(text.partition("%")[0])
    except ValueError:
        return None
