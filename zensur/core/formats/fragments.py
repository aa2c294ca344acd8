"""Single statements in another form: the part of the data that a repair is, with what it lies in."""

from collections.abc import Sequence

from ..sheet import Configuration, read_sheet
from .yang import json_text, xml_elements, yang_data
from .yang.modules import INTERFACES, OWN

_MARKS = (f"{OWN}:state-unsaid", f"{OWN}:undeclared")
_ONLY_NAMED = f"{OWN}:only-named"


def fragment(header: str | None, statements: Sequence[str], form: str) -> str:
    """Write statements, below a header such as ``port p1``, as they stand in ``yang-json`` or ``yang-xml``.

    Nothing comes of what is no statement, and of other forms.
    """
    if form not in ("yang-json", "yang-xml"):
        return ""
    indent = "  " if header else ""
    text = "\n".join([*([header] if header else []), *(indent + s for s in statements if s != header)])
    sheet = read_sheet(text)
    if sheet.errors or not sheet.configuration.items:
        return ""
    data = _plain(sheet.configuration)
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
