"""``zensur import``: labs from their files into a database."""

from pathlib import Path

import click

from ..core.formats import NoTopology, is_json, lab_of_topology
from ..core.lab import read_lab
from ..core.lab.splice import CannotSplice, put
from ..store import Labs
from .databases import DATABASE, open_database
from .inputs import FILE, read_text, unusable


@click.command("import", epilog="Example: zensur import two-banks.lab.yaml --as two-banks-2027")
@click.argument("labs", type=FILE, nargs=-1, required=True)
@click.option("--as", "ident", metavar="ID", help="The id that a single lab gets in place of its own.")
@DATABASE
def import_lab(labs: tuple[Path, ...], ident: str | None, database: Path | None) -> None:
    """Put LABS on the shelf, all or none; where an id is taken, --as gives another.

    A topology in JSON (RFC 8345) becomes a lab without sheets.
    """
    if ident is not None and len(labs) > 1:
        unusable("--as names the id of one lab: import them one after another.")
    texts = {}
    for path in labs:
        slug, text = _read(path, ident)
        if slug in texts:
            unusable(f"{path}: there are two labs {slug} here.")
        texts[slug] = text
    shelf = Labs(open_database(database))
    for slug in texts:
        if shelf.newest(slug) is not None:
            unusable(f"There is a lab {slug} already: give this one another id with --as.")
    for slug, text in texts.items():
        shelf.add(slug, text)
        click.echo(f"{slug} is on the shelf.")


def _read(path: Path, ident: str | None) -> tuple[str, str]:
    """Return a lab's id and text, with the id that it is to have."""
    text = read_text(path)
    if is_json(text):
        try:
            text = lab_of_topology(text)
        except NoTopology as none:
            unusable(f"{path}: {none}")
    found = read_lab(text)
    try:
        if found.lab is not None and ident not in (None, found.lab.id):
            text = put(text, "id", str(ident))
            found = read_lab(text)
    except CannotSplice as cannot:
        unusable(f"{path}: {cannot}")
    if found.lab is None:
        first = found.errors[0]
        unusable(f"{path}, line {first.line}: {first.message} ({len(found.errors)} to mend: zensur check)")
    return found.lab.id, text
