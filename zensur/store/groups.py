"""Groups of learners: the rosters that sittings are given to."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..core.sittings import Learner
from .database import Database, now


@dataclass(frozen=True, slots=True)
class Group:
    """A group with its learners, in the order of their names."""

    id: int
    title: str
    made_at: str
    learners: tuple[Learner, ...]


class Groups:
    """The groups of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self) -> list[Group]:
        """Return all groups, the newest first."""
        rows = self.database.connection().execute(
            "SELECT id, title, made_at FROM class_group WHERE removed_at IS NULL ORDER BY id DESC"
        )
        return [
            Group(row["id"], row["title"], row["made_at"], self._learners(row["id"]))
            for row in rows.fetchall()
        ]

    def get(self, ident: int) -> Group | None:
        """Return a group by its row."""
        return next((group for group in self.all() if group.id == ident), None)

    def add(self, title: str, learners: Sequence[Learner]) -> int:
        """Add a group, and return its row."""
        with self.database.transaction() as connection:
            row = connection.execute(
                "INSERT INTO class_group (title, made_at) VALUES (?, ?)", (title, now())
            ).lastrowid
            assert row is not None
            _put(connection, row, learners)
            return row

    def change(self, ident: int, title: str, learners: Sequence[Learner]) -> None:
        """Give a group another title and other learners; sittings keep theirs."""
        with self.database.transaction() as connection:
            connection.execute("UPDATE class_group SET title = ? WHERE id = ?", (title, ident))
            connection.execute("DELETE FROM learner WHERE class_group = ?", (ident,))
            _put(connection, ident, learners)

    def remove(self, ident: int) -> None:
        """Take a group off the list; nothing of it is lost."""
        with self.database.transaction() as connection:
            connection.execute("UPDATE class_group SET removed_at = ? WHERE id = ?", (now(), ident))

    def _learners(self, ident: int) -> tuple[Learner, ...]:
        rows = self.database.connection().execute(
            "SELECT code, name, export_id, mail, team FROM learner WHERE class_group = ? "
            "ORDER BY name COLLATE NOCASE, code",
            (ident,),
        )
        return tuple(Learner(**dict(row)) for row in rows)


def _put(connection: object, ident: int, learners: Sequence[Learner]) -> None:
    connection.executemany(  # type: ignore[attr-defined]
        "INSERT INTO learner (class_group, code, name, export_id, mail, team) VALUES (?, ?, ?, ?, ?, ?)",
        [(ident, own.code, own.name, own.export_id, own.mail, own.team) for own in learners],
    )
