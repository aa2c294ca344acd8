"""What is read of instance data so far: statements by their slots, and remarks with the instance path and the line."""

from collections.abc import Iterable
from typing import Protocol

from ...addresses import BadValue
from ...sheet import AnyItem, Block, Configuration, Diagnostic, Item, Severity, Statement, Where
from ...sheet.diagnostics import Remarks
from ...sheet.statements import Open
from ..tree import Tree


class Located(Protocol):
    """Something in the data that can say where it is; it is asked only where something is to be reported."""

    @property
    def path(self) -> str:
        """Its instance identifier."""


class Reading:
    """The state between two parts of a file.

    ``kind`` is the device's, such as ``router``, where it is known. A statement is read whole or not at all: what is
    to be said by several leafs is left out where ``refused`` has grown while they were read.
    """

    def __init__(self, file: str, text: str, tree: Tree, kind: str | None) -> None:
        self.file, self.tree, self.kind = file, tree, kind
        self.remarks = Remarks()
        self.refused = 0
        """How many values were left out so far."""
        self._text = text
        self._lines: list[str] | None = None
        self._items: dict[tuple[object, ...], AnyItem] = {}
        self.forwards: list[tuple[int, bool, Where]] = []
        """What interfaces say of forwarding, each with the family."""

    def keep(
        self, block: Block | None, statement: Statement, where: Where, node: "Located | None" = None
    ) -> None:
        """Keep a statement, which ``node`` says, unless there is one already in its place."""
        item: AnyItem = Item(block, statement, where)
        before = self._items.setdefault(item.slot, item)
        if before is not item and type(statement) is not Open:
            said = f"This was said before, in line {before.where.line}" if before.where else "This was said"
            self.say(
                Severity.NOTE, "said-twice", where.line, f"{said}; that counts.", path=node.path if node else "",
            )  # fmt: skip

    def items(self) -> Iterable[AnyItem]:
        """Return all that is kept."""
        return self._items.values()

    def configuration(self) -> Configuration:
        """Return the whole."""
        return Configuration.of_items(self._items.values())

    def where(self, line: int) -> Where:
        """Return a place in the file."""
        return Where(self.file, line)

    def say(
        self,
        severity: Severity,
        code: str,
        line: int,
        message: str,
        suggestion: str | None = None,
        path: str = "",
    ) -> None:
        """Report something at a line, from its first letter to its last."""
        if self._lines is None:
            self._lines = self._text.split("\n")
        text = self._lines[line - 1] if line <= len(self._lines) else ""
        column = len(text) - len(text.lstrip()) + 1
        end = max(column, len(text.rstrip()))
        self.remarks.add(
            Diagnostic(severity, code, line, column, end, message, suggestion, path=path or None)
        )

    def refuse(self, bad: BadValue, line: int, path: str) -> None:
        """Report a value that was left out."""
        self.refused += 1
        self.say(Severity.ERROR, bad.code, line, str(bad), bad.suggestion, path)
