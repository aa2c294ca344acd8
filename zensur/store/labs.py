"""Labs and their versions. A version is never changed; saving adds one."""

from dataclasses import asdict, dataclass

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


@dataclass(frozen=True, slots=True)
class Asked:
    """Which labs of the shelf are asked for: whose name, title, level or topics hold a text, of a topic and a level
    where they are named, on the shelf or off it; from one on."""

    find: str = ""
    topic: str = ""
    level: str = ""
    removed: bool = False
    start: int = 0


_SELECT = """
SELECT v.id AS key, l.slug, v.number, v.text, v.saved_at
  FROM lab_version v JOIN lab l ON l.id = v.lab
"""
_NEWEST = "v.number = (SELECT max(number) FROM lab_version WHERE lab = l.id)"
_SHELVED = """
v.id AS key, l.slug, v.number, v.text, v.saved_at, c.json,
(SELECT count(DISTINCT learner) FROM paper WHERE lab = l.id) AS papers
"""
_CARDS = "FROM lab_version v JOIN lab l ON l.id = v.lab LEFT JOIN card c ON c.version = v.id AND c.engine = :engine"
_ON_SHELF = f"{_NEWEST} AND (l.removed_at IS NOT NULL) = :removed"
_SHELF = f"""
{_CARDS} WHERE {_ON_SHELF}
   AND instr(lower(l.slug || coalesce(json_extract(c.json, '$.title', '$.level', '$.topics'), '')), :find)
   AND (:level = '' OR json_extract(c.json, '$.level') = :level)
   AND (:topic = '' OR EXISTS (SELECT 1 FROM json_each(c.json, '$.topics') WHERE value = :topic))
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

    def versions(self, slug: str) -> list[tuple[int, str]]:
        """Return the versions of a lab by number and time, the newest first."""
        rows = self.database.connection().execute(
            "SELECT v.number, v.saved_at FROM lab_version v JOIN lab l ON l.id = v.lab WHERE l.slug = ? "
            "ORDER BY v.number DESC",
            (slug,),
        )
        return [(row["number"], row["saved_at"]) for row in rows]

    def numbered(self, slug: str, number: int) -> LabVersion | None:
        """Return a version of a lab by its number."""
        row = (
            self.database.connection()
            .execute(f"{_SELECT} WHERE l.slug = ? AND v.number = ?", (slug, number))
            .fetchone()
        )
        return LabVersion(*row) if row else None

    def put_away(self, slug: str, removed: bool) -> None:
        """Take a lab off the shelf, or put it back; nothing of it is lost."""
        with self.database.transaction() as connection:
            connection.execute(
                "UPDATE lab SET removed_at = ? WHERE slug = ?", (now() if removed else None, slug)
            )

    def kinds(self, engine: str) -> tuple[list[str], list[str]]:
        """Return the topics and the levels of the labs on the shelf, as far as their cards are made."""
        asked = self.database.connection().execute
        topics = asked(
            f"SELECT DISTINCT t.value {_CARDS}, json_each(c.json, '$.topics') t WHERE {_ON_SHELF} ORDER BY 1",
            {"engine": engine, "removed": False},
        )
        levels = asked(
            f"SELECT DISTINCT json_extract(c.json, '$.level') {_CARDS} WHERE {_ON_SHELF} ORDER BY 1",
            {"engine": engine, "removed": False},
        )
        return [row[0] for row in topics], [row[0] for row in levels if row[0]]

    def shelf(self, engine: str, asked_for: Asked, most: int = 60) -> tuple[list[Shelved], int]:
        """Return a part of the labs that are asked for, as they came, and how many there are."""
        parts = {"engine": engine, "most": most, **asdict(asked_for), "find": asked_for.find.lower()}
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
