"""Papers by the hash of their contents, what arrived, and which of a learner's papers was handed in last."""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from .database import Database, now
from .entries import NOBODY, By, note
from .runs import RunKey, enqueue
from .scope import Scope

Files = Mapping[str, tuple[str, bytes]]
"""Files of a paper by device: path and contents."""


@dataclass(frozen=True, slots=True)
class NewPaper:
    """A paper to be stored; ``came_as`` is what its folder or file was called, ``drawn`` are the learner's numbers,
    ``received_at`` is when it came, now where it is empty."""

    learner: str
    files: Files
    remarks: Sequence[str] = ()
    came_as: str = ""
    drawn: Mapping[str, int] = field(default_factory=dict)
    received_at: str = ""


@dataclass(frozen=True, slots=True)
class NewArrival:
    """What was sent, by which way: files by name and contents, and what was noticed while they were read."""

    way: str
    files: Sequence[tuple[str, bytes]]
    remarks: Sequence[str] = ()
    received_at: str = ""


@dataclass(frozen=True, slots=True)
class Arrival:
    """What arrived: the names of its files with the SHA-256 of each."""

    id: int
    way: str
    files: tuple[tuple[str, str], ...]
    remarks: tuple[str, ...]
    received_at: str


@dataclass(frozen=True, slots=True)
class StoredPaper:
    """A paper as it was handed in."""

    id: int
    slug: str
    learner: str
    hash: str
    remarks: tuple[str, ...]
    received_at: str
    stage: str = ""
    """The stage it was handed in for; empty where the lab has none."""
    sitting: int | None = None
    drawn: Mapping[str, int] = field(default_factory=dict)
    """The numbers that the learner had when it came, for the lab's variables."""
    arrival: int | None = None
    came_as: str = ""

    @property
    def erased(self) -> bool:
        """Whether its learner was erased: its files are gone, its marks stay."""
        return self.hash.startswith("erased ")


class Overtaken(RuntimeError):
    """Another paper of a learner has come to count meanwhile; nothing was stored."""


_SELECT = """
SELECT p.id, l.slug, p.learner, p.hash, p.remarks, p.received_at, p.stage, p.sitting, p.drawn, p.arrival, p.came_as
  FROM paper p JOIN lab l ON l.id = p.lab
"""
_IN_ORDER = "ORDER BY p.learner COLLATE NOCASE, p.id"


def paper_hash(files: Files, stage: str = "", sitting: int | None = None) -> str:
    """Return the SHA-256 of a paper: of its stage and sitting where it has them, its devices, file names and
    contents."""
    total = hashlib.sha256(json.dumps(["stage", stage]).encode() if stage else b"")
    if sitting is not None:
        total.update(json.dumps(["sitting", sitting]).encode())
    for device in sorted(files):
        path, content = files[device]
        total.update(json.dumps([device, path, hashlib.sha256(content).hexdigest()]).encode())
    return total.hexdigest()


