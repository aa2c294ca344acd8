"""Adds, takes away, renames and moves entries of maps and lists in the text of a lab file; the rest stays as it is."""

from collections.abc import Mapping, Sequence
from typing import TypeAlias

import yaml

from .splice import CannotSplice, Entry, entries_of, in_flow, last_line, scalar, split_place

Value: TypeAlias = "str | Sequence[Value] | Mapping[str, Value]"
"""What an entry holds: a text, a list, or a map. All texts are written so that they read as the same text."""

WIDTH = 110
"""Maps and lists that are no longer stand in one line."""


def add(text: str, place: str, value: Value) -> str:
    """Return the text with a key and its value added at the end of its map, which is made where it is not there.

    Raises :class:`CannotSplice` where the key is there, or where its map cannot be.
    """
    entries = entries_of(text)
    if place in entries:
        raise CannotSplice(f"{place} is there already.")
    parent, name = split_place(place, entries)
    key = scalar(name or parent, 0, flow=False)
    lines = _lines(text)
    if not name:
        return _ended([*lines, *_entry(key, value, 0)])
    found = entries.get(parent)
    if found is None or _is_empty(found[1]):
        return _filled(text, parent, found, {name: value})
    node = found[1]
    if not isinstance(node, yaml.MappingNode):
        raise CannotSplice(f"{parent} is no map.")
    if node.flow_style:
        piece = f"{scalar(name, 0, flow=True)}: {_flow(value)}"
        return _into_flow(lines, node, len(node.value), piece)
    column = node.value[0][0].start_mark.column
    lines[last_line(lines, node) + 1 : last_line(lines, node) + 1] = _entry(key, value, column)
    return _ended(lines)


def _filled(text: str, place: str, found: Entry | None, value: Value) -> str:
    """Give a key that holds nothing yet its value; add the key where it is not there."""
    if found is None or found[0] is None:
        return add(text, place, value)
    lines = _lines(text)
    mark = found[0].start_mark
    name = scalar(place.rpartition(".")[2], 0, flow=False)
    lines[mark.line : last_line(lines, found[1]) + 1] = [
        lines[mark.line][: mark.column] + line if n == 0 else " " * mark.column + line
        for n, line in enumerate(_entry(name, value, 0))
    ]
    return _ended(lines)


def insert(text: str, place: str, value: Value, at: int | None = None) -> str:
    """Return the text with an entry put into a list in front of the one numbered ``at``, at its end where it is None.

    A list that is not there is made. Raises :class:`CannotSplice`.
    """
    found = entries_of(text).get(place)
    if found is None or _is_empty(found[1]):
        return _filled(text, place, found, [value])
    node = found[1]
    if not isinstance(node, yaml.SequenceNode):
        raise CannotSplice(f"{place} is no list.")
    lines = _lines(text)
    at = len(node.value) if at is None else min(at, len(node.value))
    if node.flow_style:
        return _into_flow(lines, node, at, _flow(value))
    column = _dash(lines, node.value[0])
    line = last_line(lines, node) + 1 if at == len(node.value) else node.value[at].start_mark.line
    lines[line:line] = _item(value, column)
    return _ended(lines)


def remove(text: str, place: str) -> str:
    """Return the text without an entry of a map or of a list; what is left empty goes with it.

    What is not there is taken away already. Raises :class:`CannotSplice`.
    """
    entries = entries_of(text)
    found = entries.get(place)
    if found is None:
        return text
    parent = parent_of(place, entries)
    around = entries.get(parent)
    members = around[1].value if around is not None else []
    if parent and len(members) == 1 and not parent.endswith("]"):
        return remove(text, parent)
    lines = _lines(text)
    key, node = found
    if in_flow(place, entries) and around is not None:
        at = next(n for n, member in enumerate(members) if node in _parts(member))
        return _out_of_flow(text, around[1], at)
    first = key.start_mark.line if key is not None else node.start_mark.line
    last = last_line(lines, node)
    start = (key or node).start_mark.column
    if lines[first][:start].strip() == "-" and key is not None:  # the first key of a map in a list
        after = next(k for k, v in members if k is not key)
        lines[first] = lines[first][:start] + lines[after.start_mark.line][after.start_mark.column :]
        del lines[first + 1 : after.start_mark.line + 1]
        return _ended(lines)
    del lines[first : last + 1]
    return _ended(lines)


def rename(text: str, place: str, to: str) -> str:
    """Return the text with another name for a key. Raises :class:`CannotSplice`."""
    entries = entries_of(text)
    found = entries.get(place)
    if found is None or found[0] is None:
        raise CannotSplice(f"{place} is not there.")
    start, end = found[0].start_mark, found[0].end_mark
    lines = text.split("\n")
    written = scalar(to, 0, flow=in_flow(place, entries))
    lines[start.line] = lines[start.line][: start.column] + written + lines[start.line][end.column :]
    return "\n".join(lines)


