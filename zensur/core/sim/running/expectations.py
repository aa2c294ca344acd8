"""The pings and service checks of a lab, or named by the user, run; and their rows in the shape of ``ping --json``."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from ...lab import Expected, ExpectedPing, ExpectedService, Outcome
from ..network import Network
from ..numbers import is_link_local, written
from ..packets import Reason
from ..ping import Ping, ping
from ..telling.ending import ending
from ..translation import Sessions
from .services import Checked, check_service
from .targets import answered_by, on_port, own_source, seen_as_wanted, sender_of, target


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
    elsewhere each when it is asked for. ``fresh`` gives each tables of its own. What is the same as in the run
    ``like`` this one, on the network that this one was made from, is taken over.
    """

    def __init__(
        self,
        network: Network,
        model: Network,
        asked: Mapping[str, Expected],
        fresh: bool = False,
        like: "Runs | None" = None,
    ) -> None:
        self.network, self.model, self.asked, self.fresh, self.like = network, model, asked, fresh, like
        self.sessions = Sessions(network) if network.translates and not fresh else None
        self._waiting = iter(asked)
        self._alone: dict[str, AnyRun] = {}
        self._found: dict[str, AnyRun] = {}
        self._visited: dict[str, Visited] = {}

    def __iter__(self) -> Iterator[str]:
        return iter(self.asked)

    def __len__(self) -> int:
        return len(self.asked)

    def __getitem__(self, ident: str) -> AnyRun:
        found = self._found.get(ident)
        if found is None:
            found = self._found[ident] = self._in_group(ident)
        return found

    def on(self, network: Network) -> "Runs":
        """Return the same pings and checks on a network that was made from this run's."""
        return Runs(network, self.model, self.asked, self.fresh, self)

    def _in_group(self, ident: str) -> AnyRun:
        """Hold one of a group of ``distinct`` against the others: none may be seen with the same source."""
        ran, asked = self._run(ident), self.asked[ident]
        if asked.distinct is None or ran.result.seen_as is None:
            return ran
        others = (o for o, other in self.asked.items() if other.distinct == asked.distinct and o != ident)
        if any(self._run(other).result.seen_as == ran.result.seen_as for other in others):
            return replace(ran, seen_as_fits=False)
        return ran

    def _run(self, ident: str) -> AnyRun:
        if ident not in self._alone:
            if self.sessions is not None:
                for other in self._waiting:
                    self._alone[other] = self._taken_over(other) or self._anew(other)
                    if other == ident:
                        break
            else:
                self._alone[ident] = self._taken_over(ident) or self._anew(ident)
        return self._alone[ident]

    def _anew(self, ident: str) -> AnyRun:
        return run_any(self.network, self.model, self.asked[ident], self.sessions)

    def _taken_over(self, ident: str) -> AnyRun | None:
        """Return what came of it in the run like this one, where no device that it passes decides otherwise.

        What passes a translating node is run anew, for what it leaves in the tables there.
        """
        like = self.like
        if like is None or self.network.translates != like.network.translates:
            return None
        ran = like._run(ident)
        visited = like.visited(ident)
        stirred = visited.devices & self.network.moved or visited.clusters & self.network.stirred
        if stirred or (self.sessions is not None and visited.translated):
            return None
        if self.sessions is not None:  # its sender's next request has the next number all the same
            for result in visited.walks:
                if result.request is not None:
                    self.sessions.number(result.sender, result.request.sent.protocol)
        return ran

    def visited(self, ident: str) -> "Visited":
        """Say which devices a ping or check depends on."""
        found = self._visited.get(ident)
        if found is None:
            found = self._visited[ident] = Visited.of(self.network, self._run(ident))
        return found


