"""The canonical form of a sheet: fixed order, two spaces of indent, prefixes as lengths."""

from .configuration import Configuration
from .statements import Open


def write_sheet(configuration: Configuration) -> str:
    """Write a configuration; reading the text gives the same configuration, writing that the same bytes."""
    lines = []
    for item in configuration.items:
        indent = "  " if item.block is not None and not isinstance(item.statement, Open) else ""
        lines.append(indent + item.text())
    return "".join(f"{line}\n" for line in lines)
