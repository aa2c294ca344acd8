"""The shapes that values of a lab file may have: each reads a node strictly and says what is wrong where."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from difflib import get_close_matches
from typing import Any

import yaml

from .nodes import LabError

_NOTHING = ("", "~", "null")


Schema = dict[str, Any]
"""A JSON Schema (2020-12) or a part of one."""


@dataclass(slots=True)
class At:
    """A place in the lab file, the list of what is wrong with the file, and where each place was found."""

    place: str
    line: int
    column: int
    errors: list[LabError]
    nodes: dict[str, yaml.Node] = field(default_factory=dict)

    def fail(self, message: str) -> None:
        """Report what is wrong at this place."""
        self.errors.append(LabError(self.place, self.line, self.column, message))

    def inside(self, step: str, node: yaml.Node) -> "At":
        """Go to a place inside this one."""
        dot = "" if step.startswith("[") or not self.place else "."
        mark = node.start_mark
        return At(f"{self.place}{dot}{step}", mark.line + 1, mark.column + 1, self.errors, self.nodes)


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

    def schema(self) -> Schema:
        """Return the shape as JSON Schema, for editors and other readers."""
        raise NotImplementedError

    def usage(self) -> str:
        """Say in a word or two what is wanted, as the reference prints it."""
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

    def schema(self) -> Schema:
        """Scalars are text, whatever YAML would make of them: an editor may see a number or a truth value."""
        if self.pattern.pattern:
            return {
                "type": ["string", "integer", "number", "boolean", "null"],
                "pattern": f"^({self.pattern.pattern})$",
            }
        return {"type": ["string", "integer", "number", "boolean", "null"]}

    def usage(self) -> str:
        """Say what is wanted."""
        return self.what


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

    def schema(self) -> Schema:
        """Return the words; a number among them is one for YAML, too."""
        numbers = [int(w) for w in self.words if w.isdecimal()]
        return {"enum": [*self.words, *numbers]}

    def usage(self) -> str:
        """List the words."""
        return " | ".join(self.words)


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

    def schema(self) -> Schema:
        """Return the bounds."""
        return {"type": "integer" if self.whole else "number", "minimum": self.low, "maximum": self.high}

    def usage(self) -> str:
        """Say what is wanted."""
        return "a whole number" if self.whole else "a number"


class Truth(Shape):
    """true or false."""

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read a truth value of the core schema."""
        if isinstance(node, yaml.ScalarNode) and node.value.lower() in ("true", "false"):
            return Found(node.value.lower() == "true", at)
        return at.fail("true or false is wanted here.")

    def schema(self) -> Schema:
        """Return a truth value."""
        return {"type": "boolean"}

    def usage(self) -> str:
        """Say what is wanted."""
        return "true | false"


