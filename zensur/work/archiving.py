"""A sitting as one file: roster, numbers, the lab, hand-ins byte for byte, results, overrules, comments and log.

A zip with ``sitting.json`` and ``contents/SHA-256`` for what was handed in. On another machine it is restored with the
same totals.
"""

import hashlib
import io
import json
import sqlite3
import zipfile
import zlib

from ..core.lab import read_lab
from ..core.lab.splice import CannotSplice, put
from ..store import Database, dump, load
from .archived_rows import BadSitting, checked

FORMAT = 1
MOST_BYTES, MOST_FILES = 1 << 30, 100_000
"""So much an archive may unpack to, and so many files it may hold."""
_MANIFEST = "sitting.json"


def archived(database: Database, sitting: int) -> bytes:
    """Return a sitting as one file. Raises :class:`KeyError` where there is none such."""
    told = dump(database, sitting)
    digests = {file["hash"] for file in told["paper_file"]}
    digests |= {digest for arrival in told["arrival"] for _, digest in json.loads(arrival["files"])}
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(_MANIFEST, json.dumps({"zensur_sitting": FORMAT, **told}, indent=1))
        for digest in sorted(digests):
            row = (
                database.connection()
                .execute("SELECT bytes FROM content WHERE hash = ?", (digest,))
                .fetchone()
            )
            archive.writestr(f"contents/{digest}", row["bytes"])
    return stream.getvalue()


def restored(database: Database, content: bytes) -> int:
    """Put a sitting from its file into a database, and return its row; raises :class:`BadSitting`.

    Its lab is taken from there, too, where the same text is not on the shelf: under another id where its own is taken.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            infos = {info.filename: info for info in archive.infolist()}
            if len(infos) > MOST_FILES or sum(info.file_size for info in infos.values()) > MOST_BYTES:
                raise BadSitting("It is larger than a sitting can be.")
            if _MANIFEST not in infos:
                raise BadSitting("This is no archive of a sitting: it holds no sitting.json.")
            told = checked(archive.read(_MANIFEST))
            if read_lab(told["lab"]["text"]).lab is None:
                raise BadSitting("Its lab cannot be read.")
            return load(database, told, _renamed, lambda digest: _read(archive, digest))
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise BadSitting("This is no archive of a sitting, or it is damaged.") from error
    except KeyError as missing:
        raise BadSitting(f"Something of it is missing: {str(missing)[:80]}.") from missing
    except sqlite3.IntegrityError as error:
        raise BadSitting(f"What it tells does not fit together: {error}.") from error


def _read(archive: zipfile.ZipFile, digest: str) -> bytes:
    found = archive.read(f"contents/{digest}")
    if hashlib.sha256(found).hexdigest() != digest:
        raise BadSitting(f"The contents {digest[:12]}… are not what was handed in.")
    return found


def _renamed(text: str, slug: str) -> str:
    try:
        return put(text, "id", slug)
    except CannotSplice as cannot:
        raise BadSitting(str(cannot)) from cannot
