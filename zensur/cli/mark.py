"""``zensur mark``: marks papers, or whole classes."""

import csv
import io
from collections.abc import Iterator
from pathlib import Path

import click
from rich.console import Console
from rich.progress import track
from rich.table import Table

from ..core.marking import Marker, Result
from ..core.sheet import Severity
from ..work import read_paper
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
    write_text,
)


@click.command(epilog="Example: zensur mark two-banks.lab.yaml class.zip --csv marks.csv")
@click.argument("lab", type=FILE)
@click.argument("papers", type=EITHER, nargs=-1, required=True)
@click.option("--csv", "csv_file", type=OUTPUT, help="Write a CSV of totals.")
@of_stage
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def mark(
    lab: Path,
    papers: tuple[Path, ...],
    csv_file: Path | None,
    stage: str | None,
    values: Path | None,
    as_json: bool,
) -> None:
    """Mark PAPERS (folders or archives, of one learner or of a class) against LAB.

    Verdicts are met, partly and missed. `score` is the sum as it stands, `carried` charges each
    mistake once.
    """
    loaded = load_lab(lab, stage)
    hand_ins = load_papers(papers, loaded)
    given = load_values(values)
    markers = {learner: Marker(load_lab(lab, stage, own)) for learner, own in given.items()}
    usual = Marker(loaded)
    console = Console(stderr=True)
    results = [
        markers.get(h.learner, usual).mark(
            read_paper(h.learner, {d: (f.path, f.content) for d, f in h.files.items()}, h.remarks)
        )
        for h in track(hand_ins, "marking", console=console, disable=not console.is_terminal)
    ]
    if csv_file is not None:
        table = io.StringIO(newline="")
        csv.writer(table).writerows(_csv(results))
        write_text(csv_file, table.getvalue())
    if as_json:
        print_json({"lab": loaded.id, "papers": [r.json() for r in results]})
    else:
        _print(results)


def _csv(results: list[Result]) -> Iterator[list[object]]:
    yield ["learner", "score", "carried", "out_of", "faults"]
    for r in results:
        yield [_cell(r.learner), r.score, r.carried, r.out_of, "; ".join(f.slip for f in r.faults)]


def _cell(text: str) -> str:
    """Keep a spreadsheet from taking a learner's text as a formula."""
    return f"'{text}" if text[:1] in "=+-@\t\r" else text


def _print(results: list[Result]) -> None:
    table = Table(box=None, pad_edge=False, header_style="bold")
    for title in ("learner", "score", "each mistake once", "of", "mistakes"):
        table.add_column(title)
    for r in results:
        named = "; ".join(
            f"{f.in_a_sentence} ({f.device}{f' line {f.line}' if f.line else ''})" for f in r.faults
        )
        table.add_row(r.learner, f"{r.score:g}", f"{r.carried:g}", f"{r.out_of:g}", named or "none")
    print_table(table)
    for r in results:
        for remark in r.remarks:
            click.echo(f"{r.learner}: {remark}", err=True)
        for _, file, d in r.diagnostics:
            if d.severity is not Severity.NOTE:
                click.echo(f"{r.learner}: {file}:{d.line}: {d.severity.value}: {d.message}", err=True)
