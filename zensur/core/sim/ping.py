"""A ping: one echo request and its reply (RFC 792), both carried through every device."""

from dataclasses import dataclass

from ..lab import Outcome
from .decisions import Verb
from .network import Network
from .packets import Carried, Reason, Step, carry, report


@dataclass(frozen=True, slots=True)
class Ping:
    """What came of a ping. Devices are numbers of the wiring, addresses are numbers.

    ``request`` is None only where nothing could be sent; ``answer`` is the reply or the error that
    came back or was lost. ``by`` is the device at which it ended, for any outcome but a reply.
    """

    sender: int
    destination: int
    outcome: Outcome
    reason: Reason | None = None
    by: int | None = None
    seen_as: int | None = None
    request: Carried | None = None
    answer: Carried | None = None

    @property
    def steps(self) -> tuple[Step, ...]:
        """Every step of the request and of what came back."""
        return (self.request.steps if self.request else ()) + (self.answer.steps if self.answer else ())

    @property
    def there(self) -> list[int]:
        """The devices that handled the request."""
        return [step.device for step in self.request.steps] if self.request else [self.sender]

    @property
    def back(self) -> list[int]:
        """The devices that handled what came back."""
        return [step.device for step in self.answer.steps] if self.answer else []

    @property
    def duplicates(self) -> bool:
        """Whether more than one device owned an address that was asked for on the way."""
        if self.reason is Reason.DUPLICATE_ADDRESS:
            return True
        return any(s.decision.neighbour is not None and s.decision.neighbour.others for s in self.steps)


def ping(network: Network, sender: int, destination: int, source: int | None = None) -> Ping:
    """Ping an address from a device; ``source`` has to be one of its own addresses."""
    if source is not None and source not in network.own(sender):
        down = any(a.address == source for p in network.devices[sender].ports for a in p.addresses)
        reason = Reason.PORT_DOWN if down else Reason.NO_SOURCE
        return Ping(sender, destination, Outcome.NO_ROUTE, reason, sender)
    first = network.decide(sender, destination)
    if source is None:
        if first.verb is Verb.DELIVER or first.route is None or first.route.out is None:
            source = destination  # it never leaves the device, so that nothing depends on it
        else:
            source = network.source_for(sender, first.route.out)
    if source is None:
        return Ping(sender, destination, Outcome.NO_ROUTE, Reason.NO_SOURCE, sender)
    request = carry(network, sender, source, destination)
    if len(request.steps) == 1:
        return _at_home(request)
    if request.reason is None:
        return _answered(network, request)
    if request.error:
        error = report(network, request)
        came_back = error is not None and error.reason is None and error.device == sender
        return Ping(
            sender,
            destination,
            Outcome.UNREACHABLE if came_back else Outcome.TIMEOUT,
            request.reason,
            request.device,
            request=request,
            answer=error,
        )
    return Ping(sender, destination, Outcome.TIMEOUT, request.reason, request.device, request=request)


def _at_home(request: Carried) -> Ping:
    """Judge a request that never left the sender."""
    sender, reason = request.device, request.reason
    if reason is None:
        return Ping(sender, request.destination, Outcome.REPLY, seen_as=request.source, request=request)
    silent = Outcome.NO_ROUTE if reason is Reason.NO_ROUTE else Outcome.UNREACHABLE
    outcome = silent if request.error else Outcome.TIMEOUT
    return Ping(sender, request.destination, outcome, reason, sender, request=request)


def _answered(network: Network, request: Carried) -> Ping:
    """Carry the reply, whose source is the address that was pinged, back to where the request came from."""
    sender, far = request.steps[0].device, request.device
    answer = carry(network, far, request.destination, request.source)
    home = answer.reason is None and answer.device == sender
    reason = None if home else answer.reason or Reason.DUPLICATE_ADDRESS
    return Ping(
        sender,
        request.destination,
        Outcome.REPLY if home else Outcome.TIMEOUT,
        reason,
        None if home else answer.device,
        request.source,
        request,
        answer,
    )