class Papers:
    """The papers of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def add(
        self,
        scope: Scope,
        papers: Sequence[NewPaper],
        before: Mapping[str, int | None] | None = None,
        arrival: NewArrival | None = None,
        run: RunKey | None = None,
    ) -> list[int]:
        """Store papers, what they came in, and that they are to be marked in a ``run``, in one transaction; they are of
        the first of the scope's stages.

        The same paper handed in again is the one already there; returns the rows. ``before`` has each learner's paper
        that is known to be the last: raises :class:`Overtaken` where it is another by now.
        """
        stored = []
        with self.database.transaction() as connection:
            lab = connection.execute("SELECT id FROM lab WHERE slug = ?", (scope.slug,)).fetchone()["id"]
            came_in = None if arrival is None else _new_arrival(connection, arrival)
            for paper in papers:
                present = _last(connection, scope, paper.learner)
                if before is not None and paper.learner in before and before[paper.learner] != present:
                    raise Overtaken(paper.learner)
                digest = paper_hash(paper.files, scope.stages[0], scope.sitting)
                row = connection.execute(
                    "SELECT id FROM paper WHERE lab = ? AND learner = ? AND hash = ?",
                    (lab, paper.learner, digest),
                ).fetchone()
                ident = int(row["id"]) if row else _new(connection, lab, scope, paper, digest, came_in)
                if ident != present:
                    _hand_in(connection, ident, "handed in")
                stored.append(ident)
            if run is not None:
                enqueue(connection, run, stored)
        return stored

    def choose(self, paper: int, by: By = NOBODY) -> None:
        """Make a paper the one of its learner that counts."""
        with self.database.transaction() as connection:
            _hand_in(connection, paper, "chosen")
            note(connection, by, "chosen to count", paper=paper)

    def leave_to_rules(self, paper: int, by: By = NOBODY) -> None:
        """Have the rules decide again which paper of its learner counts."""
        with self.database.transaction() as connection:
            _hand_in(connection, paper, "rules")
            note(connection, by, "left to the rules", paper=paper)

    def last(self, scope: Scope) -> list[StoredPaper]:
        """Return each learner's paper that was handed in or chosen last, in the order of their names."""
        where, of = scope.where("own")
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE p.id IN (SELECT paper FROM hand_in WHERE id IN (SELECT max(h.id) FROM hand_in h "
            f"JOIN paper own ON own.id = h.paper WHERE {where} GROUP BY own.learner)) {_IN_ORDER}",
            of,
        )
        return [_paper(row) for row in rows]

    def all(self, scope: Scope, learner: str | None = None) -> list[StoredPaper]:
        """Return all papers, of one learner where it is named, those that were handed in first first."""
        where, of = scope.where("p")
        one, own = ("", ()) if learner is None else ("AND p.learner = ?", (learner,))
        rows = self.database.connection().execute(f"{_SELECT} WHERE {where} {one} ORDER BY p.id", (*of, *own))
        return [_paper(row) for row in rows]

    def chosen(self, scope: Scope) -> dict[str, int]:
        """Return by learner the paper that was chosen by hand to count, where the rules do not decide."""
        where, of = scope.where("own")
        rows = self.database.connection().execute(
            "SELECT own.learner, h.paper, h.way, max(h.id) FROM hand_in h JOIN paper own ON own.id = h.paper "
            f"WHERE h.way <> 'handed in' AND {where} GROUP BY own.learner",
            of,
        )
        return {row["learner"]: row["paper"] for row in rows if row["way"] == "chosen"}

    def of_learner(self, scope: Scope, learner: str) -> list[StoredPaper]:
        """Return all papers of a learner, as they were handed in or chosen, the last first."""
        where, of = scope.where("p")
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE {where} AND p.learner = ? "
            "ORDER BY (SELECT max(id) FROM hand_in WHERE paper = p.id) DESC",
            (*of, learner),
        )
        return [_paper(row) for row in rows]

    def count(self, slug: str) -> int:
        """Count the learners who handed something in."""
        row = self.database.connection().execute(
            "SELECT count(DISTINCT learner) FROM paper WHERE lab = (SELECT id FROM lab WHERE slug = ?)",
            (slug,),
        )
        return int(row.fetchone()[0])

    def get(self, paper: int) -> StoredPaper | None:
        """Return a paper by its row; a number that no row can have has none."""
        if not -(2**63) <= paper < 2**63:
            return None
        row = self.database.connection().execute(f"{_SELECT} WHERE p.id = ?", (paper,)).fetchone()
        return _paper(row) if row else None

    def some(self, papers: Sequence[int]) -> list[StoredPaper]:
        """Return papers by their rows, in the order of their learners' names."""
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE p.id IN (SELECT value FROM json_each(?)) {_IN_ORDER}", (json.dumps(papers),)
        )
        return [_paper(row) for row in rows]

    def files(self, paper: int) -> dict[str, tuple[str, bytes]]:
        """Return a paper's files by device: path and contents."""
        rows = self.database.connection().execute(
            "SELECT f.device, f.path, c.bytes FROM paper_file f JOIN content c USING (hash) "
            "WHERE f.paper = ? ORDER BY f.rowid",
            (paper,),
        )
        return {row["device"]: (row["path"], row["bytes"]) for row in rows}

    def paths(self, papers: Sequence[int]) -> dict[int, dict[str, str]]:
        """Return the device of each file by its path, of papers by their rows."""
        rows = self.database.connection().execute(
            "SELECT paper, path, device FROM paper_file WHERE paper IN (SELECT value FROM json_each(?))",
            (json.dumps(papers),),
        )
        found: dict[int, dict[str, str]] = {}
        for paper, path, device in rows.fetchall():
            found.setdefault(paper, {})[path] = device
        return found

    def arrival(self, ident: int) -> Arrival | None:
        """Return what arrived, by its row."""
        row = self.database.connection().execute("SELECT * FROM arrival WHERE id = ?", (ident,)).fetchone()
        if row is None:
            return None
        files = tuple((name, digest) for name, digest in json.loads(row["files"]))
        return Arrival(row["id"], row["way"], files, tuple(json.loads(row["remarks"])), row["received_at"])

    def content(self, digest: str) -> bytes:
        """Return contents by their SHA-256; raises :class:`KeyError` where nothing has it."""
        row = self.database.connection().execute("SELECT bytes FROM content WHERE hash = ?", (digest,))
        found = row.fetchone()
        if found is None:
            raise KeyError(digest)
        return bytes(found["bytes"])


