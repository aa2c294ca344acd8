"""The kinds of values that statements take: how each is called, read from a line and written back."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from ipaddress import IPv4Address, ip_network
from typing import Any

from ..addresses import (
    Address,
    AddressRange,
    BadValue,
    Interface,
    Prefix,
    looks_like_address,
    mask_length,
    network_of,
    parse_address,
    parse_interface,
    parse_prefix,
    range_of,
    wildcard_length,
)
from .vlans import VlanSet, parse_vlan, read_vlans
from .words import Line, check_domain, check_name, quote


@dataclass(frozen=True, slots=True)
class Operand:
    """A kind of value. ``label`` names it in the reference, ``role`` tells the editor what to offer there."""

    label: str
    read: Callable[[Line], Any]
    write: Callable[[Any], str] = str
    role: str = ""


@dataclass(frozen=True, slots=True)
class Masked:
    """An interface address with the way its mask was written, which only a criterion may ask for."""

    interface: Interface
    written: bool = False

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Masked) and self.interface == other.interface

    def __hash__(self) -> int:
        return hash(self.interface)

    def __str__(self) -> str:
        return str(self.interface)


@dataclass(frozen=True, slots=True)
class Endpoint:
    """A port number of TCP or UDP at an address, or at the first address of a port of the device."""

    holder: IPv4Address | str
    number: int

    def __str__(self) -> str:
        return f"{self.holder}:{self.number}"


DEFAULT_V4: Prefix = ip_network("0.0.0.0/0")
DEFAULT_V6: Prefix = ip_network("::/0")


def _read_masked(line: Line, what: str, read: Callable[[str], Any]) -> tuple[Any, bool]:
    """Read ``ADDRESS/LENGTH`` or ``ADDRESS mask A.B.C.D``; also say whether the mask was written out."""
    word = line.take(what)
    if line.peek() != "mask" or "/" in word:
        _length_apart(line, word)
        return read(word), False
    line.take("mask")
    return read(f"{_v4(word, 'mask')}/{mask_length(line.take('The mask'))}"), True


def _length_apart(line: Line, word: str) -> None:
    """Notice a length or mask that stands behind its address, but not as it is written."""
    behind = line.peek() or ""
    if "/" in word or not looks_like_address(word):
        return
    if re.match(r"/\d{1,3}\Z", behind, re.ASCII):
        line.take("The length")
        raise BadValue(
            "length-apart",
            f"The length stands directly behind the address: {word}{behind}.",
            f"{word}{behind}",
            2,
        )
    if re.match(r"\d+(\.\d+){3}\Z", behind, re.ASCII):
        line.take("The mask")
        raise BadValue("mask-word-missing", f"Write the word mask before {behind}.", f"mask {behind}")


def _v4(word: str, what: str) -> Address:
    address = parse_address(word)
    if address.version != 4:
        raise BadValue(
            "mask-in-ipv6",
            f"{word} is an IPv6 address and has no {what}: write its length, such as {word}/64.",
        )
    return address


def _read_interface(line: Line) -> Masked:
    return Masked(*_read_masked(line, "The address", parse_interface))


def _read_destination(line: Line) -> Prefix:
    if line.peek() == "default":
        line.take("default")
        return DEFAULT_V4
    if line.peek() in ("via", "out", "discard"):
        raise BadValue("missing-word", "The destination is missing: a prefix, or default for all addresses.")
    prefix: Prefix = _read_masked(line, "The destination", parse_prefix)[0]
    return prefix


def write_destination(prefix: Prefix) -> str:
    """Write a route's destination: ``default`` for all IPv4 addresses."""
    return "default" if prefix == DEFAULT_V4 else str(prefix)


def _tolerant(line: Line, word: str) -> Prefix:
    """Read a prefix; host bits that are set are only worth a warning."""
    interface = parse_interface(word)
    try:
        return network_of(interface)
    except BadValue as bad:
        line.warn(BadValue(bad.code, f"{bad} The network is read.", bad.suggestion))
        return interface.network


def _read_network(line: Line) -> Prefix:
    prefix: Prefix = _read_masked(line, "The network", lambda word: _tolerant(line, word))[0]
    return prefix


