"""Small edits of a learner's configuration: statements taken away and put in their place."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum

from ...lab import Link
from ...sheet import AnyItem, Block, Configuration, Where
from ...sheet.statements import Open
from ..reading.unread import Unread


def plain_text(item: AnyItem) -> str:
    """Write a statement without what only describes it; a header as it stands."""
    if isinstance(item.statement, Open):
        return item.text()
    return item.statement.plain().text()


class Of(Enum):
    """What an edit mends."""

    STATEMENT = "statements"
    DESCRIPTION = "what only describes"
    BLOCK = "a block that should not be there"
    SHEET = "a sheet that was not handed in, or another device's in its place"
    EXCHANGE = "two sheets, each handed in as the other"
    NUMBERS = "statements of another learner's variant"
    NAME = "one name for things of two instances"
    ANSWER = "the answer to a question, which no statement mends"
    DEVICE = "all of a device, where no part of it alone mends anything"
    MISSING = "a block that is missing whole"
    NETWORK = "a network of which all devices agree on another prefix"
    CABLE = "cables, which no statement mends"
    FOLLOWING = "what is right only as long as an address elsewhere is wrong"


@dataclass(frozen=True)
class Edit:
    """Statements taken away and put in their place. ``subjects`` are the criteria it is about, by id."""

    device: str
    remove: tuple[AnyItem, ...]
    add: tuple[AnyItem, ...]
    subjects: tuple[str, ...]
    header: Where | None = None
    """The header of the block in question, for a statement that is missing."""
    of: Of = Of.STATEMENT
    others: tuple["Edit", ...] = ()
    """What belongs to the same mistake, on this device or another."""
    following: tuple["Edit", ...] = ()
    """What points to an address that it takes away, and is right as long as that is there."""
    unread: Unread | None = None
    """The line that was not understood and becomes what is added."""
    before: tuple[AnyItem, ...] = ()
    """What stands behind the added statement in the model answer, where the order decides."""
    cables: tuple[tuple[Link, ...], tuple[Link, ...]] = ((), ())
    """The links taken away, and those put in their place."""

    @property
    def whole(self) -> bool:
        """Whether it is about whole sheets."""
        return self.of in (Of.SHEET, Of.EXCHANGE)

    @property
    def is_plain(self) -> bool:
        """Whether it is about statements, and not joined with any elsewhere."""
        return self.of is Of.STATEMENT and not self.others

    @property
    def parts(self) -> Iterator["Edit"]:
        """The edit itself and those that belong to the same mistake."""
        if self.of in (Of.ANSWER, Of.CABLE):
            return
        yield self
        yield from self.others
        yield from self.following

    @property
    def devices(self) -> set[str]:
        """The devices that it changes."""
        return {part.device for part in self.parts} | {
            d for k in self.cables for link in k for d in link.devices
        }

    @property
    def block(self) -> Block | None:
        """The block it is about."""
        items = self.add or self.remove
        return items[0].block if items else None

    @property
    def where(self) -> Where | None:
        """The line to point at; None where it is about whole sheets."""
        if self.whole:
            return None
        if self.unread is not None:
            return self.unread.where
        return next((i.where for i in self.remove if i.where is not None), self.header)

    @property
    def also(self) -> tuple[Where, ...]:
        """Further lines of the same mistake."""
        if self.of in (Of.SHEET, Of.EXCHANGE, Of.BLOCK):
            return ()
        found = [i.where for part in self.parts for i in part.remove if i.where is not None]
        if self.of is Of.NAME and self.header is not None:
            found = [self.header]
        return tuple(w for w in dict.fromkeys(found) if w != self.where)

    def on(self, configuration: Configuration) -> Configuration:
        """Return the configuration of its own device with this edit made, without what belongs to it."""
        return configuration.changed(self.remove, self.add, self.before)


def apply(edits: Sequence[Edit], configurations: Mapping[str, Configuration]) -> dict[str, Configuration]:
    """Return the configurations of the devices that the edits change."""
    changed: dict[str, Configuration] = {}
    for edit in edits:
        for part in edit.parts:
            before = changed.get(part.device, configurations[part.device])
            changed[part.device] = part.on(before)
    return changed
