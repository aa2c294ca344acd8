"""Slips put into a lab's model answer on purpose: for believable papers, and to see that each is found again."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ...lab import Lab
from ...sheet import AnyItem, Configuration, write_sheet

Placed = tuple[str, AnyItem]
"""A statement with the device it stands on."""


@dataclass(frozen=True)
class MadeSlip:
    """What a learner may have done on a device: statements taken away and put, a line misspelt, sheets mixed up.

    ``repairs`` are the repairs that mend it, ``slips`` the keywords that it may be called by; empty where any is right.
    """

    what: str
    device: str
    repairs: frozenset[str]
    slips: frozenset[str]
    remove: tuple[Placed, ...] = ()
    put: tuple[Placed, ...] = ()
    misspelt: tuple[str, str] | None = None
    """A line of the device's sheet, and how it was typed."""
    at: AnyItem | None = None
    """The statement that is misspelt."""
    sheets: Mapping[str, str | None] | None = None
    """By device whose sheet was handed in for it; None where none was."""

    @property
    def touches(self) -> frozenset[object]:
        """What it changes: two slips of one paper may not touch the same."""
        if self.sheets is not None:
            return frozenset(self.sheets)
        slots = {(device, item.slot) for device, item in (*self.remove, *self.put)}
        return frozenset(slots | ({(self.device, self.at.slot)} if self.at else set()))

    @property
    def devices(self) -> set[str]:
        """The devices whose sheets it changes."""
        return {self.device, *(d for d, _ in (*self.remove, *self.put)), *(self.sheets or {})}


def may_go_together(slips: Iterable[MadeSlip]) -> bool:
    """Say whether slips change different statements, and leave alone the devices whose whole sheets are mixed up."""
    seen: set[object] = set()
    whole: set[str] = set()
    changed: set[str] = set()
    for slip in slips:
        if slip.touches & seen or slip.devices & whole or (slip.sheets and slip.devices & changed):
            return False
        seen |= slip.touches
        changed |= slip.devices
        if slip.sheets:
            whole |= slip.devices
    return True


def sheets_with(lab: Lab, slips: Iterable[MadeSlip]) -> dict[str, str]:
    """Return the sheets of a full paper with some slips made."""
    chosen = list(slips)
    own = {device: sheet.configuration for device, sheet in lab.full_paper.items()}
    for slip in chosen:
        for device in {d for d, _ in (*slip.remove, *slip.put)}:
            own[device] = own.get(device, Configuration()).changed(
                [i for d, i in slip.remove if d == device], [i for d, i in slip.put if d == device]
            )
    texts = {device: write_sheet(configuration) for device, configuration in own.items()}
    for slip in chosen:
        if slip.misspelt is not None:
            right, typed = slip.misspelt
            texts[slip.device] = texts[slip.device].replace(right, typed, 1)
    mixed = dict(texts)
    for slip in chosen:
        for device, of in (slip.sheets or {}).items():
            if of is None:
                mixed.pop(device, None)
            else:
                mixed[device] = texts[of]
    return mixed
