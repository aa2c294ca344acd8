"""Overrules: they are a learner's, and stay with the criterion when another paper of theirs comes to count."""

from dataclasses import dataclass

from .database import Database, now
from .entries import NOBODY, By, note
from .scope import Scope


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

    def add(
        self, paper: int, criterion: str, marks: float | None, by: By = NOBODY, was: float | None = None
    ) -> None:
        """Keep an overrule that was made on a paper; ``marks`` None takes back what stands. ``was`` is for the log."""
        with self.database.transaction() as connection:
            connection.execute(
                "INSERT INTO overrule (paper, criterion, marks, reason, made_at) VALUES (?, ?, ?, ?, ?)",
                (paper, criterion, marks, by.reason, now()),
            )
            what = "overrule taken back" if marks is None else "overruled"
            note(connection, by, what, paper=paper, criterion=criterion, marks=marks, was=was)

    def of(self, scope: Scope, learner: str | None = None) -> dict[str, list[StoredOverrule]]:
        """Return the overrules that stand by learner; of one learner where it is named."""
        where, of = scope.where("p")
        one, own = ("", ()) if learner is None else ("AND p.learner = ?", (learner,))
        rows = self.database.connection().execute(
            "SELECT p.learner, o.paper, o.criterion, o.marks, o.reason, o.made_at, max(o.id) "
            f"FROM overrule o JOIN paper p ON p.id = o.paper WHERE {where} {one} "
            "GROUP BY p.learner, o.criterion ORDER BY max(o.id)",
            (*of, *own),
        )
        found: dict[str, list[StoredOverrule]] = {}
        for row in rows:
            if row["marks"] is not None:
                found.setdefault(row["learner"], []).append(StoredOverrule(*tuple(row)[:6]))
        return found
