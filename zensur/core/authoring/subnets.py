"""The subnet helper: what an instructor works out by hand for a network, what it overlaps, what is free beside it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from ipaddress import IPv4Network, ip_interface, ip_network, summarize_address_range

from ..addresses import AddressRange, BadValue, Interface, Prefix, next_free, parse_interface, subnet, usable
from ..lab import Lab
from ..sheet import OnPort
from ..sheet.statements import Pool
from ..weave import Weave


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """One figure of a network, and how it comes about."""

    name: str
    value: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SubnetHelp:
    """A network worked out: its figures, the networks and pools of the lab that it overlaps, and what is free.

    ``host`` is the next address in it that nobody has, ``same`` the next network of its size that overlaps none, and
    ``size`` the one of the length asked for.
    """

    network: str
    kind: str
    figures: tuple[Figure, ...]
    overlaps: tuple[str, ...]
    host: str | None
    same: str | None
    size: str | None


def subnet_help(typed: str, lab: Lab, chart: Weave, length: int | None = None) -> SubnetHelp:
    """Work out the network of an address with its length; raises :class:`BadValue`."""
    whole = typed.strip().replace(" mask ", " ").replace(" ", "/")
    try:
        interface: Interface = (
            ip_interface(whole) if "." in whole.partition("/")[2] else parse_interface(whole)
        )
    except ValueError as bad:
        if isinstance(bad, BadValue):
            raise
        raise BadValue("bad-address", f"{typed[:60]} is no address with a mask.") from None
    network = interface.network
    found = subnet(interface)
    held = held_networks(lab, chart)
    beside = [p for p in held if p != network and p.version == network.version and p.overlaps(network)]
    used = {i.statement.interface.ip for m in lab.model.values() for i in m.everywhere(OnPort)}
    hosts = usable(network)
    free = next(
        (hosts.first + n for n in range(min(hosts.size, len(used) + 1)) if hosts.first + n not in used), None
    )
    return SubnetHelp(
        network=str(network),
        kind=found.kind,
        figures=tuple(_figures(network)),
        overlaps=tuple(f"{held[p]} {p}".strip() for p in beside),
        host=None if free is None else str(free),
        same=_text(next_free(network, held)),
        size=None if length is None else _text(_sized(network, length, held)),
    )


def held_networks(lab: Lab, chart: Weave) -> Mapping[Prefix, str]:
    """Return every network of a lab with its name: rows, named networks, loopbacks and pools."""
    held: dict[Prefix, str] = {}
    for row in chart.rows:
        held |= {ip_network(p): row.name for p in row.prefix.split(", ") if p}
    for named in lab.networks:
        held |= dict.fromkeys(named.prefixes, named.name)
    for device, model in lab.model.items():
        for item in model.everywhere(OnPort):
            if not item.statement.interface.ip.is_link_local and item.block is not None:
                held.setdefault(item.statement.interface.network, f"{device} {item.block.port_name}")
        for pool in model.everywhere(Pool):
            spread = pool.statement.addresses
            spans = (
                [spread]
                if not isinstance(spread, AddressRange)
                else summarize_address_range(spread.first, spread.last)
            )
            for span in spans:
                held.setdefault(span, f"pool {pool.statement.name}")
    return held


def _figures(network: Prefix) -> Iterable[Figure]:
    found = subnet(ip_interface(f"{network.network_address}/{network.prefixlen}"))
    bits = network.max_prefixlen - network.prefixlen
    four = isinstance(network, IPv4Network)
    edges = four and bits > 1
    yield Figure(name="network", value=str(network.network_address), why=f"the {bits} host bits all 0")
    yield Figure(name="first", value=str(found.first), why="the network's own address and 1" if edges else "")
    yield Figure(
        name="last",
        value=str(found.last),
        why="one below the broadcast address" if edges else "all of it is usable",
    )
    if found.broadcast is not None:
        yield Figure(name="broadcast", value=str(found.broadcast), why=f"the {bits} host bits all 1")
    yield Figure(
        name="usable",
        value=f"{found.usable:,}" if bits < 64 else f"2^{bits}",
        why=f"2^{bits}, less network and broadcast" if edges else f"2^{bits}",
    )
    if found.mask is not None and found.wildcard is not None:
        yield Figure(name="mask", value=found.mask, why=f"{network.prefixlen} ones, then {bits} zeros")
        yield Figure(name="wildcard", value=found.wildcard, why="255.255.255.255 less the mask")


def _sized(network: Prefix, length: int, held: Iterable[Prefix]) -> Prefix | None:
    """Find the next network of another size behind a network's beginning that overlaps none."""
    if not isinstance(network, IPv4Network) or not 0 < length <= 32:
        return None
    before = int(network.network_address) - (1 << (32 - length))
    start = ip_network((max(before, 0), length), strict=False)
    return next_free(start, held)


def _text(prefix: Prefix | None) -> str | None:
    return None if prefix is None else str(prefix)
