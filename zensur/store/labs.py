"""Labs and their versions. A version is never changed; saving adds one."""

from dataclasses import dataclass

from .database import Database, now


@dataclass(frozen=True, slots=True)
class LabVersion:
    """One version of a lab; ``key`` is its row."""

    key: int
    slug: str
    number: int
    text: str
    saved_at: str


_SELECT = """
SELECT v.id AS key, l.slug, v.number, v.text, v.saved_at
  FROM lab_version v JOIN lab l ON l.id = v.lab
"""
_NEWEST = "v.number = (SELECT max(number) FROM lab_version WHERE lab = l.id)"


class Labs:
    """The labs of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self) -> list[LabVersion]:
        """Return the newest version of every lab, the lab that was there first first."""
        rows = self.database.connection().execute(f"{_SELECT} WHERE {_NEWEST} ORDER BY l.id")
        return [LabVersion(*row) for row in rows]

    def newest(self, slug: str) -> LabVersion | None:
        """Return the newest version of a lab."""
        row = (
            self.database.connection()
            .execute(f"{_SELECT} WHERE l.slug = ? AND {_NEWEST}", (slug,))
            .fetchone()
        )
        return LabVersion(*row) if row else None

    def version(self, key: int) -> LabVersion:
        """Return a version by its row."""
        return LabVersion(*self.database.connection().execute(f"{_SELECT} WHERE v.id = ?", (key,)).fetchone())

    def add(self, slug: str, text: str) -> bool:
        """Add a lab as version 1; False where there is one of that name."""
        with self.database.transaction() as connection:
            if connection.execute("SELECT 1 FROM lab WHERE slug = ?", (slug,)).fetchone():
                return False
            lab = connection.execute(
                "INSERT INTO lab (slug, created_at) VALUES (?, ?)", (slug, now())
            ).lastrowid
            connection.execute(
                "INSERT INTO lab_version (lab, number, text, saved_at) VALUES (?, 1, ?, ?)",
                (lab, text, now()),
            )
            return True

    def save(self, slug: str, text: str, base: int) -> int | None:
        """Add a version on top of version ``base``; None where another was saved meanwhile.

        Returns the number of the version; saving the same text again adds none.
        """
        with self.database.transaction() as connection:
            row = connection.execute(f"{_SELECT} WHERE l.slug = ? AND {_NEWEST}", (slug,)).fetchone()
            if row is None or row["number"] != base:
                return None
            if row["text"] == text:
                return base
            connection.execute(
                "INSERT INTO lab_version (lab, number, text, saved_at) "
                "VALUES ((SELECT id FROM lab WHERE slug = ?), ?, ?, ?)",
                (slug, base + 1, text, now()),
            )
            return base + 1
