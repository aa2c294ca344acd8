"""The configuration of one device: the statements of its sheet, each with the line it came from."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Generic, TypeVar, cast

from .statement import folded
from .statements import BLOCKS, INSIDE, ORDER, BlockKind, OnPort, Open, Statement
from .words import natural

S = TypeVar("S", bound=Statement, covariant=True)
_INSIDE: dict[type[Statement], int] = {Open: 0} | {kind: n for n, kind in enumerate(INSIDE, 1)}
_TOP = {kind.word if isinstance(kind, BlockKind) else kind: n for n, kind in enumerate(ORDER)}
_WHOLE = frozenset(kind.word for kind in BLOCKS if kind.whole)
_NATURAL = ("port", "vlan")
_SUB_PORT = re.compile(r"(.+)\.([0-9]+)\Z")


@dataclass(frozen=True, slots=True)
class Where:
    """A line of a file, counted from 1."""

    file: str
    line: int


@dataclass(frozen=True, slots=True)
class Block:
    """The block a statement stands in: its kind, its name (empty where it has none), its network instance.

    Names are compared without regard to case, by the ``key``.
    """

    kind: str
    name: str
    instance: str | None = None
    key: tuple[str, str, str | None] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "key", (self.kind, self.name.lower(), folded(self.instance)))

    def header(self) -> str:
        """Write the header."""
        return " ".join(
            [
                self.kind,
                *([self.name] if self.name else []),
                *(["in", self.instance] if self.instance else []),
            ]
        )

    @property
    def sub_port_of(self) -> tuple[str, int] | None:
        """The physical port and the VLAN of a tagged sub-port; None for any other block."""
        found = _SUB_PORT.match(self.name) if self.kind == "port" else None
        return (found[1], int(found[2])) if found else None

    @property
    def place(self) -> str:
        """The place of the statements in it, as the table of statements calls it."""
        return "sub-port" if self.sub_port_of else self.kind

    @property
    def is_made(self) -> bool:
        """Whether its header makes it: a sub-port, loopback or VLAN, and not a port that the topology gives."""
        return self.kind != "port" or self.sub_port_of is not None

    @property
    def port_name(self) -> str:
        """How the port, loopback or VLAN interface is called elsewhere: VLAN 10's is ``vlan10``."""
        return f"vlan{self.name}" if self.kind == "vlan" else self.name

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Block) and self.key == other.key

    def __hash__(self) -> int:
        return hash(self.key)


@dataclass(frozen=True, slots=True)
class Item(Generic[S]):
    """One statement in its place; where it came from does not count in comparisons."""

    block: Block | None
    statement: S
    where: Where | None = field(default=None, compare=False)
    slot: tuple[object, ...] = field(init=False, compare=False, repr=False)
    """What there can be only one of in a configuration."""

    def __post_init__(self) -> None:
        object.__setattr__(self, "slot", (self.block, *self.statement.slot))

    def text(self) -> str:
        """Write the statement, or the header of its block."""
        return (
            self.block.header() if self.block and isinstance(self.statement, Open) else self.statement.text()
        )


AnyItem = Item[Statement]


def _order(item: AnyItem, seen: dict[Block, int]) -> tuple[Any, ...]:
    """Sort key: ports and VLANs stand in natural order, all other blocks in the order of the sheet."""
    block = item.block
    if block is None:
        return (_TOP[type(item.statement)], (), 0)
    if block.kind in _NATURAL:  # p1 and p01 are two ports of one natural order
        place: tuple[Any, ...] = (natural(block.name), block.name.lower())
    else:
        place = (seen.setdefault(block, len(seen)),)
    return (_TOP[block.kind], place, _INSIDE[type(item.statement)])


