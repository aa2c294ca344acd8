"""Reads JSON (RFC 8259) with the line of each member, which the standard library does not tell."""

import json
from collections.abc import Iterator
from typing import Any

from .tree import MOST_DEPTH, MOST_ENTRIES, BadTree, Members, Tree


def json_tree(text: str) -> Tree:
    """Read a text that is one JSON object; raises :class:`BadTree`."""
    repeated: list[str] = []

    def members(pairs: list[tuple[str, Any]]) -> Members:
        made = dict(pairs)
        if len(made) < len(pairs):
            seen: set[str] = set()
            repeated.extend(key for key, _ in pairs if key in seen or seen.add(key))
        return made

    try:
        data = json.loads(text, object_pairs_hook=members, parse_constant=_no_number)
    except json.JSONDecodeError as error:
        raise BadTree(
            "broken-json", f"This is no complete JSON: {error.msg}, in line {error.lineno}.", error.lineno
        ) from None
    except RecursionError:
        raise BadTree("too-deep", f"It is nested more than {MOST_DEPTH} deep.") from None
    except ValueError as error:  # a number of thousands of digits
        raise BadTree("broken-json", f"This is no JSON that can be read: {str(error)[:80]}.") from None
    if not isinstance(data, dict):
        raise BadTree("not-modelled", "It is JSON, but no object with data of YANG modules in it (RFC 7951).")
    _check_depth(data)
    index = _Index(text)
    index.object(data, "")
    return Tree(data, index.lines, True, tuple((1, key) for key in repeated), index.qualified)


def _no_number(word: str) -> None:
    raise ValueError(f"{word} is no number of JSON")


def _check_depth(data: Any) -> None:
    """Refuse what is nested too deep, or has too many members, before it is walked."""
    level: list[Any] = [data]
    count = 0
    for _ in range(MOST_DEPTH):
        level = [inner for value in level for inner in _inside(value) if type(inner) in (dict, list)]
        count += len(level)
        if count > MOST_ENTRIES:
            raise BadTree("too-large", f"It has more than {MOST_ENTRIES} entries.")
        if not level:
            return
    raise BadTree("too-deep", f"It is nested more than {MOST_DEPTH} deep.")


def _inside(value: Any) -> Iterator[Any]:
    return iter(value.values() if type(value) is dict else value)


_PATIENCE, _LOST, _MOST_BLANKS = 50_000, 200, 64
"""How often a name is looked at that may be a value, and how many such looks one in vain counts as."""


class _Index:
    """Finds the line of each member: members are met in the order of the text.

    A quote inside a string is escaped, so that ``"name":`` is never met inside one.
    """

    def __init__(self, text: str) -> None:
        self.text = text
        self.lines: dict[int, dict[str, int]] = {}
        self.at, self.line = 0, 1
        self.qualified = False
        self.patience, self.spaced = _PATIENCE, False

    def object(self, data: Members, module: str) -> None:
        text, own = self.text, {"": self.line}
        self.lines[id(data)] = own
        first = True
        for key, value in data.items():
            at = -1 if self.spaced else text.find(f'"{key}":', self.at)
            if at < 0:
                at, self.spaced = self._spaced(key), True
            self.line += text.count("\n", self.at, at)
            self.at = at + len(key) + 3
            own[key] = self.line
            if first:
                own[""], first = self.line, False
            inner = module
            if ":" in key:
                inner = key.partition(":")[0]
                self.qualified = self.qualified or inner == module
            if type(value) is dict:
                self.object(value, inner)
            elif type(value) is list:
                self.list(value, inner)

    def list(self, values: list[Any], module: str) -> None:
        for value in values:
            if type(value) is dict:
                self.object(value, module)
            elif type(value) is list:
                self.list(value, module)

    def _spaced(self, key: str) -> int:
        """Find a member with blanks before its colon, or with a name that is written with escapes.

        What is not found stays at the line before; nobody is to have whole files searched again and again.
        """
        for quoted in dict.fromkeys((f'"{key}"', json.dumps(key))):
            at = self.text.find(quoted, self.at) if self.patience > 0 else -1
            while at >= 0 and self.patience > 0:
                self.patience -= 1
                behind = at + len(quoted)
                if self.text[behind : behind + _MOST_BLANKS].lstrip().startswith(":"):
                    return at
                at = self.text.find(quoted, behind)
            self.patience -= _LOST
        return self.at
