"""The file ``links.cabling`` of a paper: how the learner joined the devices, a link on a line as in a lab file."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..lab import Link
from ..sheet import Where

CABLING = "/cabling"
"""Where a paper keeps this file among those of its devices, whose names have no slash."""
CABLING_FILE = "links.cabling"
MOST_CABLES = 2_000
MOST_LETTERS = 200


@dataclass(frozen=True, slots=True)
class CableLine:
    """A line that says which ports a cable joins, as it was written."""

    text: str
    where: Where


Cabling = tuple[CableLine, ...]
"""The lines of a hand-in, or of a model answer."""


def read_cabling(content: bytes, file: str = CABLING_FILE) -> Cabling:
    """Read the lines that are no comments. Never raises; whether they are links is seen beside the lab."""
    lines = content.decode("utf-8-sig", "replace").splitlines()[:MOST_CABLES]
    texts = ((n, line.partition("#")[0].strip().removeprefix("- ")) for n, line in enumerate(lines, 1))
    return tuple(CableLine(text[:MOST_LETTERS], Where(file, n)) for n, text in texts if text)


def cabling_of(links: Iterable[Link]) -> Cabling:
    """Return the lines of a file in which some links stand."""
    return tuple(CableLine(str(link), Where(CABLING_FILE, n)) for n, link in enumerate(links, 1))
