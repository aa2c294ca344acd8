"""Other ports in the place of a lab file's own, where learners cable as they like."""

import re
from collections.abc import Iterator, Mapping

import yaml

from .nodes import scalars

Names = Mapping[str, Mapping[str, str]]
"""By device, and by port of the lab file, the port in its place: of both their names in small letters."""
_DESCRIBED = re.compile(r"^\s*(?:about|label|name)\s|\sabout\s|#", re.IGNORECASE)


def put_ports(root: yaml.Node, names: Names) -> None:
    """Put other ports into links, model answers, pings and scheme of a lab file, in place.

    Sheets that are given stay: a port that they configure has no other in its place.
    """
    for key, value in _pairs(root):
        if key in ("answer", "remove"):
            for device, sheets in _pairs(value):
                for scalar in scalars(sheets):
                    scalar.value = in_sheet(scalar.value, names.get(device.lower(), {}))
        elif key == "stages" and isinstance(value, yaml.SequenceNode):
            for stage in value.value:
                put_ports(stage, names)
        elif key in ("links", "free", "pings", "services", "scheme"):
            _put_into_ends(value, names)
            _put_beside_devices(value, names)


def in_sheet(text: str, ports: Mapping[str, str]) -> str:
    """Put other ports into the lines of a device's sheet, wherever a word is the name of one."""
    if not ports:
        return text
    word = re.compile(
        rf"(?<![\w./:-])({'|'.join(map(re.escape, ports))})(?=(?:\.\d+)?(?::\d+)?(?:\s|$))", re.IGNORECASE
    )
    return "\n".join(_in_line(line, word, ports) for line in text.split("\n"))


def _in_line(line: str, word: re.Pattern[str], ports: Mapping[str, str]) -> str:
    said = _DESCRIBED.search(line)
    end = said.start() if said else len(line)
    return word.sub(lambda m: ports[m[1].lower()], line[:end]) + line[end:]


def _put_into_ends(node: yaml.Node, names: Names) -> None:
    """Put other ports wherever ``DEVICE:PORT`` or ``BOX/INSTANCE:PORT`` stands."""
    for device, ports in names.items():
        end = re.compile(
            rf"(?<![\w.-])({re.escape(device)}(?:/[\w.-]+)?):({'|'.join(map(re.escape, ports))})(?![\w/-])",
            re.IGNORECASE,
        )
        for scalar in scalars(node):
            scalar.value = end.sub(lambda m, ports=ports: f"{m[1]}:{ports[m[2].lower()]}", scalar.value)  # type: ignore[misc]


def _put_beside_devices(node: yaml.Node, names: Names) -> None:
    """Put other ports where a port stands by itself, beside the device that it belongs to."""
    if isinstance(node, yaml.SequenceNode):
        for entry in node.value:
            _put_beside_devices(entry, names)
    if not isinstance(node, yaml.MappingNode):
        return
    texts = {key: value for key, value in _pairs(node) if isinstance(value, yaml.ScalarNode)}
    devices = [re.split(r"[:/ ]", value.value.strip(), maxsplit=1)[0].lower() for value in texts.values()]
    ports = next((names[d] for d in devices if d in names), {})
    for key, value in _pairs(node):
        if key in ("source", "out", "of") and isinstance(value, yaml.ScalarNode):
            value.value = ports.get(value.value.strip().lower(), value.value)
        elif key == "accept":
            for scalar in scalars(value):
                scalar.value = in_sheet(scalar.value, ports)
        elif key in ("tasks", "criteria"):
            _put_beside_devices(value, names)


def _pairs(node: yaml.Node) -> Iterator[tuple[str, yaml.Node]]:
    pairs = node.value if isinstance(node, yaml.MappingNode) else ()
    return ((key.value, value) for key, value in pairs if isinstance(key, yaml.ScalarNode))
