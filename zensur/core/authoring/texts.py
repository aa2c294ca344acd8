"""Edits of single values and entries of the lab file, and of sheets and the statements in them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..lab.entries import move, rename
from ..lab.splice import CannotSplice
from .draft import CannotEdit, Draft

_MOST_DEPTH = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class PutValue:
    """Put a text at a place such as ``title`` or ``scheme.tasks[0].title``; an empty one takes the key away."""

    do: Literal["put"] = "put"
    place: str
    value: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the value."""
        return draft.put(self.place, self.value) if self.value.strip() else draft.remove(self.place)


@dataclass(frozen=True, slots=True, kw_only=True)
class InsertEntry:
    """Put entries into a list such as ``pings``, in front of the one numbered ``at``, or at its end."""

    do: Literal["insert"] = "insert"
    place: str
    values: tuple[dict[str, Any] | str, ...]
    at: int | None = None

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the entries."""
        for n, value in enumerate(self.values):
            draft = draft.insert(self.place, _plain(value), None if self.at is None else self.at + n)
        return draft


@dataclass(frozen=True, slots=True, kw_only=True)
class AddEntry:
    """Add a key with a map to a map, such as ``variables.site``."""

    do: Literal["add"] = "add"
    place: str
    value: dict[str, Any]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the entry."""
        return draft.add(self.place, _plain(self.value))


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveEntries:
    """Take entries of lists or maps away."""

    do: Literal["remove"] = "remove"
    places: tuple[str, ...]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without them, the last first, so that numbers hold."""
        order = {place: n for n, place in enumerate(draft.entries)}
        for place in sorted(set(self.places), key=lambda p: order.get(p, -1), reverse=True):
            draft = draft.remove(place)
        return draft


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveEntry:
    """Put an entry of a list or map at another place among its own, counted from 0."""

    do: Literal["move"] = "move"
    place: str
    to: int

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the entry moved."""
        try:
            return draft.with_text(move(draft.text, self.place, self.to))
        except CannotSplice as cannot:
            raise CannotEdit(str(cannot)) from None


@dataclass(frozen=True, slots=True, kw_only=True)
class RenameEntry:
    """Give a key of a map another name, such as that of a variable."""

    do: Literal["rename"] = "rename"
    place: str
    to: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the other name; texts that hold a variable hold it by that."""
        section, _, old = self.place.partition(".")
        if section == "variables":
            draft = draft.with_text(draft.text.replace(f"${{{old}}}", f"${{{self.to}}}"))
        try:
            return draft.with_text(rename(draft.text, self.place, self.to))
        except CannotSplice as cannot:
            raise CannotEdit(str(cannot)) from None


@dataclass(frozen=True, slots=True, kw_only=True)
class PutSheet:
    """Put a whole sheet of a device; an empty one is taken away."""

    do: Literal["put-sheet"] = "put-sheet"
    side: Literal["given", "answer", "start"]
    device: str
    text: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the sheet."""
        device = draft.device(self.device)
        return draft.put_sheet(draft.sheet_place(self.side, device.name), self.text)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutStatements:
    """Put statements into a sheet of a device, each under a header such as ``port p1``, or at the top.

    ``instead`` is a statement under the header whose line the first of them takes.
    """

    do: Literal["put-statements"] = "put-statements"
    side: Literal["given", "answer"] = "answer"
    device: str
    header: str = ""
    statements: tuple[str, ...]
    instead: str = ""

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the statements."""
        device = draft.device(self.device)
        left = list(self.statements)
        if self.instead and left:
            draft = draft.put_line(draft.statement(device.name, self.header, self.instead), left.pop(0))
        for statement in left:
            draft = draft.put_statement(self.side, device.name, self.header, statement)
        return draft


@dataclass(frozen=True, slots=True, kw_only=True)
class TakeStatements:
    """Take statements of the model answer out of the sheets in which they stand."""

    do: Literal["take-statements"] = "take-statements"
    device: str
    header: str = ""
    statements: tuple[str, ...]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without the statements."""
        device = draft.device(self.device)
        for statement in self.statements:
            draft = draft.take(draft.statement(device.name, self.header, statement))
        return draft


def _plain(value: Any, depth: int = 0) -> Any:
    """Return JSON as texts, lists and maps; raises :class:`CannotEdit` for anything else."""
    if isinstance(value, str):
        return value
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int | float):
        return f"{value:g}"
    if depth < _MOST_DEPTH and isinstance(value, dict):
        return {str(k): _plain(v, depth + 1) for k, v in value.items() if v is not None and v != ""}
    if depth < _MOST_DEPTH and isinstance(value, Sequence):
        return [_plain(v, depth + 1) for v in value]
    raise CannotEdit("This cannot be written into a lab file.")


TEXT_EDITS = (
    PutValue
    | InsertEntry
    | AddEntry
    | RemoveEntries
    | MoveEntry
    | RenameEntry
    | PutSheet
    | PutStatements
    | TakeStatements
)
