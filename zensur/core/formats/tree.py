"""Instance data as a tree that JSON and XML have in common: members by name, with the lines that they stand in.

A member bears the name of its module in front where that is another than its parent's (RFC 7951, section 4). In XML
there is no telling a list with one entry from a container: every member is a list there, and all values are text.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

MOST_BYTES = 1024 * 1024
MOST_DEPTH = 64
MOST_ENTRIES = 20_000

Members = dict[str, Any]
"""An object of JSON, or an element of XML with elements in it."""


class BadTree(ValueError):
    """A file that is no JSON or no XML, or more than is read; ``str()`` says why, ``line`` where it can be told."""

    def __init__(self, code: str, message: str, line: int = 1) -> None:
        super().__init__(message)
        self.code, self.line = code, line


@dataclass(frozen=True, slots=True)
class Tree:
    """The data of one file. ``lines`` has the lines of the members of an object, by its ``id()``; the line of the
    object itself is that of the member without a name. ``repeated`` are the members whose name stood before in the
    same object, with a line.
    """

    data: Members
    lines: Mapping[int, Mapping[str, int]]
    typed: bool
    """Whether numbers and truth values are told from text, as JSON does."""
    repeated: tuple[tuple[int, str], ...] = field(default=())
    qualified: bool = False
    """Whether some member bears the name of its module although its parent is of the same."""
