"""The configuration of one device: the statements of its sheet, each with the line it came from."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Generic, TypeVar, cast

from .statements import BLOCKS, STATEMENTS, TOP, Open, Statement
from .words import natural

S = TypeVar("S", bound=Statement, covariant=True)
_RANK: dict[type[Statement], int] = {Open: 0} | {kind: n for n, kind in enumerate(STATEMENTS, 1)}
_KIND = {TOP: 0} | {kind.word: n for n, kind in enumerate(BLOCKS, 1)}
_AFTER_BLOCKS = len(BLOCKS) + 1


@dataclass(frozen=True, slots=True)
class Where:
    """A line of a file, counted from 1."""

    file: str
    line: int


@dataclass(frozen=True, slots=True)
class Block:
    """The block a statement stands in. Names are compared without regard to case."""

    kind: str
    name: str

    def header(self) -> str:
        """Write the header."""
        return f"{self.kind} {self.name}"

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, Block) and self.kind == other.kind and self.name.lower() == other.name.lower()
        )

    def __hash__(self) -> int:
        return hash((self.kind, self.name.lower()))


@dataclass(frozen=True, slots=True)
class Item(Generic[S]):
    """One statement in its place; where it came from does not count in comparisons."""

    block: Block | None
    statement: S
    where: Where | None = field(default=None, compare=False)

    @property
    def slot(self) -> tuple[object, ...]:
        """What there can be only one of in a configuration."""
        return (self.block, *self.statement.slot)

    def text(self) -> str:
        """Write the statement, or the header of its block."""
        return (
            self.block.header() if self.block and isinstance(self.statement, Open) else self.statement.text()
        )


AnyItem = Item[Statement]


def _order(item: AnyItem, seen: dict[Block, int]) -> tuple[Any, ...]:
    """Sort key: ports stand in natural order, all other blocks in the order of the sheet."""
    rank, block = _RANK[type(item.statement)], item.block
    if block is None:
        return (0 if rank == 1 else _AFTER_BLOCKS, (), rank)
    place = natural(block.name) if block.kind == "port" else ((seen.setdefault(block, len(seen)), 0, ""),)
    return (_KIND[block.kind], place, rank)


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

    @cached_property
    def _by_kind(self) -> dict[tuple[type[Statement], Block | None], tuple[AnyItem, ...]]:
        found: dict[tuple[type[Statement], Block | None], tuple[AnyItem, ...]] = {}
        for item in self.items:
            key = (type(item.statement), item.block)
            found[key] = (*found.get(key, ()), item)
        return found

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

    def header(self, block: Block) -> Item[Open] | None:
        """Return the header of a block, or None."""
        return self.one(Open, block)

    def over(self, given: "Configuration") -> "Configuration":
        """Lay this configuration over what is given: given statements first, own ones win their slots.

        A header takes the line of the own sheet where it has one.
        """
        own = {item.slot: item for item in self.items}
        kept = [own.pop(item.slot, item) for item in given.items]
        return Configuration.of_items([*kept, *own.values()])

    def changed(self, remove: Iterable[AnyItem], add: Iterable[AnyItem]) -> "Configuration":
        """Return a copy with items taken away and others added, which win their slots.

        What is added stands where the first item that goes stood, so that order is kept.
        """
        new = list(add)
        gone = {i.slot for i in remove} | {i.slot for i in new}
        items: list[AnyItem] = []
        for item in self.items:
            if item.slot not in gone:
                items.append(item)
            elif new:
                items.append(new.pop(0))
        return Configuration.of_items([*items, *new])

    def renamed(self, names: Mapping[Block, str]) -> "Configuration":
        """Return a copy in which blocks have other names."""
        return Configuration.of_items(
            Item(Block(i.block.kind, names[i.block]), i.statement, i.where)
            if i.block and i.block in names
            else i
            for i in self.items
        )
