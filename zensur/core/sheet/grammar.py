"""How a statement is spelled: forms made of words and operands, read and written by the same declaration."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from ipaddress import ip_network
from typing import Any

from ..addresses import (
    Address,
    BadValue,
    Interface,
    Prefix,
    mask_length,
    parse_address,
    parse_interface,
    parse_prefix,
)
from .words import Line, check_name, quote


@dataclass(frozen=True, slots=True)
class Operand:
    """A kind of value: how the reference calls it, how it is read from a line and written back."""

    label: str
    read: Callable[[Line], Any]
    write: Callable[[Any], str] = str


def _read_masked(line: Line, what: str, read: Callable[[str], Any]) -> tuple[Any, bool]:
    """Read ``ADDRESS/LENGTH`` or ``ADDRESS mask A.B.C.D``; also say whether the mask was written out."""
    word = line.take(what)
    if line.peek() != "mask" or "/" in word:
        return read(word), False
    line.take("mask")
    address = parse_address(word)
    if address.version != 4:
        raise BadValue("mask-in-ipv6", f"{word} is an IPv6 address: write its length, such as {word}/64.")
    return read(f"{word}/{mask_length(line.take('The mask'))}"), True


@dataclass(frozen=True, slots=True)
class Masked:
    """An interface address with the way its mask was written, which only a criterion may ask for."""

    interface: Interface
    dotted: bool = False

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Masked) and self.interface == other.interface

    def __hash__(self) -> int:
        return hash(self.interface)

    def __str__(self) -> str:
        return str(self.interface)


def _read_interface(line: Line) -> Masked:
    return Masked(*_read_masked(line, "The address", parse_interface))


DEFAULT_V4: Prefix = ip_network("0.0.0.0/0")
DEFAULT_V6: Prefix = ip_network("::/0")


def _read_destination(line: Line) -> Prefix:
    if line.peek() == "default":
        line.take("default")
        return DEFAULT_V4
    prefix: Prefix = _read_masked(line, "The destination", parse_prefix)[0]
    return prefix


def write_destination(prefix: Prefix) -> str:
    """Write a route's destination: ``default`` for all IPv4 addresses."""
    return "default" if prefix == DEFAULT_V4 else str(prefix)


def _read_address(line: Line) -> Address:
    return parse_address(line.take("The address"))


def _read_text(line: Line) -> str:
    text = line.take_rest()
    if not text.strip():
        raise BadValue("missing-word", "The text is empty.")
    return text


def _number(low: int, high: int) -> Callable[[Line], int]:
    def read(line: Line) -> int:
        word = line.take("A number")
        if not re.match(r"\d{1,10}\Z", word, re.ASCII) or not low <= int(word) <= high:
            raise BadValue("bad-number", f"{word[:40]} is not a number from {low} to {high}.")
        return int(word)

    return read


OPERANDS: Mapping[str, Operand] = {
    "address": Operand("ADDRESS", _read_address),
    "interface": Operand("PREFIX", _read_interface),
    "destination": Operand("DEST", _read_destination, write_destination),
    "port": Operand("PORT", lambda line: check_name(line.take("The port"))),
    "name": Operand("NAME", lambda line: check_name(line.take("The name"))),
    "preference": Operand("N", _number(1, 255)),
    "text": Operand("TEXT", _read_text, quote),
}


@dataclass(frozen=True, slots=True)
class Slot:
    """The place of an operand in a form: the statement's field it fills."""

    field: str
    operand: Operand


class Form:
    """One spelling, such as ``route {dest:destination} via {next_hop:address} [out {port:port}]``.

    Words stand as they are, ``{field:operand}`` takes a value, one part in brackets may be left out.
    ``fixed`` are the fields that this spelling settles by itself.
    """

    def __init__(self, pattern: str, **fixed: object) -> None:
        must, _, may = pattern.partition("[")
        self.pattern = pattern
        self.must = [_element(word) for word in must.split()]
        self.may = [_element(word) for word in may.rstrip("] ").split()]
        self.fixed = fixed

    def usage(self) -> str:
        """Return the form as the reference prints it."""
        return re.sub(r"\{\w+:(\w+)\}", lambda m: OPERANDS[m.group(1)].label, self.pattern)

    def read(self, line: Line) -> dict[str, object]:
        """Take the form from the line and return the fields; raises :class:`BadValue`."""
        fields = dict(self.fixed)
        _take(self.must, line, fields)
        if self.may and isinstance(self.may[0], str) and line.peek() == self.may[0]:
            _take(self.may, line, fields)
        return fields

    def write(self, statement: object, defaults: Mapping[str, object]) -> str | None:
        """Write the statement in this form; None where the form cannot say all of it."""
        if any(getattr(statement, name) != value for name, value in self.fixed.items()):
            return None
        elements = list(self.must)
        if self.may and all(getattr(statement, s.field) is not None for s in self.may if isinstance(s, Slot)):
            elements += self.may
        filled = {s.field for s in elements if isinstance(s, Slot)} | set(self.fixed)
        if any(getattr(statement, name) is None for name in filled):
            return None
        if any(getattr(statement, n) != d for n, d in defaults.items() if n not in filled):
            return None
        return " ".join(
            e if isinstance(e, str) else e.operand.write(getattr(statement, e.field)) for e in elements
        )


def _element(word: str) -> str | Slot:
    if not word.startswith("{"):
        return word
    field, _, operand = word.strip("{}").partition(":")
    return Slot(field, OPERANDS[operand])


def _take(elements: list[str | Slot], line: Line, fields: dict[str, object]) -> None:
    for element in elements:
        if isinstance(element, Slot):
            fields[element.field] = element.operand.read(line)
        elif line.peek() != element:
            found = line.peek()
            raise BadValue(
                "unexpected-word" if found else "missing-word",
                f"{element} is wanted here"
                + (f", not {found[:40]}." if found else ": the line ends too early."),
                element,
            )
        else:
            line.take(element)
