"""``zensur read`` and ``zensur convert``: one file of configurations, understood and written anew; with what collects
a machine's configuration, and the module that our data in the standard forms needs."""

from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from ..core.formats import WRITTEN, read_configurations, write_configuration
from ..core.formats.snapshot import SCRIPT
from ..core.formats.yang import module_text
from ..core.sheet import Diagnostic, Name, Severity, Sheet, write_sheet
from ..core.sheet.concerns import concerns, remarks_on
from .inputs import FILE, OUTPUT, print_json, say, unusable, write_text


@click.command(epilog="Example: zensur read weir.sheet --json")
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def read(file: Path, as_json: bool) -> None:
    """Read one configuration, or a file of several sheets; print its diagnostics and canonical form.

    It may be a sheet, data of YANG modules in JSON (RFC 7951) or XML (RFC 7950), or a snapshot of a Linux machine:
    which of them is seen from its contents.
    """
    sheets = read_configurations(file.read_bytes(), file.name)
    remarks = [_remarks(sheet) for sheet in sheets]
    if as_json:
        documents = [_document(s, r) for s, r in zip(sheets, remarks, strict=True)]
        print_json(documents[0] if sheets[0].device is None else {"sheets": documents})
    else:
        for sheet, said in zip(sheets, remarks, strict=True):
            _tell(file, sheet, said)
        click.echo(_written(sheets), nl=False)
    raise SystemExit(1 if any(d.severity is Severity.ERROR for said in remarks for d in said) else 0)


@click.command(epilog="Example: zensur convert weir.sheet --to yang-json -o weir.json")
@click.argument("file", type=FILE)
@click.option("--to", "form", type=click.Choice(WRITTEN), required=True, help="The form to write.")
@click.option("-o", "--output", type=OUTPUT, help="The file to write; standard output if left out.")
def convert(file: Path, form: str, output: Path | None) -> None:
    """Write a configuration in another form; what could not be read is said, and left out.

    What the standard modules cannot say stands in a module of our own: zensur yang-module prints it.
    """
    sheets = read_configurations(file.read_bytes(), file.name)
    lost = [d for sheet in sheets for d in sheet.diagnostics if _is_lost(d, sheet)]
    for d in lost:
        say(f"{file.name}:{d.line}:{d.column}: left out, or read as something else: {d.message}")
    if form != "sheet" and len(sheets) > 1:
        unusable(
            f"{file.name}: it holds {len(sheets)} sheets, and a file of {form} is of one device: split it at its "
            "device lines."
        )
    written = _written(sheets) if form == "sheet" else write_configuration(sheets[0].configuration, form)
    if output is None:
        click.echo(written, nl=False)
    else:
        write_text(output, written)
    raise SystemExit(1 if lost else 0)


@click.command(name="snapshot-script", epilog="Example: zensur snapshot-script > snapshot.sh")
def snapshot_script() -> None:
    """Print a script that collects the configuration of a Linux machine, in the form that Zensur reads."""
    click.echo(SCRIPT, nl=False)


@click.command(name="yang-module", epilog="Example: zensur yang-module > zensur-device.yang")
def yang_module() -> None:
    """Print our own YANG module, with what the standard ones cannot say."""
    click.echo(module_text(), nl=False)


_INFORMS = (
    "part-missing",
    "said-twice",
    "no-clock",
    "empty-sheet",
    "address-is-network",
    "address-is-broadcast",
)
"""Remarks on data and snapshots that tell of nothing lost."""


def _is_lost(remark: Diagnostic, sheet: Sheet) -> bool:
    """Whether a remark tells of something left out: an error, and in other forms than ours whatever is not read as it
    stands."""
    return remark.severity is Severity.ERROR or (sheet.form != "sheet" and remark.code not in _INFORMS)


def _remarks(sheet: Sheet) -> list[Diagnostic]:
    """Return what the reader says, and what the lines of the sheet say about one another."""
    about = remarks_on(sheet, concerns(sheet.configuration))
    return sorted((*sheet.diagnostics, *about), key=lambda d: d.line)


def _document(sheet: Sheet, remarks: list[Diagnostic]) -> dict[str, Any]:
    name = sheet.configuration.one(Name)
    return {
        "name": name.statement.name if name else sheet.device,
        "form": sheet.form,
        "diagnostics": [{**asdict(d), "severity": d.severity.value} for d in remarks],
        "more": sheet.more,
        "canonical": write_sheet(sheet.configuration),
    }


def _tell(file: Path, sheet: Sheet, remarks: list[Diagnostic]) -> None:
    for d in remarks:
        path = f" ({d.path})" if d.path else ""
        say(f"{file.name}:{d.line}:{d.column}: {d.severity.value}: {d.message}{path}")
    if sheet.more:
        click.echo(f"{file.name}: and {sheet.more} more", err=True)


def _written(sheets: tuple[Sheet, ...]) -> str:
    """Write sheets in canonical form, each under its ``device`` line where the file has several."""
    return "\n".join(
        (f"device {sheet.device}\n" if sheet.device is not None else "") + write_sheet(sheet.configuration)
        for sheet in sheets
    )
