"""A concern: something that one line of a configuration says and should not, in view of the others."""

from dataclasses import dataclass

from ..addresses import Interface
from .configuration import AnyItem, Block, Configuration, Item
from .diagnostics import Severity
from .statements import Member, OnPort


@dataclass(frozen=True, slots=True)
class Concern:
    """Something that an item of a configuration says and should not; ``word`` is the word meant."""

    item: AnyItem
    severity: Severity
    code: str
    message: str
    word: str = ""
    suggestion: str | None = None


@dataclass(frozen=True, slots=True)
class Held:
    """An address of the device, with the port or loopback that bears it and its network instance."""

    item: Item[OnPort]
    block: Block
    instance: str | None

    @property
    def interface(self) -> Interface:
        """The address with its length."""
        return self.item.statement.interface


def held_addresses(configuration: Configuration) -> list[Held]:
    """Return all addresses of a configuration, whether their ports are on or not."""
    member = {i.block: i.statement.instance.lower() for i in configuration.everywhere(Member)}
    return [
        Held(item, item.block, member.get(item.block))
        for item in configuration.everywhere(OnPort)
        if item.block is not None
    ]


def error(item: AnyItem, code: str, message: str, word: str = "", suggestion: str | None = None) -> Concern:
    """Make a concern about a line that has no effect."""
    return Concern(item, Severity.ERROR, code, message, word, suggestion)


def warning(item: AnyItem, code: str, message: str, word: str = "") -> Concern:
    """Make a concern about a line that is read and doubtful."""
    return Concern(item, Severity.WARNING, code, message, word)
