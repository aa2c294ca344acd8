"""Marking runs: the queue of papers to be marked, and which process holds the desk and marks them."""

import json
import sqlite3
import time
from collections.abc import Sequence
from dataclasses import dataclass

from .database import Database, now

HELD_SECONDS = 10.0
"""So long after it was last seen a process still holds the desk."""


@dataclass(frozen=True, slots=True)
class RunKey:
    """What a run is of: an occasion, by a name of its own, a version of the lab by its row, and an engine."""

    occasion: str
    version: int
    engine: str


@dataclass(frozen=True, slots=True)
class Queued:
    """A paper to be marked, under a version of its lab by its row."""

    paper: int
    version: int
    engine: str


def enqueue(connection: sqlite3.Connection, key: RunKey, papers: Sequence[int]) -> None:
    """Put papers into the queue in the transaction of whoever wants them marked; what is marked is left out."""
    connection.execute(
        "INSERT OR IGNORE INTO run (occasion, version, engine, started_at) VALUES (?, ?, ?, ?)",
        (key.occasion, key.version, key.engine, now()),
    )
    connection.execute(
        "INSERT OR IGNORE INTO queued (run, paper, version, engine) "
        "SELECT run.id, p.value, run.version, run.engine FROM run, json_each(:papers) p "
        "WHERE run.occasion = :occasion AND run.version = :version AND run.engine = :engine AND NOT EXISTS "
        "(SELECT 1 FROM result WHERE paper = p.value AND version = :version AND engine = :engine)",
        {
            "papers": json.dumps(papers),
            "occasion": key.occasion,
            "version": key.version,
            "engine": key.engine,
        },
    )


def dequeue(connection: sqlite3.Connection, paper: int, version: int, engine: str) -> None:
    """Take a paper out of the queue in the transaction that stores what came of it."""
    connection.execute(
        "DELETE FROM queued WHERE paper = ? AND version = ? AND engine = ?", (paper, version, engine)
    )


class Runs:
    """The marking runs of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def begin(self, key: RunKey, papers: Sequence[int]) -> None:
        """Want papers marked."""
        with self.database.transaction() as connection:
            enqueue(connection, key, papers)

    def go_on(self, key: RunKey) -> None:
        """Let a run that was cancelled go on: papers that are wanted are marked again."""
        with self.database.transaction() as connection:
            connection.execute(f"UPDATE run SET cancelled_at = NULL {_WHERE}", _of(key))

    def cancel(self, key: RunKey) -> None:
        """Take what waits of a run out of the queue; what is being marked is finished."""
        with self.database.transaction() as connection:
            enqueue(connection, key, [])
            connection.execute(f"UPDATE run SET cancelled_at = ? {_WHERE}", (now(), *_of(key)))
            connection.execute(f"DELETE FROM queued WHERE run IN (SELECT id FROM run {_WHERE})", _of(key))

    def cancelled(self, key: RunKey) -> bool:
        """Say whether a run was cancelled."""
        row = (
            self.database.connection().execute(f"SELECT cancelled_at FROM run {_WHERE}", _of(key)).fetchone()
        )
        return row is not None and row["cancelled_at"] is not None

    def left(self, key: RunKey) -> int:
        """Count the papers of a run that wait to be marked, or are being marked."""
        row = self.database.connection().execute(
            f"SELECT count(*) FROM queued WHERE run IN (SELECT id FROM run {_WHERE})", _of(key)
        )
        return int(row.fetchone()[0])

    def waiting(self, engine: str) -> list[Queued]:
        """Return what is to be marked by an engine, in the order in which it was wanted."""
        rows = self.database.connection().execute(
            "SELECT paper, version, engine FROM queued WHERE engine = ? ORDER BY id", (engine,)
        )
        return [Queued(*found) for found in rows.fetchall()]

    def forget(self, engine: str) -> None:
        """Forget what other engines were to mark: nobody can any more."""
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM queued WHERE engine <> ?", (engine,))

    def hold(self, name: str) -> bool:
        """Hold the desk, or go on holding it; False where another process was seen to hold it lately.

        Who is seen often enough need not write that again.
        """
        row = self.database.connection().execute("SELECT name, seen_at FROM desk_holder").fetchone()
        if row is not None and row["name"] == name and row["seen_at"] > time.time() - HELD_SECONDS / 4:
            return True
        with self.database.transaction() as connection:
            connection.execute(
                "INSERT INTO desk_holder (id, name, seen_at) VALUES (1, ?, ?) ON CONFLICT (id) DO UPDATE "
                "SET name = excluded.name, seen_at = excluded.seen_at "
                "WHERE name = excluded.name OR seen_at < ?",
                (name, time.time(), time.time() - HELD_SECONDS),
            )
            row = connection.execute("SELECT name FROM desk_holder").fetchone()
            return bool(row["name"] == name)

    def holder(self) -> str:
        """Return the process that was last seen to hold the desk; empty where none was."""
        row = self.database.connection().execute("SELECT name FROM desk_holder").fetchone()
        return str(row["name"]) if row else ""

    def let_go(self, name: str) -> None:
        """Let the desk go, so that another process need not wait for it."""
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM desk_holder WHERE name = ?", (name,))


_WHERE = "WHERE occasion = ? AND version = ? AND engine = ?"


def _of(key: RunKey) -> tuple[str, int, str]:
    return key.occasion, key.version, key.engine