@dataclass(frozen=True, slots=True)
class Visited:
    """What a ping or check depends on: the devices that handled its packets, its sender and its target, the clusters
    in which somebody was asked for.

    ``translated`` says whether one of them has a table of translations.
    """

    devices: frozenset[int]
    clusters: frozenset[int]
    translated: bool
    walks: tuple[Ping, ...]

    @classmethod
    def of(cls, network: Network, ran: AnyRun) -> "Visited":
        """Find it out from what was run."""
        wiring, asked = network.wiring, ran.asked
        walks = tuple(w.result for w in ran.walks) if isinstance(ran, Checked) else (ran.result,)
        nodes = {step.node for walk in walks for step in walk.steps} | {walk.sender for walk in walks}
        named = (asked.sender, _holder(asked))
        devices = {wiring.device_of_node(n) for n in nodes}
        devices |= {n for word in named if (n := wiring.device.get(_device_in(word))) is not None}
        translated = any(network.nodes[n].translating is not None for n in nodes if n in network.nodes)
        asked_in = {network.asks(step.decision) for walk in walks for step in walk.steps}
        return cls(frozenset(devices), frozenset(c for c in asked_in if c is not None), translated, walks)


def _holder(asked: Expected) -> str:
    """Return who is asked, as the lab says it."""
    if isinstance(asked, ExpectedPing):
        return asked.to
    assert isinstance(asked, ExpectedService)
    return (asked.open or "").rpartition(" ")[2]


def _device_in(word: str) -> str:
    """Return what may be the name of a device in ``DEVICE``, ``BOX/INSTANCE``, ``DEVICE:PORT`` or an address."""
    return word.lower().partition(":")[0].partition("/")[0]


def row(network: Network, ran: AnyRun) -> dict[str, object]:
    """Return the row of ``ping --json``; ``detail`` says in a sentence where and why it ended."""
    result, asked = ran.result, ran.asked
    ended = ran.outcome if isinstance(ran, Checked) else result.outcome
    refused = ended.value == "refused"
    return {
        "from": asked.sender,
        "source": asked.source,
        **_wanted(asked),
        "address": _address(ran),
        "outcome": ended.value,
        "reason": "refused" if refused else result.reason.value if result.reason else None,
        "by": answered_by(network, result) if refused else _device(network, result.by),
        "seen_as": None if result.seen_as is None else written(result.seen_as),
        "answered_by": answered_by(network, result),
        "expect": asked.expect if ran.listed else None,
        "as_expected": ran.as_expected,
        "there": [network.name(n) for n in result.there],
        "back": [network.name(n) for n in result.back],
        "warnings": [Reason.DUPLICATE_ADDRESS.value] if result.duplicates else [],
        "detail": ran.detail if isinstance(ran, Checked) else ending(network, result),
    }


def _device(network: Network, node: int | None) -> str | None:
    return None if node is None else network.wiring.names[network.wiring.device_of_node(node)]


def _wanted(asked: Expected) -> dict[str, object]:
    if isinstance(asked, ExpectedService):
        return {"open": asked.open} if asked.open is not None else {"resolve": asked.resolve}
    assert isinstance(asked, ExpectedPing)
    return {"to": asked.to}


def _address(ran: AnyRun) -> str | None:
    if isinstance(ran, Checked) and ran.asked.resolve is not None:
        return written(ran.addresses[0]) if ran.addresses else None
    return written(ran.result.destination) if ran.result.destination else None


def rows_of(network: Network, runs: Runs, listed: bool = True) -> dict[str, dict[str, object]]:
    """Return the rows of a run by their ids; ``listed`` says whether the lab expects something."""
    return {ident: row(network, ran if listed else replace(ran, listed=False)) for ident, ran in runs.items()}


def rows(
    network: Network, model: Network, asked: Sequence[Expected], listed: bool = True, fresh: bool = False
) -> list[dict[str, object]]:
    """Run pings or checks in their order and return their rows."""
    runs = Runs(network, model, {str(n): one for n, one in enumerate(asked)}, fresh)
    return list(rows_of(network, runs, listed).values())
