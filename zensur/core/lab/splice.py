"""Changes a value in the text of a lab file and leaves every other character as it is, comments too."""

import json
import re
from collections.abc import Iterator, Mapping

import yaml

from .nodes import LabError, compose

Entry = tuple[yaml.Node | None, yaml.Node]
"""The node of a key, None in a list, and the node of its value."""


class CannotSplice(ValueError):
    """The text cannot be changed at that place; ``str()`` says why."""


def put(text: str, place: str, value: str) -> str:
    """Return the text with another scalar at a place such as ``answer.weir`` or ``links[0]``.

    Keys that are not there are added at the end of their map, up to a map at the top of the file.
    Raises :class:`CannotSplice` where the text is no YAML or the place holds no scalar.
    """
    entries = entries_of(text)
    if place not in entries:
        return _added(text, place, value, entries)
    return _put_over(text, place, value, entries)


def put_all(text: str, values: Mapping[str, str]) -> str:
    """Return the text with other scalars at places that are there, the last first, so that the marks of others hold.

    Raises :class:`CannotSplice`.
    """
    entries = entries_of(text)
    for place in sorted(values, key=lambda p: entries[p][1].start_mark.index, reverse=True):
        text = _put_over(text, place, values[place], entries)
    return text


def _put_over(text: str, place: str, value: str, entries: dict[str, Entry]) -> str:
    """Write a scalar over the one at a place; ``entries`` are those of the text up to there."""
    key, node = entries[place]
    if not isinstance(node, yaml.ScalarNode):
        raise CannotSplice(f"{place} is no text.")
    if node.value == value:
        return text
    lines = text.split("\n")
    start = node.start_mark
    flow = in_flow(place, entries)
    kept = node.style == '"' and "\n" not in value  # quotes stay where somebody put them
    written = _quoted(value) if kept else scalar(value, _indent_of(lines, key, node), flow)
    if node.style in ("|", ">"):
        last = last_line(lines, node)
        before, after = lines[start.line][: start.column], lines[last + 1 :]
        return "\n".join([*lines[: start.line], before + written, *after])
    end = node.end_mark
    before, after_text = lines[start.line][: start.column], lines[end.line][end.column :]
    if "\n" in written and after_text.strip():
        written = written.replace("\n", after_text + "\n", 1)  # a comment stays behind the key
        after_text = ""
    gap = " " if before and not before.endswith((" ", "[", "{")) else ""
    return "\n".join([*lines[: start.line], before + gap + written + after_text, *lines[end.line + 1 :]])


def texts(text: str) -> dict[str, str]:
    """Return every scalar of a lab file by its place, as it is typed: variables are not put in."""
    return {
        place: node.value
        for place, (_, node) in entries_of(text).items()
        if isinstance(node, yaml.ScalarNode)
    }


def take(text: str, place: str) -> str:
    """Return the text without a key of a map written in lines, and its value.

    Raises :class:`CannotSplice`. A map that held nothing else is left without entries.
    """
    entries = entries_of(text)
    found = entries.get(place)
    if found is None:
        return text
    key, node = found
    if key is None or in_flow(place, entries):
        raise CannotSplice(f"{place} stands in one line with others: take it away by hand.")
    lines = text.split("\n")
    first = key.start_mark.line
    last = last_line(lines, node)
    return "\n".join([*lines[:first], *lines[last + 1 :]])


def entries_of(text: str) -> dict[str, Entry]:
    """Return every entry of a lab file by its place; raises :class:`CannotSplice` where it is no YAML."""
    root = compose(text)
    if isinstance(root, LabError):
        raise CannotSplice(str(root))
    return dict(_walk("", None, root)) if root is not None else {}


def _walk(place: str, key: yaml.Node | None, node: yaml.Node) -> Iterator[tuple[str, Entry]]:
    yield place, (key, node)
    if isinstance(node, yaml.MappingNode):
        for inner, value in node.value:
            if isinstance(inner, yaml.ScalarNode):
                yield from _walk(f"{place}.{inner.value}" if place else inner.value, inner, value)
    elif isinstance(node, yaml.SequenceNode):
        for number, value in enumerate(node.value):
            yield from _walk(f"{place}[{number}]", None, value)


def in_flow(place: str, entries: dict[str, Entry]) -> bool:
    """Whether a place stands inside brackets, or braces."""
    while place:
        place = place[: max(place.rfind("."), place.rfind("["), 0)]
        if place in entries and getattr(entries[place][1], "flow_style", False):
            return True
    return False


