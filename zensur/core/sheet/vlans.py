"""VLAN numbers (IEEE 802.1Q): 1 to 4094, and sets of them as a trunk names them."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..addresses import BadValue
from .words import Line

LAST_VLAN = 4094


@dataclass(frozen=True, slots=True)
class VlanSet:
    """A set of VLANs as spans in rising order that neither touch nor overlap."""

    spans: tuple[tuple[int, int], ...]

    @classmethod
    def of(cls, spans: Iterable[tuple[int, int]]) -> "VlanSet":
        """Make a set of spans in any order, which may overlap."""
        merged: list[tuple[int, int]] = []
        for low, high in sorted(spans):
            if merged and low <= merged[-1][1] + 1:
                merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
            else:
                merged.append((low, high))
        return cls(tuple(merged))

    def __contains__(self, vlan: int) -> bool:
        return any(low <= vlan <= high for low, high in self.spans)

    @property
    def all(self) -> bool:
        """Whether it is every VLAN there can be."""
        return self.spans == ((1, LAST_VLAN),)

    def __str__(self) -> str:
        if self.all:
            return "all"
        return ",".join(str(low) if low == high else f"{low}-{high}" for low, high in self.spans)


def parse_vlan(text: str) -> int:
    """Read one VLAN; raises :class:`BadValue`."""
    if not re.match(r"\d{1,4}\Z", text, re.ASCII) or not 1 <= int(text) <= LAST_VLAN:
        raise BadValue("bad-vlan", f"{text[:40]} is no VLAN: it is a number from 1 to {LAST_VLAN}.")
    return int(text)


def read_vlans(line: Line) -> VlanSet:
    """Read ``all`` or ``10,20,30-34``; spaces behind commas are tolerated."""
    text = line.take("The VLANs")
    if text.lower() == "all":
        return VlanSet(((1, LAST_VLAN),))
    while line.left and (text.endswith(",") or (line.peek() or "").startswith(",")):
        text += line.take("A VLAN")
    spans = []
    for part in text.split(","):
        first, dash, last = part.partition("-")
        low, high = parse_vlan(first), parse_vlan(last if dash else first)
        if high < low:
            raise BadValue("range-reversed", f"{part} ends before it begins: write {high}-{low}.")
        spans.append((low, high))
    return VlanSet.of(spans)
