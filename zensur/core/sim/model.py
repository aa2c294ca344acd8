"""The model of a lab: its model answer compiled, its runs and journeys, all worked out at once.

The server, the weave, the lab check and marking share it between threads, for it never changes: what each of them adds
is kept in networks of its own, made by :meth:`Network.with_devices`.
"""

from collections.abc import Mapping
from types import MappingProxyType

from ..lab import Lab
from .explaining.journey import Leg, journey
from .network import Network
from .running.expectations import AnyRun, Runs
from .running.rows import RunRow, row
from .wiring import Wiring


class Model:
    """A lab, or one stage of it, with all that its model answer does."""

    __slots__ = ("journeys", "lab", "network", "rows", "runs", "wiring")

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.wiring = Wiring(lab)
        self.network = Network.of_lab(lab, lab.model, self.wiring)
        network = self.network
        runs = dict(Runs(network, network, lab.expected))
        self.runs: Mapping[str, AnyRun] = MappingProxyType(runs)
        """The pings and checks of the lab by the ids of their criteria, ``ping:ID`` and ``check:ID``."""
        self.rows: Mapping[str, RunRow] = MappingProxyType({i: row(network, r) for i, r in runs.items()})
        self.journeys: Mapping[str, tuple[Leg, ...]] = MappingProxyType(
            {i: tuple(journey(network, r.result)) for i, r in runs.items()}
        )
        network.freeze()
        _work_out(lab)


def _work_out(lab: Lab) -> None:
    """Work out what a lab and its configurations otherwise work out when they are first asked."""
    for configurations in (lab.under, lab.blank, lab.base, lab.model):
        for configuration in configurations.values():
            configuration.work_out()
    for sheet in (*lab.full_paper.values(), *lab.given.values(), *lab.start.values()):
        sheet.configuration.work_out()
    lab.device("")
