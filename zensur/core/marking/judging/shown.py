"""What a verdict shows: shares, and the lines and words that prove it."""

from collections.abc import Collection, Iterable

from ...sheet import AnyItem, Block, Configuration, Where


def share(required: Collection[object], found: Collection[object]) -> float:
    """Return the right items among those required and the wrong ones more; 1 where nothing is required."""
    wanted, got = set(required), set(found)
    most = len(wanted | got)
    return len(wanted & got) / most if most else 1.0


def lines_of(items: Iterable[AnyItem | None]) -> tuple[Where, ...]:
    """Return the lines of statements, each once."""
    return tuple(dict.fromkeys(i.where for i in items if i is not None and i.where is not None))


def texts_of(items: Iterable[AnyItem]) -> str:
    """Write statements without what only describes them."""
    return "; ".join(i.statement.plain().text() for i in items) or "nothing"


def header_of(configuration: Configuration, block: Block | None) -> list[AnyItem | None]:
    """Return the header of a block, to be shown where nothing in it can be."""
    return [configuration.header(block)] if block is not None else []
