"""Made slips put into the sheets of a full paper."""

from collections.abc import Iterable

from ...lab import Lab
from ...sheet import Configuration, write_sheet
from ..slips.made import MadeSlip


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
