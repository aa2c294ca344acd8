"""Sheets as a folder in a zip archive, as learners hand them in."""

import io
import zipfile
from collections.abc import Mapping

_BEGINNING = (1980, 1, 1, 0, 0, 0)


def folder(name: str, sheets: Mapping[str, str]) -> bytes:
    """Return an archive with the folder ``name``: a file ``DEVICE.sheet`` for each sheet. The same bytes every time."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for device, text in sheets.items():
            entry = zipfile.ZipInfo(f"{name}/{device}.sheet", _BEGINNING)
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, text.encode(), zipfile.ZIP_DEFLATED)
    return stream.getvalue()