def last_line(lines: list[str], node: yaml.Node) -> int:
    """Return the number of the last line that a value fills."""
    end = node.end_mark
    ends_before = end.line >= len(lines) or not lines[end.line][: end.column].strip()
    last = end.line - 1 if ends_before else end.line
    last = min(max(last, node.start_mark.line), len(lines) - 1)
    while last > node.start_mark.line and not lines[last].strip():
        last -= 1
    if isinstance(node, yaml.CollectionNode) and not node.flow_style:
        while last > node.start_mark.line and lines[last].lstrip().startswith("#"):
            last -= 1
    return last


def _indent_of(lines: list[str], key: yaml.Node | None, node: yaml.Node) -> int:
    """Return by how much the lines of a literal block below the key are to be indented."""
    mark = key.start_mark if key is not None else node.start_mark
    own = len(lines[mark.line]) - len(lines[mark.line].lstrip(" "))
    return (mark.column if key is not None else own) + 2


def scalar(value: str, indent: int, flow: bool) -> str:
    """Write a scalar: as it is where that reads as the same, in lines where it has several, else in quotes."""
    printable = all(c.isprintable() or c in "\n\t" for c in value)
    if "\n" in value and not flow and printable and value.strip("\n \t") and not value.startswith("\n"):
        head = "|" + (str(2) if value[0] in " \t" else "")
        head += (
            ""
            if value.endswith("\n") and not value.endswith("\n\n")
            else "+"
            if value.endswith("\n")
            else "-"
        )
        body = value.removesuffix("\n").split("\n")
        return "\n".join([head, *(" " * indent + line if line else "" for line in body)])
    if value and "\n" not in value and "\t" not in value and printable and _reads_the_same(value, flow):
        return value
    return _quoted(value)


def _quoted(value: str) -> str:
    """Write a text in double quotes; what is not printable is escaped as YAML does (5.7)."""
    said = json.dumps(value, ensure_ascii=False)
    return "".join(c if c.isprintable() else f"\\U{ord(c):08x}" for c in said)


_PLAIN = re.compile(r"[\w/.][\w ./()+:'-]*")


def _reads_the_same(value: str, flow: bool) -> bool:
    """Whether every reader of YAML takes the value as it is for the same text."""
    if not _PLAIN.fullmatch(value):
        return False
    root = compose(f"{{k: {value}}}" if flow else f"k: {value}")
    node = root.value[0][1] if isinstance(root, yaml.MappingNode) and len(root.value) == 1 else None
    return isinstance(node, yaml.ScalarNode) and node.value == value


def split_place(place: str, entries: dict[str, Entry]) -> tuple[str, str]:
    """Split a place into a map that is there and the key to add; keys such as devices' names may hold dots."""
    dots = [n for n, c in enumerate(place) if c == "."]
    there = next((n for n in reversed(dots) if place[:n] in entries), dots[0] if dots else -1)
    return (place[:there], place[there + 1 :]) if there >= 0 else (place, "")


def _added(text: str, place: str, value: str, entries: dict[str, Entry]) -> str:
    """Add a key at the end of its map, or a map with that key at the end of the file."""
    parent, name = split_place(place, entries)
    lines = text.rstrip("\n").split("\n") if text.strip() else []
    found = entries.get(parent)
    written_key = scalar(name, 0, flow=False)
    if not name or not entries:
        raise CannotSplice(f"{place} is not there.")
    if found is None or (isinstance(found[1], yaml.ScalarNode) and found[1].value in ("", "~", "null")):
        if not parent.isidentifier():
            raise CannotSplice(f"{parent or place} is not there.")
        if found is None:
            return "\n".join([*lines, f"{parent}:", f"  {written_key}: {scalar(value, 4, flow=False)}", ""])
        at = found[0].start_mark.line if found[0] is not None else len(lines) - 1
        lines[at] = f"{parent}:"
        lines.insert(at + 1, f"  {written_key}: {scalar(value, 4, flow=False)}")
        return "\n".join([*lines, ""])
    node = found[1]
    if not isinstance(node, yaml.MappingNode) or node.flow_style or not node.value:
        raise CannotSplice(f"{parent} is no map written in lines: add {name} by hand.")
    column = node.value[0][0].start_mark.column
    last = last_line(lines, node)
    lines.insert(last + 1, f"{' ' * column}{written_key}: {scalar(value, column + 2, flow=False)}")
    return "\n".join([*lines, ""])
