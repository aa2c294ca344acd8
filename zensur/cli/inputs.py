"""Files that the verbs take, with one clear line and exit status 2 where they cannot be used."""

import json
from pathlib import Path
from typing import Any, NoReturn

import click

from ..core.formats import BadArchive, File, HandIn, is_archive, read_archive, sort_papers
from ..core.lab import Lab, read_lab
from ..core.sheet import Configuration, read_sheet

FILE = click.Path(exists=True, dir_okay=False, path_type=Path)
FOLDER = click.Path(exists=True, file_okay=False, path_type=Path)
EITHER = click.Path(exists=True, path_type=Path)


def unusable(message: str) -> NoReturn:
    """Say why the input cannot be used, and end with status 2."""
    click.echo(message, err=True)
    raise SystemExit(2)


def print_json(document: Any) -> None:
    """Print one JSON document, and nothing else."""
    click.echo(json.dumps(document, indent=2, ensure_ascii=False))


def load_lab(path: Path) -> Lab:
    """Read a lab file."""
    try:
        found = read_lab(path.read_text("utf-8"))
    except UnicodeDecodeError:
        unusable(f"{path}: this is not a text in UTF-8.")
    if found.lab is None:
        unusable("\n".join(f"{path}: {error}" for error in found.errors))
    return found.lab


def load_sheets(folder: Path, lab: Lab) -> dict[str, Configuration]:
    """Read the sheets in a folder and lay them over what is given."""
    papers = sort_papers(folder_files(folder), list(lab.devices), folder.name)
    if len(papers) != 1:
        unusable(f"{folder}: these are {len(papers)} papers; name the folder of one.")
    for remark in papers[0].remarks:
        click.echo(remark, err=True)
    own = {d: read_sheet(f.content, f.path).configuration for d, f in papers[0].files.items()}
    return lab.with_sheets(own)


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


def load_papers(paths: tuple[Path, ...], lab: Lab) -> list[HandIn]:
    """Read papers and whole classes from folders and archives."""
    devices = list(lab.devices)
    found: list[HandIn] = []
    for path in paths:
        try:
            found += sort_papers(_files_of(path), devices, path.name)
        except BadArchive as bad:
            unusable(f"{path}: {bad}")
    return found
