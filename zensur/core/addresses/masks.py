"""Dotted masks and wildcards of IPv4 (RFC 4632, section 5.1): contiguous ones only."""

from collections.abc import Callable
from ipaddress import IPv4Address

from .values import BadValue, parse_address

_ALL = (1 << 32) - 1


def mask_of(length: int) -> str:
    """Return the written mask of a prefix length 0 to 32."""
    return str(IPv4Address(_ALL ^ (_ALL >> length)))


def wildcard_of(length: int) -> str:
    """Return the wildcard (the inverted mask) of a prefix length 0 to 32."""
    return str(IPv4Address(_ALL >> length))


def mask_length(text: str) -> int:
    """Read a written mask as a prefix length; raises :class:`BadValue`."""
    bits = _bits(text, "mask")
    length = _ones(bits)
    if bits != _ALL ^ (_ALL >> length):
        turned = _ones(bits ^ _ALL)
        if bits == _ALL >> turned:
            raise BadValue(
                "wildcard-for-mask",
                f"{text} is a wildcard; the mask that belongs here is {mask_of(turned)}.",
                mask_of(turned),
            )
        raise BadValue("mask-not-contiguous", *_holes(text, "mask", length, mask_of))
    return length


def wildcard_length(text: str) -> int:
    """Read a wildcard as a prefix length; raises :class:`BadValue`."""
    bits = _bits(text, "wildcard")
    length = _ones(bits ^ _ALL)
    if bits != _ALL >> length:
        turned = _ones(bits)
        if bits == _ALL ^ (_ALL >> turned):
            raise BadValue(
                "mask-for-wildcard",
                f"{text} is a mask; the wildcard that belongs here is {wildcard_of(turned)}.",
                wildcard_of(turned),
            )
        raise BadValue("wildcard-not-contiguous", *_holes(text, "wildcard", length, wildcard_of))
    return length


def _bits(text: str, what: str) -> int:
    try:
        address = parse_address(text)
    except BadValue:
        address = None
    if not isinstance(address, IPv4Address):
        raise BadValue("bad-mask", f"{text} is no {what}: it has four numbers from 0 to 255, with dots.")
    return int(address)


def _ones(bits: int) -> int:
    """Count the ones before the first zero of a 32-bit number."""
    return 32 - (bits ^ _ALL).bit_length()


def _holes(text: str, what: str, length: int, form: Callable[[int], str]) -> tuple[str, str]:
    below, above = form(length), form(min(length + 1, 32))
    return f"{text} is no {what}: its ones do not stand together. Nearest are {below} and {above}.", below
