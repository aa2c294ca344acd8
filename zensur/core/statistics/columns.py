"""The results of a class as a table that leaves the application."""

import csv
import io
from collections.abc import Sequence

from ..formats import harmless
from ..marking.shapes import Result

COLUMNS = (
    "learner",
    "score",
    "carried",
    "out_of",
    "percent",
    "grade",
    "mistakes",
    "overruled",
    "tasks",
    "criteria",
)
USUAL = ("learner", "carried", "out_of", "percent", "grade", "mistakes", "overruled")


def results_csv(results: Sequence[Result], columns: Sequence[str] = USUAL, separator: str = ",") -> str:
    """Write results as CSV (RFC 4180) with chosen columns; ``tasks`` and ``criteria`` are several.

    Overrules are in the figures. What a spreadsheet would take for a formula is kept from it.
    """
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, delimiter=separator, quoting=csv.QUOTE_NONNUMERIC)
    tasks = list(dict.fromkeys(c.task for r in results[:1] for c in r.criteria))
    criteria = [c.id for r in results[:1] for c in r.criteria]
    heads = {"tasks": tasks, "criteria": criteria}
    writer.writerow([harmless(head) for column in columns for head in heads.get(column, [column])])
    for result in results:
        writer.writerow([value for column in columns for value in _values(result, column, tasks, criteria)])
    return stream.getvalue()


def _values(result: Result, column: str, tasks: list[str], criteria: list[str]) -> list[object]:
    if column == "tasks":
        return [_earned(result, {c.id for c in result.criteria if c.task == task}) for task in tasks]
    if column == "criteria":
        return [_earned(result, {ident}) for ident in criteria]
    if column == "mistakes":
        return [harmless("; ".join(f.title for f in result.faults))]
    if column == "overruled":
        return [harmless("; ".join(_reasons(result)))]
    value = getattr(result, column)
    return [harmless(value or "") if isinstance(value, str) or value is None else value]


def _earned(result: Result, of: set[str]) -> float:
    """Return what is charged: what only follows from a mistake counts as earned."""
    return round(sum(c.marks * (1.0 if c.carried else c.fraction) for c in result.criteria if c.id in of), 2)


def _reasons(result: Result) -> list[str]:
    total = [f"total: {result.overruled.reason}"] if result.overruled else []
    return [f"{c.id}: {c.overruled.reason}" for c in result.criteria if c.overruled] + total
