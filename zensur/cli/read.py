"""``zensur read`` and ``zensur convert``: one file of configurations, understood and written anew."""

from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from ..core.sheet import Diagnostic, Name, Severity, Sheet, read_sheets, write_sheet
from ..core.sheet.concerns import concerns, remarks_on
from .inputs import FILE, OUTPUT, print_json, write_text


@click.command(epilog="Example: zensur read weir.sheet --json")
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def read(file: Path, as_json: bool) -> None:
    """Read one configuration, or a file of several sheets; print its diagnostics and canonical form."""
    sheets = read_sheets(file.read_bytes(), file.name)
    remarks = [_remarks(sheet) for sheet in sheets]
    if as_json:
        documents = [_document(s, r) for s, r in zip(sheets, remarks, strict=True)]
        print_json(documents[0] if sheets[0].device is None else {"sheets": documents})
    else:
        for sheet, said in zip(sheets, remarks, strict=True):
            _tell(file, sheet, said)
        click.echo(_written(sheets), nl=False)
    raise SystemExit(1 if any(d.severity is Severity.ERROR for said in remarks for d in said) else 0)


@click.command(epilog="Example: zensur convert weir.sheet --to sheet -o clean.sheet")
@click.argument("file", type=FILE)
@click.option("--to", "form", type=click.Choice(["sheet"]), required=True, help="The form to write.")
@click.option("-o", "--output", type=OUTPUT, help="The file to write; standard output if left out.")
def convert(file: Path, form: str, output: Path | None) -> None:
    """Write a configuration in another form; what could not be read is said, and left out."""
    sheets = read_sheets(file.read_bytes(), file.name)
    lost = [d for sheet in sheets for d in sheet.errors]
    for d in lost:
        click.echo(f"{file.name}:{d.line}:{d.column}: left out: {d.message}", err=True)
    written = _written(sheets)
    if output is None:
        click.echo(written, nl=False)
    else:
        write_text(output, written)
    raise SystemExit(1 if lost else 0)


def _remarks(sheet: Sheet) -> list[Diagnostic]:
    """Return what the reader says, and what the lines of the sheet say about one another."""
    about = remarks_on(sheet, concerns(sheet.configuration))
    return sorted((*sheet.diagnostics, *about), key=lambda d: d.line)


def _document(sheet: Sheet, remarks: list[Diagnostic]) -> dict[str, Any]:
    name = sheet.configuration.one(Name)
    return {
        "name": name.statement.name if name else sheet.device,
        "form": "sheet",
        "diagnostics": [{**asdict(d), "severity": d.severity.value} for d in remarks],
        "more": sheet.more,
        "canonical": write_sheet(sheet.configuration),
    }


def _tell(file: Path, sheet: Sheet, remarks: list[Diagnostic]) -> None:
    for d in remarks:
        click.echo(f"{file.name}:{d.line}:{d.column}: {d.severity.value}: {d.message}", err=True)
    if sheet.more:
        click.echo(f"{file.name}: and {sheet.more} more", err=True)


def _written(sheets: tuple[Sheet, ...]) -> str:
    """Write sheets in canonical form, each under its ``device`` line where the file has several."""
    return "\n".join(
        (f"device {sheet.device}\n" if sheet.device is not None else "") + write_sheet(sheet.configuration)
        for sheet in sheets
    )
