"""Reads zip and tar archives from bytes, within bounds; nothing is ever written.

What is unpacked is bounded under the readers of the standard library, headers and directories included: a small archive
may hold a header of a gigabyte, or a million folders.
"""

import gzip
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

from .file_names import name_in_tar, name_in_zip

MOST_ENTRIES = 20_000
"""So many files and folders an archive may hold."""
MOST_FILE_BYTES = 1024 * 1024
MOST_BYTES = 64 * 1024 * 1024
LEARNERS_EACH, MOST_TIMES = 100, 4
"""So many bytes for every hundred learners, and at most so many times."""
_AT_ONCE = 64 * 1024
_HEADERS, _HEADER_EACH = 1024 * 1024, 4096
"""What the headers of a tar may hold in all: so much, and so much more for every entry."""
_DIRECTORY_EACH = 1024
"""What the directory of a zip may hold for every entry."""
_TAR_MAGIC = b"ustar"
_DAMAGED = (
    zipfile.BadZipFile, tarfile.TarError, zlib.error, lzma.LZMAError, EOFError, OSError, RuntimeError, ValueError,
    struct.error, LookupError, ArithmeticError,
)  # fmt: skip
"""What the standard library raises on damaged archives."""


class BadArchive(ValueError):
    """An archive that is not read, with the reason in a sentence."""


@dataclass(frozen=True, slots=True)
class File:
    """A file with its path inside the hand-in, parts separated by ``/``.

    ``guessed`` says as what the path was read, where the archive does not say and it could be read otherwise.
    """

    path: str
    content: bytes
    guessed: str = ""


def is_archive(content: bytes) -> bool:
    """Say whether bytes are a zip, tar or tar.gz archive, by their contents."""
    return (
        content[:4] in (b"PK\3\4", b"PK\5\6") or content[:2] == b"\x1f\x8b" or content[257:262] == _TAR_MAGIC
    )


def read_archive(content: bytes, most_bytes: int | None = None) -> list[File]:
    """Read every file of an archive; raises :class:`BadArchive`, and then nothing of it counts.

    Without ``most_bytes`` a class may hold 64 MiB for every hundred learners.
    """
    try:
        files = _unzip(content) if content[:2] == b"PK" else _untar(content, most_bytes)
        return _bounded(files, most_bytes)
    except BadArchive:
        raise
    except _DAMAGED as error:
        raise BadArchive(
            "The archive is damaged or of a kind that is not read: pack it again as zip."
        ) from error


def _bounded(files: Iterator[File], most_bytes: int | None) -> list[File]:
    """Read files up to what any class may hold, then see whether this class may."""
    found, total = [], 0
    for file in files:
        found.append(file)
        total += len(file.content)
        _weighed(total, MOST_BYTES * MOST_TIMES if most_bytes is None else most_bytes)
    folders = len({file.path.rpartition("/")[0] for file in found})
    _weighed(
        total,
        MOST_BYTES * min(MOST_TIMES, -(-folders // LEARNERS_EACH)) if most_bytes is None else most_bytes,
    )
    return found


def _weighed(total: int, most: int) -> None:
    if total > most:
        raise BadArchive(f"The archive holds more than {most >> 20} MiB.")


def _counted(count: int) -> None:
    if count > MOST_ENTRIES:
        raise BadArchive(f"The archive holds more than {MOST_ENTRIES:,} files and folders.")


def _safe(path: str) -> str:
    path = path.replace("\\", "/")
    if path.startswith("/") or path[1:2] == ":" or ".." in path.split("/"):
        raise BadArchive(
            f"The archive names a file outside itself ({path[:60]}): none of it is taken. "
            "Pack the folder of the sheets again."
        )
    return path


def _unzip(content: bytes) -> Iterator[File]:
    if _directory_size(content) > MOST_ENTRIES * _DIRECTORY_EACH:
        _counted(MOST_ENTRIES + 1)
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        _counted(len(archive.infolist()))
        for info in archive.infolist():
            name, guessed = name_in_zip(info)
            path = _safe(name)
            if stat.S_ISLNK(info.external_attr >> 16):
                raise BadArchive(f"The archive holds a link ({path[:60]}): put the file itself in.")
            if info.is_dir():
                continue
            if info.flag_bits & 1:
                raise BadArchive("The archive is encrypted: pack it without a password.")
            with archive.open(info) as stream:
                yield File(path, _read(stream, path), guessed)


def _directory_size(content: bytes) -> int:
    """Return how long a zip says that its directory is (APPNOTE 4.3.14 and 4.3.16), before it is read whole."""
    end = content.rfind(b"PK\5\6")
    if end < 0 or end + 22 > len(content):
        return 0
    (size,) = struct.unpack_from("<L", content, end + 12)
    if content[end - 20 : end - 16] == b"PK\6\7":
        (place,) = struct.unpack_from("<Q", content, end - 12)
        if place + 48 <= len(content):
            (size,) = struct.unpack_from("<Q", content, place + 40)
    return min(int(size), len(content))


class _Stream:
    """What a tar is read from: never much at once, and no further than the archive may be long."""

    def __init__(self, stream: IO[bytes], most: int) -> None:
        self._stream, self._most = stream, most
        self.read_bytes = 0

    def read(self, size: int = -1) -> bytes:
        """Read some bytes."""
        if not 0 <= size <= _AT_ONCE:
            raise BadArchive("The archive has a header far longer than any name: pack it again as zip.")
        found = self._stream.read(size)
        self.read_bytes += len(found)
        self._check(self.tell())
        return found

    def seek(self, place: int, whence: int = io.SEEK_SET) -> int:
        """Go to a place that is counted from the start."""
        if whence != io.SEEK_SET:
            raise io.UnsupportedOperation
        self._check(place)
        return self._stream.seek(place)

    def tell(self) -> int:
        """Return the place."""
        return self._stream.tell()

    def _check(self, place: int) -> None:
        if place > self._most:
            raise BadArchive(f"The archive holds more than {self._most >> 20} MiB.")


def _untar(content: bytes, most_bytes: int | None) -> Iterator[File]:
    packed: IO[bytes] = io.BytesIO(content)
    if content[:2] == b"\x1f\x8b":
        packed = gzip.GzipFile(fileobj=packed)  # type: ignore[assignment]
    headers = _HEADERS + MOST_ENTRIES * _HEADER_EACH
    stream, data = _Stream(packed, (most_bytes or MOST_BYTES * MOST_TIMES) + headers), 0
    with tarfile.open(fileobj=stream, mode="r:") as archive:  # type: ignore[call-overload]
        for count, info in enumerate(archive, 1):
            _counted(count)
            if stream.read_bytes - data > _HEADERS + count * _HEADER_EACH:
                raise BadArchive("The archive has headers far longer than any names: pack it again as zip.")
            name, guessed = name_in_tar(info.name)
            path = _safe(name)
            if info.isdir():
                continue
            if not info.isreg():
                raise BadArchive(f"The archive holds a link or device ({path[:60]}): put the file itself in.")
            member = archive.extractfile(info)
            if member is not None:
                file = File(path, _read(member, path), guessed)
                data += len(file.content)
                yield file


def _read(stream: IO[bytes], path: str) -> bytes:
    found = io.BytesIO()
    while part := stream.read(_AT_ONCE):
        found.write(part)
        if found.tell() > MOST_FILE_BYTES:
            raise BadArchive(f"{path[:60]} is larger than {MOST_FILE_BYTES >> 20} MiB: it is no sheet.")
    return found.getvalue()
