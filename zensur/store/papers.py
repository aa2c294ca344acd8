"""Papers by the hash of their contents, and which of a learner's papers counts."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .database import Database, now


@dataclass(frozen=True, slots=True)
class StoredPaper:
    """A paper as it was handed in."""

    id: int
    slug: str
    learner: str
    hash: str
    remarks: tuple[str, ...]
    received_at: str
    stage: str = ""
    """The stage it was handed in for; empty where the lab has none."""


class Overtaken(RuntimeError):
    """Another paper of a learner has come to count meanwhile; nothing was stored."""


_COLUMNS = "p.id, l.slug, p.learner, p.hash, p.remarks, p.received_at, p.stage"
_SELECT = f"SELECT {_COLUMNS} FROM paper p JOIN lab l ON l.id = p.lab"


def paper_hash(files: Mapping[str, tuple[str, bytes]], stage: str = "") -> str:
    """Return the SHA-256 of a paper: of its stage where it has one, its devices, file names and contents."""
    total = hashlib.sha256(json.dumps(["stage", stage]).encode() if stage else b"")
    for device in sorted(files):
        path, content = files[device]
        total.update(json.dumps([device, path, hashlib.sha256(content).hexdigest()]).encode())
    return total.hexdigest()


def counting(stages: Sequence[str], of_learner: bool = False) -> str:
    """Return the SQL of the rows in ``hand_in`` that count: the last of each learner, in a lab and stages.

    Its parameters are the lab's name, with ``of_learner`` the learner, and the stages.
    """
    marks = ", ".join("?" * len(stages))
    one = " AND own.learner = ?" if of_learner else ""
    return (
        "SELECT max(h.id) FROM hand_in h JOIN paper own ON own.id = h.paper "
        f"WHERE own.lab = (SELECT id FROM lab WHERE slug = ?){one} AND own.stage IN ({marks}) GROUP BY own.learner"
    )


class Papers:
    """The papers of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def add(
        self,
        slug: str,
        papers: Sequence[tuple[str, Mapping[str, tuple[str, bytes]], Sequence[str]]],
        stages: Sequence[str] = ("",),
        before: Mapping[str, int | None] | None = None,
    ) -> list[int]:
        """Store papers in one transaction: learner, files by device (path and contents), remarks.

        They are of the first of the ``stages``; the others are what is told to be of it, too. Each counts from now on.
        The same paper handed in again is the one already there; returns the rows. ``before`` has the paper of each
        learner that is known to count: raises :class:`Overtaken` where it is another by now.
        """
        stored, stage = [], stages[0]
        with self.database.transaction() as connection:
            lab = connection.execute("SELECT id FROM lab WHERE slug = ?", (slug,)).fetchone()["id"]
            for learner, files, remarks in papers:
                present = _counts(connection, slug, learner, stages)
                if before is not None and learner in before and before[learner] != present:
                    raise Overtaken(learner)
                digest = paper_hash(files, stage)
                row = connection.execute(
                    "SELECT id FROM paper WHERE lab = ? AND learner = ? AND hash = ?", (lab, learner, digest)
                ).fetchone()
                paper = (
                    int(row["id"]) if row else _new(connection, lab, learner, digest, files, remarks, stage)
                )
                if paper != present:
                    connection.execute("INSERT INTO hand_in (paper, made_at) VALUES (?, ?)", (paper, now()))
                stored.append(paper)
        return stored

    def make_count(self, paper: int) -> None:
        """Make a paper the one of its learner that counts."""
        with self.database.transaction() as connection:
            connection.execute("INSERT INTO hand_in (paper, made_at) VALUES (?, ?)", (paper, now()))

    def of_lab(self, slug: str, stages: Sequence[str] = ("",)) -> list[StoredPaper]:
        """Return the paper of every learner that counts, of some stages, in the order of their names."""
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE p.id IN (SELECT paper FROM hand_in WHERE id IN ({counting(stages)})) "
            "ORDER BY p.learner COLLATE NOCASE, p.id",
            (slug, *stages),
        )
        return [_paper(row) for row in rows]

    def of_learner(self, slug: str, learner: str, stages: Sequence[str] = ("",)) -> list[StoredPaper]:
        """Return all papers of a learner, the one that counts first, then as they came to count, the last first."""
        marks = ", ".join("?" * len(stages))
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE l.slug = ? AND p.learner = ? AND p.stage IN ({marks}) "
            "ORDER BY (SELECT max(id) FROM hand_in WHERE paper = p.id) DESC",
            (slug, learner, *stages),
        )
        return [_paper(row) for row in rows]

    def count(self, slug: str) -> int:
        """Count the learners who handed something in."""
        row = self.database.connection().execute(
            "SELECT count(DISTINCT learner) FROM paper WHERE lab = (SELECT id FROM lab WHERE slug = ?)",
            (slug,),
        )
        return int(row.fetchone()[0])

    def get(self, paper: int) -> StoredPaper | None:
        """Return a paper by its row; a number that no row can have has none."""
        if not -(2**63) <= paper < 2**63:
            return None
        row = self.database.connection().execute(f"{_SELECT} WHERE p.id = ?", (paper,)).fetchone()
        return _paper(row) if row else None

    def files(self, paper: int) -> dict[str, tuple[str, bytes]]:
        """Return a paper's files by device: path and contents."""
        rows = self.database.connection().execute(
            "SELECT f.device, f.path, c.bytes FROM paper_file f JOIN content c USING (hash) "
            "WHERE f.paper = ? ORDER BY f.rowid",
            (paper,),
        )
        return {row["device"]: (row["path"], row["bytes"]) for row in rows}


def _counts(connection: Any, slug: str, learner: str, stages: Sequence[str]) -> int | None:
    """Return the paper of a learner that counts."""
    row = connection.execute(
        f"SELECT paper FROM hand_in WHERE id IN ({counting(stages, of_learner=True)})",
        (slug, learner, *stages),
    ).fetchone()
    return int(row["paper"]) if row else None


def _new(
    connection: Any,
    lab: int,
    learner: str,
    digest: str,
    files: Mapping[str, tuple[str, bytes]],
    remarks: Sequence[str],
    stage: str,
) -> int:
    paper = connection.execute(
        "INSERT INTO paper (lab, learner, hash, remarks, received_at, stage) VALUES (?, ?, ?, ?, ?, ?)",
        (lab, learner, digest, json.dumps(list(remarks)), now(), stage),
    ).lastrowid
    for device, (path, content) in files.items():
        key = hashlib.sha256(content).hexdigest()
        connection.execute("INSERT OR IGNORE INTO content (hash, bytes) VALUES (?, ?)", (key, content))
        connection.execute(
            "INSERT INTO paper_file (paper, device, path, hash) VALUES (?, ?, ?, ?)",
            (paper, device, path, key),
        )
    return int(paper)


def _paper(row: Any) -> StoredPaper:
    return StoredPaper(
        row["id"],
        row["slug"],
        row["learner"],
        row["hash"],
        tuple(json.loads(row["remarks"])),
        row["received_at"],
        row["stage"],
    )
