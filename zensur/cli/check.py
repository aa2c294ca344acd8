"""``zensur check``: proves a lab. ``zensur new``: a starter lab that passes it."""

import re
from dataclasses import asdict
from pathlib import Path

import click

from ..core.lab import read_lab, starter_lab
from ..core.marking.checking.findings import Finding
from ..core.marking.checking.lab_check import check_text
from ..core.sheet import Severity
from .inputs import FILE, OUTPUT, load_lab, print_json, read_text, unusable, write_text


@click.command(epilog="Example: zensur check two-banks.lab.yaml")
@click.argument("lab", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def check(lab: Path, as_json: bool) -> None:
    """Prove that the model answer of LAB is complete and that every expected ping and check holds on it.

    A lab with variables is tried with both ends of their ranges and a sample between. Exit status 1
    means errors; notes change nothing.
    """
    text = read_text(lab)
    found = check_text(text)
    read = read_lab(text)
    only_sheets = read.lab is None and not any(f.code == "lab-file" for f in found.findings)
    loaded = read.draft if only_sheets else load_lab(lab)
    assert loaded is not None  # where only sheets of its model answer are wrong, there is a draft
    if as_json:
        print_json(
            {
                "lab": loaded.id,
                "pings": found.pings,
                "services": found.services,
                "holding": found.holding,
                "blank": found.blank,
                "out_of": found.out_of,
                "variants": found.variants,
                "findings": [_document(f) for f in found.findings],
            }
        )
    else:
        for f in found.findings:
            click.echo(
                f"{lab.name}:{f.at.line}: {f.severity.value}: {f.place}: {f.message} {f.mend}".rstrip()
            )
        checks = " and service checks" * bool(found.services)
        tried = f", with {found.variants} sets of values" * (found.variants > 1)
        click.echo(
            f"{loaded.title}: {found.holding} of {found.pings + found.services} pings{checks} "
            f"hold on the model answer{tried}; "
            f"a blank paper earns {found.blank:g} of {found.out_of:g} marks."
        )
    raise SystemExit(1 if found.errors else 0)


def _document(finding: Finding) -> dict[str, object]:
    """Return a finding as JSON: where it stands, and the edit that mends it."""
    return {
        "severity": finding.severity.value,
        "code": finding.code,
        "place": finding.place,
        "line": finding.at.line,
        "column": finding.at.column,
        "message": finding.message,
        "mend": finding.mend,
        "edit": asdict(finding.edit) if finding.edit else None,
    }


@click.command(epilog="Example: zensur new two-banks.lab.yaml --title 'Two banks of the canal'")
@click.argument("lab", type=OUTPUT)
@click.option("--title", help="The lab's title; made from the file's name if left out.")
def new(lab: Path, title: str | None) -> None:
    """Write a starter lab to the file LAB: small, complete, and passing its own check."""
    stem = re.sub(r"\.(lab\.)?ya?ml$", "", lab.name)
    ident = re.sub(r"[^a-z0-9]+", "-", stem.lower()).strip("-")[:56] or "lab"
    text = starter_lab(ident, title or stem.replace("-", " ").capitalize())
    if any(f.severity is Severity.ERROR for f in check_text(text).findings):
        unusable("This cannot be a title: it holds characters that are not text.")
    if lab.exists():
        unusable(f"{lab} is there already: nothing was written.")
    write_text(lab, text)
    click.echo(f"{lab} is written; prove it with zensur check {lab}.")
