"""``zensur results``: the results of a lab out of a database, overrules in them."""

from pathlib import Path

import click

from ..core.statistics import COLUMNS, USUAL, clusters, results_csv, results_json, understood
from .databases import DATABASE, open_database
from .inputs import OUTPUT, unusable, write_text
from .occasions import WHERE, occasion_named


@click.command(
    "results", epilog="Example: zensur results two-banks --columns learner,carried,grade,tasks -o marks.csv"
)
@WHERE
@click.option("--stage", help="The stage; the last where it is left out.")
@click.option(
    "--columns",
    default=",".join(USUAL),
    show_default=True,
    help=f"Of {', '.join(COLUMNS)}; tasks and criteria are several columns each.",
)
@click.option("--semicolon", is_flag=True, help="Semicolons between columns, as some spreadsheets want them.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document with every result whole.")
@click.option("--statistics", is_flag=True, help="What was not understood, as an HTML page without names.")
@click.option("-o", "--output", type=OUTPUT, help="The file to write; standard output where it is left out.")
@DATABASE
def write_results(
    where: str,
    stage: str | None,
    columns: str,
    semicolon: bool,
    as_json: bool,
    statistics: bool,
    output: Path | None,
    database: Path | None,
) -> None:
    """Write the results of the lab or sitting WHERE, of every learner's paper that counts, with what was overruled.

    Exits 1 where papers are not marked yet: they are left out, and told.
    """
    from ..pages.statistics import statistics_page
    from ..work.desk import Desk  # which brings all of marking

    if as_json and statistics:
        unusable("Either --json or --statistics: they are two documents.")
    desk = Desk(open_database(database, there=True), marks=False)
    occasion = occasion_named(desk, where, stage)
    chosen = [c.strip() for c in columns.split(",") if c.strip()]
    unknown = [c for c in chosen if c not in COLUMNS]
    if unknown:
        unusable(f"There is no column {unknown[0]}: there are {', '.join(COLUMNS)}.")
    found, _ = desk.results_of(occasion)
    left_out = len(desk.counting(occasion)) - len(found)
    results = [result for _, result in found]
    if statistics:
        text = statistics_page(occasion.title, understood(results), clusters(results))
    elif as_json:
        text = results_json(occasion.version.slug, occasion.lab.stage, results)
    else:
        text = results_csv(desk.entrants(occasion), chosen, ";" if semicolon else ",")
    if output is None:
        click.echo(text, nl=False)
    else:
        write_text(output, text)
        click.echo(f"{output} is written: {len(results)} papers.", err=True)
    if left_out:
        click.echo(
            f"{left_out} papers are not marked: open them in the application, which marks them, or says why not.",
            err=True,
        )
        raise SystemExit(1)
