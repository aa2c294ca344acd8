"""The hardware addresses of ports, and the IPv6 addresses formed from them (RFC 4291, appendix A)."""

from functools import lru_cache
from hashlib import sha256

from .numbers import SIX

_LINK_LOCAL = SIX | 0xFE80 << 112
_LOCAL_BIT = 0x02 << 56


@lru_cache(maxsize=65_536)
def mac_of(device: str, port: str) -> int:
    """Return the MAC address of a port: 02 and the first five bytes of the SHA-256 of ``DEVICE PORT``."""
    return int.from_bytes(b"\x02" + sha256(f"{device} {port}".encode()).digest()[:5])


def mac_text(mac: int) -> str:
    """Write a MAC address, such as ``02:1a:…`` (IEEE 802)."""
    return mac.to_bytes(6, "big").hex(":")


def interface_id(mac: int) -> int:
    """Form the last 64 bits of an address from a MAC address."""
    return ((mac >> 24) << 40 | 0xFFFE << 24 | mac & 0xFFFFFF) ^ _LOCAL_BIT


def link_local(mac: int) -> int:
    """Form a link-local address, as a number."""
    return _LINK_LOCAL | interface_id(mac)
