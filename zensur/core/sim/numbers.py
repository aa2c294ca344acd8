"""Addresses as numbers: IPv4 below 2^32, IPv6 with one bit more than it has, so that no two are alike.

Numbers keep the hot path free of address objects; :func:`written` gives the text back.
"""

from ipaddress import IPv4Address, IPv6Address

from ..addresses import Address

SIX = 1 << 128
"""The bit that tells an IPv6 address from an IPv4 one."""
ALL = (1 << 32) - 1
_ALL_SIX = (SIX << 1) - 1
_LINK_LOCAL = (SIX | 0xFE80 << 112) >> 118
_MULTICAST_SIX = (SIX | 0xFF << 120) >> 120


def number_of(address: Address) -> int:
    """Return the number of an address."""
    return int(address) | SIX if address.version == 6 else int(address)


def written(number: int) -> str:
    """Write an address: written, or in the form of RFC 5952."""
    if number >= SIX:
        return str(IPv6Address(number ^ SIX))
    return f"{number >> 24}.{number >> 16 & 255}.{number >> 8 & 255}.{number & 255}"


def address_of(number: int) -> Address:
    """Return the address that a number stands for."""
    return IPv6Address(number ^ SIX) if number >= SIX else IPv4Address(number)


def is_six(number: int) -> bool:
    """Whether it is an IPv6 address."""
    return number >= SIX


def mask_of(length: int, six: bool) -> int:
    """Return the mask of a prefix; an IPv6 one holds the bit of the family, too."""
    if six:
        return _ALL_SIX ^ ((1 << (128 - length)) - 1)
    return ALL ^ ((1 << (32 - length)) - 1)


def last_of(network: int, length: int) -> int:
    """Return the last address of a prefix."""
    return network | ((1 << ((128 if network >= SIX else 32) - length)) - 1)


def same_network(a: int, b: int, length: int) -> bool:
    """Whether two addresses of one family agree in their first bits."""
    return (a >= SIX) == (b >= SIX) and not (a ^ b) >> ((128 if a >= SIX else 32) - length)


def is_link_local(number: int) -> bool:
    """Whether it is an IPv6 link-local address (RFC 4291, 2.5.6)."""
    return number >> 118 == _LINK_LOCAL


def is_never_sent(number: int) -> bool:
    """Whether no single device may have it: multicast, "this host", a loopback (RFC 1122, 3.2.1.3; RFC 4291).

    The rest of 0.0.0.0/8 are ordinary addresses, as on Linux.
    """
    if number >= SIX:
        return number >> 120 == _MULTICAST_SIX or number - SIX <= 1
    return number >> 28 >= 14 or number >> 24 == 127 or number == 0
