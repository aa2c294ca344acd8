"""Papers by the hash of their contents, and their results."""

import hashlib
import json
from collections.abc import Iterable, Mapping, Sequence
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


_SELECT = """
SELECT p.id, l.slug, p.learner, p.hash, p.remarks, p.received_at, p.stage
  FROM paper p JOIN lab l ON l.id = p.lab
"""


def paper_hash(files: Mapping[str, tuple[str, bytes]], stage: str = "") -> str:
    """Return the SHA-256 of a paper: of its stage where it has one, its devices, file names and contents."""
    total = hashlib.sha256(json.dumps(["stage", stage]).encode() if stage else b"")
    for device in sorted(files):
        path, content = files[device]
        total.update(json.dumps([device, path, hashlib.sha256(content).hexdigest()]).encode())
    return total.hexdigest()


class Papers:
    """The papers of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def add(
        self,
        slug: str,
        papers: Sequence[tuple[str, Mapping[str, tuple[str, bytes]], Sequence[str]]],
        stage: str = "",
    ) -> list[int]:
        """Store papers of a stage in one transaction: learner, files by device (path and contents), remarks.

        The same paper handed in again is the one already there; returns the rows.
        """
        stored = []
        with self.database.transaction() as connection:
            lab = connection.execute("SELECT id FROM lab WHERE slug = ?", (slug,)).fetchone()["id"]
            for learner, files, remarks in papers:
                digest = paper_hash(files, stage)
                row = connection.execute(
                    "SELECT id FROM paper WHERE lab = ? AND learner = ? AND hash = ?", (lab, learner, digest)
                ).fetchone()
                if row is not None:
                    stored.append(int(row["id"]))
                    continue
                paper = connection.execute(
                    "INSERT INTO paper (lab, learner, hash, remarks, received_at, stage) VALUES (?, ?, ?, ?, ?, ?)",
                    (lab, learner, digest, json.dumps(list(remarks)), now(), stage),
                ).lastrowid
                for device, (path, content) in files.items():
                    key = hashlib.sha256(content).hexdigest()
                    connection.execute(
                        "INSERT OR IGNORE INTO content (hash, bytes) VALUES (?, ?)", (key, content)
                    )
                    connection.execute(
                        "INSERT INTO paper_file (paper, device, path, hash) VALUES (?, ?, ?, ?)",
                        (paper, device, path, key),
                    )
                stored.append(int(paper or 0))
        return stored

    def of_lab(self, slug: str, stages: Sequence[str] = ("",)) -> list[StoredPaper]:
        """Return each learner's latest paper of some stages, in the order of their names."""
        marks = ", ".join("?" * len(stages))
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE l.slug = ? AND p.id = "
            f"(SELECT max(id) FROM paper WHERE lab = p.lab AND learner = p.learner AND stage IN ({marks})) "
            "ORDER BY p.learner COLLATE NOCASE, p.id",
            (slug, *stages),
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
        """Return a paper by its row."""
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

    def result(self, paper: int, version: int, engine: str) -> str | None:
        """Return the result of a paper under a version of the lab as JSON, as one engine marked it; None: it has
        not."""
        row = (
            self.database.connection()
            .execute(
                "SELECT json FROM result WHERE paper = ? AND version = ? AND engine = ?",
                (paper, version, engine),
            )
            .fetchone()
        )
        return row["json"] if row else None

    def carried_before(self, paper: int, version: int, engine: str) -> float | None:
        """Return the total that the latest other engine gave a paper under a version of the lab; None: there was
        none."""
        row = (
            self.database.connection()
            .execute(
                "SELECT json_extract(json, '$.carried') AS carried FROM result "
                "WHERE paper = ? AND version = ? AND engine <> ? ORDER BY marked_at DESC LIMIT 1",
                (paper, version, engine),
            )
            .fetchone()
        )
        return float(row["carried"]) if row else None

    def keep_results(self, version: int, engine: str, results: Iterable[tuple[int, str]]) -> None:
        """Store the results of papers, each as JSON, in one transaction.

        Marking the same again gives the same bytes, so that a second time changes nothing.
        """
        with self.database.transaction() as connection:
            connection.executemany(
                "INSERT OR IGNORE INTO result (paper, version, engine, json, marked_at) VALUES (?, ?, ?, ?, ?)",
                [(paper, version, engine, text, now()) for paper, text in results],
            )

    def overrule(self, paper: int, criterion: str, marks: float | None, reason: str) -> None:
        """Keep an overrule of a criterion, or of the total where it is empty; ``marks`` None takes it back."""
        with self.database.transaction() as connection:
            connection.execute(
                "INSERT INTO overrule (paper, criterion, marks, reason, made_at) VALUES (?, ?, ?, ?, ?)",
                (paper, criterion, marks, reason, now()),
            )

    def overrules(self, paper: int) -> list[tuple[str, float, str]]:
        """Return the overrules of a paper that stand: criterion, marks, reason."""
        rows = self.database.connection().execute(
            "SELECT criterion, marks, reason FROM overrule WHERE id IN "
            "(SELECT max(id) FROM overrule WHERE paper = ? GROUP BY criterion) AND marks IS NOT NULL ORDER BY id",
            (paper,),
        )
        return [(row["criterion"], row["marks"], row["reason"]) for row in rows]


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
