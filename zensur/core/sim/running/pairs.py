"""Every device to every address: a matrix of outcomes."""

from collections.abc import Callable
from dataclasses import dataclass

from ...lab import Outcome
from ..network import Network
from ..numbers import written
from .outcomes import OutcomeCache


@dataclass(frozen=True, slots=True)
class Matrix:
    """Outcomes by source node (rows) and address (columns); ``holders`` are the addresses' nodes."""

    sources: tuple[str, ...]
    addresses: tuple[str, ...]
    holders: tuple[str, ...]
    outcomes: tuple[tuple[Outcome, ...], ...]


def all_pairs(network: Network, model: Network, progress: Callable[[str], object] | None = None) -> Matrix:
    """Ping every address that the model answer gives a node, from every node but switches without an address.

    Every ping has translation tables of its own. ``progress`` is told the name of each source when its row
    begins.
    """
    held = [(a, number) for number in model.nodes for a in model.own(number)]
    sources = [n for n in network.nodes if _may_ask(network, model, n)]
    cache = OutcomeCache(network)
    outcomes = []
    for source in sources:
        if progress is not None:
            progress(network.name(source))
        outcomes.append(tuple(cache.outcome(source, address) for address, _ in held))
    return Matrix(
        tuple(network.name(n) for n in sources),
        tuple(written(a) for a, _ in held),
        tuple(model.name(n) for _, n in held),
        tuple(outcomes),
    )


def _may_ask(network: Network, model: Network, node: int) -> bool:
    if node in model.nodes and model.own(node):
        return True
    return not network.devices[network.nodes[node].device].is_switch and bool(network.nodes[node].ports)
