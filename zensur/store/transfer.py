"""A sitting as rows that can be carried to another database, with everything that hangs on it."""

import json
import sqlite3
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from .database import Database, now
from .entries import NOBODY, note
from .papers import paper_hash

Row = Mapping[str, Any]
OF_PAPERS = {
    "hand_in": ("paper", "made_at", "way"),
    "result": ("paper", "engine", "json", "summary", "marked_at"),
    "overrule": ("paper", "criterion", "marks", "reason", "made_at"),
    "comment": ("paper", "criterion", "device", "line", "text", "made_at", "removed_at"),
}
"""What hangs on papers, by table, with the columns that are carried."""
_SEAT = ("code", "name", "export_id", "mail", "team", "class_group", "drawn")
_PAPER = ("id", "learner", "remarks", "received_at", "stage", "drawn", "arrival", "came_as")
_ARRIVAL = ("id", "way", "files", "remarks", "received_at")
_ENTRY = ("made_at", "who", "what", "paper", "told", "reason")
_SITTING = ("stage", "title", "secret", "rules", "made_at", "released_at")


def dump(database: Database, sitting: int) -> dict[str, Any]:
    """Return a sitting as rows by table; JSON in columns stays text. Raises :class:`KeyError` where there is none."""
    connection = database.connection()
    connection.execute("BEGIN")  # all of it as it is at one moment
    try:
        return _dump(connection, sitting)
    finally:
        connection.execute("COMMIT")


def _dump(connection: sqlite3.Connection, sitting: int) -> dict[str, Any]:
    def rows(table: str, columns: Sequence[str], where: str) -> list[dict[str, Any]]:
        found = connection.execute(f"SELECT {', '.join(columns)} FROM {table} WHERE {where}", (sitting,))
        return [dict(row) for row in found]

    own = rows("sitting", (*_SITTING, "version"), "id = ?")
    if not own:
        raise KeyError(sitting)
    lab = connection.execute(
        "SELECT l.slug, v.text FROM lab_version v JOIN lab l ON l.id = v.lab WHERE v.id = ?",
        (own[0]["version"],),
    ).fetchone()
    papers = "SELECT id FROM paper WHERE sitting = ?"
    version = own[0].pop("version")
    found: dict[str, Any] = {
        "lab": dict(lab),
        "sitting": own[0],
        "seat": rows("seat", _SEAT, "sitting = ? ORDER BY code"),
        "arrival": rows(
            "arrival", _ARRIVAL, "id IN (SELECT arrival FROM paper WHERE sitting = ?) ORDER BY id"
        ),
        "paper": rows("paper", _PAPER, "sitting = ? ORDER BY id"),
        "paper_file": rows(
            "paper_file", ("paper", "device", "path", "hash"), f"paper IN ({papers}) ORDER BY rowid"
        ),
        "entry": rows("entry", _ENTRY, "sitting = ? ORDER BY id"),
    }
    for table, columns in OF_PAPERS.items():
        order = "paper, marked_at" if table == "result" else "id"
        at = f" AND version = {int(version)}" if table == "result" else ""
        found[table] = rows(table, columns, f"paper IN ({papers}){at} ORDER BY {order}")
    return found


def load(
    database: Database,
    told: Mapping[str, Any],
    renamed: Callable[[str, str], str],
    content: Callable[[str], bytes],
) -> int:
    """Put a sitting of :func:`dump` into a database, and its lab where it has none of the same text; returns its row.

    Where another lab has its id, ``renamed`` gives its text another. All or nothing: raises
    :class:`sqlite3.IntegrityError` where rows do not fit, :class:`KeyError` where contents are missing.
    """
    with database.transaction() as connection:
        version = _version(connection, told["lab"]["slug"], told["lab"]["text"], renamed)
        own = told["sitting"]
        sitting = _insert(
            connection, "sitting", {**{name: own[name] for name in _SITTING}, "version": version}
        )
        for seat in told["seat"]:
            _insert(connection, "seat", {**_only(seat, _SEAT), "sitting": sitting})
        digests = {file["hash"] for file in told["paper_file"]}
        digests |= {digest for arrival in told["arrival"] for _, digest in json.loads(arrival["files"])}
        for digest in sorted(digests):
            connection.execute(
                "INSERT OR IGNORE INTO content (hash, bytes) VALUES (?, ?)", (digest, content(digest))
            )
        arrivals = {
            row["id"]: _insert(connection, "arrival", _only(row, _ARRIVAL[1:])) for row in told["arrival"]
        }
        papers = _papers(connection, told, sitting, version, arrivals, content)
        for table, columns in OF_PAPERS.items():
            extra = {"version": version} if table == "result" else {}
            for row in told[table]:
                _insert(connection, table, {**_only(row, columns), "paper": papers[row["paper"]], **extra})
        for row in told["entry"]:
            paper = None if row["paper"] is None else papers[row["paper"]]
            _insert(connection, "entry", {**_only(row, _ENTRY), "paper": paper, "sitting": sitting})
        note(connection, NOBODY, "restored from an archive", sitting=sitting)
        return sitting


def _version(connection: sqlite3.Connection, slug: str, text: str, renamed: Callable[[str, str], str]) -> int:
    """Return the row of the version of a lab with that text, which is added where there is none."""
    there = connection.execute(
        "SELECT v.id FROM lab_version v JOIN lab l ON l.id = v.lab WHERE l.slug = ? AND v.text = ?",
        (slug, text),
    ).fetchone()
    if there is not None:
        return int(there["id"])
    taken = {row["slug"] for row in connection.execute("SELECT slug FROM lab")}
    free = next(s for s in (slug, *(f"{slug[:56]}-{n}" for n in range(2, len(taken) + 3))) if s not in taken)
    lab = _insert(connection, "lab", {"slug": free, "created_at": now()})
    kept = text if free == slug else renamed(text, free)
    return _insert(connection, "lab_version", {"lab": lab, "number": 1, "text": kept, "saved_at": now()})


def _papers(
    connection: sqlite3.Connection,
    told: Mapping[str, Any],
    sitting: int,
    version: int,
    arrivals: Mapping[int, int],
    content: Callable[[str], bytes],
) -> dict[int, int]:
    """Put the papers in, and return their rows by those that they had."""
    lab = connection.execute("SELECT lab FROM lab_version WHERE id = ?", (version,)).fetchone()["lab"]
    found: dict[int, int] = {}
    for row in told["paper"]:
        own = [file for file in told["paper_file"] if file["paper"] == row["id"]]
        files = {file["device"]: (file["path"], content(file["hash"])) for file in own}
        arrival = None if row["arrival"] is None else arrivals[row["arrival"]]
        kept = {
            **_only(row, _PAPER[1:]),
            "arrival": arrival,
            "sitting": sitting,
            "lab": lab,
            "hash": paper_hash(files, row["stage"], sitting),
        }
        found[row["id"]] = _insert(connection, "paper", kept)
        for file in own:
            _insert(connection, "paper_file", {**file, "paper": found[row["id"]]})
    return found


def _only(row: Row, columns: Sequence[str]) -> dict[str, Any]:
    return {name: row[name] for name in columns}


def _insert(connection: sqlite3.Connection, table: str, row: Row) -> int:
    """Insert a row; names of tables and columns are ours."""
    names = ", ".join(row)
    marks = ", ".join("?" * len(row))
    found = connection.execute(f"INSERT INTO {table} ({names}) VALUES ({marks})", tuple(row.values()))
    return int(found.lastrowid or 0)
