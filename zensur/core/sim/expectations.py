"""The pings and service checks of a lab, or named by the user, run; and their rows in the shape of ``ping --json``."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from ..lab import Expected, ExpectedPing, ExpectedService, Outcome
from .device import dotted
from .ending import ending
from .network import Network
from .packets import Reason
from .ping import Ping, ping
from .services import Checked, check_service
from .targets import answered_by, own_source, seen_as_wanted, target


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


def run(network: Network, model: Network, asked: ExpectedPing, listed: bool = True) -> Run:
    """Run one ping on a network; whom it goes to is resolved against the model answer."""
    number = network.wiring.device[asked.sender.lower()]
    destination = target(model, asked.to)
    source, fits = own_source(network, asked)
    if destination is None or not fits:
        result = Ping(number, destination or 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, number)
    else:
        result = ping(network, number, destination, source)
    return Run(asked, result, listed, seen_as_wanted(model, asked, result))


def run_any(network: Network, model: Network, asked: Expected, group: Iterable[Expected] = ()) -> AnyRun:
    """Run a ping or a service check of the lab.

    ``group`` are the others of its group of ``distinct``: none of them may be seen with the same source.
    """
    ran = _run_one(network, model, asked)
    others = {_run_one(network, model, other).result.seen_as for other in group if other is not asked}
    if ran.result.seen_as is not None and ran.result.seen_as in others:
        return replace(ran, seen_as_fits=False)
    return ran


def _run_one(network: Network, model: Network, asked: Expected) -> AnyRun:
    if isinstance(asked, ExpectedService):
        return check_service(network, model, asked)
    assert isinstance(asked, ExpectedPing)
    return run(network, model, asked)


def group_of(asked: Expected, among: Iterable[Expected]) -> list[Expected]:
    """Return the pings or checks of the same group of ``distinct``."""
    return [] if asked.distinct is None else [other for other in among if other.distinct == asked.distinct]


def row(network: Network, ran: AnyRun) -> dict[str, object]:
    """Return the row of ``ping --json``; ``detail`` says in a sentence where and why it ended."""
    names, result, asked = network.wiring.names, ran.result, ran.asked
    ended = ran.outcome if isinstance(ran, Checked) else result.outcome
    refused = ended.value == "refused"
    return {
        "from": asked.sender,
        "source": asked.source,
        **_wanted(asked),
        "address": _address(ran),
        "outcome": ended.value,
        "reason": "refused" if refused else result.reason.value if result.reason else None,
        "by": answered_by(network, result) if refused else None if result.by is None else names[result.by],
        "seen_as": None if result.seen_as is None else dotted(result.seen_as),
        "answered_by": answered_by(network, result),
        "expect": asked.expect if ran.listed else None,
        "as_expected": ran.as_expected,
        "there": [names[d] for d in result.there],
        "back": [names[d] for d in result.back],
        "warnings": [Reason.DUPLICATE_ADDRESS.value] if result.duplicates else [],
        "detail": ran.detail if isinstance(ran, Checked) else ending(network, result),
    }


def _wanted(asked: Expected) -> dict[str, object]:
    if isinstance(asked, ExpectedService):
        return {"open": asked.open} if asked.open is not None else {"resolve": asked.resolve}
    assert isinstance(asked, ExpectedPing)
    return {"to": asked.to}


def _address(ran: AnyRun) -> str | None:
    if isinstance(ran, Checked) and ran.asked.resolve is not None:
        return dotted(ran.addresses[0]) if ran.addresses else None
    return dotted(ran.result.destination) if ran.result.destination else None


def rows(
    network: Network, model: Network, pings: Sequence[Expected], listed: bool = True
) -> list[dict[str, object]]:
    """Run pings or checks in their order and return their rows; ``listed`` says whether the lab expects something."""
    runs = (run_any(network, model, asked, group_of(asked, pings)) for asked in pings)
    return [row(network, ran if listed else replace(ran, listed=False)) for ran in runs]
