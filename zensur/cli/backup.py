"""``zensur backup`` and ``zensur doctor``: copies of a database, and whether it is whole."""

from pathlib import Path

import click

from ..store import UnusableDatabase
from .databases import DATABASE, open_database
from .inputs import OUTPUT, unusable


@click.command(epilog="Example: zensur backup friday.db --database labs.db")
@click.argument("file", type=OUTPUT)
@DATABASE
def backup(file: Path, database: Path | None) -> None:
    """Copy the database into FILE, as it is at this moment, while the application runs.

    To restore it, end the application, put the copy in the database's place, and remove the files beside it that end in
    -wal and -shm.
    """
    try:
        open_database(database, there=True).back_up(file)
    except UnusableDatabase as bad:
        unusable(str(bad))
    click.echo(f"{file} is a copy of the database.")


@click.command(epilog="Example: zensur doctor --database labs.db")
@DATABASE
def doctor(database: Path | None) -> None:
    """Look at all of the database. Exit status 1 where something in it is damaged."""
    opened = open_database(database, there=True)
    found = opened.check()
    for said in found:
        click.echo(said)
    if found:
        raise SystemExit(1)
    click.echo(f"{opened.path} is whole.")
