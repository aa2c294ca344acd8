"""``zensur archive``, ``restore`` and ``erase``: a sitting as one file, and a learner forgotten."""

from pathlib import Path

import click

from ..store import By
from .databases import DATABASE, open_database
from .inputs import FILE, OUTPUT, unusable


@click.command(epilog="Example: zensur archive 3 -o week-3.zip")
@click.argument("sitting", type=click.IntRange(1, 2**53))
@click.option("-o", "--output", type=OUTPUT, required=True, help="The file to write.")
@DATABASE
def archive(sitting: int, output: Path, database: Path | None) -> None:
    """Write SITTING into one file: roster, numbers, lab, hand-ins byte for byte, results, overrules, comments, log."""
    from ..work.archiving import archived

    try:
        output.write_bytes(archived(open_database(database, there=True), sitting))
    except KeyError:
        unusable(f"There is no sitting {sitting}.")
    except OSError as error:
        unusable(f"{output} cannot be written: {error.strerror}.")
    click.echo(f"{output} holds sitting {sitting}.")


@click.command(epilog="Example: zensur restore week-3.zip --database other.db")
@click.argument("file", type=FILE)
@DATABASE
def restore(file: Path, database: Path | None) -> None:
    """Put a sitting back from FILE, on this or another machine, with the same totals."""
    from ..work.archived_rows import BadSitting
    from ..work.archiving import restored

    try:
        number = restored(open_database(database), file.read_bytes())
    except BadSitting as bad:
        unusable(f"{file}: {bad}")
    except OSError as error:
        unusable(f"{file} cannot be read: {error.strerror}.")
    click.echo(f"It is sitting {number}.")


@click.command(epilog="Example: zensur erase 4711 --because 'asked for it'")
@click.argument("learner")
@click.option("--because", default="", help="Why, for the log.")
@click.option("--yes", is_flag=True, help="Do not ask again.")
@DATABASE
def erase(learner: str, because: str, yes: bool, database: Path | None) -> None:
    """Erase LEARNER, by id or the name that papers bear: papers, names and comments. The figures of the class stay.

    It cannot be undone. Copies of the database, and archives of sittings, are not changed.
    """
    from ..work.desk import Desk  # which brings all of marking
    from ..work.erasing import erase_learner

    desk = Desk(open_database(database, there=True), marks=False)
    if not yes:
        click.confirm(f"Erase {learner} for good?", abort=True, err=True)
    try:
        number = erase_learner(desk, learner, By(reason=because))
    except KeyError:
        unusable(f"Nobody is known by {learner}: give the id, or the name that papers bear.")
    click.echo(f"{learner} is erased; {number} papers were theirs.")
