"""``zensur hand-out``: the learner's edition of a lab, as a file and as a page that prints."""

from pathlib import Path

import click

from ..core.formats import learners_edition
from ..pages.hand_out import hand_out_page
from .inputs import FILE, OUTPUT, load_lab, of_stage, values_of, write_text


@click.command("hand-out", epilog="Example: zensur hand-out two-banks.lab.yaml -o two-banks.html")
@click.argument("lab", type=FILE)
@click.option(
    "-o", "--output", type=OUTPUT, required=True, help="A file .html for the page, else a lab file."
)
@of_stage
@click.option("--learner", help="Whose values of --values are meant.")
def hand_out(lab: Path, output: Path, stage: str | None, values: Path | None, learner: str | None) -> None:
    """Write the learner's edition of LAB: without model answer, scheme and hidden sheets.

    A page holds the brief, the weave, the targets that are shown and the sheets that are in place.
    """
    loaded = load_lab(lab, stage, values_of(values, learner))
    as_page = output.suffix.lower() in (".html", ".htm")
    write_text(output, hand_out_page(loaded) if as_page else learners_edition(loaded))
    click.echo(f"{output} is written.")
