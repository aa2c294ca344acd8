"""``zensur hand-in`` and ``zensur sittings``: papers into a database without the browser."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import TYPE_CHECKING

import click

from ..core.formats import BadArchive, BadPattern, FlatNames
from .databases import DATABASE, open_database
from .inputs import EITHER, print_json, print_table, say, unusable
from .occasions import WHERE, occasion_named

if TYPE_CHECKING:
    from ..work.handing_in import Decision, Plan
    from ..work.taking import Unmatched

_DECISIONS = ("replace", "add", "leave")


@click.command("hand-in", epilog="Example: zensur hand-in 3 class.zip --as 'A. Weir=4711'")
@WHERE
@click.argument("papers", type=EITHER, nargs=-1, required=True)
@click.option("--stage", help="The stage of a lab; the last where it is left out.")
@click.option("--learner", default="", help="Whose the papers are, where they are one learner's.")
@click.option("--pattern", default="", help="How the names of files are made up in a flat archive.")
@click.option(
    "--as",
    "named",
    multiple=True,
    metavar="NAME=ID",
    help="Whose a paper is; NAME= leaves it out. Repeatable.",
)
@click.option(
    "--new", "newcomers", multiple=True, metavar="NAME", help="Gets a seat in the sitting. Repeatable."
)
@click.option(
    "--again",
    type=click.Choice(_DECISIONS),
    help="What becomes of papers whose learners have one already; without it that is asked, and nothing is stored.",
)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
@DATABASE
def hand_in(
    where: str,
    papers: tuple[Path, ...],
    stage: str | None,
    learner: str,
    pattern: str,
    named: tuple[str, ...],
    newcomers: tuple[str, ...],
    again: Decision | None,
    as_json: bool,
    database: Path | None,
) -> None:
    """Hand PAPERS in (folders or archives, of one learner or of a class) for WHERE, a sitting's number or a lab's id.

    They are stored, and marked when the application runs. What is doubtful is told, and nothing stored before it is
    answered.
    """
    from ..work.desk import Desk  # which brings all of marking
    from ..work.taking import Answers, Taken, Unmatched, take

    desk = Desk(open_database(database, there=True), marks=False)
    occasion = occasion_named(desk, where, stage)
    matched = dict(_split(word) for word in named)
    answers = Answers(
        learner=learner.strip(), pattern=pattern, matched=matched, newcomers=newcomers, any=again
    )
    try:
        told = take(desk, occasion, [_file(path) for path in papers], "command line", answers)
    except FlatNames as flat:
        unusable(f"{flat} Say how with --pattern {flat.pattern.text!r}.")
    except (BadArchive, BadPattern) as bad:
        unusable(str(bad))
    if isinstance(told, Unmatched):
        unusable(_unmatched(told))
    if not isinstance(told, Taken):
        unusable(_concerned(told))
    if as_json:
        print_json({"papers": list(told.papers), "remarks": list(told.remarks)})
    else:
        click.echo(f"{len(told.papers)} papers are stored.")
    for remark in told.remarks:
        say(remark)


@click.command(epilog="Example: zensur sittings --json")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
@DATABASE
def sittings(as_json: bool, database: Path | None) -> None:
    """List the sittings, the newest first, and how far each is."""
    from ..work.desk import Desk  # which brings all of marking
    from ..work.progress import progress

    desk = Desk(open_database(database, there=True), marks=False)
    rows = [(s, progress(desk, desk.occasion_of(s))) for s in desk.sittings.all()]
    if as_json:
        print_json(
            {
                "sittings": [
                    {
                        "number": s.id,
                        "title": s.settings.title,
                        "lab": s.slug,
                        "stage": s.stage,
                        "progress": far,
                    }
                    for s, far in rows
                ]
            }
        )
        return
    print_table(
        ("number", "title", "lab", "learners", "handed in", "marked"),
        (
            [str(s.id), s.settings.title, s.slug, str(far.learners), str(far.handed_in), str(far.marked)]
            for s, far in rows
        ),
    )


def _split(word: str) -> tuple[str, str]:
    name, equals, code = word.rpartition("=")
    if not equals:
        unusable(f"{word} is no NAME=ID.")
    return name, code.strip()


def _file(path: Path) -> tuple[str, bytes]:
    """Read a file; a folder as an archive of what is in it."""
    try:
        if not path.is_dir():
            return path.name, path.read_bytes()
        stream = io.BytesIO()
        with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in sorted(path.rglob("*")):
                if file.is_file() and not file.is_symlink():
                    archive.write(file, Path(path.name) / file.relative_to(path))
        return f"{path.name}.zip", stream.getvalue()
    except (OSError, ValueError) as error:
        unusable(f"{path} cannot be read: {error}.")


def _unmatched(told: Unmatched) -> str:
    said = [m.name + (f" (probably {m.code})" if m.code else "") for m in told.matches[:5]]
    more = len(told.matches) - len(said)
    rest = f", and {more} more" if more else ""
    return f"Whose are these: {', '.join(said)}{rest}? Say --as NAME=ID, or --new NAME. Nothing was stored."


def _concerned(told: Plan) -> str:
    names = ", ".join(q.name for q in told.questions[:5]) + (", …" if len(told.questions) > 5 else "")
    return f"These have handed in already: {names}. Say --again {'|'.join(_DECISIONS)}. Nothing was stored."
