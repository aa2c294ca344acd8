"""``zensur log``: who changed what about marks or access, when and why."""

from pathlib import Path

import click

from ..store import Entries
from .databases import DATABASE, open_database
from .inputs import print_json, print_table


@click.command("log", epilog="Example: zensur log --sitting 3 -n 20")
@click.option("--sitting", type=click.IntRange(1, 2**53), help="Of one sitting.")
@click.option(
    "-n", "most", type=click.IntRange(1, 100_000), default=50, show_default=True, help="How many entries."
)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
@DATABASE
def show_log(sitting: int | None, most: int, as_json: bool, database: Path | None) -> None:
    """Show what was changed about marks and access, the newest first: who, what, whose paper, and why."""
    entries = Entries(open_database(database, there=True)).newest(sitting=sitting, most=most)
    if as_json:
        print_json({"entries": entries})
        return
    print_table(
        ("when", "who", "what", "learner", "", "why"),
        ([e.made_at, e.who, e.what, e.learner, e.in_words, e.reason] for e in entries),
    )
