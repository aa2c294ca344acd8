"""``zensur journey``: a ping followed leg by leg, as text."""

from pathlib import Path

import click

from ..core.sim import Leg, Runs, journey, row
from .asking import Ordered, load_network, named_pings, of_network, of_pings
from .inputs import FILE, print_json, unusable

_HEADS = {"there": "There", "back": "And back", "error": "The error about it"}


@click.command(
    "journey", cls=Ordered, epilog="Example: zensur journey two-banks.lab.yaml --from ana --to quay:lo0"
)
@click.argument("lab", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON document.")
@of_pings
@of_network
def tell_journey(
    lab: Path,
    as_json: bool,
    sheets: Path | None,
    senders: tuple[str, ...],
    targets: tuple[str, ...],
    sources: tuple[str, ...],
    pairs: Path | None,
    stage: str | None,
    values: Path | None,
    learner: str | None,
) -> None:
    """Follow the pings of LAB, or those named, leg by leg: which line decided, what was translated, where it ended.

    Without --sheets on the model answer.
    """
    loaded = load_network(lab, sheets, stage, values, learner)
    asked = named_pings(loaded, senders, targets, sources, pairs)
    runs = Runs(loaded.network, loaded.model, loaded.lab.expected if asked is None else asked)
    if not len(runs):
        unusable(f"{lab}: it has no pings; name one with --from and --to.")
    told = [(row(loaded.network, ran), tuple(journey(loaded.network, ran.result))) for ran in runs.values()]
    if as_json:
        print_json({"lab": loaded.lab.id, "journeys": [{"ping": r, "legs": legs} for r, legs in told]})
        return
    for found, legs in told:
        detail = found.detail[:1].upper() + found.detail[1:]
        click.echo(f"{found.from_} to {found.wanted}: {found.outcome.value}. {detail}.")
        way = ""
        for leg in legs:
            if leg.way != way:
                way = leg.way
                click.echo(f"  {_HEADS[way]}:")
            click.echo(_told(leg))
        click.echo()


def _told(leg: Leg) -> str:
    """Tell a leg: the sentence, the lines that decided, and what was translated."""
    lines = [f"  {leg.number:>3}. {leg.sentence}"]
    for line in leg.lines:
        where = f"{line.file}, line {line.line}: " if line.file and line.line else ""
        lines.append(f"       {where}{line.text}")
    lines += [f"       {r.end} {r.before} becomes {r.after}: {r.kind}" for r in leg.rewritten]
    return "\n".join(lines)
