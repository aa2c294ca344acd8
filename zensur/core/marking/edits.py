"""Small edits of a learner's configuration: statements taken away and put in their place."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..sheet import AnyItem, Block, Configuration, Where
from ..sheet.statements import Open


def said(item: AnyItem) -> str:
    """Write a statement without what only describes it; a header as it stands."""
    if isinstance(item.statement, Open):
        return item.text()
    return item.statement.plain().text()


@dataclass(frozen=True)
class Edit:
    """Statements taken away and put in their place. ``subjects`` are the criteria it is about, by id."""

    device: str
    remove: tuple[AnyItem, ...]
    add: tuple[AnyItem, ...]
    subjects: tuple[str, ...]
    header: Where | None = None
    """The header of the block in question, for a statement that is missing."""
    whole: bool = field(default=False)
    """Whether it stands for a sheet that was not handed in."""

    @property
    def block(self) -> Block | None:
        """The block it is about."""
        return (self.add or self.remove)[0].block

    @property
    def where(self) -> Where | None:
        """The line to point at."""
        return next((i.where for i in self.remove if i.where is not None), self.header)

    def on(self, configuration: Configuration) -> Configuration:
        """Return the configuration with this edit made."""
        return configuration.changed(self.remove, self.add)


def apply(edits: Sequence[Edit], configurations: Mapping[str, Configuration]) -> dict[str, Configuration]:
    """Return the configurations of the devices that the edits change."""
    changed: dict[str, Configuration] = {}
    for edit in edits:
        changed[edit.device] = edit.on(changed.get(edit.device, configurations[edit.device]))
    return changed
