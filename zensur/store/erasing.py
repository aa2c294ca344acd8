"""A learner erased: papers, names and comments are gone, and the figures of the class stay."""

import json
import sqlite3
from collections.abc import Callable

from .database import Database
from .entries import By, note

ERASED = "erased"
"""What a learner is called who was erased, with a number behind it in each occasion."""
_NOT_USED = (
    "hash NOT IN (SELECT hash FROM paper_file) "
    "AND hash NOT IN (SELECT f.value ->> 1 FROM arrival, json_each(arrival.files) f)"
)
_OCCASIONS = """
SELECT lab, sitting FROM paper WHERE learner = :code
UNION SELECT v.lab, seat.sitting FROM seat JOIN sitting ON sitting.id = seat.sitting
  JOIN lab_version v ON v.id = sitting.version WHERE seat.code = :code
"""


def erase(database: Database, code: str, strip: Callable[[str, str], str], by: By) -> int:
    """Erase a learner, by id or the name that papers bear, from every group, sitting and lab; returns how many papers.
    Raises :class:`KeyError` where nobody is known by that.

    ``strip`` makes of a result's JSON, and of what the learner is called from now on, one that tells nothing of whose
    it is. What papers came in is forgotten byte for byte, with others' in it; the others' papers stay, and a team's.
    The file is written anew, so that nothing is left in it that the database no longer uses; copies of it are not.
    """
    erased = 0
    with database.transaction() as connection:
        occasions = connection.execute(_OCCASIONS, {"code": code}).fetchall()
        for lab, sitting in occasions:
            called = _called(connection, lab, sitting)
            papers = connection.execute(
                "SELECT id, arrival FROM paper WHERE learner = ? AND lab = ? AND sitting IS ?",
                (code, lab, sitting),
            ).fetchall()
            for paper, arrival in papers:
                _erase_paper(connection, paper, arrival, called, strip)
            connection.execute(
                "UPDATE entry SET told = '{}' WHERE what = 'seats' AND sitting IS ?", (sitting,)
            )
            connection.execute(
                "UPDATE seat SET code = ?, name = ?, export_id = '', mail = '' WHERE sitting IS ? AND code = ?",
                (called, called, sitting, code),
            )
            erased += len(papers)
        listed = connection.execute("DELETE FROM learner WHERE code = ?", (code,)).rowcount
        if not (occasions or listed):
            raise KeyError(code)
        connection.execute(f"DELETE FROM content WHERE {_NOT_USED}")
        note(connection, by, "a learner erased")
    database.connection().execute("VACUUM")
    database.connection().execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return erased


def _called(connection: sqlite3.Connection, lab: int, sitting: int | None) -> str:
    """Return a name that nobody of an occasion bears."""
    (number,) = connection.execute(
        "SELECT count(*) FROM (SELECT learner FROM paper WHERE lab = ? AND sitting IS ? AND learner LIKE ? "
        "UNION SELECT code FROM seat WHERE sitting IS ? AND code LIKE ?)",
        (lab, sitting, f"{ERASED} %", sitting, f"{ERASED} %"),
    ).fetchone()
    return f"{ERASED} {number + 1}"


def _erase_paper(
    connection: sqlite3.Connection,
    paper: int,
    arrival: int | None,
    called: str,
    strip: Callable[[str, str], str],
) -> None:
    """Take everything from a paper by which it is known whose it is."""
    for row in connection.execute("SELECT rowid, json FROM result WHERE paper = ?", (paper,)).fetchall():
        connection.execute(
            "UPDATE result SET json = ? WHERE rowid = ?", (strip(row["json"], called), row["rowid"])
        )
    for table in ("paper_file", "comment", "failure"):
        connection.execute(f"DELETE FROM {table} WHERE paper = ?", (paper,))
    connection.execute("UPDATE overrule SET reason = ? WHERE paper = ?", (ERASED, paper))
    connection.execute("UPDATE entry SET told = '{}', reason = '' WHERE paper = ?", (paper,))
    connection.execute(
        "UPDATE paper SET learner = ?, hash = ?, remarks = '[]', came_as = '', arrival = NULL WHERE id = ?",
        (called, f"{ERASED} {paper}", paper),
    )
    said = json.dumps(["What arrived was erased, for one of its papers was."])
    connection.execute("UPDATE arrival SET files = '[]', remarks = ? WHERE id = ?", (said, arrival))
