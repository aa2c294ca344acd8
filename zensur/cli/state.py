"""``zensur state``: what every device knows, on the model answer or on sheets."""

from pathlib import Path
from typing import Any

import click
from rich.table import Table

from ..core.sim import Network, Runs, state
from .inputs import (
    FILE,
    FOLDER,
    load_lab,
    load_sheets,
    of_stage,
    print_json,
    print_table,
    unusable,
    values_of,
)


@click.command("state", epilog="Example: zensur state two-banks.lab.yaml --device weir")
@click.argument("lab", type=FILE)
@click.option("--sheets", type=FOLDER, help="A folder of sheets, laid over what is given.")
@click.option("--device", metavar="D", help="Only this device.")
@of_stage
@click.option("--learner", help="Whose values of --values are meant.")
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
    """Show ports, routes, neighbours and names of the devices of LAB.

    Without --sheets on the model answer. Neighbours are those that the lab's own pings have to find.
    """
    loaded = load_lab(lab, stage, values_of(values, learner))
    configurations = load_sheets(sheets, loaded) if sheets else loaded.model
    network = Network.of_lab(loaded, configurations)
    model = Network.of_lab(loaded, loaded.model) if loaded.answered else network
    found = state(network, Runs(network, model, loaded.expected))
    if device is not None:
        own = loaded.device(device)
        if own is None:
            unusable(f"There is no device {device}; there are {', '.join(loaded.devices)}.")
        found = {own.name: found[own.name]}
    if as_json:
        print_json({"devices": found})
        return
    for name, known in found.items():
        click.echo(click.style(name, bold=True))
        _table("port", ("state", "addresses", "far end"), [_port(p) for p in known["ports"]])
        _table("route", ("origin", "preference", "way", "active"), [_route(r) for r in known["routes"]])
        _table("neighbour", ("port", "answers"), [_neighbour(n) for n in known["neighbours"]])
        _table("name", ("address",), [(n["name"], n["address"]) for n in known["names"]])
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


def _port(port: dict[str, Any]) -> tuple[str, ...]:
    said = "up" if port["up"] else f"down: {port['why']}"
    return port["name"], said, ", ".join(port["addresses"]), port["far_end"] or ""


def _route(route: dict[str, Any]) -> tuple[str, ...]:
    ways = [
        f"via {route['next_hop']}" if route["next_hop"] else "",
        f"out {route['port']}" if route["port"] else "",
    ]
    way = " ".join(w for w in ways if w) or "discard"
    return (
        route["prefix"],
        route["origin"],
        str(route["preference"]),
        way,
        "yes" if route["active"] else f"no: {route['why']}",
    )


def _neighbour(neighbour: dict[str, Any]) -> tuple[str, ...]:
    said = f"{neighbour['device']}:{neighbour['device_port']}" + (" for it" if neighbour["proxy"] else "")
    return neighbour["address"], neighbour["port"], said
