"""The pings and service checks of a lab, or named by the user, run; and their rows in the shape of ``ping --json``."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from ...lab import Expected, ExpectedPing, ExpectedService, Outcome
from ..network import Network
from ..numbers import is_link_local
from ..packets import CIRCLES, Reason
from ..ping import Ping, ping
from ..translation import Sessions
from .services import Checked, check_service
from .targets import on_port, own_source, seen_as_wanted, sender_of, target


@dataclass(frozen=True, slots=True)
class Run:
    """One ping with what was asked for and what came of it; ``listed`` says whether the lab expects it.

    ``seen_as_fits`` says whether source seen and answering device are the expected ones.
    """

    asked: ExpectedPing
    result: Ping
    listed: bool = True
    seen_as_fits: bool = True

    @property
    def outcome_fits(self) -> bool:
        """Whether the outcome is the expected one, whoever answered."""
        if self.result.duplicates:
            return False
        expect, outcome = self.asked.expect, self.result.outcome
        return outcome is not Outcome.REPLY if expect == "no-reply" else outcome == expect

    @property
    def as_expected(self) -> bool | None:
        """Whether it went as the lab expects; None where the lab does not list it."""
        return self.outcome_fits and self.seen_as_fits if self.listed else None


AnyRun = Run | Checked
"""A ping or a service check that was run."""


def run(network: Network, model: Network, asked: ExpectedPing, sessions: Sessions | None = None) -> Run:
    """Run one ping on a network; whom it goes to is resolved against the model answer."""
    destination = target(network, model, asked.to, asked.family)
    result = _ping(network, asked, destination, sessions)
    return Run(asked, result, True, seen_as_wanted(network, model, asked, result))


def _ping(network: Network, asked: ExpectedPing, destination: int | None, sessions: Sessions | None) -> Ping:
    node = sender_of(network, asked)
    if node is None or destination is None:
        device = network.find_node(asked.sender.partition("/")[0]) if node is None else node
        assert device is not None  # the lab file was checked
        return Ping(device, destination or 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, device)
    source, fits = own_source(network, node, asked, destination)
    on = on_port(network, node, asked.out) if is_link_local(destination) else None
    if not fits or (is_link_local(destination) and on is None):
        return Ping(node, destination, Outcome.NO_ROUTE, Reason.NO_SOURCE, node)
    return ping(network, node, destination, source, on, sessions)


def run_any(network: Network, model: Network, asked: Expected, sessions: Sessions | None = None) -> AnyRun:
    """Run a ping or a service check of the lab."""
    if isinstance(asked, ExpectedService):
        return check_service(network, model, asked, sessions)
    assert isinstance(asked, ExpectedPing)
    return run(network, model, asked, sessions)


class Runs(Mapping[str, AnyRun]):
    """Pings and checks of one run on a network, by their ids, each run once.

    Where addresses are translated what went before decides, so that all before it are run first, in their order;
    elsewhere each when it is asked for. ``fresh`` gives each tables of its own.
    """

    def __init__(
        self, network: Network, model: Network, asked: Mapping[str, Expected], fresh: bool = False
    ) -> None:
        self.network, self.model, self.asked = network, model, asked
        self.sessions = Sessions(network) if network.translates and not fresh else None
        self._waiting = iter(asked)
        self._found: dict[str, AnyRun] = {}

    def __iter__(self) -> Iterator[str]:
        return iter(self.asked)

    def __len__(self) -> int:
        return len(self.asked)

    def __getitem__(self, ident: str) -> AnyRun:
        return told_apart(self._run, self.asked, ident)

    def _run(self, ident: str) -> AnyRun:
        if ident not in self._found:
            for other in self._waiting if self.sessions is not None else (ident,):
                self._found[other] = run_any(self.network, self.model, self.asked[other], self.sessions)
                if other == ident:
                    break
        return self._found[ident]


def circles(ident: str, ran: AnyRun, model: Mapping[str, AnyRun]) -> bool:
    """Whether a packet went round in a circle, as the model answer's does not: that fulfils no expected failure.

    ``model`` holds the runs of the model answer; they are asked for only where there is a circle.
    """
    return ran.result.reason in CIRCLES and model[ident].result.reason not in CIRCLES


def told_apart(run_of: Callable[[str], AnyRun], asked: Mapping[str, Expected], ident: str) -> AnyRun:
    """Hold a run against the others of its group of ``distinct``: none may be seen with the same source."""
    ran, group = run_of(ident), asked[ident].distinct
    if group is None or ran.result.seen_as is None:
        return ran
    others = (other for other, one in asked.items() if one.distinct == group and other != ident)
    if any(run_of(other).result.seen_as == ran.result.seen_as for other in others):
        return replace(ran, seen_as_fits=False)
    return ran
