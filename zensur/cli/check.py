"""``zensur check``: proves a lab."""

from pathlib import Path

import click

from ..core.marking import check_lab
from .inputs import FILE, load_lab, print_json


@click.command(epilog="Example: zensur check two-banks.lab.yaml")
@click.argument("lab", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def check(lab: Path, as_json: bool) -> None:
    """Prove that the model answer of LAB is complete and that every expected ping holds on it."""
    loaded = load_lab(lab)
    found = check_lab(loaded)
    if as_json:
        print_json(
            {
                "lab": loaded.id,
                "pings": found.pings,
                "holding": found.holding,
                "blank": found.blank,
                "out_of": found.out_of,
                "findings": [
                    {
                        "severity": f.severity.value,
                        "code": f.code,
                        "place": f.place,
                        "message": f.message,
                        "mend": f.mend,
                    }
                    for f in found.findings
                ],
            }
        )
    else:
        for f in found.findings:
            click.echo(f"{f.severity.value}: {f.place}: {f.message} {f.mend}".rstrip())
        click.echo(
            f"{loaded.title}: {found.holding} of {found.pings} pings hold on the model answer; "
            f"a blank paper earns {found.blank:g} of {found.out_of:g} marks."
        )
    raise SystemExit(1 if found.errors else 0)
