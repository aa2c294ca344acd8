"""``zensur state``: what every device knows, on the model answer or on sheets."""

from pathlib import Path

import click
from rich.table import Table

from ..core.sim import Runs, state
from ..core.sim.running.state_rows import NeighbourRow, PortRow, RouteRow, TranslationRow
from .asking import load_network, of_network
from .inputs import FILE, print_json, print_table, unusable


@click.command("state", epilog="Example: zensur state two-banks.lab.yaml --device weir")
@click.argument("lab", type=FILE)
@click.option("--device", metavar="D", help="Only this device.")
@of_network
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def show_state(
    lab: Path,
    sheets: Path | None,
    device: str | None,
    stage: str | None,
    values: Path | None,
    learner: str | None,
    as_json: bool,
) -> None:
    """Show ports, routes, neighbours, translations, leases and names of the devices of LAB.

    Without --sheets on the model answer. Neighbours and translations are those of the lab's own pings.
    """
    loaded = load_network(lab, sheets, stage, values, learner)
    found = state(loaded.network, Runs(loaded.network, loaded.model, loaded.lab.expected))
    if device is not None:
        own = loaded.lab.device(device)
        if own is None:
            unusable(f"There is no device {device}; there are {', '.join(loaded.lab.devices)}.")
        found = {own.name: found[own.name]}
    if as_json:
        print_json({"devices": found})
        return
    for name, known in found.items():
        click.echo(click.style(name, bold=True))
        _table("port", ("state", "addresses", "far end"), [_port(p) for p in known.ports])
        _table("route", ("origin", "preference", "way", "active"), [_route(r) for r in known.routes])
        _table("neighbour", ("port", "answers"), [_neighbour(n) for n in known.neighbours])
        translations = [_translation(t) for t in known.translations]
        _table("internal", ("external", "kind", "protocol", "other end"), translations)
        _table("lease", ("given to", "from"), [(e.address, e.client, e.pool) for e in known.leases])
        _table(
            "leased",
            ("address", "given by"),
            [(e.port, e.address, e.server) for e in known.leased],
        )
        _table("name", ("address",), [(n.name, n.address) for n in known.names])
        click.echo()


def _table(first: str, others: tuple[str, ...], rows: list[tuple[str, ...]]) -> None:
    if not rows:
        return
    table = Table(box=None, pad_edge=False, header_style="dim")
    for title in (first, *others):
        table.add_column(title)
    for row in rows:
        table.add_row(*row)
    print_table(table)


def _port(port: PortRow) -> tuple[str, ...]:
    said = "up" if port.up else f"down: {port.why}"
    return port.name, said, ", ".join(port.addresses), port.far_end or ""


def _route(route: RouteRow) -> tuple[str, ...]:
    ways = [
        f"via {route.next_hop}" if route.next_hop else "",
        f"out {route.port}" if route.port else "",
    ]
    way = " ".join(w for w in ways if w) or "discard"
    return (
        route.prefix,
        route.origin,
        str(route.preference),
        way,
        "yes" if route.active else f"no: {route.why}",
    )


def _translation(row: TranslationRow) -> tuple[str, ...]:
    kind = f"{row.kind}, standing" if row.standing else row.kind
    return row.internal, row.external, kind, row.protocol or "any", row.remote or ""


def _neighbour(neighbour: NeighbourRow) -> tuple[str, ...]:
    said = f"{neighbour.device}:{neighbour.device_port}" + (" for it" if neighbour.proxy else "")
    return neighbour.address, neighbour.port, said