def _hand_in(connection: Any, paper: int, way: str) -> None:
    connection.execute("INSERT INTO hand_in (paper, made_at, way) VALUES (?, ?, ?)", (paper, now(), way))


def _last(connection: Any, scope: Scope, learner: str) -> int | None:
    """Return the paper of a learner that was handed in or chosen last."""
    where, of = scope.where("own")
    row = connection.execute(
        f"SELECT h.paper FROM hand_in h JOIN paper own ON own.id = h.paper WHERE {where} AND own.learner = ? "
        "ORDER BY h.id DESC LIMIT 1",
        (*of, learner),
    ).fetchone()
    return int(row["paper"]) if row else None


def _new_arrival(connection: Any, arrival: NewArrival) -> int:
    files = [(name, _keep(connection, content)) for name, content in arrival.files]
    return int(
        connection.execute(
            "INSERT INTO arrival (way, files, remarks, received_at) VALUES (?, ?, ?, ?)",
            (arrival.way, json.dumps(files), json.dumps(list(arrival.remarks)), arrival.received_at or now()),
        ).lastrowid
    )


def _keep(connection: Any, content: bytes) -> str:
    """Keep contents once, and return their SHA-256."""
    digest = hashlib.sha256(content).hexdigest()
    connection.execute("INSERT OR IGNORE INTO content (hash, bytes) VALUES (?, ?)", (digest, content))
    return digest


def _new(connection: Any, lab: int, scope: Scope, paper: NewPaper, digest: str, arrival: int | None) -> int:
    ident = connection.execute(
        "INSERT INTO paper (lab, learner, hash, remarks, received_at, stage, sitting, drawn, arrival, came_as) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            lab, paper.learner, digest, json.dumps(list(paper.remarks)), paper.received_at or now(),
            scope.stages[0], scope.sitting, json.dumps(dict(sorted(paper.drawn.items()))), arrival, paper.came_as,
        ),
    ).lastrowid  # fmt: skip
    for device, (path, content) in paper.files.items():
        connection.execute(
            "INSERT INTO paper_file (paper, device, path, hash) VALUES (?, ?, ?, ?)",
            (ident, device, path, _keep(connection, content)),
        )
    return int(ident)


def _paper(row: Any) -> StoredPaper:
    return StoredPaper(
        row["id"],
        row["slug"],
        row["learner"],
        row["hash"],
        tuple(json.loads(row["remarks"])),
        row["received_at"],
        row["stage"],
        row["sitting"],
        json.loads(row["drawn"]),
        row["arrival"],
        row["came_as"],
    )
