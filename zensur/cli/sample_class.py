"""``zensur sample-class``: made-up papers with made-up slips."""

from pathlib import Path

import click

from ..core.formats import CABLING_FILE
from ..core.marking.making.papers import sample_class
from .inputs import FILE, load_lab, of_stage, unusable, values_of


@click.command(
    "sample-class", epilog="Example: zensur sample-class two-banks.lab.yaml -n 30 --seed 1 -o class/"
)
@click.argument("lab", type=FILE)
@click.option(
    "-n", "learners", type=click.IntRange(1, 10_000), default=30, show_default=True, help="How many papers."
)
@click.option("--seed", type=int, default=1, show_default=True, help="The same seed makes the same class.")
@click.option(
    "-o",
    "--output",
    type=click.Path(file_okay=False, path_type=Path),
    required=True,
    help="The folder to make.",
)
@of_stage
@click.option("--learner", help="Whose values of --values are meant.")
def make_class(
    lab: Path,
    learners: int,
    seed: int,
    output: Path,
    stage: str | None,
    values: Path | None,
    learner: str | None,
) -> None:
    """Write a class of made-up papers of LAB into a folder: one folder a learner, one sheet a device.

    A few slips each, spelling varied, some blank, one copied.
    """
    loaded = load_lab(lab, stage, values_of(values, learner))
    if not loaded.answered:
        unusable(f"{lab}: it has no model answer to make papers of.")
    if output.exists() and any(output.iterdir()):
        unusable(f"{output} is not empty: nothing was written.")
    papers = sample_class(loaded, learners, seed)
    try:
        for name, sheets in papers.items():
            folder = output / name
            folder.mkdir(parents=True)
            for device, text in sheets.items():
                (folder / f"{device}.sheet").write_text(text, "utf-8")
            if loaded.asks_cabling:
                (folder / CABLING_FILE).write_text("".join(f"{link}\n" for link in loaded.links), "utf-8")
    except OSError as error:
        unusable(f"{output} cannot be written: {error.strerror}.")
    click.echo(f"{output} holds {len(papers)} papers; mark them with zensur mark {lab} {output}.")
