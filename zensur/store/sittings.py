"""Sittings: a version of a lab given to learners, with the rules, and each learner's seat."""

import json
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from ..core.sittings import Learner, Rules
from .database import Database, now
from .entries import NOBODY, By, note
from .labs import LabVersion


@dataclass(frozen=True, slots=True, kw_only=True)
class Seat:
    """A learner of a sitting, of which group, with the numbers that were drawn for the lab's variables."""

    learner: Learner
    group: str = ""
    drawn: Mapping[str, int]

    @property
    def holder(self) -> str:
        """Under which name papers are handed in: the team's where there is one, else the learner's id. No id has a
        stroke in it, so that none is taken for a team."""
        return f"team/{self.learner.team}" if self.learner.team else self.learner.code


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """What an instructor sets of a sitting."""

    title: str
    rules: Rules
    blind: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Sitting:
    """A sitting. ``secret`` is what numbers and the names of blind papers are drawn from."""

    id: int
    slug: str
    version: int
    """The row of the lab's version."""
    stage: str
    settings: Settings
    secret: str
    made_at: str
    released_at: str | None
    seats: tuple[Seat, ...]


class Sittings:
    """The sittings of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self, slug: str | None = None) -> list[Sitting]:
        """Return the sittings, of one lab where it is named, the newest first."""
        where = "" if slug is None else "AND l.slug = ?"
        rows = self.database.connection().execute(
            f"{_SELECT} WHERE s.removed_at IS NULL {where} ORDER BY s.id DESC",
            () if slug is None else (slug,),
        )
        return [self._sitting(row) for row in rows.fetchall()]

    def get(self, ident: int) -> Sitting | None:
        """Return a sitting by its row."""
        row = (
            self.database.connection()
            .execute(f"{_SELECT} WHERE s.removed_at IS NULL AND s.id = ?", (ident,))
            .fetchone()
        )
        return self._sitting(row) if row else None

    def add(self, version: int, stage: str, settings: Settings) -> int:
        """Add a sitting without seats, and return its row."""
        with self.database.transaction() as connection:
            row = connection.execute(
                "INSERT INTO sitting (version, stage, title, secret, rules, made_at) VALUES (?, ?, ?, ?, ?, ?)",
                (version, stage, settings.title, secrets.token_hex(16), _text(settings), now()),
            ).lastrowid
            assert row is not None
            return row

    def seat(self, ident: int, seats: Sequence[Seat], by: By = NOBODY, text: str = "") -> None:
        """Give learners a seat, or another one in place of theirs; ``text`` says in the log what that is."""
        with self.database.transaction() as connection:
            note(connection, by, "seats", sitting=ident, text=text)
            connection.executemany(
                "INSERT OR REPLACE INTO seat (sitting, code, name, export_id, mail, team, class_group, drawn) "
                "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                [
                    (
                        ident, own.learner.code, own.learner.name, own.learner.export_id, own.learner.mail,
                        own.learner.team, own.group, json.dumps(dict(own.drawn)),
                    )
                    for own in seats
                ],
            )  # fmt: skip

    def change(self, ident: int, settings: Settings, by: By = NOBODY) -> None:
        """Change what is set of a sitting."""
        row = self.database.connection().execute("SELECT title, rules FROM sitting WHERE id = ?", (ident,))
        title, rules = row.fetchone()
        changed = _changed(
            {"title": title, **_flat(rules)}, {"title": settings.title, **_flat(_text(settings))}
        )
        self._update(
            ident, "title = ?, rules = ?", (settings.title, _text(settings)), by, "rules changed", changed
        )

    def move(self, ident: int, version: LabVersion, by: By = NOBODY) -> None:
        """Mark a sitting with another version of its lab from now on; results of before stay."""
        self._update(ident, "version = ?", (version.key,), by, f"version {version.number} of the lab")

    def release(self, ident: int, released: bool, by: By = NOBODY) -> None:
        """Release the marks of a sitting, or hold them."""
        told = "released" if released else "held"
        self._update(ident, "released_at = ?", (now() if released else None,), by, told)

    def remove(self, ident: int, by: By = NOBODY) -> None:
        """Take a sitting off the list; nothing of it is lost."""
        self._update(ident, "removed_at = ?", (now(),), by, "removed")

    def _update(
        self, ident: int, what: str, values: tuple[object, ...], by: By, noted: str, text: str = ""
    ) -> None:
        with self.database.transaction() as connection:
            connection.execute(f"UPDATE sitting SET {what} WHERE id = ?", (*values, ident))
            note(connection, by, noted, sitting=ident, text=text)

    def _sitting(self, row: Any) -> Sitting:
        told = json.loads(row["rules"])
        seats = self.database.connection().execute(
            "SELECT * FROM seat WHERE sitting = ? ORDER BY name COLLATE NOCASE, code", (row["id"],)
        )
        settings = Settings(title=row["title"], rules=_rules(told["rules"]), blind=told["blind"])
        return Sitting(
            id=row["id"],
            slug=row["slug"],
            version=row["version"],
            stage=row["stage"],
            settings=settings,
            secret=row["secret"],
            made_at=row["made_at"],
            released_at=row["released_at"],
            seats=tuple(_seat(seat) for seat in seats),
        )


_SELECT = (
    "SELECT s.*, l.slug FROM sitting s JOIN lab_version v ON v.id = s.version JOIN lab l ON l.id = v.lab"
)


def _text(settings: Settings) -> str:
    times = {name: moment.isoformat() for name, moment in _times(settings.rules).items()}
    return json.dumps({"rules": asdict(settings.rules) | times, "blind": settings.blind})


def _flat(text: str) -> dict[str, object]:
    told = json.loads(text)
    return {**told["rules"], "blind": told["blind"]}


def _changed(was: Mapping[str, object], becomes: Mapping[str, object]) -> str:
    """Say in words what is set otherwise than it was."""
    names = [name for name, value in becomes.items() if was.get(name) != value]
    return "; ".join(f"{n.replace('_', ' ')} {_said(was.get(n))} to {_said(becomes[n])}" for n in names)


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    return "none" if value is None else str(value)


def _times(rules: Rules) -> dict[str, datetime]:
    return {n: m for n, m in (("opens", rules.opens), ("closes", rules.closes)) if m is not None}


def _rules(told: dict[str, Any]) -> Rules:
    times = {name: datetime.fromisoformat(told[name]) for name in ("opens", "closes") if told.get(name)}
    return Rules(**{**told, **times})


def _seat(row: Any) -> Seat:
    learner = Learner(
        code=row["code"], name=row["name"], export_id=row["export_id"], mail=row["mail"], team=row["team"]
    )
    return Seat(learner=learner, group=row["class_group"], drawn=json.loads(row["drawn"]))
