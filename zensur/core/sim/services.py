"""Service checks: a service opened, or a name looked up (RFC 1035), by the same walk as a ping."""

from dataclasses import dataclass

from ..lab import Answer, ExpectedService, Outcome
from .device import dotted
from .ending import ending
from .network import Network
from .packets import Reason
from .ping import Ping, ping
from .serving import DNS_PORT
from .targets import own_source, parsed, seen_as_wanted, target

MOST_ASKED = 8

_OUTCOMES = {
    Outcome.TIMEOUT: Answer.TIMEOUT,
    Outcome.UNREACHABLE: Answer.UNREACHABLE,
    Outcome.NO_ROUTE: Answer.NO_ROUTE,
}


@dataclass(frozen=True, slots=True)
class Checked:
    """A service check with what came of it. ``result`` is the last walk that was made.

    ``addresses`` are those of the name, where one was looked up.
    """

    asked: ExpectedService
    outcome: Answer
    result: Ping
    addresses: tuple[int, ...] = ()
    detail: str = ""
    seen_as_fits: bool = True
    listed: bool = True

    @property
    def outcome_fits(self) -> bool:
        """Whether the outcome is the expected one, whoever answered."""
        if self.result.duplicates:
            return False
        if self.asked.expect == "no-answer":
            return self.outcome is not Answer.ANSWER
        if self.outcome is not Answer.ANSWER:
            return False
        return self.asked.resolve is None or self.asked.expect in map(dotted, self.addresses)

    @property
    def as_expected(self) -> bool | None:
        """Whether outcome, source seen and answering device are as the lab expects."""
        return self.outcome_fits and self.seen_as_fits if self.listed else None


def check_service(network: Network, model: Network, asked: ExpectedService) -> Checked:
    """Run one service check; a device as target is resolved against the model answer."""
    sender = network.wiring.device[asked.sender.lower()]
    source, fits = own_source(network, asked)
    if not fits:
        return Checked(asked, Answer.NO_ROUTE, Ping(sender, 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, sender))
    if asked.resolve is not None:
        return _looked_up(network, sender, asked, asked.resolve)
    protocol, holder, number = parsed(asked.open or "")
    address = target(model, holder)
    addresses: tuple[int, ...] = ()
    if address is None:
        found = _looked_up(network, sender, asked, holder)
        if found.outcome is not Answer.ANSWER:
            return found
        addresses = found.addresses
    tried = [ping(network, sender, a, source) for a in ((address,) if address is not None else addresses)]
    result = next((t for t in tried if t.outcome is Outcome.REPLY), tried[0])
    return _opened(network, model, asked, result, (protocol, number), addresses)


def _opened(
    network: Network,
    model: Network,
    asked: ExpectedService,
    result: Ping,
    wanted: tuple[str, int],
    addresses: tuple[int, ...],
) -> Checked:
    if result.outcome is not Outcome.REPLY:
        return Checked(asked, _OUTCOMES[result.outcome], result, addresses, ending(network, result))
    device = network.devices[result.request.device if result.request else result.sender]
    said = f"{wanted[0]} {wanted[1]}"
    if wanted not in device.serving.services:
        return Checked(asked, Answer.REFUSED, result, addresses, f"{device.name} has no service {said}")
    fits = seen_as_wanted(model, asked, result)
    return Checked(asked, Answer.ANSWER, result, addresses, f"{device.name} answers {said}", fits)


def _looked_up(network: Network, sender: int, asked: ExpectedService, name: str) -> Checked:
    """Ask the device's name servers one after another; only silence passes on to the next."""
    silent: Checked | None = None
    for resolver in network.devices[sender].serving.resolvers:
        found = _ask(network, sender, resolver, asked, name.lower().removesuffix("."), MOST_ASKED)
        if found.outcome is not Answer.TIMEOUT:
            return found
        silent = silent or found
    if silent is not None:
        return silent
    nowhere = Ping(sender, 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, sender)
    who = network.wiring.names[sender]
    return Checked(asked, Answer.NO_NAME, nowhere, (), f"{who} has no resolver to ask for {name}")


def _ask(network: Network, asker: int, server: int, asked: ExpectedService, name: str, left: int) -> Checked:
    """Ask one server, which may ask another in turn."""
    walk = ping(network, asker, server)
    who = network.wiring.names[asker]
    if walk.outcome is not Outcome.REPLY:
        detail = f"{who} asks {dotted(server)} for {name}: {ending(network, walk)}"
        return Checked(asked, _OUTCOMES[walk.outcome], walk, (), detail)
    device = network.devices[walk.request.device if walk.request else asker]
    serving = device.serving
    if DNS_PORT not in serving.services or serving.names is None:
        return Checked(asked, Answer.REFUSED, walk, (), f"{device.name} answers no names")
    if name in serving.names:
        return Checked(asked, Answer.ANSWER, walk, serving.names[name], f"{device.name} knows {name}")
    if serving.ask is None or left <= 1:
        return Checked(asked, Answer.NO_NAME, walk, (), f"{device.name} has no record of {name}")
    return _ask(network, device.number, serving.ask, asked, name, left - 1)
