"""``zensur read``: reads one sheet."""

from dataclasses import asdict
from pathlib import Path

import click

from ..core.sheet import Name, read_sheet, write_sheet
from .inputs import FILE, print_json


@click.command(epilog="Example: zensur read weir.sheet --json")
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def read(file: Path, as_json: bool) -> None:
    """Read one configuration and print its diagnostics and its canonical form."""
    sheet = read_sheet(file.read_bytes(), file.name)
    name = sheet.configuration.one(Name)
    if as_json:
        print_json(
            {
                "name": name.statement.name if name else None,
                "form": "sheet",
                "diagnostics": [{**asdict(d), "severity": d.severity.value} for d in sheet.diagnostics],
                "more": sheet.more,
                "canonical": write_sheet(sheet.configuration),
            }
        )
    else:
        for d in sheet.diagnostics:
            click.echo(f"{file.name}:{d.line}:{d.column}: {d.severity.value}: {d.message}", err=True)
        if sheet.more:
            click.echo(f"{file.name}: and {sheet.more} more", err=True)
        click.echo(write_sheet(sheet.configuration), nl=False)
    raise SystemExit(1 if sheet.errors else 0)
