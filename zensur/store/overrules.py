"""Overrules: they are a learner's, and stay with the criterion when another paper of theirs comes to count."""

from collections.abc import Sequence
from dataclasses import dataclass

from .database import Database, now
from .papers import StoredPaper


@dataclass(frozen=True, slots=True)
class StoredOverrule:
    """What was decided about a criterion, or about the total where it is empty, and on which paper."""

    learner: str
    paper: int
    criterion: str
    marks: float
    reason: str
    made_at: str


class Overrules:
    """The overrules of a database. Nothing is changed in place: the latest about a criterion stands."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def add(self, paper: int, criterion: str, marks: float | None, reason: str) -> None:
        """Keep an overrule that was made on a paper; ``marks`` None takes back what stands."""
        with self.database.transaction() as connection:
            connection.execute(
                "INSERT INTO overrule (paper, criterion, marks, reason, made_at) VALUES (?, ?, ?, ?, ?)",
                (paper, criterion, marks, reason, now()),
            )

    def of_lab(
        self, slug: str, stages: Sequence[str], learner: str | None = None
    ) -> dict[str, list[StoredOverrule]]:
        """Return the overrules that stand by learner, of some stages of a lab; of one learner where it is named."""
        marks = ", ".join("?" * len(stages))
        one = "" if learner is None else " AND p.learner = ?"
        rows = self.database.connection().execute(
            "SELECT p.learner, o.paper, o.criterion, o.marks, o.reason, o.made_at, max(o.id) "
            "FROM overrule o JOIN paper p ON p.id = o.paper JOIN lab l ON l.id = p.lab "
            f"WHERE l.slug = ? AND p.stage IN ({marks}){one} GROUP BY p.learner, o.criterion ORDER BY max(o.id)",
            (slug, *stages, *([] if learner is None else [learner])),
        )
        found: dict[str, list[StoredOverrule]] = {}
        for row in rows:
            if row["marks"] is not None:
                found.setdefault(row["learner"], []).append(StoredOverrule(*tuple(row)[:6]))
        return found

    def of_paper(self, paper: StoredPaper, stages: Sequence[str]) -> list[StoredOverrule]:
        """Return the overrules that stand for the learner of a paper."""
        return self.of_lab(paper.slug, stages, paper.learner).get(paper.learner, [])
