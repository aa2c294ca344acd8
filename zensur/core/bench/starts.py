"""Where a bench starts from: what is given, or the model answer."""

from ..lab import Lab


def starting_sheets(lab: Lab, start: str) -> dict[str, str]:
    """Return a sheet for every device, as learners would hand them in: ``given`` or ``answer``.

    What is given lies below the sheets and is not repeated in them, but for devices with a sheet to begin with.
    """
    if start == "answer":
        own = {name: sheet.text for name, sheet in lab.full_paper.items()}
        return {name: own.get(name, _begun(lab, name)) for name in lab.devices}
    return {name: _begun(lab, name) for name in lab.devices}


def _begun(lab: Lab, name: str) -> str:
    return lab.start[name].text if name in lab.start else ""
