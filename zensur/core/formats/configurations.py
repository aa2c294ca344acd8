"""One file of configurations in whatever form it is: a sheet, YANG data in JSON or XML, a snapshot of a Linux machine.

The form is seen from the contents, never from the name.
"""

import re

from ..lab import Device, Medium
from ..sheet import Configuration, Diagnostic, Severity, Sheet, SheetForm, read_sheets, write_sheet
from ..sheet.decoding import text_of
from .snapshot import HEAD, read_snapshot
from .yang import read_yang, write_yang

WRITTEN = ("sheet", "yang-json", "yang-xml")
"""The forms that a configuration can be written in; a snapshot is only read."""
SUFFIXES = {"sheet": ".sheet", "yang-json": ".json", "yang-xml": ".xml"}
_BEGINNINGS: dict[str, SheetForm] = {"{": "yang-json", "[": "yang-json", "<": "yang-xml"}
_LOOKED_AT = 2048
_KNOWN: tuple[tuple[bytes, str], ...] = (
    (b"PK\x03\x04", "a zip archive, or a document that is one inside"),
    (b"\x1f\x8b", "a file compressed by gzip"),
    (b"%PDF-", "a PDF document"),
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"GIF8", "a picture"),
    (b"{\\rtf", "a document with formatting in it"),
    (b"\xd0\xcf\x11\xe0", "a document of an office program"),
    (b"\x7fELF", "a program"),
    (b"\x0a\x0d\x0d\x0a", "a capture of packets"),
    (b"\xd4\xc3\xb2\xa1", "a capture of packets"),
    (b"\xa1\xb2\xc3\xd4", "a capture of packets"),
)
_TEXTS: tuple[tuple[re.Pattern[str], str], ...] = (
    (re.compile(r"<(!doctype html|html)\b", re.IGNORECASE), "a web page"),
    (re.compile(r"#!"), "a program for a shell"),
    (re.compile(r"zensur\s*:", re.IGNORECASE), "a lab file, and not the configuration of one device"),
    (re.compile(r"(from|to|subject|received)\s*:\s", re.IGNORECASE), "a message of electronic mail"),
    (re.compile(r"\[\s*[\]\d\"]"), "a list in JSON, and not an object with data of YANG modules"),
)


def form_of(source: str | bytes) -> SheetForm:
    """Return the form of a file: ``sheet``, ``yang-json``, ``yang-xml`` or ``snapshot``."""
    head = text_of(source[:_LOOKED_AT]).lstrip()
    if head.startswith(HEAD):
        return "snapshot"
    return _BEGINNINGS.get(head[:1], "sheet")


def looks_like(source: str | bytes) -> str | None:
    """Say what a file is that is no configuration in any form; None where it may be one."""
    if isinstance(source, bytes):
        found = next((what for magic, what in _KNOWN if source.startswith(magic)), None)
        if found:
            return found
    head = text_of(source[:_LOOKED_AT]).lstrip()
    return next((what for pattern, what in _TEXTS if pattern.match(head)), None)


def read_configurations(
    source: str | bytes, file: str = "", device: Device | None = None
) -> tuple[Sheet, ...]:
    """Read a file as one configuration, or as several where it is a file of sheets. It never raises.

    ``device`` is the one that it is for, where that is known: a host's default route is its gateway, and the ports of a
    machine are found by the names that the lab has for them.
    """
    strange = looks_like(source)
    if strange is not None:
        forms = "a sheet, data of YANG modules in JSON or XML, or a snapshot"
        message = f"This looks like {strange}: a configuration is {forms}."
        said = Diagnostic(Severity.ERROR, "not-a-configuration", 1, 1, 1, message)
        return (Sheet(Configuration(), (said,), 0, ""),)
    form = form_of(source)
    if form == "snapshot":
        ports = device.ports if device else ()
        serial = {p.name.lower() for p in ports if p.medium is Medium.SERIAL}
        return (read_snapshot(source, file, [p.name for p in ports], serial),)
    if form == "sheet":
        return read_sheets(source, file)
    return (read_yang(source, form, file, device.kind.value if device else None),)


def write_configuration(configuration: Configuration, form: str) -> str:
    """Write a configuration as a ``sheet``, as ``yang-json`` or as ``yang-xml``."""
    return write_sheet(configuration) if form == "sheet" else write_yang(configuration, form)
