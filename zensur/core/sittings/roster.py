"""The roster: learners by their ids, out of a table as course systems write it."""

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

MOST_LEARNERS = 10_000
MOST_TEXT = 120
_HEADS = {
    "code": {
        "id",
        "learner",
        "learner id",
        "student id",
        "number",
        "no",
        "matriculation",
        "username",
        "user",
    },
    "name": {"name", "full name", "learner name", "student", "display name"},
    "first": {"first name", "given name", "forename"},
    "last": {"last name", "surname", "family name"},
    "export_id": {"export id", "second id", "other id", "external id"},
    "mail": {"mail", "email", "e-mail", "mail address", "email address"},
    "team": {"team", "pair"},
}
"""How columns may be headed, in small letters."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Learner:
    """A learner: the id as the course system has it, a name, perhaps a second id for export, a mail address, a team."""

    code: str
    name: str
    export_id: str = ""
    mail: str = ""
    team: str = ""


@dataclass(frozen=True, slots=True)
class Roster:
    """What was read of a table: the learners, and what is wrong with which line."""

    learners: tuple[Learner, ...]
    remarks: tuple[str, ...]


def read_roster(text: str) -> Roster:
    """Read a roster: CSV with comma, semicolon or tab between columns, which are found by their heads.

    Without any known head the first column is the id and the second the name, or the only one is both. A line that
    cannot be taken is told and left out, never the whole table. Never raises.
    """
    try:
        rows = [(n, row) for n, row in enumerate(_cells(text), 1) if any(row)]
    except csv.Error as error:
        return Roster((), (f"This is no table: {error}.",))
    if not rows:
        return Roster((), ("There is no line in it.",))
    columns = _columns(rows[0][1])
    if columns is None:
        columns = {"code": 0, "name": 1} if any(len(row) > 1 for _, row in rows) else {"code": 0}
    else:
        rows = rows[1:]
    learners: dict[str, Learner] = {}
    remarks: list[str] = []
    for line, row in rows:
        told = {part: row[at] if at < len(row) else "" for part, at in columns.items()}
        wrong = _wrong(told, learners) if len(learners) < MOST_LEARNERS else "there are too many lines."
        if wrong:
            remarks.append(f"Line {line} is left out: {wrong}")
        else:
            learners[told["code"].lower()] = _learner(told)
    if not learners and not remarks:
        remarks.append("There is no learner below its heads.")
    return Roster(tuple(learners.values()), tuple(remarks))


def _cells(text: str) -> Iterator[list[str]]:
    text = text.removeprefix("\ufeff").replace("\0", "")
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max("\t;,", key=first.count)
    for row in csv.reader(io.StringIO(text, newline=""), delimiter=separator):
        yield [cell.strip() for cell in row]


def _columns(heads: list[str]) -> dict[str, int] | None:
    """Return where each part of a learner stands; None where the first line is no line of heads."""
    found: dict[str, int] = {}
    for at, head in enumerate(heads):
        part = next((part for part, names in _HEADS.items() if head.lower().replace("_", " ") in names), None)
        if part is not None:
            found.setdefault(part, at)
    if not found.keys() & {"code", "name", "last"}:
        return None
    if "code" not in found:  # a name may be all there is
        found["code"] = found.get("name", found.get("last", 0))
    return found


def _wrong(told: dict[str, str], learners: dict[str, Learner]) -> str:
    """Say why a line cannot be taken; nothing where it can."""
    code = told["code"]
    if not code:
        return "it has no id."
    if code.lower() in learners:
        return f"{code[:40]} stands in it twice."
    long = next((part for part, value in told.items() if len(value) > MOST_TEXT), None)
    if long is not None:
        return f"its {long.replace('_', ' ')} is longer than {MOST_TEXT} characters."
    if any(c in code for c in "/\\") or not code.isprintable() or code.startswith("."):
        return f"{code[:40]} cannot be an id: it has no strokes, no full stop before it and no other signs."
    return ""


def _learner(told: dict[str, str]) -> Learner:
    both = " ".join(part for part in (told.get("first", ""), told.get("last", "")) if part)
    return Learner(
        code=told["code"],
        name=told.get("name", "") or both or told["code"],
        export_id=told.get("export_id", ""),
        mail=told.get("mail", ""),
        team=told.get("team", ""),
    )


def roster_csv(learners: Sequence[Learner]) -> str:
    """Write a roster as CSV, as :func:`read_roster` reads it; columns that nobody has anything in are left out."""
    parts = [p for p in ("export_id", "mail", "team") if any(getattr(own, p) for own in learners)]
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(["id", "name", *(part.replace("_", " ") for part in parts)])
    for own in learners:
        writer.writerow([own.code, own.name, *(getattr(own, part) for part in parts)])
    return stream.getvalue()
