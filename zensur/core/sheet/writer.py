"""The canonical form of a sheet: fixed order, two spaces of indent, prefixes as lengths."""

from .configuration import AnyItem, Configuration
from .statement import write_together
from .statements import Open


def write_sheet(configuration: Configuration) -> str:
    """Write a configuration; reading the text gives the same configuration, writing that the same bytes."""
    lines: list[str] = []
    together: list[AnyItem] = []
    for item in (*configuration.items, None):
        if together and (
            item is None
            or item.block != together[0].block
            or not together[0].statement.goes_with(item.statement)
        ):
            lines.append(_line(together))
            together = []
        if item is not None:
            together.append(item)
    return "".join(f"{line}\n" for line in lines)


def _line(items: list[AnyItem]) -> str:
    first = items[0]
    if isinstance(first.statement, Open):
        return first.text()
    return ("  " if first.block else "") + write_together([item.statement for item in items])
