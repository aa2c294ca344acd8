"""What an instructor works out by hand for every network: first, last, how many, which mask."""

from collections.abc import Iterable
from dataclasses import dataclass
from ipaddress import IPv4Network, ip_network

from .masks import mask_of, wildcard_of
from .ranges import usable
from .values import Address, Interface, Prefix

_KINDS = (
    ("documentation", ("192.0.2.0/24", "198.51.100.0/24", "203.0.113.0/24")),  # RFC 5737
    ("documentation", ("2001:db8::/32",)),  # RFC 3849
    ("private", ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "fc00::/7")),  # RFC 1918, RFC 4193
    ("shared", ("100.64.0.0/10",)),  # RFC 6598
    ("link-local", ("169.254.0.0/16", "fe80::/10")),  # RFC 3927, RFC 4291
    ("own device", ("127.0.0.0/8", "::1/128")),  # RFC 1122, RFC 4291
    ("multicast", ("224.0.0.0/4", "ff00::/8")),  # RFC 5771, RFC 4291
)
_RANGES = [(kind, ip_network(text)) for kind, texts in _KINDS for text in texts]


@dataclass(frozen=True, slots=True)
class Subnet:
    """One network worked out; ``broadcast``, ``mask`` and ``wildcard`` are None in IPv6."""

    network: Prefix
    first: Address
    last: Address
    usable: int
    broadcast: Address | None
    mask: str | None
    wildcard: str | None
    kind: str


def subnet(interface: Interface) -> Subnet:
    """Work out the network an interface lies in (RFC 950; RFC 3021 for /31)."""
    network: Prefix = interface.network
    hosts = usable(network)
    v4 = isinstance(network, IPv4Network)
    edges = v4 and network.prefixlen < 31
    return Subnet(
        network,
        hosts.first,
        hosts.last,
        hosts.size,
        network.broadcast_address if edges else None,
        mask_of(network.prefixlen) if v4 else None,
        wildcard_of(network.prefixlen) if v4 else None,
        kind_of(interface.ip),
    )


def kind_of(address: Address) -> str:
    """Say what kind of address this is: private, shared, documentation, link-local, public, …"""
    for kind, network in _RANGES:
        if address.version == network.version and address in network:
            return kind
    return "public"


def next_free(network: Prefix, taken: Iterable[Prefix]) -> Prefix | None:
    """Find the next network of the same size behind ``network`` that overlaps none of ``taken``."""
    if not isinstance(network, IPv4Network):
        return None
    size = network.num_addresses
    spans = sorted(
        (int(t.network_address), int(t.broadcast_address)) for t in taken if isinstance(t, IPv4Network)
    )
    start = int(network.network_address) + size
    for low, high in spans:
        if low < start + size and high >= start:
            start = (high // size + 1) * size
    return None if start + size > 1 << 32 else IPv4Network((start, network.prefixlen))