def _read_entry(line: Line) -> Prefix:
    """Read what a ``permit`` or ``deny`` names: any, an address, or a prefix with length, mask or wildcard."""
    word = line.take("A prefix, an address or any")
    if word.lower() == "any":
        return DEFAULT_V4
    if line.peek() in ("mask", "wildcard") and "/" not in word:
        form = line.take("mask or wildcard").lower()
        length = (mask_length if form == "mask" else wildcard_length)(line.take(f"The {form}"))
        return _tolerant(line, f"{_v4(word, form)}/{length}")
    if "/" in word:
        return _tolerant(line, word)
    address = parse_address(word)
    if int(address) & 255 == 0:
        line.warn(
            BadValue(
                "single-address",
                f"{word} alone is one address; a network needs its length, such as {word}/24. One address is read.",
            )
        )
    return ip_network((address, address.max_prefixlen))


def _write_entry(prefix: Prefix) -> str:
    if prefix == DEFAULT_V4:
        return "any"
    return str(prefix.network_address if prefix.prefixlen == prefix.max_prefixlen else prefix)


def _read_address(line: Line) -> Address:
    return parse_address(line.take("The address"))


def _read_next_hop(line: Line) -> Address:
    word = line.take("The next hop")
    if not looks_like_address(word):
        raise BadValue(
            "bad-address",
            f"{word[:40]} is no address: behind via stands the neighbour's address, a port stands behind out.",
        )
    return parse_address(word)


def _read_port(line: Line) -> str:
    word = line.take("The port")
    if looks_like_address(word):
        behind = line.words[line.at - 2].text.lower() == "out" if line.at > 1 else False
        raise BadValue(
            "name-is-address",
            f"The name of a port is wanted here, and {word} reads as an address"
            + ("; an address stands behind via." if behind else "."),
            f"via {word}" if behind else None,
            2 if behind else 1,
        )
    return check_name(word)


def _only_v4(read: Callable[[Line], Any], why: str) -> Callable[[Line], Any]:
    def reading(line: Line) -> Any:
        value = read(line)
        version = getattr(value, "version", None) or getattr(getattr(value, "first", None), "version", 4)
        if version != 4:
            raise BadValue("wrong-family", f"{value} is of IPv6: {why} in IPv4 only.")
        return value

    return reading


def _dash(word: str) -> str | None:
    """Guess a range that was written with a dash: of two addresses, or of an address and a last octet."""
    first, dash, last = word.partition("-")
    if not dash or not looks_like_address(first):
        return None
    if last.isdecimal() and "." in first:
        last = f"{first.rpartition('.')[0]}.{last}"
    return f"{first} to {last}"


def _read_range(line: Line) -> AddressRange:
    meant = _dash(line.words[line.at].text) if line.left else None
    if meant:
        line.take("The range")
        raise BadValue("range-with-dash", f"A range is written with the word to: {meant}.", meant)
    first = _read_address(line)
    if line.peek() != "to":
        found = line.peek()
        raise BadValue(
            "unexpected-word" if found else "missing-word",
            f"to is wanted here{f', not {found[:40]}' if found else ''}: a range is written {first} to ADDRESS.",
            f"to {found}" if found and looks_like_address(found) else "to",
        )
    line.take("to")
    return range_of(first, _read_address(line))


def _read_excluded(line: Line) -> AddressRange:
    if line.left > 1 or (line.left and _dash(line.words[line.at].text)):
        return _read_range(line)
    address = _read_address(line)
    return AddressRange(address, address)


def _write_excluded(held: AddressRange) -> str:
    return str(held.first if held.first == held.last else held)


def _read_pool(line: Line) -> AddressRange | Prefix:
    word = line.words[line.at].text if line.left else ""
    if "/" in word or (line.left > 1 and line.words[line.at + 1].text.lower() == "mask"):
        prefix: Prefix = _read_masked(line, "The addresses", parse_prefix)[0]
        return prefix
    return _read_range(line)


def _read_who(line: Line) -> Prefix | str:
    word = line.words[line.at].text if line.left else ""
    if looks_like_address(word):
        prefix: Prefix = _read_masked(line, "The prefix", parse_prefix)[0]
        return prefix
    return check_name(line.take("A prefix or the name of a list"))


def _read_outside(line: Line) -> Address | str:
    word = line.take("The address outside, or a port")
    return parse_address(word) if looks_like_address(word) else check_name(word)


