"""``zensur mark``: marks papers, or whole classes."""

import csv
import io
import re
from collections.abc import Iterator
from itertools import count
from pathlib import Path

import click
from rich.console import Console
from rich.progress import track

from ..core.formats import HandIn, harmless
from ..core.lab import Lab
from ..core.marking.shapes import Result
from ..core.marking.slips.catalogue import SLIPS
from ..work.classes import LabFile, mark_papers
from ..work.executors import NoCluster, executor_for
from .inputs import (
    EITHER,
    FILE,
    OUTPUT,
    load_lab,
    load_papers,
    load_values,
    of_stage,
    print_json,
    print_table,
    read_text,
    say,
    unusable,
    write_text,
)

_EPILOG = f"""Example: zensur mark two-banks.lab.yaml class.zip --csv marks.csv

Mistakes are called {", ".join(slip.keyword for slip in SLIPS)}."""


@click.command(epilog=_EPILOG)
@click.argument("lab", type=FILE)
@click.argument("papers", type=EITHER, nargs=-1, required=True)
@click.option("--csv", "csv_file", type=OUTPUT, help="Write a CSV of totals.")
@click.option(
    "--jobs",
    type=click.IntRange(1, 256),
    default=1,
    show_default=True,
    help="So many processes mark; the results are the same.",
)
@click.option(
    "--cluster", metavar="ADDRESS", help="Mark on the workers of a Dask scheduler, such as tcp://HOST:8786."
)
@click.option(
    "--report", type=click.Path(file_okay=False, path_type=Path), help="Write a page for each learner."
)
@click.option(
    "--pattern", help="How the names of files are made up in a flat archive, such as '{learner}_{device}'."
)
@of_stage
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def mark(
    lab: Path,
    papers: tuple[Path, ...],
    csv_file: Path | None,
    jobs: int,
    cluster: str | None,
    report: Path | None,
    pattern: str | None,
    stage: str | None,
    values: Path | None,
    as_json: bool,
) -> None:
    """Mark PAPERS (folders or archives, of one learner or of a class) against LAB.

    Verdicts are met, partly and missed. `score` is the sum as it stands, `carried` charges each
    mistake once.
    """
    loaded = load_lab(lab, stage)
    hand_ins = load_papers(papers, loaded, pattern)
    console = Console(stderr=True)
    file = LabFile(read_text(lab), stage)
    try:
        with executor_for(jobs, cluster) as executor:
            marked = mark_papers(file, hand_ins, load_values(values), executor)
            bar = track(marked, "marking", len(hand_ins), console=console, disable=not console.is_terminal)
            results = list(bar)
    except NoCluster as error:
        unusable(str(error))
    if report is not None:
        _write_reports(report, loaded, results, hand_ins)
    if csv_file is not None:
        table = io.StringIO(newline="")
        csv.writer(table, quoting=csv.QUOTE_NONNUMERIC).writerows(_csv(results))  # whatever the separator
        write_text(csv_file, table.getvalue())
    if as_json:
        print_json({"lab": loaded.id, "papers": results})
    else:
        _print(results)


def _write_reports(folder: Path, lab: Lab, results: list[Result], hand_ins: list[HandIn]) -> None:
    """Write a page for each learner, named after the learner as far as a file can be."""
    from ..pages.marked import marked_page  # which only some ask for

    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        unusable(f"{folder} cannot be made: {error.strerror}.")
    taken: set[str] = set()
    for result, hand_in in zip(results, hand_ins, strict=True):
        stem = re.sub(r"[^\w .-]+", "_", result.learner).strip(" .")[:80] or "learner"
        name = next(n for k in count(1) if (n := stem if k == 1 else f"{stem} {k}").lower() not in taken)
        taken.add(name.lower())
        write_text(folder / f"{name}.html", marked_page(lab, result, hand_in))


def _csv(results: list[Result]) -> Iterator[list[object]]:
    yield ["learner", "score", "carried", "out_of", "faults", "percent", "grade"]
    for r in results:
        faults = "; ".join(f.slip for f in r.faults)
        yield [harmless(r.learner), r.score, r.carried, r.out_of, faults, r.percent, harmless(r.grade or "")]


def _print(results: list[Result]) -> None:
    graded = any(r.grade for r in results)
    print_table(
        ("learner", "score", "each mistake once", "of", *(["grade"] * graded), "mistakes"),
        (_row(r, graded) for r in results),
    )
    for r in results:
        for remark in r.remarks:
            say(f"{r.learner}: {remark}")
        for d in r.diagnostics:
            if d.severity != "note":
                say(f"{r.learner}: {d.file}:{d.line}: {d.severity}: {d.message}")


def _row(result: Result, graded: bool) -> list[str]:
    named = "; ".join(
        f"{f.in_a_sentence} ({f.device or 'answers'}{f' line {f.line}' if f.line else ''})"
        for f in result.faults
    )
    grade = [result.grade or "none"] if graded else []
    sums = (f"{marks:g}" for marks in (result.score, result.carried, result.out_of))
    return [result.learner, *sums, *grade, named or "none"]
