"""Opens a database, brings it to the present schema, and hands out connections.

A database from an earlier version is copied to ``FILE.before-N`` and then migrated; a newer one is
refused. Writing is one transaction each, in WAL mode with ``synchronous=FULL``: what has been
answered for is on the disk.
"""

import secrets
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib import resources
from pathlib import Path

_BUSY_SECONDS = 10


class NewerDatabase(RuntimeError):
    """The database was written by a newer version of Zensur."""


def _migrations() -> list[tuple[int, str]]:
    folder = resources.files("zensur.store") / "migrations"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".sql")), key=lambda f: f.name)
    return [(int(f.name[:4]), f.read_text("utf-8")) for f in files]


class Database:
    """One SQLite file. Connections are kept one per thread."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        path.parent.mkdir(parents=True, exist_ok=True)
        self._migrate()

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
        except BaseException:
            connection.execute("ROLLBACK")
            raise
        connection.execute("COMMIT")

    def _migrate(self) -> None:
        migrations = _migrations()
        connection = self.connection()
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
            with sqlite3.connect(f"{self.path}.before-{newest}") as copy:
                connection.backup(copy)
            copy.close()
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


def now() -> str:
    """Return the time in UTC as ISO 8601 text, to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")
