"""``zensur ping``: pings on the model answer, or on sheets."""

import json
from pathlib import Path

import click
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from ..core.lab import ExpectedPing, Kind, Lab, Outcome
from ..core.sim import Network, all_pairs, rows, target
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


@click.command(epilog="Example: zensur ping two-banks.lab.yaml --sheets paper/ --from ana --to quay:lo0")
@click.argument("lab", type=FILE)
@click.option("--sheets", type=FOLDER, help="A folder of sheets, laid over what is given.")
@click.option("--from", "senders", multiple=True, metavar="X", help="A device that pings; goes with --to.")
@click.option("--to", "targets", multiple=True, metavar="Y", help="A device, DEVICE:PORT or address.")
@click.option(
    "--source", "sources", multiple=True, metavar="P", help="The source port, for each --from in turn."
)
@click.option("--pairs", type=FILE, help="JSON: a list of {from, to, source}.")
@click.option("--all-pairs", "everything", is_flag=True, help="Every device to every address.")
@of_stage
@click.option("--learner", help="Whose values of --values are meant.")
@click.option("--fresh", is_flag=True, help="A fresh translation table for each ping.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
def ping(
    lab: Path,
    sheets: Path | None,
    senders: tuple[str, ...],
    targets: tuple[str, ...],
    sources: tuple[str, ...],
    pairs: Path | None,
    everything: bool,
    stage: str | None,
    values: Path | None,
    learner: str | None,
    fresh: bool,
    as_json: bool,
) -> None:
    """Ping on LAB: its own pings and service checks, those named, those of a file, or all there are.

    Without --sheets on the model answer. Nothing is translated yet, so --fresh changes nothing yet.
    """
    loaded = load_lab(lab, stage, values_of(values, learner))
    model = Network.of_lab(loaded, loaded.model)
    network = Network.of_lab(loaded, load_sheets(sheets, loaded)) if sheets else model
    if not loaded.answered:  # a learner's edition: its own sheets are all there is to say where devices are
        model = network
    if everything:
        _all_pairs(loaded, network, model, senders, as_json)
        return
    asked = _asked(loaded, model, senders, targets, sources, pairs)
    listed = asked is None
    found = rows(network, model, loaded.pings if asked is None else asked, listed)
    checked = rows(network, model, loaded.services) if listed else []
    if as_json:
        print_json({"lab": loaded.id, "pings": found, "services": checked})
    else:
        _print([*found, *checked])
    raise SystemExit(1 if any(row["as_expected"] is False for row in (*found, *checked)) else 0)


def _all_pairs(lab: Lab, network: Network, model: Network, named: tuple[str, ...], as_json: bool) -> None:
    """Print the matrix of outcomes; whole rows only for the devices named by ``--from``."""
    console = Console(stderr=True)
    with Progress(console=console, transient=True, disable=not console.is_terminal) as bar:
        task = bar.add_task("pinging", total=len(lab.devices))
        matrix = all_pairs(network, model, lambda _: bar.advance(task))
    for name in named:
        if name.lower() not in (s.lower() for s in matrix.sources):
            unusable(f"{name} cannot ping; there are {', '.join(matrix.sources)}.")
    pings = [ExpectedPing(a, name, "reply", to=a) for name in named for a in matrix.addresses]
    found = rows(network, model, pings, listed=False)
    if as_json:
        outcomes = [[o.value for o in row] for row in matrix.outcomes]
        print_json(
            {
                "lab": lab.id,
                "sources": matrix.sources,
                "addresses": matrix.addresses,
                "outcomes": outcomes,
                "pings": found,
            }
        )
        return
    table = Table(box=None, pad_edge=False, header_style="bold")
    for title in ("from", "gets a reply from", "and not from"):
        table.add_column(title)
    for source, row in zip(matrix.sources, matrix.outcomes, strict=True):
        lost = [
            f"{address} ({holder}): {outcome.value}"
            for address, holder, outcome in zip(matrix.addresses, matrix.holders, row, strict=True)
            if outcome is not Outcome.REPLY
        ]
        some = "; ".join(lost[:4]) + (f"; and {len(lost) - 4} more" if len(lost) > 4 else "")
        table.add_row(source, f"{len(row) - len(lost)} of {len(row)}", some or "none")
    print_table(table)
    if found:
        _print(found)


def _asked(
    lab: Lab,
    model: Network,
    senders: tuple[str, ...],
    targets: tuple[str, ...],
    sources: tuple[str, ...],
    pairs: Path | None,
) -> list[ExpectedPing] | None:
    """Return the pings named on the command line; None where the lab's own are meant."""
    if len(senders) != len(targets):
        unusable("Each --from needs its --to.")
    if len(sources) > len(senders):
        unusable("There are more --source than --from.")
    named: list[tuple[str, str, str | None]] = [
        (s, t, sources[n] if n < len(sources) else None)
        for n, (s, t) in enumerate(zip(senders, targets, strict=True))
    ]
    if pairs is not None:
        named += _pairs(pairs)
    if not named and pairs is None:
        return None
    for sender, to, _ in named:
        device = lab.device(sender)
        if device is None or (device.kind is Kind.SWITCH and target(model, model, sender) is None):
            unusable(f"{sender} cannot ping; there are {', '.join(lab.devices)}.")
        if target(model, model, to) is None:
            unusable(f"{to} is no address, and no device or port that has one in the model answer.")
    return [ExpectedPing(str(n), s, "reply", source, to=t) for n, (s, t, source) in enumerate(named, 1)]


def _pairs(path: Path) -> list[tuple[str, str, str | None]]:
    try:
        return [(p["from"], p["to"], p.get("source")) for p in json.loads(path.read_text("utf-8"))]
    except (ValueError, KeyError, TypeError, AttributeError):
        unusable(f'{path}: a list such as [{{"from": "ana", "to": "10.64.8.1"}}] is wanted.')


def _print(found: list[dict[str, object]]) -> None:
    table = Table(box=None, pad_edge=False, header_style="bold")
    for title in ("from", "to", "address", "outcome", "as expected", "where and why"):
        table.add_column(title)
    words = {True: "yes", False: "NO", None: ""}
    for row in found:
        expected = row["as_expected"]
        table.add_row(
            f"{row['from']}{' ' + str(row['source']) if row['source'] else ''}",
            str(row.get("to") or row.get("open") or row.get("resolve")),
            str(row["address"]),
            str(row["outcome"]),
            words[expected if isinstance(expected, bool) else None],
            str(row["detail"]),
        )
    print_table(table)
