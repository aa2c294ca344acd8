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
class Diagnostic:
    """One remark. ``line``, ``column`` and ``end`` count from 1; ``end`` is the last column meant."""

    severity: Severity
    code: str
    line: int
    column: int
    end: int
    message: str
    suggestion: str | None = None


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
