"""What the reader has to say about a sheet: where, how grave, in a sentence, with a mend where one is likely."""

from dataclasses import dataclass
from enum import StrEnum

MOST_KEPT = 200


class Severity(StrEnum):
    """How grave a diagnostic is. An error left something out; a note changes nothing."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class Mend:
    """An edit that mends: ``text`` takes the place of the columns from ``column`` to ``end`` of a line.

    Columns count from 1, both included; ``end`` is ``column - 1`` where the text is only put in.
    """

    line: int
    column: int
    end: int
    text: str


@dataclass(frozen=True, slots=True)
class Diagnostic:
    """One remark. ``line``, ``column`` and ``end`` count from 1; ``end`` is the last column meant. ``path`` is the
    instance path in a file of data (RFC 7951, 6.11)."""

    severity: Severity
    code: str
    line: int
    column: int
    end: int
    message: str
    suggestion: str | None = None
    mend: Mend | None = None
    path: str | None = None


class Remarks:
    """Collects diagnostics, keeps the first 200 and counts the rest in ``more``."""

    def __init__(self) -> None:
        self.kept: list[Diagnostic] = []
        self.more = 0

    @property
    def full(self) -> bool:
        """Whether further diagnostics are only counted."""
        return len(self.kept) >= MOST_KEPT

    def add(self, diagnostic: Diagnostic) -> None:
        """Keep one diagnostic, or count it."""
        if self.full:
            self.more += 1
        else:
            self.kept.append(diagnostic)

    def put_first(self, diagnostic: Diagnostic) -> None:
        """Keep a diagnostic before all others."""
        if self.full:
            self.more += 1
            del self.kept[-1]
        self.kept.insert(0, diagnostic)
