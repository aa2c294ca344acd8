"""How a statement is spelled: forms made of words and operands, read and written by the same declaration."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..addresses import BadValue, looks_like_address
from .operands import OPERANDS, Operand
from .words import Line


@dataclass(frozen=True, slots=True)
class Slot:
    """The place of an operand in a form: the statement's field it fills."""

    field: str
    operand: Operand


Element = str | Slot
"""A part of a form: a word that stands as it is, or a place for a value."""


class Form:
    """One spelling, such as ``route {dest:destination} via {next_hop:address} [out {port:port}]``.

    Words stand as they are, ``{field:operand}`` takes a value, one part in brackets may be left out,
    and a final ``…`` lets the last value be followed by more, each a statement of its own.
    ``fixed`` are the fields that this spelling settles by itself.
    """

    def __init__(self, pattern: str, **fixed: object) -> None:
        self.repeats = pattern.endswith(" …")
        must, _, may = pattern.removesuffix(" …").partition("[")
        self.pattern = pattern
        self.must = [_element(word) for word in must.split()]
        self.may = [_element(word) for word in may.rstrip("] ").split()]
        self.fixed = fixed

    @property
    def elements(self) -> list[Element]:
        """All parts of the form, those that may be left out too."""
        return [*self.must, *self.may]

    def usage(self) -> str:
        """Return the form as the reference prints it."""
        return re.sub(r"\{\w+:([\w-]+)\}", lambda m: OPERANDS[m.group(1)].label, self.pattern)

    def read(self, line: Line) -> dict[str, object]:
        """Take the form from the line and return the fields; raises :class:`BadValue`."""
        fields = dict(self.fixed)
        _take(self.must, line, fields)
        if self.may and isinstance(self.may[0], str) and line.peek() == self.may[0]:
            _take(self.may, line, fields)
        return fields

    def read_more(self, line: Line, fields: Mapping[str, object]) -> dict[str, object]:
        """Take one more of the last value, the other fields being those read before."""
        more = dict(fields)
        _take(self.must[-1:], line, more)
        return more

    def write(self, statements: Sequence[object], defaults: Mapping[str, object]) -> str | None:
        """Write statements in this form, several only where it repeats; None where it cannot say all of them."""
        first = statements[0]
        if any(getattr(first, name) != value for name, value in self.fixed.items()):
            return None
        elements = list(self.must)
        if self.may and all(getattr(first, s.field) is not None for s in self.may if isinstance(s, Slot)):
            elements += self.may
        filled = {s.field for s in elements if isinstance(s, Slot)} | set(self.fixed)
        if any(getattr(first, name) is None for name in filled):
            return None
        if any(getattr(first, n) != d for n, d in defaults.items() if n not in filled):
            return None
        words = [_write(e, first) for e in elements]
        words += [_write(elements[-1], other) for other in statements[1:]]
        return " ".join(words)


def _write(element: Element, statement: object) -> str:
    return element if isinstance(element, str) else element.operand.write(getattr(statement, element.field))


def _element(word: str) -> Element:
    if not word.startswith("{"):
        return word
    field, _, operand = word.strip("{}").partition(":")
    return Slot(field, OPERANDS[operand])


def _take(elements: Sequence[Element], line: Line, fields: dict[str, Any]) -> None:
    for element in elements:
        if isinstance(element, Slot):
            fields[element.field] = element.operand.read(line)
        elif line.peek() != element:
            found = line.words[line.at].text if line.left else ""
            raise BadValue(
                "unexpected-word" if found else "missing-word",
                f"{element} is wanted here"
                + (f", not {found[:40]}." if found else ": the line ends too early."),
                f"{element} {found}" if looks_like_address(found) else element,
            )
        else:
            line.take(element)
