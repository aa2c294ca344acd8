"""What marking found of papers, and why it found nothing; kept with the version of the lab and the engine."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from .database import Database, now
from .runs import dequeue
from .scope import Scope


@dataclass(frozen=True, slots=True)
class Summary:
    """What a list shows of a result."""

    score: float
    carried: float
    out_of: float
    grade: str | None
    mistakes: tuple[str, ...]

    def text(self) -> str:
        """Return it as JSON."""
        return json.dumps(
            {
                "score": self.score,
                "carried": self.carried,
                "out_of": self.out_of,
                "grade": self.grade,
                "mistakes": self.mistakes,
            }
        )


@dataclass(frozen=True, slots=True)
class Listed:
    """A paper that counts, with what is known of its marking under a version of the lab by one engine."""

    paper: int
    learner: str
    received_at: str
    stage: str
    devices: frozenset[str]
    """The devices that it has a file for, answers and cabling among them."""
    summary: Summary | None
    """None: it has not been marked."""
    failure: str | None
    was: float | None
    """The total that the latest other engine gave it."""


_LISTED = """
SELECT p.id, p.learner, p.received_at, p.stage,
       (SELECT group_concat(device) FROM paper_file WHERE paper = p.id) AS devices,
       r.summary, f.why,
       (SELECT json_extract(summary, '$.carried') FROM result
         WHERE paper = p.id AND version = ? AND engine <> ? ORDER BY marked_at DESC LIMIT 1) AS was
  FROM paper p
  LEFT JOIN result r ON r.paper = p.id AND r.version = ? AND r.engine = ?
  LEFT JOIN failure f ON f.paper = p.id AND f.version = ? AND f.engine = ?
"""


class Results:
    """The results of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def listed(self, papers: Sequence[int], version: int, engine: str) -> list[Listed]:
        """Return papers by their rows, in the order of their learners' names."""
        rows = self.database.connection().execute(
            f"{_LISTED} WHERE p.id IN (SELECT value FROM json_each(?)) ORDER BY p.learner COLLATE NOCASE, p.id",
            (*(version, engine) * 3, json.dumps(papers)),
        )
        return [
            Listed(
                row["id"],
                row["learner"],
                row["received_at"],
                row["stage"],
                frozenset((row["devices"] or "").split(",")),
                _summary(row["summary"]),
                row["why"],
                row["was"],
            )
            for row in rows
        ]

    def totals(self, papers: Sequence[int], version: int, engine: str) -> dict[int, float]:
        """Return the totals of those papers that are marked, by their rows."""
        rows = self.database.connection().execute(
            "SELECT paper, json_extract(summary, '$.carried') AS carried FROM result "
            "WHERE version = ? AND engine = ? AND paper IN (SELECT value FROM json_each(?))",
            (version, engine, json.dumps(papers)),
        )
        return {row["paper"]: row["carried"] for row in rows}

    def counts(self, scope: Scope, version: int, engine: str) -> tuple[int, int, int]:
        """Count the learners of a scope, the papers of it that are marked, and those that could not be marked."""
        where, of = scope.where("p")
        row = (
            self.database.connection()
            .execute(
                f"SELECT count(DISTINCT p.learner), count(r.paper), count(f.paper) FROM paper p "
                "LEFT JOIN result r ON r.paper = p.id AND r.version = ? AND r.engine = ? "
                f"LEFT JOIN failure f ON f.paper = p.id AND f.version = ? AND f.engine = ? WHERE {where}",
                (version, engine, version, engine, *of),
            )
            .fetchone()
        )
        return tuple(row)

    def doubtful(self, papers: Sequence[int], version: int, engine: str) -> dict[int, list[str]]:
        """Return by paper why marking it is not done: it failed, it was cut short, something is left to be marked by
        hand."""
        of = (version, engine, json.dumps(papers))
        asked = self.database.connection().execute
        found: dict[int, list[str]] = {}
        for row in asked(
            "SELECT paper, why FROM failure WHERE version = ? AND engine = ? "
            "AND paper IN (SELECT value FROM json_each(?))",
            of,
        ):
            found.setdefault(row["paper"], []).append(f"It could not be marked: {row['why']}")
        for row in asked(
            "SELECT paper FROM result WHERE version = ? AND engine = ? "
            "AND paper IN (SELECT value FROM json_each(?)) AND instr(json, '\"cut_short\": true')",
            of,
        ):
            found.setdefault(row["paper"], []).append("The search for its mistakes was cut short.")
        return found

    def result(self, paper: int, version: int, engine: str) -> str | None:
        """Return the result of a paper as JSON; None: it has none."""
        found: str | None = self._one("result", "json", paper, version, engine)
        return found

    def latest(self, paper: int) -> tuple[str, Summary] | None:
        """Return the result that a paper has had last, under whatever version and by whatever engine."""
        row = (
            self.database.connection()
            .execute(
                "SELECT json, summary FROM result WHERE paper = ? ORDER BY marked_at DESC LIMIT 1", (paper,)
            )
            .fetchone()
        )
        summary = _summary(row["summary"]) if row else None
        return (row["json"], summary) if summary else None

    def texts(self, papers: Sequence[int], version: int, engine: str) -> dict[int, str]:
        """Return the results of those papers that have one, as JSON, by their rows."""
        rows = self.database.connection().execute(
            "SELECT paper, json FROM result WHERE version = ? AND engine = ? "
            "AND paper IN (SELECT value FROM json_each(?))",
            (version, engine, json.dumps(papers)),
        )
        return {row["paper"]: row["json"] for row in rows}

    def failure(self, paper: int, version: int, engine: str) -> str | None:
        """Return why a paper could not be marked; None: nothing is known of that."""
        found: str | None = self._one("failure", "why", paper, version, engine)
        return found

    def _one(self, table: str, column: str, paper: int, version: int, engine: str) -> Any:
        row = (
            self.database.connection()
            .execute(
                f"SELECT {column} AS found FROM {table} WHERE paper = ? AND version = ? AND engine = ?",
                (paper, version, engine),
            )
            .fetchone()
        )
        return row["found"] if row else None

    def keep(self, paper: int, version: int, engine: str, text: str, summary: Summary) -> None:
        """Keep a result as JSON. Marking the same again gives the same bytes: a second time changes nothing."""
        with self.database.transaction() as connection:
            connection.execute(
                "INSERT OR IGNORE INTO result (paper, version, engine, json, summary, marked_at) "
                "VALUES (?, ?, ?, ?, ?, ?)",
                (paper, version, engine, text, summary.text(), now()),
            )
            connection.execute(
                "DELETE FROM failure WHERE paper = ? AND version = ? AND engine = ?", (paper, version, engine)
            )
            dequeue(connection, paper, version, engine)

    def keep_failure(self, paper: int, version: int, engine: str, why: str) -> None:
        """Keep why a paper could not be marked."""
        with self.database.transaction() as connection:
            connection.execute(
                "INSERT OR REPLACE INTO failure (paper, version, engine, why, made_at) VALUES (?, ?, ?, ?, ?)",
                (paper, version, engine, why, now()),
            )
            dequeue(connection, paper, version, engine)

    def forget_failure(self, paper: int, version: int, engine: str) -> None:
        """Forget why a paper could not be marked, so that it is tried again."""
        with self.database.transaction() as connection:
            connection.execute(
                "DELETE FROM failure WHERE paper = ? AND version = ? AND engine = ?", (paper, version, engine)
            )


def _summary(text: str | None) -> Summary | None:
    if text is None:
        return None
    told = json.loads(text)
    return Summary(**{**told, "mistakes": tuple(told["mistakes"])})
