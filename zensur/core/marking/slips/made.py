"""How a slip is made: the inverse of recognising it, for made-up classes and to see that each is found again."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, fields, replace
from ipaddress import IPv4Address, IPv4Network, IPv6Address, IPv6Network, ip_network
from itertools import combinations, islice
from typing import Any, TypeVar

from ...addresses import AddressRange, Prefix
from ...lab import Lab, Link
from ...sheet import AnyItem, Configuration, Item, OnPort, Statement, VlanSet
from ...sheet.statements import Open
from ..differences.edits import plain_text

S = TypeVar("S", bound=Statement)
Placed = tuple[str, AnyItem]
"""A statement with the device it stands on."""


@dataclass(frozen=True)
class MadeSlip:
    """What a learner may have done on a device: statements taken away and put, a line misspelt, sheets mixed up.

    ``repairs`` are the repairs that mend it; ``slips`` the keywords of the slips that it may be called by.
    """

    what: str
    device: str
    repairs: frozenset[str]
    slips: frozenset[str] = frozenset()
    remove: tuple[Placed, ...] = ()
    put: tuple[Placed, ...] = ()
    misspelt: tuple[str, str] | None = None
    """A line of the device's sheet, and how it was typed."""
    at: AnyItem | None = None
    """The statement that is misspelt."""
    sheets: Mapping[str, str | None] | None = None
    """By device whose sheet was handed in for it; None where none was."""

    @property
    def touches(self) -> frozenset[object]:
        """What it changes: two slips of one paper may not touch the same."""
        if self.sheets is not None:
            return frozenset(self.sheets)
        slots = {(device, item.slot) for device, item in (*self.remove, *self.put)}
        if self.at is None:
            return frozenset(slots)
        # a line that is not understood below a header that is not either is one mistake
        return frozenset({*slots, (self.device, self.at.slot), ("misspelt", self.device, self.at.block)})

    @property
    def devices(self) -> set[str]:
        """The devices whose sheets it changes."""
        return {self.device, *(d for d, _ in (*self.remove, *self.put)), *(self.sheets or {})}


@dataclass(frozen=True)
class Making:
    """One device of a lab on which slips are made: what its model answer adds, and its sheet in a full paper."""

    lab: Lab
    device: str
    items: tuple[AnyItem, ...]
    text: str = field(repr=False)

    def of(self, kind: type[S]) -> Iterator[Item[S]]:
        """Yield what the model answer adds of one kind of statement."""
        return (i for i in self.items if isinstance(i.statement, kind))  # type: ignore[misc]

    @property
    def model(self) -> Configuration:
        """The device in the model answer."""
        return self.lab.model[self.device]

    def is_alone(self, item: AnyItem, kind: type[Statement]) -> bool:
        """Whether a statement is the only one of its kind in its block."""
        return sum(isinstance(i.statement, kind) and i.block == item.block for i in self.items) == 1

    def has(self, item: AnyItem) -> bool:
        """Whether the model answer has something in the place of a statement."""
        return item.slot in {i.slot for i in self.model.items}

    def neighbours(self) -> Iterator[tuple[Link, str, str, str]]:
        """Yield the links of the device with its port, and the device and port at the other end."""
        for link in self.lab.links:
            for near, far in ((link.a, link.b), (link.b, link.a)):
                if near.device == self.device and far.device != self.device:
                    yield link, near.port, far.device, far.port

    def instead(self, what: str, item: AnyItem, put: Statement | None, *also: str) -> MadeSlip:
        """Put a statement in the place of one of the model answer's; none where it is left out."""
        return self.change(what, [item], [replace(item, statement=put)] if put is not None else [], *also)

    def change(self, what: str, remove: Iterable[AnyItem], put: Iterable[AnyItem], *also: str) -> MadeSlip:
        """Take statements of the model answer away and put others."""
        gone = tuple(remove)
        return MadeSlip(
            f"{type(gone[0].statement).__name__.lower()}: {what}",
            self.device,
            frozenset(
                {plain_text(i) for i in gone} if len(gone) == 1 else {"; ".join(map(plain_text, gone))}
            ),
            frozenset(also),
            tuple((self.device, i) for i in gone),
            tuple((self.device, i) for i in put),
        )

    def typed(self, what: str, item: AnyItem, typed: Callable[[str], str]) -> Iterator[MadeSlip]:
        """Misspell the line of a statement that stands once in the sheet."""
        opens = isinstance(item.statement, Open)
        line = item.statement.text() if not opens else item.block.header() if item.block else ""
        if sum(found.strip() == line for found in self.text.split("\n")) == 1:
            yield MadeSlip(
                f"{type(item.statement).__name__.lower()}: {what}",
                self.device,
                frozenset({plain_text(item)}),
                misspelt=(f"{line}\n", f"{typed(line)}\n"),
                at=item,
            )


