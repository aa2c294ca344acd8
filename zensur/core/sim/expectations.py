"""The pings of a lab, or named by the user, resolved and run; and their rows in the shape of ``ping --json``."""

from collections.abc import Sequence
from dataclasses import dataclass

from ..addresses import Address, BadValue, parse_address
from ..lab import ExpectedPing, Outcome
from .device import dotted
from .ending import ending
from .network import Network
from .packets import Reason
from .ping import Ping, ping


@dataclass(frozen=True, slots=True)
class Run:
    """One ping with what was asked for and what came of it. ``expect`` is None where nothing was asked."""

    sender: str
    to: str
    source: str | None
    expect: str | None
    result: Ping

    @property
    def as_expected(self) -> bool | None:
        """Whether it went as the lab expects; None where the lab does not list it."""
        if self.expect is None:
            return None
        if self.result.duplicates:
            return False
        outcome = self.result.outcome
        return outcome is not Outcome.REPLY if self.expect == "no-reply" else outcome == self.expect


def target(model: Network, text: str) -> int | None:
    """Resolve an address, a device or a ``device:port`` against the model answer; None: it has no address.

    A device means its first IPv4 address over its ports in the order of the lab, then its loopbacks.
    """
    address = _address(text)
    if address is not None:
        return int(address) if address.version == 4 else None
    name, _, port = text.partition(":")
    number = model.wiring.device.get(name.lower())
    if number is None:
        return None
    return next(
        (
            p.addresses[0].address
            for p in model.devices[number].ports
            if p.addresses and port.lower() in ("", p.name.lower())
        ),
        None,
    )


def run(network: Network, model: Network, asked: ExpectedPing, listed: bool = True) -> Run:
    """Run one ping on a network; whom it goes to is resolved against the model answer."""
    number = network.wiring.device[asked.sender.lower()]
    expect = asked.expect if listed else None
    destination = target(model, asked.to)
    source = None
    if asked.source is not None:
        own = asked.source if _address(asked.source) else f"{asked.sender}:{asked.source}"
        source = target(network, own)
    if destination is None or (asked.source is not None and source is None):
        result = Ping(number, destination or 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, number)
    else:
        result = ping(network, number, destination, source)
    return Run(asked.sender, asked.to, asked.source, expect, result)


def _address(text: str) -> Address | None:
    try:
        return parse_address(text)
    except BadValue:
        return None


def row(network: Network, ran: Run) -> dict[str, object]:
    """Return the row of ``ping --json``; ``detail`` says in a sentence where and why it ended."""
    names, result = network.wiring.names, ran.result
    return {
        "from": ran.sender,
        "source": ran.source,
        "to": ran.to,
        "address": dotted(result.destination) if result.destination else None,
        "outcome": result.outcome.value,
        "reason": result.reason.value if result.reason else None,
        "by": None if result.by is None else names[result.by],
        "seen_as": None if result.seen_as is None else dotted(result.seen_as),
        "answered_by": names[result.request.device]
        if result.request and result.seen_as is not None
        else None,
        "expect": ran.expect,
        "as_expected": ran.as_expected,
        "there": [names[d] for d in result.there],
        "back": [names[d] for d in result.back],
        "warnings": [Reason.DUPLICATE_ADDRESS.value] if result.duplicates else [],
        "detail": ending(network, result),
    }


def rows(
    network: Network, model: Network, pings: Sequence[ExpectedPing], listed: bool = True
) -> list[dict[str, object]]:
    """Run pings in their order and return their rows; ``listed`` says whether the lab expects something."""
    return [row(network, run(network, model, asked, listed)) for asked in pings]
