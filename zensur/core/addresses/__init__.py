"""Addresses, prefixes and masks: thin over the standard library's :mod:`ipaddress`."""

from .masks import mask_length, mask_of, wildcard_length, wildcard_of
from .ranges import AddressRange, PrefixSet, range_of, usable
from .subnet import Subnet, next_free, subnet
from .values import (
    Address,
    BadValue,
    Interface,
    Prefix,
    looks_like_address,
    network_of,
    parse_address,
    parse_interface,
    parse_prefix,
)

__all__ = [
    "Address",
    "AddressRange",
    "BadValue",
    "Interface",
    "Prefix",
    "PrefixSet",
    "Subnet",
    "looks_like_address",
    "mask_length",
    "mask_of",
    "network_of",
    "next_free",
    "parse_address",
    "parse_interface",
    "parse_prefix",
    "range_of",
    "subnet",
    "usable",
    "wildcard_length",
    "wildcard_of",
]
