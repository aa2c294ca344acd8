"""``zensur state``: what every device knows, on the model answer or on sheets."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

import click

from ..core.sim import Runs, state
from ..core.sim.running.state_rows import NeighbourRow, OfInstance, PortRow, RouteRow, TranslationRow
from .asking import load_network, of_network
from .inputs import FILE, print_json, print_table, unusable

_Row = TypeVar("_Row", bound=OfInstance)


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
        _table("port, state, addresses, far end", known.ports, _port)
        _table("route, origin, preference, way, active", known.routes, _route)
        _table("neighbour, port, answers", known.neighbours, _neighbour)
        _table("internal, external, kind, protocol, other end", known.translations, _translation)
        _table("lease, given to, from", known.leases, lambda e: (e.address, e.client, e.pool))
        _table("leased, address, given by", known.leased, lambda e: (e.port, e.address, e.server))
        _table("name, address", known.names, lambda n: (n.name, n.address))
        click.echo()


def _table(titles: str, rows: Sequence[_Row], cells: Callable[[_Row], tuple[str, ...]]) -> None:
    """Print rows as a table; with their network instances where there are any but the main one."""
    if not rows:
        return
    instances = any(row.instance for row in rows)
    print_table(
        (*titles.split(", "), *(["instance"] if instances else [])),
        ((*cells(row), *([row.instance or ""] if instances else [])) for row in rows),
        "dim",
    )


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
