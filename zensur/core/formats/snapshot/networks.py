"""IPv4 networks and port numbers as nftables names them, and what several demands for them leave over."""

from collections.abc import Collection, Iterator
from functools import lru_cache
from ipaddress import IPv4Address, IPv4Network, ip_network, summarize_address_range
from typing import Any

from .wording import NotUnderstood, words_of

MOST_NETWORKS = 256
"""So many networks may one demand name."""
Networks = tuple[IPv4Network, ...]
Span = tuple[int, int]
"""The first and the last of port numbers."""


class Never(Exception):
    """No packet fits a rule."""


@lru_cache(maxsize=8192)
def _network(text: str) -> Any:
    return ip_network(text, strict=False)


def networks_of(told: Any) -> list[IPv4Network]:
    """Return an address, a prefix or a range as networks."""
    try:
        if isinstance(told, dict) and "prefix" in told:
            networks: list[Any] = [_network(f"{told['prefix']['addr']}/{told['prefix']['len']}")]
        elif isinstance(told, dict) and "range" in told:
            first, last = (IPv4Address(str(one)) for one in told["range"])
            networks = list(summarize_address_range(first, last))
        elif isinstance(told, str):
            networks = [_network(told)]
        else:
            networks = []
    except (ValueError, TypeError, KeyError):
        networks = []
    if not networks or any(not isinstance(n, IPv4Network) for n in networks):
        raise NotUnderstood(f"{words_of([told])[:40]} is no IPv4 address, prefix or range")
    return networks


def all_networks(told: list[Any]) -> Networks:
    """Return the networks of a whole set."""
    found = tuple(n for one in told[: MOST_NETWORKS + 1] for n in networks_of(one))
    if len(found) > MOST_NETWORKS:
        raise NotUnderstood(f"it names more than {MOST_NETWORKS} networks")
    return found


def in_both(some: Networks | None, others: Networks) -> Networks:
    """Return the networks that two demands leave over, of which there may have been none before; raises
    :class:`Never` where that is nothing.

    A network is in a list where it lies in one of its: each is looked up by its wider ones, so that many cost little.
    """
    if some is None:
        return others
    found = dict.fromkeys((*_within(some, others), *_within(others, some)))
    if not found:
        raise Never
    return tuple(found)


def _within(some: Networks, others: Networks) -> Iterator[IPv4Network]:
    """Yield those of some networks that lie in one of the others."""
    there = {(int(n.network_address) >> (32 - n.prefixlen), n.prefixlen) for n in others}
    lengths = {length for _, length in there}
    for one in some:
        number = int(one.network_address)
        if any(length <= one.prefixlen and (number >> (32 - length), length) in there for length in lengths):
            yield one


def span_of(told: Any) -> Span:
    """Return one port number, or a range."""
    ends = told.get("range") if isinstance(told, dict) else [told, told]
    if (
        isinstance(ends, list)
        and len(ends) == 2
        and all(isinstance(e, int) and 1 <= e <= 65535 for e in ends)
    ):
        return ends[0], ends[1]
    raise NotUnderstood(f"{words_of([told])[:40]} is no port number")


def spans_in_both(some: tuple[Span, ...] | None, others: tuple[Span, ...]) -> tuple[Span, ...]:
    """Return the port numbers that two demands leave over, in order; raises :class:`Never` where that is none."""
    if some is None:
        return others
    found: list[Span] = []
    left, right = _in_order(some), _in_order(others)
    a, b = 0, 0
    while a < len(left) and b < len(right):
        low, high = max(left[a][0], right[b][0]), min(left[a][1], right[b][1])
        if low <= high:
            found.append((low, high))
        if left[a][1] < right[b][1]:
            a += 1
        else:
            b += 1
    if not found:
        raise Never
    return tuple(found)


def _in_order(spans: Collection[Span]) -> list[Span]:
    """Return spans in order, those that overlap as one."""
    found: list[Span] = []
    for low, high in sorted(spans):
        if found and low <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], high))
        else:
            found.append((low, high))
    return found
