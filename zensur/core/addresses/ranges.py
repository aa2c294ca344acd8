"""Ranges of addresses, both ends included, and the usable addresses of a prefix."""

from collections import Counter
from dataclasses import dataclass

from .values import Address, BadValue, Prefix


@dataclass(frozen=True, slots=True)
class AddressRange:
    """The addresses from ``first`` to ``last``, both of one family."""

    first: Address
    last: Address

    def __contains__(self, address: Address) -> bool:
        return address.version == self.first.version and int(self.first) <= int(address) <= int(self.last)

    @property
    def size(self) -> int:
        """How many addresses it holds; more than a length may be, in IPv6."""
        return int(self.last) - int(self.first) + 1

    def __str__(self) -> str:
        return f"{self.first} to {self.last}"

    def overlaps(self, other: "AddressRange") -> bool:
        """Whether both have an address in common."""
        return self.first in other or other.first in self

    def within(self, prefix: Prefix) -> bool:
        """Whether all of it lies in a prefix."""
        return self.first in prefix and self.last in prefix


def range_of(first: Address, last: Address) -> AddressRange:
    """Make a range; raises :class:`BadValue` where the ends do not go together."""
    if first.version != last.version:
        raise BadValue("wrong-family", f"{first} and {last} are of two families: a range has one.")
    if int(last) < int(first):
        raise BadValue("range-reversed", f"The range ends before it begins: write {last} to {first}.")
    return AddressRange(first, last)


def usable(prefix: Prefix) -> AddressRange:
    """Return the addresses of a prefix that a device may bear.

    Without the network's own and the broadcast address in IPv4 (RFC 1122, 3.2.1.3; all of a /31,
    RFC 3021, and of a /32), without the first in IPv6 (RFC 4291, 2.6.1; all of a /127 and a /128).
    """
    first, last = prefix.network_address, prefix.broadcast_address
    if prefix.prefixlen < prefix.max_prefixlen - 1:
        first, last = first + 1, last - 1 if prefix.version == 4 else last
    return AddressRange(first, last)


class PrefixSet:
    """Prefixes with a key each, such as a network instance, asked quickly whether one covers an address."""

    def __init__(self) -> None:
        self._counts: dict[tuple[object, int, int], Counter[int]] = {}

    def add(self, key: object, prefix: Prefix) -> None:
        """Add a prefix; the same one may be added again."""
        length = (key, prefix.version, prefix.prefixlen)
        self._counts.setdefault(length, Counter())[int(prefix.network_address)] += 1

    def covers(self, key: object, address: Address, without: Prefix | None = None) -> bool:
        """Say whether a prefix of the key covers an address, one occurrence of ``without`` left out."""
        for (own, version, length), counts in self._counts.items():
            if own == key and version == address.version:
                shift = address.max_prefixlen - length
                network = int(address) >> shift << shift
                out = without is not None and (without.version, without.prefixlen) == (version, length)
                if counts[network] > (
                    1 if out and without and int(without.network_address) == network else 0
                ):
                    return True
        return False
