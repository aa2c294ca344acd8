"""A snapshot's file: a first line, then parts under lines such as ``== routes``, each as the command printed it."""

import re
from dataclasses import dataclass
from typing import Any

from ...sheet import Severity, Where
from ...sheet.diagnostics import Diagnostic, Remarks
from ..json_tree import json_tree
from ..tree import BadTree, Tree

HEAD = "zensur snapshot"
_FIRST = re.compile(r"zensur snapshot\s+(\S+)\s*\Z")
_MARK = re.compile(r"==\s*([a-z0-9]+)\s*\Z")
JSON_PARTS = ("links", "addresses", "routes", "routes6", "nftables", "vlans")
TEXT_PARTS = ("hostname", "sysctl", "resolver")


@dataclass(frozen=True, slots=True)
class Part:
    """A part: the line that its text begins in, and the text."""

    line: int
    text: str


class Snapshot:
    """The parts of a file, with what is said of them."""

    def __init__(self, text: str, file: str) -> None:
        self.file = file
        self.remarks = Remarks()
        self._parts: dict[str, Part] = {}
        self._trees: dict[str, Tree] = {}
        lines = text.split("\n")
        first = _FIRST.match(lines[0])
        if first is None or first[1] != "1":
            said = first[1][:20] if first else lines[0][:40]
            self.say(
                Severity.WARNING, "snapshot-version", 1, f"This is a snapshot of version {said}; 1 is read."
            )
        starts = [(n, m[1]) for n, line in enumerate(lines) if (m := _MARK.match(line))]
        stops = [*(start for start, _ in starts[1:]), len(lines)]
        for (start, name), stop in zip(starts, stops, strict=False):
            self._take(name, start, lines[start + 1 : stop])
        for name in (*TEXT_PARTS, *JSON_PARTS):
            if name not in self._parts and name != "vlans":
                self.say(Severity.NOTE, "part-missing", 1, f"The part {name} is not in the snapshot.")

    def _take(self, name: str, start: int, lines: list[str]) -> None:
        text = "\n".join(lines).strip("\n")
        if name not in (*JSON_PARTS, *TEXT_PARTS):
            self.say(Severity.NOTE, "unknown-part", start + 1, f"The part {name[:40]} is not read.")
        elif name in self._parts:
            self.say(
                Severity.NOTE, "said-twice", start + 1, f"The part {name} stands twice; the first counts."
            )
        elif text.startswith("!"):
            self.say(
                Severity.NOTE, "part-missing", start + 2, f"The part {name} was not collected: {text[1:80]}."
            )
            self._parts[name] = Part(start + 2, "")
        else:
            self._parts[name] = Part(start + 2, text)

    def text(self, name: str) -> Part:
        """Return a part of text; an empty one where it is missing."""
        return self._parts.get(name, Part(1, ""))

    def entries(self, name: str) -> list[dict[str, Any]]:
        """Return what a part of JSON lists; nothing where it is missing or broken, which is said."""
        part = self.text(name)
        if not part.text.strip():
            return []
        try:
            tree = json_tree(f'{{"x":{part.text}}}' if not part.text.lstrip().startswith("{") else part.text)
        except BadTree as bad:
            line = part.line + bad.line - 1
            self.say(Severity.ERROR, bad.code, line, f"The part {name} cannot be read: {bad}")
            return []
        self._trees[name] = tree
        found = tree.data.get("x", tree.data.get(name))
        if type(found) is not list:
            self.say(Severity.ERROR, "wrong-type", part.line, f"The part {name} is no list.")
            return []
        return [one for one in found if type(one) is dict and one]

    def where(self, name: str, entry: dict[str, Any] | None = None) -> Where:
        """Return the place of an entry of a part."""
        part, tree = self.text(name), self._trees.get(name)
        own = tree.lines.get(id(entry)) if tree and entry is not None else None
        return Where(self.file, part.line + (own[""] if own else 1) - 1)

    def say(self, severity: Severity, code: str, line: int, message: str) -> None:
        """Report something at a line."""
        self.remarks.add(Diagnostic(severity, code, line, 1, 1, message))
