"""The database that a verb works on: the option that names it, and how it is opened."""

from pathlib import Path

import click

from ..store import Database, UnusableDatabase
from .inputs import home, unusable

DATABASE = click.option(
    "--database", type=click.Path(dir_okay=False, path_type=Path), help="The database's file."
)


def open_database(path: Path | None, usual: str = "zensur.db", there: bool = False) -> Database:
    """Open a database, the usual one where none is named; ends the verb where it cannot be used.

    One that has to be ``there`` is not made.
    """
    file = path or home() / usual
    if there and not file.is_file():
        unusable(f"{file}: there is no such database.")
    try:
        return Database(file)
    except UnusableDatabase as bad:
        unusable(str(bad))
