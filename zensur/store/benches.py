"""Benches that were kept: one is never written over, so that an address always leads to the same sheets."""

from dataclasses import dataclass

from .database import Database, now

MOST_BENCHES = 200
"""So many of a lab are kept; beyond that one has to be removed first."""


@dataclass(frozen=True, slots=True)
class StoredBench:
    """A bench of a stage; ``work`` is JSON of whoever kept it: sheets by device and the questions asked."""

    id: int
    name: str
    stage: str
    kept_at: str
    work: str


class Benches:
    """The benches of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def keep(self, slug: str, name: str, stage: str, work: str) -> int | None:
        """Keep a bench and return its number; None where the lab has as many as are kept."""
        with self.database.transaction() as connection:
            cursor = connection.execute(
                "INSERT INTO bench (lab, name, stage, work, kept_at) SELECT id, ?2, ?3, ?4, ?5 FROM lab "
                "WHERE slug = ?1 AND (SELECT count(*) FROM bench WHERE lab = lab.id) < ?6",
                (slug, name, stage, work, now(), MOST_BENCHES),
            )
            return cursor.lastrowid if cursor.rowcount else None

    def of_lab(self, slug: str) -> list[StoredBench]:
        """Return the benches of a lab, the newest first."""
        rows = self.database.connection().execute(
            "SELECT b.id, b.name, b.stage, b.kept_at, b.work FROM bench b JOIN lab l ON l.id = b.lab "
            "WHERE l.slug = ? ORDER BY b.id DESC",
            (slug,),
        )
        return [StoredBench(*row) for row in rows]

    def remove(self, slug: str, number: int) -> None:
        """Forget a bench."""
        with self.database.transaction() as connection:
            connection.execute(
                "DELETE FROM bench WHERE id = ? AND lab = (SELECT id FROM lab WHERE slug = ?)", (number, slug)
            )
