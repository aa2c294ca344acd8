"""Reads the header of a block: its names, or its VLANs, and its network instance."""

from ..addresses import BadValue
from .configuration import Block
from .spelling import PLACES
from .statements import BLOCKS, BlockKind
from .vlans import parse_vlan
from .words import Line, check_name

MOST_NAMES = 32
HEADERS = {kind.word: kind for kind in BLOCKS}
"""The kinds of block by the word that opens them."""


def read_header(line: Line) -> list[Block]:
    """Read a header that may name several blocks; raises :class:`BadValue`."""
    kind = HEADERS[line.take("The header").lower()]
    names = _names(kind, line)
    instance = None
    if line.left and kind.in_instance:
        if line.peek() != "in":
            word = line.take("A word")
            raise BadValue(
                "extra-words",
                f"The header is complete before {word[:40]}; only in INSTANCE may follow. Put a # before a comment.",
            )
        line.take("in")
        instance = check_name(line.take("The instance"))
    if line.left:
        word = line.take("A word")
        raise BadValue("extra-words", f"The header is complete before {word[:40]}. Put a # before a comment.")
    return list(dict.fromkeys(Block(kind.word, name, instance) for name in names))


def _names(kind: BlockKind, line: Line) -> list[str]:
    if kind.operand is None:
        return [""]
    names = [_name(kind, line)]
    while line.left and not (kind.in_instance and line.peek() == "in"):
        if line.peek() in PLACES[kind.word]:
            raise _statement_behind(line)
        names.append(_name(kind, line))
        if len(names) > MOST_NAMES:
            raise BadValue("too-many-names", f"A header names at most {MOST_NAMES} {kind.word}s.")
    return names


def _statement_behind(line: Line) -> BadValue:
    """Say that the header ends before a statement, which belongs below it."""
    said = line.text[line.words[line.at].column - 1 :].rstrip()
    count = line.left
    line.at = len(line.words)
    return BadValue(
        "statement-in-header",
        f"The header ends before {said[:60]}: write that below it, indented.",
        f"\n  {said}",
        count,
    )


def _name(kind: BlockKind, line: Line) -> str:
    if kind.operand == "vlan":
        return str(parse_vlan(line.take("The VLAN")))
    name = check_name(line.take("The name"))
    sub_port = Block(kind.word, name).sub_port_of
    if sub_port is not None:
        port, vlan = name.rsplit(".", 1)
        return f"{port}.{parse_vlan(vlan)}"
    return name
