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


@dataclass(frozen=True, slots=True)
class Shelved:
    """A lab on the shelf: its newest version, how many learners handed something in, and its card as JSON where it is
    made."""

    version: LabVersion
    papers: int
    card: str | None


_SELECT = """
SELECT v.id AS key, l.slug, v.number, v.text, v.saved_at
  FROM lab_version v JOIN lab l ON l.id = v.lab
"""
_NEWEST = "v.number = (SELECT max(number) FROM lab_version WHERE lab = l.id)"
_SHELVED = """
v.id AS key, l.slug, v.number, v.text, v.saved_at, c.json,
(SELECT count(DISTINCT learner) FROM paper WHERE lab = l.id) AS papers
"""
_SHELF = f"""
  FROM lab_version v JOIN lab l ON l.id = v.lab LEFT JOIN card c ON c.version = v.id AND c.engine = :engine
 WHERE {_NEWEST}
   AND instr(lower(l.slug || coalesce(json_extract(c.json, '$.title', '$.level', '$.topics'), '')), :find)
"""


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

    def shelf(self, engine: str, find: str = "", start: int = 0, most: int = 60) -> tuple[list[Shelved], int]:
        """Return a part of the labs whose name, title, level or topics hold a text, as they came, and how many do."""
        parts = {"engine": engine, "find": find.lower(), "most": most, "start": start}
        asked = self.database.connection().execute
        rows = asked(f"SELECT {_SHELVED} {_SHELF} ORDER BY l.id LIMIT :most OFFSET :start", parts)
        shelved = [Shelved(LabVersion(*tuple(row)[:5]), row["papers"], row["json"]) for row in rows]
        return shelved, int(asked(f"SELECT count(*) {_SHELF}", parts).fetchone()[0])

    def card(self, version: int, engine: str) -> str | None:
        """Return what the shelf shows of a version; None where that was not made yet."""
        row = (
            self.database.connection()
            .execute("SELECT json FROM card WHERE version = ? AND engine = ?", (version, engine))
            .fetchone()
        )
        return row["json"] if row else None

    def keep_card(self, version: int, engine: str, text: str) -> None:
        """Keep what the shelf shows of a version, in place of what another engine made."""
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM card WHERE version = ?", (version,))
            connection.execute(
                "INSERT INTO card (version, engine, json) VALUES (?, ?, ?)", (version, engine, text)
            )
