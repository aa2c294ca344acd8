"""Reads zip and tar archives from bytes, within bounds; nothing is ever written."""

import io
import lzma
import stat
import struct
import tarfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO

MOST_FILES = 20_000
MOST_FILE_BYTES = 1024 * 1024
MOST_BYTES = 64 * 1024 * 1024
_TAR_MAGIC = b"ustar"
_DAMAGED = (
    zipfile.BadZipFile, tarfile.TarError, zlib.error, lzma.LZMAError, EOFError, OSError, RuntimeError, ValueError,
    struct.error,
)  # fmt: skip
"""What the standard library raises on damaged archives."""


class BadArchive(ValueError):
    """An archive that is not read, with the reason in a sentence."""


@dataclass(frozen=True, slots=True)
class File:
    """A file with its path inside the hand-in, parts separated by ``/``."""

    path: str
    content: bytes


def is_archive(content: bytes) -> bool:
    """Say whether bytes are a zip, tar or tar.gz archive, by their contents."""
    return (
        content[:4] in (b"PK\3\4", b"PK\5\6") or content[:2] == b"\x1f\x8b" or content[257:262] == _TAR_MAGIC
    )


def read_archive(content: bytes, most_bytes: int = MOST_BYTES) -> list[File]:
    """Read every file of an archive; raises :class:`BadArchive`, and then nothing of it counts."""
    try:
        if content[:2] == b"PK":
            return list(_bounded(_unzip(content), most_bytes))
        return list(_bounded(_untar(content), most_bytes))
    except BadArchive:
        raise
    except _DAMAGED as error:
        raise BadArchive(
            "The archive is damaged or of a kind that is not read: pack it again as zip."
        ) from error


def _bounded(files: Iterator[File], most_bytes: int) -> Iterator[File]:
    total = 0
    for count, file in enumerate(files, 1):
        total += len(file.content)
        if count > MOST_FILES:
            raise BadArchive(f"The archive holds more than {MOST_FILES} files.")
        if total > most_bytes:
            raise BadArchive(f"The archive holds more than {MOST_BYTES >> 20} MiB.")
        yield file


def _safe(path: str) -> str:
    path = path.replace("\\", "/")
    if path.startswith("/") or path[1:2] == ":" or ".." in path.split("/"):
        raise BadArchive(
            f"The archive names a file outside itself ({path[:60]}): none of it is taken. "
            "Pack the folder of the sheets again."
        )
    return path


def _unzip(content: bytes) -> Iterator[File]:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        for info in archive.infolist():
            path = _safe(info.filename)
            if stat.S_ISLNK(info.external_attr >> 16):
                raise BadArchive(f"The archive holds a link ({path[:60]}): put the file itself in.")
            if info.is_dir():
                continue
            if info.flag_bits & 1:
                raise BadArchive("The archive is encrypted: pack it without a password.")
            with archive.open(info) as stream:
                yield File(path, _read(stream, path))


def _untar(content: bytes) -> Iterator[File]:
    with tarfile.open(fileobj=io.BytesIO(content), mode="r:*") as archive:
        for info in archive:
            path = _safe(info.name)
            if info.isdir():
                continue
            if not info.isreg():
                raise BadArchive(f"The archive holds a link or device ({path[:60]}): put the file itself in.")
            stream = archive.extractfile(info)
            if stream is not None:
                yield File(path, _read(stream, path))


def _read(stream: IO[bytes], path: str) -> bytes:
    content = stream.read(MOST_FILE_BYTES + 1)
    if len(content) > MOST_FILE_BYTES:
        raise BadArchive(f"{path[:60]} is larger than {MOST_FILE_BYTES >> 20} MiB: it is no sheet.")
    return content
