"""The results of a class as a table that leaves the application."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from ..formats import harmless
from ..jsonable import to_json
from ..marking.shapes import Marked, Result
from ..sittings import Learner


@dataclass(frozen=True, slots=True)
class Entrant:
    """A result with whose it is, where there is a roster; of a team each member has the same."""

    result: Result
    learner: Learner | None = None
    group: str = ""


OF_LEARNER = ("id", "export_id", "mail", "group", "team")
COLUMNS = (
    "learner",
    *OF_LEARNER,
    "score",
    "carried",
    "out_of",
    "percent",
    "grade",
    "mistakes",
    "overruled",
    "days_late",
    "tasks",
    "criteria",
)
USUAL = ("learner", "carried", "out_of", "percent", "grade", "mistakes", "overruled")


def results_csv(entrants: Sequence[Entrant], columns: Sequence[str] = USUAL, separator: str = ",") -> str:
    """Write results as CSV (RFC 4180) with chosen columns; ``tasks`` and ``criteria`` are several.

    Overrules are in the figures. What a spreadsheet would take for a formula is kept from it.
    """
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, delimiter=separator, quoting=csv.QUOTE_NONNUMERIC)
    first = [c for entrant in entrants[:1] for c in entrant.result.criteria]
    heads = {"tasks": list(dict.fromkeys(c.task for c in first)), "criteria": [c.id for c in first]}
    writer.writerow([harmless(head) for column in columns for head in heads.get(column, [column])])
    for entrant in entrants:
        writer.writerow([value for column in columns for value in _values(entrant, column, heads["tasks"])])
    return stream.getvalue()


def results_json(lab: str, stage: str, results: Sequence[Result]) -> str:
    """Write results as one JSON document with every result whole, overrules in them."""
    entries = ", ".join(to_json(r) for r in results)
    return f'{{"lab": {to_json(lab)}, "stage": {to_json(stage)}, "papers": [{entries}]}}\n'


def _values(entrant: Entrant, column: str, tasks: list[str]) -> list[object]:
    result = entrant.result
    if column == "tasks":
        return [_earned(result, task) for task in tasks]
    if column == "criteria":
        return [_charged(c) for c in result.criteria]
    if column in OF_LEARNER:
        return [harmless(_of_learner(entrant, column))]
    if column == "learner":
        return [harmless(entrant.learner.name if entrant.learner else result.learner)]
    if column == "mistakes":
        return [harmless("; ".join(f.title for f in result.faults))]
    if column == "overruled":
        return [harmless("; ".join(_reasons(result)))]
    if column == "days_late":
        return [result.late.days if result.late else 0]
    value = getattr(result, column)
    return [harmless(value or "") if isinstance(value, str) or value is None else value]


def _of_learner(entrant: Entrant, column: str) -> str:
    if column == "group":
        return entrant.group
    if entrant.learner is None:
        return entrant.result.learner if column == "id" else ""
    return str(getattr(entrant.learner, "code" if column == "id" else column))


def _charged(criterion: Marked) -> float:
    """Return what is charged: what only follows from a mistake counts as earned."""
    return round(criterion.marks * (1.0 if criterion.carried else criterion.fraction), 2)


def _earned(result: Result, task: str) -> float:
    own = (c for c in result.criteria if c.task == task)
    return round(sum(c.marks * (1.0 if c.carried else c.fraction) for c in own), 2)


def _reasons(result: Result) -> list[str]:
    total = [f"total: {result.overruled.reason}"] if result.overruled else []
    return [f"{c.id}: {c.overruled.reason}" for c in result.criteria if c.overruled] + total
