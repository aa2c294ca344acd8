"""Sheets as a folder in a zip archive, as learners hand them in."""

import io
import zipfile
from collections.abc import Mapping

_BEGINNING = (1980, 1, 1, 0, 0, 0)


def folder(name: str, sheets: Mapping[str, str]) -> bytes:
    """Return an archive with the folder ``name``: a file ``DEVICE.sheet`` for each sheet. The same bytes every time."""
    return archive_of(name, {f"{device}.sheet": text for device, text in sheets.items()})


def archive_of(name: str, files: Mapping[str, str]) -> bytes:
    """Return an archive with a folder of texts by their names. The same bytes every time."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for file, text in files.items():
            entry = zipfile.ZipInfo(f"{name}/{file}", _BEGINNING)
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, text.encode(), zipfile.ZIP_DEFLATED)
    return stream.getvalue()
