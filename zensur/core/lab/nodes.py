"""YAML as nodes with their places, read safely and within bounds; scalars stay the text that was typed."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import yaml

_LOADER: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)  # libyaml where it is there: ten times as fast
MOST_BYTES = 1024 * 1024
MOST_DEPTH = 24
MOST_NODES = 50_000


@dataclass(frozen=True, slots=True)
class LabError:
    """What is wrong with a lab file: the place such as ``links[2]``, line and column from 1, a sentence."""

    place: str
    line: int
    column: int
    message: str

    def __str__(self) -> str:
        return f"line {self.line}: {self.place + ': ' if self.place else ''}{self.message}"


def compose(text: str) -> yaml.Node | LabError | None:
    """Read one YAML document as nodes; None where it is empty."""
    if len(text) > MOST_BYTES:
        return LabError("", 1, 1, f"A lab file has at most {MOST_BYTES // 1024} KiB.")
    try:
        problem = _out_of_bounds(yaml.parse(text, Loader=_LOADER))
        return problem or yaml.compose(text, Loader=_LOADER)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        line, column = (mark.line + 1, mark.column + 1) if mark else (1, 1)
        lines = text.split("\n")
        if line <= len(lines) and "\t" in lines[line - 1][: max(column, 1)]:
            return LabError(
                "",
                line,
                column,
                "A tab stands here, and YAML is indented with blanks: write two blanks for it.",
            )
        return LabError("", line, column, f"This is not YAML: {error.problem or error.context}.")
    except yaml.YAMLError as error:
        return LabError("", 1, 1, f"This is not YAML: {str(error).splitlines()[0]}.")


def scalars(root: yaml.Node, without: frozenset[str] = frozenset()) -> Iterator[yaml.ScalarNode]:
    """Yield every text of a document in its order, but for what stands below some keys."""
    waiting = [root]
    while waiting:
        node = waiting.pop()
        if isinstance(node, yaml.ScalarNode):
            yield node
        elif isinstance(node, yaml.SequenceNode):
            waiting += reversed(node.value)
        elif isinstance(node, yaml.MappingNode):
            waiting += [
                part
                for key, value in reversed(node.value)
                if not (isinstance(key, yaml.ScalarNode) and key.value in without)
                for part in (value, key)
            ]


def _out_of_bounds(events: Iterator[yaml.Event]) -> LabError | None:
    """Walk the events, which needs no depth and no memory, before anything is built of them."""
    depth = nodes = 0
    for event in events:
        mark = event.start_mark
        line, column = (mark.line + 1, mark.column + 1) if mark else (1, 1)
        if isinstance(event, yaml.AliasEvent):
            return LabError("", line, column, "Aliases (*name) are not read: write the text out.")
        nodes += isinstance(event, yaml.NodeEvent)
        depth += isinstance(event, yaml.CollectionStartEvent)
        depth -= isinstance(event, yaml.CollectionEndEvent)
        if depth > MOST_DEPTH:
            return LabError("", line, column, f"This is nested more than {MOST_DEPTH} deep.")
        if nodes > MOST_NODES:
            return LabError("", line, column, f"A lab file has at most {MOST_NODES} values.")
    return None
