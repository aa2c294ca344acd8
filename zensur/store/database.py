"""Opens a database, brings it to the present schema, and hands out connections.

A database from an earlier version is copied to ``FILE.before-N`` and then migrated; a newer one is
refused. Writing is one transaction each, in WAL mode with ``synchronous=FULL``: what has been
answered for is on the disk.
"""

import os
import secrets
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from importlib import resources
from pathlib import Path

_BUSY_SECONDS = 10


APPLICATION = int.from_bytes(b"Znsr", "big")
"""What marks a database as ours in its header (``PRAGMA application_id``)."""
_SOON = 256 << 20
"""Up to this size a database is looked through when it is opened, results and contents included; ``zensur doctor``
looks at all of any."""


class UnusableDatabase(RuntimeError):
    """A database that cannot be used; the message says why, in one line. It was left as it is."""


class NewerDatabase(UnusableDatabase):
    """The database was written by a newer version of Zensur."""


def _migrations() -> list[tuple[int, str]]:
    folder = resources.files("zensur.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(f.name[:4]), f.read_text("utf-8")) for f in files]


class Database:
    """One SQLite file. Connections are kept one per thread."""

    def __init__(self, path: Path) -> None:
        """Open a file, or make it, readable by its owner only; raises :class:`UnusableDatabase`."""
        self.path = path
        self._local = threading.local()
        try:
            path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            with suppress(FileExistsError):  # to close a file that is in use would give up its locks (POSIX)
                os.close(os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600))
            self._look_through()
            if path.stat().st_mode & 0o077:
                path.chmod(0o600)  # its log and index get the rights that it has
            self._migrate()
        except OSError as error:
            raise UnusableDatabase(f"{path}: the database cannot be opened: {error.strerror}.") from error
        except sqlite3.DatabaseError as error:
            raise UnusableDatabase(f"{path}: {why_unusable(error)}") from error

    def connection(self) -> sqlite3.Connection:
        """Return this thread's connection."""
        found: sqlite3.Connection | None = getattr(self._local, "connection", None)
        if found is None:
            found = sqlite3.connect(self.path, timeout=_BUSY_SECONDS, isolation_level=None)
            found.row_factory = sqlite3.Row
            for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
                found.execute(f"PRAGMA {pragma}")
            self._local.connection = found
        return found

    def close(self) -> None:
        """Close this thread's connection."""
        found = getattr(self._local, "connection", None)
        if found is not None:
            found.close()
            self._local.connection = None

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """Write in one transaction: all of it is kept, or nothing."""
        connection = self.connection()
        connection.execute("BEGIN IMMEDIATE")
        try:
            yield connection
            connection.execute("COMMIT")
        except BaseException:
            if connection.in_transaction:  # a full disk has ended it already
                connection.execute("ROLLBACK")
            raise

    def _look_through(self) -> None:
        """See that the file is a database of ours, and whole as far as that is found soon; nothing is changed."""
        connection = sqlite3.connect(self.path, timeout=_BUSY_SECONDS)
        try:
            (ident,) = connection.execute("PRAGMA application_id").fetchone()
            tables = {
                name for (name,) in connection.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")
            }
            ours = ident == APPLICATION or (ident == 0 and {"lab_version", "paper_file"} <= tables)
            if not ours and (ident or tables):
                raise UnusableDatabase(
                    f"{self.path} is a database of another program, and was left as it is: name another file."
                )
            large = self.path.stat().st_size > _SOON
            for table in sorted(tables - ({"result", "content"} if large else set())):
                (said,) = connection.execute(f"PRAGMA quick_check('{table}')").fetchone()
                if said != "ok":
                    raise sqlite3.DatabaseError(said)
        finally:
            connection.close()

    def check(self) -> list[str]:
        """Look at all of the database, and return what is damaged in it."""
        found = [str(said) for (said,) in self.connection().execute("PRAGMA integrity_check")]
        return [] if found == ["ok"] else found

    def back_up(self, to: Path) -> None:
        """Copy the database as it is at this moment, while it is used (SQLite's online backup).

        Raises :class:`UnusableDatabase` where there is a file already, or none can be written.
        """
        try:
            os.close(os.open(to, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600))
        except OSError as error:
            raise UnusableDatabase(f"{to}: the copy cannot be written: {error.strerror}.") from error
        copy = sqlite3.connect(to)
        try:
            self.connection().backup(copy)
        except sqlite3.DatabaseError as error:
            to.unlink(missing_ok=True)
            raise UnusableDatabase(f"{to}: {why_unusable(error)}") from error
        finally:
            copy.close()

    def _migrate(self) -> None:
        migrations = _migrations()
        connection = self.connection()
        connection.execute("BEGIN IMMEDIATE")  # which fails where nothing can be written
        connection.execute(f"PRAGMA application_id = {APPLICATION}")
        connection.execute("COMMIT")
        present = connection.execute("PRAGMA user_version").fetchone()[0]
        newest = migrations[-1][0]
        if present > newest:
            raise NewerDatabase(
                f"{self.path} was written by a newer version of Zensur (schema {present}, this one knows "
                f"{newest}): start that version, or use another database."
            )
        if present == newest:
            return
        if present:
            before = Path(f"{self.path}.before-{newest}")
            before.unlink(missing_ok=True)
            self.back_up(before)
        for number, script in migrations:
            if number > present:
                connection.executescript(
                    f"BEGIN IMMEDIATE; {script}; PRAGMA user_version = {number}; COMMIT;"
                )

    def secret(self) -> str:
        """Return the key that signs sessions, made when it is first asked for."""
        with self.transaction() as connection:
            connection.execute(
                "INSERT OR IGNORE INTO setting (key, value) VALUES ('secret', ?)", (secrets.token_hex(32),)
            )
            return str(connection.execute("SELECT value FROM setting WHERE key = 'secret'").fetchone()[0])


_WHY = {
    sqlite3.SQLITE_NOTADB: "this is no database, and was left as it is: name another file.",
    sqlite3.SQLITE_CORRUPT: "the database is damaged: put a copy in its place (see zensur backup).",
    sqlite3.SQLITE_READONLY: "the database cannot be written to: its file is read-only.",
    sqlite3.SQLITE_FULL: "the disk is full: nothing was stored. Make room, and do it again.",
    sqlite3.SQLITE_CANTOPEN: "the database cannot be opened.",
    sqlite3.SQLITE_BUSY: "the database is in use by another program for too long: do it again in a while.",
    sqlite3.SQLITE_IOERR: "the disk does not do what it should: nothing was stored.",
}


def why_unusable(error: sqlite3.Error) -> str:
    """Say in a sentence why the database did not do what it was asked."""
    code = getattr(error, "sqlite_errorcode", None)
    if code is None and isinstance(error, sqlite3.DatabaseError):
        return _WHY[sqlite3.SQLITE_CORRUPT]
    return _WHY.get((code or 0) & 0xFF, f"the database failed: {error}.")


def now() -> str:
    """Return the time in UTC as ISO 8601 text, to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")
