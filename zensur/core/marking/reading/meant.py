"""What a line that was not understood was probably meant to be."""

import re
from collections.abc import Iterator
from difflib import SequenceMatcher

from ...sheet import AnyItem, Block
from ...sheet.statements import OnPort, Open
from .unread import Unread

ALIKE, NEARLY = 0.8, 0.5
"""How alike a line and a statement are when one was probably meant as the other: by itself, and with a further sign."""


def how_likely(line: Unread, item: AnyItem) -> float:
    """Say how likely a line was meant as a statement, in that statement's block; 0 where it was hardly.

    The same addresses count for more than all else.
    """
    if isinstance(item.statement, Open) or not _stands_in(line, item.block):
        return 0.0
    text = line.text.lower()
    wanted = item.statement.plain().text().lower()
    if line.suggestion.lower() == wanted:
        return 1.0  # a word of the trade for ours, such as enable for on
    alike = max(_alike(text, form) for form in _forms(item, wanted))
    addresses = re.findall(r"\d[0-9a-f]*(?:[.:]+[0-9a-f]+){2,}", wanted)
    if addresses and set(addresses) <= set(text.replace("/", " ").split()):
        return 1 + alike if alike >= NEARLY else 0.0
    suggested = line.suggestion.lower().split()[:1] == wanted.split()[:1]
    return alike if alike >= (NEARLY if suggested and not addresses else ALIKE) else 0.0


def _forms(item: AnyItem, wanted: str) -> Iterator[str]:
    """Yield the ways in which a statement may be written: with a length, and with a mask."""
    yield wanted
    if isinstance(item.statement, OnPort) and item.statement.interface.version == 4:
        yield f"address {item.statement.interface.ip} mask {item.statement.interface.netmask}"


def _alike(one: str, other: str) -> float:
    return SequenceMatcher(None, one, other, autojunk=False).ratio()


def _stands_in(line: Unread, block: Block | None) -> bool:
    if block is None:
        return True
    words = line.header.lower().split()
    return block.header().lower() == " ".join(words) or (
        len(words) > 1 and words[0] == block.kind and block.name.lower() in words[1:]
    )


def header_meant(line: Unread, blocks: list[Block]) -> Block | None:
    """Return the block whose header a line was probably meant as."""
    words = line.text.lower().split()

    def alike(block: Block) -> float:
        named = bool(block.name) and block.name.lower() in words
        ratio = _alike(" ".join(words[: len(block.header().split())]), block.header().lower())
        return ratio if ratio >= ALIKE or (named and len(words) <= 4) else 0.0

    best = max(blocks, key=alike, default=None)
    return best if best is not None and alike(best) else None