Made = Callable[[Making], Iterator[MadeSlip]]
"""Yields every slip of a kind that can be made on a device."""


def not_made(making: Making) -> Iterator[MadeSlip]:
    """Make none: it needs more than a model answer, such as a criterion that asks for a description."""
    return iter(())


def left_out(*kinds: type[Statement], also: tuple[str, ...] = ()) -> Made:
    """Leave a statement out."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.items:
            if isinstance(item.statement, kinds):
                yield making.instead("left out", item, None, *also)

    return made


def block_left_out(kind: str) -> Made:
    """Leave a whole block of several lines out."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for block in dict.fromkeys(
            i.block for i in making.items if i.block is not None and i.block.kind == kind
        ):
            gone = [i for i in making.items if i.block == block]
            lines = [i for i in gone if i.statement.SPEC.forms]
            if len(lines) > 1 and len(gone) < len(making.items):  # else the whole sheet would be missing
                repair = frozenset({"; ".join(map(plain_text, lines))})
                yield replace(making.change("", gone, []), what=f"{kind}: block left out", repairs=repair)

    return made


def on_another_port(*kinds: type[Statement]) -> Made:
    """Put a statement on another port, that has none of its kind."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.items:
            blocks = [b for b in making.model.bearers() if isinstance(item.statement, kinds)]
            moved = (
                replace(item, block=b) for b in blocks if b.kind == (item.block.kind if item.block else "")
            )
            other = next((i for i in moved if not making.has(i)), None)
            if other is not None:
                yield making.change("on another port", [item], [other])

    return made


def other_values(*kinds: type[Statement], also: tuple[str, ...] = ()) -> Made:
    """Give a statement another of its values: a neighbour's number, the next address, the other word."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.items:
            for other in _with_other_values(item.statement) if isinstance(item.statement, kinds) else ():
                yield making.instead("another value", item, other, *also)

    return made


def exchanged(kind: type[Statement]) -> Made:
    """Give two ports each other's value."""

    def made(making: Making) -> Iterator[MadeSlip]:
        own = [i for i in making.items if isinstance(i.statement, kind) and making.is_alone(i, kind)]
        for one, other in islice(combinations(own, 2), 3):
            if one.statement != other.statement:
                put = [replace(one, statement=other.statement), replace(other, statement=one.statement)]
                change = making.change("exchanged", [one, other], put)
                texts = (plain_text(one), plain_text(other))
                yield replace(change, repairs=frozenset({"; ".join(texts), "; ".join(reversed(texts))}))

    return made


def several(*ways: Made) -> Made:
    """Make a slip in several ways."""
    return lambda making: (slip for way in ways for slip in way(making))


def _with_other_values(statement: Statement) -> Iterator[Statement]:
    for own in fields(statement):
        other = _other(own.name, getattr(statement, own.name))
        if other is not None:
            yield replace(statement, **{own.name: other})


def _other(name: str, value: Any) -> Any:
    if isinstance(value, bool):
        return not value
    if isinstance(value, IPv4Address | IPv6Address):
        return value + 1
    if isinstance(value, IPv4Network | IPv6Network):
        return beside(value, 1)
    if isinstance(value, AddressRange):
        return AddressRange(value.first + 1, value.last + 1)
    if isinstance(value, VlanSet):
        first = value.spans[0]
        return VlanSet.of([first if len(value.spans) > 1 else (first[0] % 4094 + 1, first[0] % 4094 + 1)])
    if isinstance(value, int) and name not in ("first", "last"):
        return value + 1
    return None


def beside(prefix: Prefix, by: int) -> Prefix | None:
    """Return the network some places behind a prefix; None where there is none."""
    if not prefix.prefixlen:
        return None
    shift = prefix.max_prefixlen - prefix.prefixlen
    number = int(prefix.network_address) + (by << shift)
    if number >> prefix.max_prefixlen:
        return None
    return ip_network(
        (number, prefix.prefixlen) if prefix.version == 4 else (number.to_bytes(16, "big"), prefix.prefixlen)
    )


def addresses_of(configuration: Configuration) -> set[object]:
    """Return the addresses of a device."""
    return {i.statement.interface.ip for i in configuration.everywhere(OnPort)}
