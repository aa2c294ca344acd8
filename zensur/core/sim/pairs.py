"""Every device to every address: a matrix of outcomes."""

from collections.abc import Callable
from dataclasses import dataclass

from ..lab import Outcome
from .device import dotted
from .network import Network
from .ping import ping


@dataclass(frozen=True, slots=True)
class Matrix:
    """Outcomes by source device (rows) and address (columns); ``holders`` are the addresses' devices."""

    sources: tuple[str, ...]
    addresses: tuple[str, ...]
    holders: tuple[str, ...]
    outcomes: tuple[tuple[Outcome, ...], ...]


def all_pairs(network: Network, model: Network, progress: Callable[[str], object] | None = None) -> Matrix:
    """Ping every address that the model answer gives a device, from every router, host, and switch with an address.

    ``progress`` is told the name of each source when its row begins. What a device decides for an
    address is worked out once, whoever asks, so that the cost is that of the walks.
    """
    wiring = network.wiring
    held = [(a, number) for number in range(len(wiring.names)) for a in model.own(number)]
    sources = [n for n in range(len(wiring.names)) if model.own(n) or not wiring.is_switch[n]]
    outcomes = []
    for source in sources:
        if progress is not None:
            progress(wiring.names[source])
        outcomes.append(tuple(ping(network, source, address).outcome for address, _ in held))
    return Matrix(
        tuple(wiring.names[n] for n in sources),
        tuple(dotted(a) for a, _ in held),
        tuple(wiring.names[n] for _, n in held),
        tuple(outcomes),
    )
