"""The shapes that values of a lab file may have: each reads a node strictly and says what is wrong where."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Any

import yaml

from .nodes import LabError


@dataclass(slots=True)
class At:
    """A place in the lab file, and the list of what is wrong with the file."""

    place: str
    line: int
    column: int
    errors: list[LabError]

    def fail(self, message: str) -> None:
        """Report what is wrong at this place."""
        self.errors.append(LabError(self.place, self.line, self.column, message))

    def inside(self, step: str, node: yaml.Node) -> "At":
        """Go to a place inside this one."""
        dot = "" if step.startswith("[") or not self.place else "."
        mark = node.start_mark
        return At(f"{self.place}{dot}{step}", mark.line + 1, mark.column + 1, self.errors)


@dataclass(slots=True)
class Found:
    """A value that was read, with its place. Lists and maps hold further found values."""

    value: Any
    at: At

    def get(self, key: str, default: Any = None) -> Any:
        """Return the plain value of a key, or the default where the key is not there."""
        found = self.value.get(key)
        return default if found is None else found.value


class Shape:
    """What a value has to look like."""

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read the node; None, and an error reported, where it has another shape."""
        raise NotImplementedError


class Text(Shape):
    """A text, of a pattern where one is given; ``what`` says in the error what is wanted."""

    def __init__(self, pattern: str = "", what: str = "a text") -> None:
        self.pattern, self.what = re.compile(pattern, re.ASCII), what

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read a scalar as the text that was typed."""
        if not isinstance(node, yaml.ScalarNode):
            return at.fail(f"{self.what} is wanted here, not a {_kind(node)}.")
        if self.pattern.pattern and not self.pattern.fullmatch(node.value):
            return at.fail(f"{node.value[:60]!r} is not {self.what}.")
        return Found(node.value, at)


class Choice(Shape):
    """One of some words."""

    def __init__(self, *words: str) -> None:
        self.words = words

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read one of the words."""
        if isinstance(node, yaml.ScalarNode) and node.value in self.words:
            return Found(node.value, at)
        found = node.value[:60] if isinstance(node, yaml.ScalarNode) else f"a {_kind(node)}"
        return at.fail(f"{found} is not known here: {', '.join(self.words)}.")


class Number(Shape):
    """A number from ``low`` up; a whole one where ``whole``."""

    def __init__(self, low: float = 0, high: float = 10_000, whole: bool = False) -> None:
        self.low, self.high, self.whole = low, high, whole

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read a plain number."""
        pattern = r"\d{1,6}" if self.whole else r"\d{1,6}(\.\d{1,4})?"
        plain = isinstance(node, yaml.ScalarNode) and re.fullmatch(pattern, node.value, re.ASCII)
        if not plain or not self.low <= float(node.value) <= self.high:
            return at.fail(
                f"A {'whole ' if self.whole else ''}number from {self.low:g} to {self.high:g} is wanted here."
            )
        return Found(int(node.value) if self.whole else float(node.value), at)


class Truth(Shape):
    """true or false."""

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read a truth value of the core schema."""
        if isinstance(node, yaml.ScalarNode) and node.value.lower() in ("true", "false"):
            return Found(node.value.lower() == "true", at)
        return at.fail("true or false is wanted here.")


class Many(Shape):
    """A list."""

    def __init__(self, shape: Shape) -> None:
        self.shape = shape

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read every entry that has the shape."""
        if not isinstance(node, yaml.SequenceNode):
            return at.fail(f"A list is wanted here, not a {_kind(node)}.")
        entries = [self.shape.read(n, at.inside(f"[{i}]", n)) for i, n in enumerate(node.value)]
        return Found([e for e in entries if e is not None], at)


class Named(Shape):
    """A map from names of the instructor's own to values of one shape."""

    def __init__(self, shape: Shape) -> None:
        self.shape = shape

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read every entry; a name that stands twice is an error."""
        pairs = _pairs(node, at)
        if pairs is None:
            return None
        found = {key: self.shape.read(value, at.inside(key, where)) for key, (where, value) in pairs.items()}
        return Found({k: v for k, v in found.items() if v is not None}, at)


class Record(Shape):
    """A map with known keys; any other key is an error with a suggestion."""

    def __init__(self, fields: Mapping[str, Shape], required: tuple[str, ...] = ()) -> None:
        self.fields, self.required = fields, required

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read the keys; missing and unknown ones are reported."""
        pairs = _pairs(node, at)
        if pairs is None:
            return None
        found: dict[str, Found] = {}
        for key, (where, value) in pairs.items():
            shape = self.fields.get(key)
            if shape is None:
                near = get_close_matches(key[:40], self.fields, 1, 0.6)
                hint = f"Did you mean {near[0]}?" if near else f"Known are {', '.join(self.fields)}."
                at.inside(key[:40], where).fail(f"This key is not known. {hint}")
            elif (entry := shape.read(value, at.inside(key, where))) is not None:
                found[key] = entry
        missing = [key for key in self.required if key not in pairs]
        for key in missing:
            at.fail(f"The key {key} is missing here.")
        return Found(found, at) if not missing else None


class Either(Shape):
    """One shape for a text, another for anything else."""

    def __init__(self, text: Shape, other: Shape) -> None:
        self.text, self.other = text, other

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read the node by what it is."""
        return (self.text if isinstance(node, yaml.ScalarNode) else self.other).read(node, at)


def _pairs(node: yaml.Node, at: At) -> dict[str, tuple[yaml.Node, yaml.Node]] | None:
    if isinstance(node, yaml.ScalarNode) and node.value in ("", "~", "null"):
        return {}
    if not isinstance(node, yaml.MappingNode):
        return at.fail(f"Keys with values are wanted here, not a {_kind(node)}.")
    found: dict[str, tuple[yaml.Node, yaml.Node]] = {}
    for key, value in node.value:
        if not isinstance(key, yaml.ScalarNode):
            at.inside("?", key).fail("A key has to be a text.")
        elif key.value in found:
            at.inside(key.value, key).fail("This key stands here twice.")
        else:
            found[key.value] = (key, value)
    return found


def _kind(node: yaml.Node) -> str:
    if isinstance(node, yaml.SequenceNode):
        return "list"
    return "map" if isinstance(node, yaml.MappingNode) else "text"
