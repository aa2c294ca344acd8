"""Files that the verbs take, with one clear line and exit status 2 where they cannot be used."""

import csv
import os
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import Any, NoReturn, TypeVar

import click
from rich.console import Console
from rich.table import Table
from rich.text import Text

from ..core.formats import (
    BadArchive,
    BadPattern,
    Cabling,
    File,
    FlatNames,
    HandIn,
    Pattern,
    folded,
    is_archive,
    nothing_named,
    read_archive,
    sort_papers,
)
from ..core.jsonable import to_json
from ..core.lab import Lab, read_lab
from ..core.sheet import Configuration, Severity
from ..work.papers import read_paper

FILE = click.Path(exists=True, dir_okay=False, path_type=Path)
FOLDER = click.Path(exists=True, file_okay=False, path_type=Path)
EITHER = click.Path(exists=True, path_type=Path)
OUTPUT = click.Path(dir_okay=False, path_type=Path)
_MOST_ERRORS = 3
"""So many errors of a sheet are told where the sheet itself is not what is asked about."""
Verb = TypeVar("Verb", bound=Callable[..., Any])


def home() -> Path:
    """Where databases lie if nothing else is said (XDG base directories)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "zensur"


def of_stage(verb: Verb) -> Verb:
    """Add the options that choose a stage of a lab and the values of its variables."""
    with_values = click.option("--values", type=FILE, help="CSV: learner, variable, value.")(verb)
    return click.option("--stage", metavar="ID", help="A stage of the lab; the last one if left out.")(
        with_values
    )


def unusable(message: str) -> NoReturn:
    """Say why the input cannot be used, and end with status 2."""
    say(message)
    raise SystemExit(2)


def print_json(document: Any) -> None:
    """Print one JSON document, and nothing else."""
    click.echo(to_json(document, indent=2))


def visible(text: str) -> str:
    """Show what would steer a terminal (control characters, other directions of writing) as its code."""
    return "".join(c if c.isprintable() else f"\\u{{{ord(c):x}}}" for c in text)


def say(message: str) -> None:
    """Say something beside the output, with what learners wrote in it shown as it is."""
    click.echo(visible(message), err=True)


def print_table(titles: Iterable[str], rows: Iterable[Iterable[str]], style: str = "bold") -> None:
    """Print a table in the width of the terminal; as wide as it is where there is none. Cells are no markup."""
    table = Table(box=None, pad_edge=False, header_style=style)
    for title in titles:
        table.add_column(title)
    for row in rows:
        table.add_row(*(Text(visible(cell)) for cell in row))
    console = Console()
    if not console.is_terminal:
        console = Console(width=1000)
    console.print(table)


def read_text(path: Path) -> str:
    """Read a text file."""
    try:
        return path.read_text("utf-8")
    except UnicodeDecodeError:
        unusable(f"{path}: this is not a text in UTF-8.")


def write_text(path: Path, text: str) -> None:
    """Write a text file."""
    try:
        path.write_text(text, "utf-8")
    except OSError as error:
        unusable(f"{path} cannot be written: {error.strerror}.")


def write_bytes(path: Path, content: bytes) -> None:
    """Write a file."""
    try:
        path.write_bytes(content)
    except OSError as error:
        unusable(f"{path} cannot be written: {error.strerror}.")


def load_lab(path: Path, stage: str | None = None, values: Mapping[str, int] | None = None) -> Lab:
    """Read a lab file: one of its stages, the last one where none is named, with values of its variables."""
    found = read_lab(read_text(path), values)
    if found.lab is None:
        for error in found.errors[:-1]:
            say(f"{path}: {error}")
        unusable(f"{path}: {found.errors[-1]}")
    if stage is None:
        return found.lab
    chosen = next((s for s in found.lab.stages if s.stage == stage), None)
    if chosen is None:
        stages = ", ".join(s.stage for s in found.lab.stages if s.stage)
        unusable(
            f"{path}: there is no stage {stage}; {f'there are {stages}' if stages else 'the lab has none'}."
        )
    return chosen


def load_values(path: Path | None) -> dict[str, dict[str, int]]:
    """Read values of variables: CSV with the columns learner, variable, value."""
    if path is None:
        return {}
    values: dict[str, dict[str, int]] = {}
    for number, row in enumerate(csv.DictReader(read_text(path).splitlines()), 2):
        learner, variable, value = row.get("learner"), row.get("variable"), (row.get("value") or "").strip()
        if not learner or not variable or not value.isdecimal():
            unusable(
                f"{path}: line {number}: the columns learner, variable, value are wanted, value a whole number."
            )
        values.setdefault(learner.strip(), {})[variable.strip()] = int(value)
    return values


def values_of(path: Path | None, learner: str | None) -> dict[str, int]:
    """Return the values of one learner; the only one of the file where none is named."""
    values = load_values(path)
    if learner is None and len(values) == 1:
        return next(iter(values.values()))
    if values and learner not in values:
        unusable(f"{path}: name one of its learners with --learner: {', '.join(list(values)[:12])}.")
    return values.get(learner or "", {})


def load_sheets(folder: Path, lab: Lab) -> tuple[dict[str, Configuration], Cabling | None]:
    """Read the sheets in a folder, and the cabling where there is one."""
    papers = sort_papers(folder_files(folder), list(lab.devices), folder.name)
    if len(papers) != 1:
        unusable(f"{folder}: these are {len(papers)} papers; name the folder of one.")
    for remark in papers[0].remarks:
        say(remark)
    paper = read_paper("", {d: (f.path, f.content) for d, f in papers[0].files.items()}, devices=lab.devices)
    for device, sheet in paper.sheets.items():
        errors = [d for d in sheet.diagnostics if d.severity is Severity.ERROR]
        for error in errors[:_MOST_ERRORS]:
            say(f"{paper.files[device]}, line {error.line}: {error.message}")
        more = len(errors) - _MOST_ERRORS
        if more > 0:
            say(f"{paper.files[device]}: {more} more error{'s' * (more > 1)}; see zensur read.")
    return {d: sheet.configuration for d, sheet in paper.sheets.items()}, paper.cabling


def folder_files(folder: Path) -> list[File]:
    """Read all files below a folder. Links are not followed."""
    return [
        File(str(path.relative_to(folder)), path.read_bytes())
        for path in sorted(folder.rglob("*"))
        if path.is_file() and not path.is_symlink()
    ]


def _files_of(path: Path) -> list[File]:
    """Read a folder, an archive, or a single sheet, whose learner is its folder's name."""
    if path.is_dir():
        return folder_files(path)
    content = path.read_bytes()
    if is_archive(content):
        return read_archive(content)
    return [File(f"{path.resolve().parent.name}/{path.name}", content)]


def load_papers(paths: tuple[Path, ...], lab: Lab, pattern: str | None = None) -> list[HandIn]:
    """Read papers and whole classes from folders and archives; of flat ones ``pattern`` says how names are made up."""
    devices = list(lab.devices)
    found: list[HandIn] = []
    for path in paths:
        try:
            fits = Pattern(pattern) if pattern is not None else None
            papers = sort_papers(_files_of(path), devices, path.name, fits)
            for paper in (p for p in papers if not p.files):
                say(f"{path}: {paper.learner}: {nothing_named([paper], devices)}")
            found += [p for p in papers if p.files]
        except BadPattern as bad:
            unusable(str(bad))
        except FlatNames as flat:
            unusable(f"{path}: {flat} If that is right, add --pattern '{flat.pattern.text}'.")
        except BadArchive as bad:
            unusable(f"{path}: {bad}")
    if not found:
        unusable("There is no paper to be marked.")
    called: dict[str, list[str]] = {}
    for paper in found:
        called.setdefault(folded(paper.learner), []).append(paper.learner)
    for names in called.values():
        if len(names) > 1:
            say(
                f"{' and '.join(names)}: each paper is marked. If that is one learner, only one of them can count."
            )
    return found