def move(text: str, place: str, to: int) -> str:
    """Return the text with an entry of a list or map at another place among its own, counted from 0.

    Comments that stand above an entry go with it. Raises :class:`CannotSplice`.
    """
    entries = entries_of(text)
    found = entries.get(place)
    parent = parent_of(place, entries)
    if not place or found is None or parent not in entries:  # the whole text is no entry of anything
        raise CannotSplice(f"{place or 'The whole lab'} is not there to be moved.")
    around = entries[parent][1]
    members = around.value
    at = next(n for n, member in enumerate(members) if found[1] in _parts(member))
    to = min(max(to, 0), len(members) - 1)
    if in_flow(place, entries):
        pieces = [_source(text, member) for member in members]
        pieces.insert(to, pieces.pop(at))
        return _replaced(text, around, pieces)
    lines = _lines(text)
    spans = [_span(lines, member) for member in members]
    spans = [(spans[n - 1][1] if n else first, last) for n, (first, last) in enumerate(spans)]
    blocks = [lines[first:last] for first, last in spans]
    blocks.insert(to, blocks.pop(at))
    lines[spans[0][0] : spans[-1][1]] = [line for block in blocks for line in block]
    return _ended(lines)


def parent_of(place: str, entries: Mapping[str, Entry]) -> str:
    """Return the place of the map or list that an entry stands in; keys may hold dots."""
    cuts = [n for n, c in enumerate(place) if c in ".["]
    return next((place[:n] for n in reversed(cuts) if place[:n] in entries), "")


def _parts(member: yaml.Node | tuple[yaml.Node, yaml.Node]) -> tuple[yaml.Node, ...]:
    return member if isinstance(member, tuple) else (member,)


def _span(lines: list[str], member: yaml.Node | tuple[yaml.Node, yaml.Node]) -> tuple[int, int]:
    """Return the first line of an entry, and the one behind its last."""
    first, last = _parts(member)[0], _parts(member)[-1]
    return first.start_mark.line, last_line(lines, last) + 1


def _source(text: str, member: yaml.Node | tuple[yaml.Node, yaml.Node]) -> str:
    first, last = _parts(member)[0], _parts(member)[-1]
    return text[first.start_mark.index : last.end_mark.index]


def _replaced(text: str, node: yaml.Node, pieces: Sequence[str]) -> str:
    """Write the entries of a list or map in brackets anew."""
    opens, closes = ("[", "]") if isinstance(node, yaml.SequenceNode) else ("{", "}")
    written = opens + ", ".join(pieces) + closes
    return text[: node.start_mark.index] + written + text[node.end_mark.index :]


def _into_flow(lines: list[str], node: yaml.Node, at: int, piece: str) -> str:
    text = "\n".join([*lines, ""])
    pieces = [_source(text, member) for member in node.value]
    return _replaced(text, node, [*pieces[:at], piece, *pieces[at:]])


def _out_of_flow(text: str, node: yaml.Node, at: int) -> str:
    pieces = [_source(text, member) for member in node.value]
    return _replaced(text, node, [*pieces[:at], *pieces[at + 1 :]])


def _is_empty(node: yaml.Node) -> bool:
    if isinstance(node, yaml.ScalarNode):
        return node.value in ("", "~", "null")
    return not node.value


def _dash(lines: list[str], item: yaml.Node) -> int:
    return lines[item.start_mark.line].index("-")


def _lines(text: str) -> list[str]:
    return text.rstrip("\n").split("\n") if text.strip() else []


def _ended(lines: list[str]) -> str:
    return "\n".join([*lines, ""])


def outdented(key: str, value: Value) -> list[str]:
    """Write a key with its value as lines that begin in the first column."""
    return _entry(scalar(key, 0, flow=False), value, 0)


def _entry(key: str, value: Value, indent: int) -> list[str]:
    """Write a key with its value as lines."""
    blanks = " " * indent
    if isinstance(value, str):
        return f"{blanks}{key}: {scalar(value, indent + 2, flow=False)}".split("\n")
    short = f"{blanks}{key}: {_flow(value)}"
    if not value or (_fits(value) and len(short) <= WIDTH and not _listed(value)):
        return [short]
    if isinstance(value, Mapping):
        return [
            f"{blanks}{key}:",
            *(line for k, v in value.items() for line in _entry(_key(k), v, indent + 2)),
        ]
    return [f"{blanks}{key}:", *(line for item in value for line in _item(item, indent + 2))]


def _item(value: Value, indent: int) -> list[str]:
    """Write an entry of a list as lines."""
    blanks = " " * indent
    if isinstance(value, str):
        return f"{blanks}- {scalar(value, indent + 2, flow=False)}".split("\n")
    short = f"{blanks}- {_flow(value)}"
    if not value or (_fits(value) and len(short) <= WIDTH) or not isinstance(value, Mapping):
        return [short]
    lines = [line for k, v in value.items() for line in _entry(_key(k), v, indent + 2)]
    return [f"{blanks}- {lines[0].lstrip(' ')}", *lines[1:]]


def _key(name: str) -> str:
    return scalar(name, 0, flow=False)


def _flow(value: Value) -> str:
    if isinstance(value, str):
        return scalar(value, 0, flow=True)
    if isinstance(value, Mapping):
        return "{" + ", ".join(f"{scalar(k, 0, flow=True)}: {_flow(v)}" for k, v in value.items()) + "}"
    return "[" + ", ".join(map(_flow, value)) + "]"


def _fits(value: Value) -> bool:
    """Whether a value may stand in one line: it has no text of several lines, and is not nested deeply."""
    if isinstance(value, str):
        return "\n" not in value
    inner = value.values() if isinstance(value, Mapping) else value
    return all(_fits(v) for v in inner) and not any(
        isinstance(v, Mapping) or (isinstance(v, Sequence) and not isinstance(v, str) and len(v) > 8)
        for v in inner
    )


def _listed(value: Value) -> bool:
    """Whether it is a list of links, pings or the like, which stand below each other."""
    return not isinstance(value, Mapping) and any(not isinstance(v, str) or " " in v for v in value)
