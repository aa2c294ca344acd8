"""What is read of a snapshot so far: statements by their slots, and remarks."""

from ...sheet import AnyItem, Block, Configuration, Item, Severity, Statement, Where
from .parts import Snapshot


class Kept:
    """The statements that a snapshot comes to."""

    def __init__(self, snapshot: Snapshot) -> None:
        self._snapshot = snapshot
        self._items: dict[tuple[object, ...], AnyItem] = {}

    def keep(self, block: Block | None, statement: Statement, where: Where) -> None:
        """Keep a statement, unless there is one in its place."""
        item: AnyItem = Item(block, statement, where)
        self._items.setdefault(item.slot, item)

    def say(self, severity: Severity, code: str, line: int, message: str) -> None:
        """Report something at a line."""
        self._snapshot.say(severity, code, line, message)

    def note(self, code: str, where: Where, message: str) -> None:
        """Say that something was passed over, or what it was read as."""
        self.say(Severity.NOTE, code, where.line, message)

    def items(self) -> list[AnyItem]:
        """Return all statements."""
        return list(self._items.values())

    def configuration(self) -> Configuration:
        """Return the whole."""
        return Configuration.of_items(self._items.values())
