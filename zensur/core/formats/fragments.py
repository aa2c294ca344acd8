"""Repairs in another form: the part of the data that some statements are, or the commands that make them."""

from collections.abc import Sequence

from ..sheet import AnyItem, Configuration, SheetForm
from .snapshot import commands
from .yang import json_text, xml_elements, yang_data
from .yang.modules import INTERFACES, OWN

_MARKS = (f"{OWN}:state-unsaid", f"{OWN}:undeclared")
_ONLY_NAMED = f"{OWN}:only-named"


def repair_in(
    form: SheetForm, remove: Sequence[AnyItem], add: Sequence[AnyItem], outside: Sequence[str] = ()
) -> str:
    """Write what puts statements in the place of others: the data as it should stand, or commands for a machine.

    ``outside`` are the external ports that the device should have. Nothing comes of what a form cannot say.
    """
    if form == "snapshot":
        return commands(remove, add, outside)
    data = _plain(Configuration.of_items(add)) if add else {}
    if form == "sheet" or not data:
        return ""
    return json_text(data) if form == "yang-json" else "\n".join(xml_elements(data)) + "\n"


def _plain(configuration: Configuration) -> dict[str, object]:
    """Return the data without what only tells what a whole configuration leaves open."""
    data = yang_data(configuration)
    interfaces = data.get(f"{INTERFACES}:interfaces")
    if interfaces:
        kept = [e for e in interfaces["interface"] if _ONLY_NAMED not in e]
        for entry in kept:
            for mark in _MARKS:
                entry.pop(mark, None)
        interfaces["interface"] = kept
        if not kept:
            del data[f"{INTERFACES}:interfaces"]
    return data