class Many(Shape):
    """A list."""

    def __init__(self, shape: Shape) -> None:
        self.shape = shape

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read every entry that has the shape."""
        if isinstance(node, yaml.ScalarNode) and node.value in _NOTHING:
            return Found([], at)
        if not isinstance(node, yaml.SequenceNode):
            return at.fail(f"A list is wanted here, not a {_kind(node)}.")
        at.nodes.update({at.inside(f"[{i}]", n).place: n for i, n in enumerate(node.value)})
        entries = [self.shape.read(n, at.inside(f"[{i}]", n)) for i, n in enumerate(node.value)]
        return Found([e for e in entries if e is not None], at)

    def schema(self) -> Schema:
        """Return a list."""
        return {"type": ["array", "null"], "items": self.shape.schema()}

    def usage(self) -> str:
        """Say what is wanted."""
        return f"a list: {self.shape.usage()}"


class Named(Shape):
    """A map from names of the instructor's own to values of one shape."""

    def __init__(self, shape: Shape) -> None:
        self.shape = shape

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read every entry; a name that stands twice is an error."""
        pairs = _pairs(node, at)
        if pairs is None:
            return None
        at.nodes.update({at.inside(key, where).place: value for key, (where, value) in pairs.items()})
        found = {key: self.shape.read(value, at.inside(key, where)) for key, (where, value) in pairs.items()}
        return Found({k: v for k, v in found.items() if v is not None}, at)

    def schema(self) -> Schema:
        """Return a map with keys of any name."""
        return {"type": ["object", "null"], "additionalProperties": self.shape.schema()}

    def usage(self) -> str:
        """Say what is wanted."""
        return f"by name: {self.shape.usage()}"


@dataclass(frozen=True, slots=True)
class Key:
    """A key of a record: its shape, what it is for, and whether it has to be there."""

    shape: Shape
    about: str
    required: bool = False


OTHER_WORDS = {
    "type": ("kind",),
    "interfaces": ("ports",),
    "name": ("title", "id"),
    "description": ("about", "brief"),
    "source": ("from",),
    "src": ("from",),
    "destination": ("to", "dest"),
    "dst": ("to", "dest"),
    "target": ("to",),
    "result": ("expect",),
    "expected": ("expect",),
    "points": ("marks",),
    "mark": ("marks",),
    "answers": ("answer",),
    "solution": ("answer",),
    "tests": ("pings",),
    "prefix": ("dest",),
    "network": ("dest", "networks"),
    "value": ("is",),
}
"""Keys that others have for ours: a word of another kind of file is no slip of the pen."""


class Record(Shape):
    """A map with known keys; any other key is an error with a suggestion."""

    def __init__(self, keys: Mapping[str, Key], what: str = "keys with values") -> None:
        self.keys, self.what = dict(keys), what

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read the keys; missing and unknown ones are reported."""
        pairs = _pairs(node, at)
        if pairs is None:
            return None
        found: dict[str, Found] = {}
        for name, (where, value) in pairs.items():
            key = self.keys.get(name)
            if key is None:
                near = get_close_matches(name[:40], self.keys, 1, 0.6)
                meant = next((m for m in OTHER_WORDS.get(name.lower(), ()) if m in self.keys), None)
                meant = meant or (near[0] if near else None)
                hint = f"Did you mean {meant}?" if meant else f"Known are {', '.join(self.keys)}."
                at.inside(name[:40], where).fail(f"This key is not known. {hint}")
            else:
                at.nodes[at.inside(name, where).place] = value
                if (entry := key.shape.read(value, at.inside(name, where))) is not None:
                    found[name] = entry
        missing = [name for name, key in self.keys.items() if key.required and name not in pairs]
        for name in missing:
            at.fail(f"The key {name} is missing here.")
        return Found(found, at) if not missing else None

    def schema(self) -> Schema:
        """Return an object that has these keys and no others."""
        required = [name for name, key in self.keys.items() if key.required]
        return {
            "type": "object",
            "properties": {n: {**k.shape.schema(), "description": k.about} for n, k in self.keys.items()},
            **({"required": required} if required else {}),
            "additionalProperties": False,
        }

    def usage(self) -> str:
        """Say what is wanted."""
        return self.what


class Either(Shape):
    """One shape for a text, another for anything else."""

    def __init__(self, text: Shape, other: Shape) -> None:
        self.text, self.other = text, other

    def read(self, node: yaml.Node, at: At) -> Found | None:
        """Read the node by what it is."""
        return (self.text if isinstance(node, yaml.ScalarNode) else self.other).read(node, at)

    def schema(self) -> Schema:
        """Return both."""
        return {"anyOf": [self.text.schema(), self.other.schema()]}

    def usage(self) -> str:
        """Name both."""
        return f"{self.text.usage()}, or {self.other.usage()}"


def _pairs(node: yaml.Node, at: At) -> dict[str, tuple[yaml.Node, yaml.Node]] | None:
    if isinstance(node, yaml.ScalarNode) and node.value in _NOTHING:
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
