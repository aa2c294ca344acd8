"""``zensur export``: a lab as a real network, its packets as a file, its topology and its address plan."""

from pathlib import Path

import click

from ..core.export import capture, modelled, namespaces_script, own_pings
from ..core.formats import plan_csv, topology_json
from ..core.sim import Runs
from .asking import Ordered, load_network, named_pings, of_network, of_pings
from .inputs import FILE, OUTPUT, unusable, write_bytes


@click.command(
    cls=Ordered, epilog="Example: zensur export two-banks.lab.yaml --as linux-namespaces -o two-banks.sh"
)
@click.argument("lab", type=FILE)
@click.option(
    "--as",
    "form",
    type=click.Choice(["linux-namespaces", "pcapng", "topology-json", "csv", "yang-json"]),
    required=True,
    help="A script that builds it on a Linux machine, the packets of its pings, its topology (RFC 8345), its "
    "address plan, or an archive with the configuration of every device as YANG data.",
)
@click.option("-o", "--output", type=OUTPUT, required=True, help="The file to write.")
@of_pings
@of_network
def export(
    lab: Path,
    form: str,
    output: Path,
    sheets: Path | None,
    senders: tuple[str, ...],
    targets: tuple[str, ...],
    sources: tuple[str, ...],
    pairs: Path | None,
    stage: str | None,
    values: Path | None,
    learner: str | None,
) -> None:
    """Write LAB in another form: with its own pings and checks, or those named.

    Without --sheets the model answer. Exits 1 where something had to be left out; the file says what.
    """
    loaded = load_network(lab, sheets, stage, values, learner)
    if form in _OF_LABS:
        write_bytes(output, _OF_LABS[form](loaded.lab).encode())
        click.echo(f"{output} is written.")
        return
    if form == "yang-json":
        write_bytes(output, modelled(loaded.lab, loaded.configurations))
        click.echo(f"{output} is written; README.txt in it says what is left to be done by hand.")
        return
    asked = named_pings(loaded, senders, targets, sources, pairs)
    runs = Runs(loaded.network, loaded.model, loaded.lab.expected if asked is None else asked)
    if form == "pcapng":
        if not len(runs):
            unusable(f"{lab}: it has no pings; name one with --from and --to.")
        write_bytes(output, capture(loaded.network, runs.values()))
        click.echo(f"{output} is written: {len(runs)} sections, one for each ping or check.")
        return
    script = namespaces_script(loaded.network, own_pings(loaded.network, loaded.model, runs.asked.values()))
    write_bytes(output, script.encode())
    left_out = "\n# Left out:\n" in script
    click.echo(f"{output} is written{'; its first lines say what is left out' if left_out else ''}.")
    raise SystemExit(1 if left_out else 0)


_OF_LABS = {"topology-json": topology_json, "csv": plan_csv}
"""The forms that hold the lab and its model answer, and nothing of a run."""
