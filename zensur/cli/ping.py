"""``zensur ping``: pings on the model answer, or on sheets."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import click
from rich.console import Console
from rich.progress import Progress

from ..core.jsonable import fields_of
from ..core.lab import ExpectedPing, Lab, Outcome
from ..core.sim import Matrix, Network, PingRow, RunRow, Runs, all_pairs, rows, rows_of
from ..core.sim.running.expectations import circles
from .asking import Ordered, load_network, named_pings, of_network, of_pings
from .inputs import FILE, print_json, print_table, unusable


@click.command(
    cls=Ordered, epilog="Example: zensur ping two-banks.lab.yaml --sheets paper/ --from ana --to quay:lo0"
)
@click.argument("lab", type=FILE)
@of_pings
@click.option("--all-pairs", "everything", is_flag=True, help="Every device to every address.")
@of_network
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

    Without --sheets on the model answer. They are run in their order with one translation table; with --fresh
    each begins with an empty one, as every ping of --all-pairs does.
    """
    loaded = load_network(lab, sheets, stage, values, learner)
    if everything:
        _all_pairs(loaded.lab, loaded.network, loaded.model, senders, as_json)
        return
    asked = named_pings(loaded, senders, targets, sources, pairs)
    listed = asked is None
    runs = Runs(loaded.network, loaded.model, loaded.lab.expected if asked is None else asked, fresh)
    found = rows_of(loaded.network, runs, listed)
    model = Runs(loaded.model, loaded.model, runs.asked, fresh)
    for ident in [ident for ident, row in found.items() if row.as_expected]:
        if circles(ident, runs[ident], model):
            found[ident] = replace(found[ident], as_expected=False)
    if as_json:
        pings = [row for row in found.values() if isinstance(row, PingRow)]
        checks = [row for row in found.values() if not isinstance(row, PingRow)]
        print_json({"lab": loaded.lab.id, "pings": _unnamed(pings), "services": _unnamed(checks)})
    else:
        _print(list(found.values()))
    raise SystemExit(1 if any(row.as_expected is False for row in found.values()) else 0)


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
    found = rows(network, model, pings, listed=False, fresh=True)
    if as_json:
        outcomes = [[o.value for o in row] for row in matrix.outcomes]
        print_json(
            {
                "lab": lab.id,
                "sources": matrix.sources,
                "addresses": matrix.addresses,
                "outcomes": outcomes,
                "pings": _unnamed(found),
            }
        )
        return
    print_table(
        ("from", "gets a reply from", "and not from"),
        (_reached(matrix, n) for n in range(len(matrix.sources))),
    )
    if found:
        _print(found)


def _unnamed(found: Sequence[RunRow]) -> list[dict[str, Any]]:
    """Return rows without their ids: those of pings that were named by hand mean nothing."""
    return [{key: value for key, value in fields_of(row).items() if key != "id"} for row in found]


def _reached(matrix: Matrix, number: int) -> tuple[str, str, str]:
    """Say from whom a source gets a reply, and from whom not."""
    row = matrix.outcomes[number]
    lost = [
        f"{address} ({holder}): {outcome.value}"
        for address, holder, outcome in zip(matrix.addresses, matrix.holders, row, strict=True)
        if outcome is not Outcome.REPLY
    ]
    some = "; ".join(lost[:4]) + (f"; and {len(lost) - 4} more" if len(lost) > 4 else "")
    return matrix.sources[number], f"{len(row) - len(lost)} of {len(row)}", some or "none"


def _print(found: Sequence[RunRow]) -> None:
    words = {True: "yes", False: "NO", None: ""}
    print_table(
        ("from", "to", "address", "outcome", "as expected", "where and why"),
        (
            (
                f"{row.from_}{f' {row.source}' if row.source else ''}",
                row.wanted,
                str(row.address),
                row.outcome,
                words[row.as_expected],
                row.detail,
            )
            for row in found
        ),
    )
