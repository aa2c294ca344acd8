"""The log: who changed what about marks or access, when and why. Entries are written with the change, in one
transaction, and never changed."""

import json
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from .database import Database, now
from .scope import Scope


@dataclass(frozen=True, slots=True)
class By:
    """Who changes something, empty where nobody has to sign in, and why."""

    who: str = ""
    reason: str = ""


NOBODY = By()


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """An entry of the log; ``told`` are further facts by name, ``learner`` is whose paper it is about."""

    id: int
    made_at: str
    who: str
    what: str
    sitting: int | None
    paper: int | None
    learner: str
    told: dict[str, object]
    reason: str

    @property
    def in_words(self) -> str:
        """The further facts, in words."""
        return "; ".join(_in_words(self.told))


def _in_words(told: Mapping[str, object]) -> Iterator[str]:
    if "criterion" in told and (told["criterion"] or "marks" in told):
        yield str(told["criterion"]) or "the total"
    if told.get("line"):
        yield f"{told['device']} line {told['line']}"
    if told.get("marks") is not None:
        was = told.get("was")
        yield f"{told['marks']:g} marks" + (f" in place of {was:g}" if isinstance(was, float | int) else "")
    if told.get("text"):
        yield str(told["text"])
    doubts = told.get("doubts")
    if isinstance(doubts, list) and doubts:
        yield " ".join(map(str, doubts))


def note(
    connection: sqlite3.Connection,
    by: By,
    what: str,
    *,
    sitting: int | None = None,
    paper: int | None = None,
    **told: object,
) -> None:
    """Write an entry in the transaction of what it tells; one about a paper is about its sitting, too."""
    connection.execute(
        "INSERT INTO entry (made_at, who, what, sitting, paper, told, reason) "
        "VALUES (?, ?, ?, coalesce(?, (SELECT sitting FROM paper WHERE id = ?)), ?, ?, ?)",
        (now(), by.who, what, sitting, paper, paper, json.dumps(told), by.reason),
    )


class Entries:
    """The log of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def accepted(self, paper: int, criterion: str, text: str, by: By = NOBODY) -> None:
        """Note that an answer of a paper counts for everybody from some version of the lab on."""
        with self.database.transaction() as connection:
            note(connection, by, "accepted for everybody", paper=paper, criterion=criterion, text=text)

    def look(self, paper: int, doubts: Sequence[str], by: By = NOBODY) -> None:
        """Note that somebody looked at what is doubtful about a paper."""
        with self.database.transaction() as connection:
            note(connection, by, "looked at", paper=paper, doubts=list(doubts))

    def looked_at(self, scope: Scope) -> dict[int, list[str]]:
        """Return by paper what was doubtful when somebody looked at it last."""
        where, of = scope.where("p")
        rows = self.database.connection().execute(
            "SELECT e.paper, e.told, max(e.id) FROM entry e JOIN paper p ON p.id = e.paper "
            f"WHERE e.what = 'looked at' AND {where} GROUP BY e.paper",
            of,
        )
        return {row["paper"]: json.loads(row["told"]).get("doubts", []) for row in rows}

    def newest(
        self,
        *,
        sitting: int | None = None,
        paper: int | None = None,
        slug: str | None = None,
        most: int = 500,
    ) -> list[Entry]:
        """Return the newest entries, the newest first: of a sitting, of a paper, of a lab's papers, or all."""
        asked = {
            "e.sitting = ?": sitting,
            "e.paper = ?": paper,
            "p.lab = (SELECT id FROM lab WHERE slug = ?)": slug,
        }
        given = {condition: value for condition, value in asked.items() if value is not None}
        where = f"WHERE {' AND '.join(given)}" if given else ""
        rows = self.database.connection().execute(
            "SELECT e.*, coalesce(p.learner, '') AS learner FROM entry e LEFT JOIN paper p ON p.id = e.paper "
            f"{where} ORDER BY e.id DESC LIMIT ?",
            (*given.values(), most),
        )
        return [Entry(**{**dict(row), "told": json.loads(row["told"])}) for row in rows]