@dataclass(frozen=True)
class Configuration:
    """All statements of one device in canonical order; of equal rank they keep the order of the sheet."""

    items: tuple[AnyItem, ...] = ()

    @classmethod
    def of_items(cls, items: Iterable[AnyItem]) -> "Configuration":
        """Put items in order, each block with its header."""
        found = list(items)
        opened = {i.block for i in found if isinstance(i.statement, Open)}
        for item in list(found):
            if item.block is not None and item.block not in opened:
                opened.add(item.block)
                found.append(Item(item.block, Open()))
        seen: dict[Block, int] = {}
        return cls(tuple(sorted(found, key=lambda item: _order(item, seen))))

    def __hash__(self) -> int:
        return self._hash

    def work_out(self) -> None:
        """Work out what otherwise would be when it is asked for: what threads share never changes."""
        for name in ("_hash", "spelling", "written", "_by_kind", "_by_slot", "_at_top"):
            getattr(self, name)

    @cached_property
    def _hash(self) -> int:
        return hash(self.items)

    @cached_property
    def spelling(self) -> tuple[str, ...]:
        """The names of the blocks as they are spelled: equal configurations may differ in their capitals."""
        return tuple(i.block.name if i.block else "" for i in self.items)

    @cached_property
    def written(self) -> tuple[bool, ...]:
        """Of each address whether its mask was written out: equal configurations may differ in that, too."""
        return tuple(not i.statement.is_short for i in self.items if isinstance(i.statement, OnPort))

    @cached_property
    def _by_kind(self) -> dict[tuple[type[Statement], Block | None], tuple[AnyItem, ...]]:
        found: dict[tuple[type[Statement], Block | None], list[AnyItem]] = {}
        for item in self.items:
            found.setdefault((type(item.statement), item.block), []).append(item)
        return {key: tuple(items) for key, items in found.items()}

    def like(self, statement: Statement) -> AnyItem | None:
        """Return the first statement at the top that says the same, or None."""
        return self._at_top.get(statement)

    @cached_property
    def _at_top(self) -> dict[Statement, AnyItem]:
        return {item.statement: item for item in reversed(self.items) if item.block is None}

    def all(self, kind: type[S], block: Block | None = None) -> tuple[Item[S], ...]:
        """Return every statement of one kind in a block (None: at the top), in the order of the sheet."""
        return cast("tuple[Item[S], ...]", self._by_kind.get((kind, block), ()))

    def one(self, kind: type[S], block: Block | None = None) -> Item[S] | None:
        """Return the single statement of one kind in a block, or None."""
        found = self.all(kind, block)
        return found[0] if found else None

    def blocks(self, kind: str) -> tuple[Block, ...]:
        """Return the blocks of one kind in canonical order."""
        return tuple(
            i.block for i in self.items if i.block and i.block.kind == kind and isinstance(i.statement, Open)
        )

    def bearers(self) -> tuple[Block, ...]:
        """Return the blocks that may bear an address: ports and sub-ports, loopbacks, VLANs."""
        return tuple(block for kind in ("port", "loopback", "vlan") for block in self.blocks(kind))

    def made_blocks(self) -> tuple[Block, ...]:
        """Return the blocks that their headers make: all but those of physical ports."""
        return tuple(
            i.block for i in self.items if i.block and isinstance(i.statement, Open) and i.block.is_made
        )

    def bearer(self, name: str) -> Block | None:
        """Find a port, sub-port, loopback or VLAN interface by name, such as ``vlan10``."""
        return next((b for b in self.bearers() if b.port_name.lower() == name.lower()), None)

    def everywhere(self, kind: type[S]) -> tuple[Item[S], ...]:
        """Return every statement of one kind, in whatever block, in canonical order."""
        return tuple(cast("Item[S]", item) for item in self.items if type(item.statement) is kind)

    def header(self, block: Block) -> Item[Open] | None:
        """Return the header of a block, or None."""
        return self.one(Open, block)

    def over(self, given: "Configuration") -> "Configuration":
        """Lay this configuration over what is given: given statements first, own ones win their slots.

        A list, pool, lease block or name block replaces a given one of the same name whole. A header
        takes the line of the own sheet where it has one.
        """
        own = {item.slot: item for item in self.items}
        replaced = {i.block for i in self.items if i.block and i.block.kind in _WHOLE}
        kept = [own.pop(item.slot, item) for item in given.items if item.block not in replaced]
        return Configuration.of_items([*kept, *own.values()])

    def named_by(self, words: str) -> list[AnyItem]:
        """Return what the first words of a statement or header name; a header names its block.

        A statement inside a block is named with its header before it, such as ``port p1 about``.
        """
        wanted = words.lower().split()
        found: list[AnyItem] = []
        for item in self.items:
            header = item.block.header().lower().split() if item.block else []
            opens = isinstance(item.statement, Open)
            said = header if opens else [*header, *item.statement.text().lower().split()]
            if said[: len(wanted)] == wanted and (opens or len(wanted) > len(header)):
                found.append(item)
        return found

    def without(self, named: Iterable[str]) -> "Configuration":
        """Return a copy without what first words name; a header takes its whole block with it."""
        gone = [item for words in named for item in self.named_by(words)]
        if not gone:
            return self
        blocks = {item.block for item in gone if isinstance(item.statement, Open)}
        slots = {item.slot for item in gone}
        return Configuration.of_items(i for i in self.items if i.slot not in slots and i.block not in blocks)

    def changed(
        self, remove: Iterable[AnyItem], add: Iterable[AnyItem], before: Iterable[AnyItem] = ()
    ) -> "Configuration":
        """Return a copy with items taken away and others added, which win their slots.

        What is added stands where the first item that goes stood, but never behind one of ``before``, so that order is
        kept.
        """
        new = list(add)
        by_slot = self._by_slot
        gone = {at for i in (*remove, *new) if (at := by_slot.get(i.slot)) is not None}
        behind = {at for i in before if (at := by_slot.get(i.slot)) is not None}
        items: list[AnyItem] = []
        for at, item in enumerate(self.items):
            if at in behind:
                items += new
                new, behind = [], set()
            if at not in gone:
                items.append(item)
            elif new:
                items.append(new.pop(0))
        return Configuration.of_items([*items, *new])

    @cached_property
    def _by_slot(self) -> dict[tuple[object, ...], int]:
        """The place of each statement by its slot."""
        return {item.slot: at for at, item in enumerate(self.items)}
