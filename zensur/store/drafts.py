"""Texts that are not saved yet: one a window of a browser, so that nobody writes over another's."""

from dataclasses import dataclass

from .database import Database, now

MOST_KEPT = 40
"""So many of a lab are kept; beyond that the one that was not touched for longest goes."""


@dataclass(frozen=True, slots=True)
class StoredDraft:
    """What a window has typed on top of a version of a lab."""

    window: str
    base: int
    text: str
    kept_at: str


class Drafts:
    """The drafts of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def keep(self, slug: str, window: str, base: int, text: str) -> bool:
        """Keep the draft of a window in place of its last one; False where there is no such lab."""
        with self.database.transaction() as connection:
            row = connection.execute("SELECT id FROM lab WHERE slug = ?", (slug,)).fetchone()
            if row is None:
                return False
            connection.execute(
                "INSERT INTO draft (lab, window, base, text, kept_at) VALUES (?, ?, ?, ?, ?) "
                "ON CONFLICT (lab, window) DO UPDATE SET base = excluded.base, text = excluded.text, "
                "kept_at = excluded.kept_at",
                (row["id"], window, base, text, now()),
            )
            connection.execute(
                "DELETE FROM draft WHERE lab = ?1 AND window NOT IN "
                "(SELECT window FROM draft WHERE lab = ?1 ORDER BY kept_at DESC, window LIMIT ?2)",
                (row["id"], MOST_KEPT),
            )
            return True

    def of_lab(self, slug: str) -> list[StoredDraft]:
        """Return the drafts of a lab, the newest first."""
        rows = self.database.connection().execute(
            "SELECT d.window, d.base, d.text, d.kept_at FROM draft d JOIN lab l ON l.id = d.lab "
            "WHERE l.slug = ? ORDER BY d.kept_at DESC, d.window",
            (slug,),
        )
        return [StoredDraft(*row) for row in rows]

    def drop(self, slug: str, window: str) -> None:
        """Forget the draft of a window."""
        with self.database.transaction() as connection:
            connection.execute(
                "DELETE FROM draft WHERE window = ? AND lab = (SELECT id FROM lab WHERE slug = ?)",
                (window, slug),
            )
