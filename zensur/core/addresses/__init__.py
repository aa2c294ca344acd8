"""Addresses, prefixes and masks: thin over the standard library's :mod:`ipaddress`."""

from .masks import mask_length, mask_of, wildcard_length, wildcard_of
from .subnet import Subnet, next_free, subnet
from .values import (
    Address,
    BadValue,
    Interface,
    Prefix,
    looks_like_address,
    parse_address,
    parse_interface,
    parse_prefix,
)

__all__ = [
    "Address",
    "BadValue",
    "Interface",
    "Prefix",
    "Subnet",
    "looks_like_address",
    "mask_length",
    "mask_of",
    "next_free",
    "parse_address",
    "parse_interface",
    "parse_prefix",
    "subnet",
    "wildcard_length",
    "wildcard_of",
]
