"""Finds the places of a lab file in its text: of its keys, and of the lines of the sheets in it."""

from collections.abc import Mapping
from dataclasses import dataclass

import yaml


@dataclass(frozen=True, slots=True)
class Place:
    """A place in the text; line and columns count from 1, ``end`` is the last column."""

    line: int
    column: int
    end: int


class Places:
    """Where everything stands in the text of a lab file, by places such as ``links[2]`` or ``answer.weir``."""

    def __init__(self, text: str, nodes: Mapping[str, yaml.Node]) -> None:
        self.lines = text.split("\n")
        self.nodes = nodes

    def find(self, place: str) -> Place:
        """Return where a place stands, or the nearest place around it that is there."""
        while place and place not in self.nodes:
            place = place[: max(place.rfind("."), place.rfind("["), 0)]
        if not place:
            return Place(1, 1, 1)
        mark = self.nodes[place].start_mark
        line = self.lines[mark.line] if mark.line < len(self.lines) else ""
        return Place(mark.line + 1, mark.column + 1, max(mark.column + 1, len(line.rstrip())))

    def in_sheet(self, place: str, line: int, column: int, end: int) -> Place:
        """Return where columns of a line of a sheet stand; ``place`` is the sheet's, such as ``answer.weir``.

        Only a literal block (``|``) keeps its lines; of any other text the beginning is meant.
        """
        node = self.nodes.get(place)
        if not isinstance(node, yaml.ScalarNode) or node.style != "|":
            return self.find(place)
        number = node.start_mark.line + line
        indent = self.indent(node)
        if number >= len(self.lines):
            return self.find(place)
        return Place(number + 1, column + indent, end + indent)

    def indent(self, node: yaml.ScalarNode) -> int:
        """Return by how much the lines of a literal block are indented."""
        for number, said in enumerate(node.value.split("\n"), node.start_mark.line + 1):
            if said.strip() and number < len(self.lines):
                return (
                    len(self.lines[number])
                    - len(self.lines[number].lstrip(" "))
                    - (len(said) - len(said.lstrip(" ")))
                )
        return 0