def _read_endpoint(line: Line) -> Endpoint:
    word = line.take("ADDRESS:N")
    holder, colon, number = word.rpartition(":")
    if not colon and (line.peek() or "").isdecimal():
        number = line.take("The number")
        raise BadValue(
            "number-apart",
            f"The number stands behind a colon: {word[:60]}:{number[:6]}.",
            f"{word}:{number}",
            2,
        )
    if not colon or not holder:
        raise BadValue(
            "number-missing", f"{word[:60]} needs its port number, such as {word[:60].rstrip(':')}:80."
        )
    if not re.match(r"\d{1,5}\Z", number, re.ASCII) or not 1 <= int(number) <= 65535:
        raise BadValue("bad-number", f"{number[:40]} is no port number: it is a number from 1 to 65535.")
    if not looks_like_address(holder):
        return Endpoint(check_name(holder), int(number))
    address = parse_address(holder)
    if not isinstance(address, IPv4Address):
        raise BadValue("wrong-family", f"{address} is of IPv6: addresses are translated in IPv4 only.")
    return Endpoint(address, int(number))


def _read_inner_endpoint(line: Line) -> Endpoint:
    endpoint = _read_endpoint(line)
    if isinstance(endpoint.holder, str):
        raise BadValue(
            "bad-address", f"{endpoint.holder} is no address: the service's own address stands here."
        )
    return endpoint


def _read_text(line: Line) -> str:
    text = line.take_rest()
    if not text.strip():
        raise BadValue("missing-word", "The text is empty.")
    return text


def number(low: int, high: int) -> Callable[[Line], int]:
    """Return a reader of whole numbers from ``low`` to ``high``."""

    def read(line: Line) -> int:
        word = line.take("A number")
        if not re.match(r"\d{1,12}\Z", word, re.ASCII) or not low <= int(word) <= high:
            raise BadValue("bad-number", f"{word[:40]} is not a number from {low} to {high}.")
        return int(word)

    return read


_TRANSLATED = "addresses are translated"
_LEASED = "leases are given"

OPERANDS: Mapping[str, Operand] = {
    "address": Operand("ADDRESS", _read_address, role="address"),
    "interface": Operand("PREFIX", _read_interface, role="interface"),
    "destination": Operand("DEST", _read_destination, write_destination, role="network"),
    "network": Operand("PREFIX", _only_v4(_read_network, _LEASED), role="network"),
    "entry": Operand("PREFIX | ADDRESS | any", _read_entry, _write_entry, role="network"),
    "range": Operand("RANGE", _only_v4(_read_range, _LEASED)),
    "excluded": Operand("ADDRESS | RANGE", _only_v4(_read_excluded, _LEASED), _write_excluded),
    "leased": Operand("ADDRESS", _only_v4(_read_address, _LEASED), role="address"),
    "addresses": Operand("RANGE | PREFIX", _only_v4(_read_pool, _TRANSLATED), role="network"),
    "inner": Operand("ADDRESS", _only_v4(_read_address, _TRANSLATED), role="address"),
    "outer": Operand("ADDRESS | PORT", _only_v4(_read_outside, _TRANSLATED), role="port"),
    "inner-endpoint": Operand("ADDRESS:N", _read_inner_endpoint),
    "outer-endpoint": Operand("ADDRESS:N | PORT:N", _read_endpoint),
    "who": Operand("PREFIX | LIST", _only_v4(_read_who, _TRANSLATED), role="list"),
    "pool-or-port": Operand(
        "POOL | PORT", lambda line: check_name(line.take("A pool or a port")), role="pool"
    ),
    "next-hop": Operand("ADDRESS", _read_next_hop, role="address"),
    "port": Operand("PORT", _read_port, role="port"),
    "name": Operand("NAME", lambda line: check_name(line.take("The name")), role="name"),
    "instance": Operand("INSTANCE", lambda line: check_name(line.take("The instance")), role="instance"),
    "domain": Operand("NAME", lambda line: check_domain(line.take("The name"))),
    "vlan": Operand("VLAN", lambda line: parse_vlan(line.take("The VLAN"))),
    "vlans": Operand("VLANS", read_vlans, VlanSet.__str__),
    "preference": Operand("N", number(1, 255)),
    "number": Operand("N", number(1, 65535)),
    "rate": Operand("N", number(1, 10**11)),
    "seconds": Operand("SECONDS", number(1, 2**32 - 1)),
    "text": Operand("TEXT", _read_text, quote),
}
"""Every kind of value by the name that the forms use."""
