"""Who pings whom on the command line, and on which network."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

import click

from ..core.lab import Expected, ExpectedPing, Kind, Lab
from ..core.marking.reading.chosen import as_handed_in
from ..core.sheet import Configuration
from ..core.sim import Network, target
from ..core.sim.numbers import is_link_local
from ..core.sim.running.targets import on_port
from .inputs import FILE, FOLDER, Verb, load_lab, load_sheets, of_stage, unusable, values_of


class Ordered(click.Command):
    """A verb that knows in which order its options stand, so that each --source belongs to the --from before it."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Parse as always, and remember the order."""
        _, _, order = self.make_parser(ctx).parse_args(args=list(args))
        ctx.meta[_ORDER] = [parameter.name for parameter in order]
        return super().parse_args(ctx, args)


_ORDER = "zensur.order"


def of_network(verb: Verb) -> Verb:
    """Add the options that choose the network: sheets, a stage, the values of a learner."""
    with_learner = click.option("--learner", help="Whose values of --values are meant.")(of_stage(verb))
    return click.option("--sheets", type=FOLDER, help="A folder of sheets, laid over what is given.")(
        with_learner
    )


def of_pings(verb: Verb) -> Verb:
    """Add the options that name pings."""
    for option in (
        click.option("--pairs", type=FILE, help="JSON: a list of {from, to, source}."),
        click.option(
            "--source",
            "sources",
            multiple=True,
            metavar="P",
            help="The source port, for each --from in turn.",
        ),
        click.option("--to", "targets", multiple=True, metavar="Y", help="A device, DEVICE:PORT or address."),
        click.option(
            "--from", "senders", multiple=True, metavar="X", help="A device that pings; goes with --to."
        ),
    ):
        verb = option(verb)
    return verb


@dataclass(frozen=True, slots=True)
class Loaded:
    """A lab, the network asked for with its configurations by device, and that of the model answer."""

    lab: Lab
    network: Network
    model: Network
    configurations: Mapping[str, Configuration]


def load_network(
    lab: Path, sheets: Path | None, stage: str | None, values: Path | None, learner: str | None
) -> Loaded:
    """Compile the model answer, and the sheets where some are named.

    A learner's edition has no model answer: its own sheets are all there is to say where devices are.
    """
    loaded = load_lab(lab, stage, values_of(values, learner))
    if sheets is None:
        configurations: Mapping[str, Configuration] = loaded.model
        model = network = Network.of_lab(loaded, loaded.model)
    else:
        own, cabling = load_sheets(sheets, loaded)
        loaded, joined = as_handed_in(loaded, own, cabling)
        model = Network.of_lab(loaded, loaded.model)
        configurations = joined.with_sheets(own)
        network = Network.of_lab(joined, configurations)
    return Loaded(loaded, network, model if loaded.answered else network, configurations)


def named_pings(
    loaded: Loaded,
    senders: tuple[str, ...],
    targets: tuple[str, ...],
    sources: tuple[str, ...],
    pairs: Path | None,
) -> Mapping[str, Expected] | None:
    """Return the pings named on the command line, by number; None where the lab's own are meant."""
    if len(senders) != len(targets):
        unusable("Each --from needs its --to.")
    own = _sources(sources)
    if len(own) < len(sources) or any(n >= len(senders) for n in own):
        unusable("Each --source belongs to the --from before it, which has one at most.")
    named: list[tuple[str, str, str | None]] = [
        (s, t, own.get(n)) for n, (s, t) in enumerate(zip(senders, targets, strict=True))
    ]
    if pairs is not None:
        named += _pairs(pairs)
    if not named and pairs is None:
        return None
    return {str(n): _named(loaded, n, *one) for n, one in enumerate(named, 1)}


def _sources(sources: tuple[str, ...]) -> dict[int, str]:
    """Return the source of each --from by its number; one before any --from belongs to the first."""
    found: dict[int, str] = {}
    at, left = -1, list(sources)
    for name in click.get_current_context().meta.get(_ORDER, []):
        if name == "senders":
            at += 1
        elif name == "sources":
            found.setdefault(max(at, 0), left.pop(0))
    return found


def _named(loaded: Loaded, number: int, sender: str, to: str, source: str | None) -> ExpectedPing:
    lab, network, model = loaded.lab, loaded.network, loaded.model
    device = lab.device(sender.partition("/")[0])
    missing = device is None or (network.find_node(sender) is None and model.find_node(sender) is None)
    if missing or (device and device.kind is Kind.SWITCH and target(model, model, sender) is None):
        unusable(f"{sender} cannot ping; there are {', '.join(lab.devices)}.")
    address = target(model, model, to)
    if address is None:
        unusable(f"{to} is no address, and no device or port that has one in the model answer.")
    scoped = is_link_local(address)
    node = network.find_node(sender)
    if scoped and node is not None and on_port(network, node, source) is None:
        unusable(
            f"{to} is a link-local address: name the port of {sender} that it is meant on with --source."
        )
    return ExpectedPing(
        str(number), sender, "reply", None if scoped else source, to=to, out=source if scoped else None
    )


def _pairs(path: Path) -> list[tuple[str, str, str | None]]:
    try:
        return [(p["from"], p["to"], p.get("source")) for p in json.loads(path.read_text("utf-8"))]
    except (ValueError, KeyError, TypeError, AttributeError):
        unusable(f'{path}: a list such as [{{"from": "ana", "to": "10.64.8.1"}}] is wanted.')
