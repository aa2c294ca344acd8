"""A ping: one echo request and its reply (RFC 792, RFC 4443), both carried through every node.

A service check is the same walk with a packet of TCP or UDP.
"""

from dataclasses import dataclass, field

from ..lab import Outcome
from .decisions import Action
from .network import Network
from .numbers import is_link_local
from .packets import NO_TRANSLATION, Carried, Packet, Reason, Step, Translator, carry, report
from .ports import IpPort
from .translation import Sessions


@dataclass(frozen=True, slots=True)
class Ping:
    """What came of a ping. Nodes are numbers of the network, addresses are numbers.

    ``request`` is None only where nothing could be sent; ``answer`` is the reply or the error that
    came back or was lost. ``by`` is the node at which it ended, for any outcome but a reply.
    """

    sender: int
    destination: int
    outcome: Outcome
    reason: Reason | None = None
    by: int | None = None
    seen_as: int | None = None
    request: Carried | None = None
    answer: Carried | None = None
    duplicates: bool = field(init=False, compare=False)
    """Whether more than one node owned an address that was asked for on the way."""

    def __post_init__(self) -> None:
        twice = self.reason is Reason.DUPLICATE_ADDRESS
        for step in self.steps:
            neighbour = step.decision.neighbour
            if neighbour is not None and neighbour.others:
                twice = True
        object.__setattr__(self, "duplicates", twice)

    @property
    def steps(self) -> tuple[Step, ...]:
        """Every step of the request and of what came back."""
        return (self.request.steps if self.request else ()) + (self.answer.steps if self.answer else ())

    @property
    def there(self) -> list[int]:
        """The nodes that handled the request."""
        return [step.node for step in self.request.steps] if self.request else [self.sender]

    @property
    def back(self) -> list[int]:
        """The nodes that handled what came back."""
        return [step.node for step in self.answer.steps] if self.answer else []


def ping(
    network: Network,
    sender: int,
    destination: int,
    source: int | None = None,
    on: IpPort | None = None,
    sessions: Sessions | None = None,
    to: tuple[str, int] = ("icmp", 0),
) -> Ping:
    """Ping an address from a node; ``source`` has to be one of its own addresses.

    A link-local destination is meant ``on`` a port. Without ``sessions`` every ping has tables of its own.
    ``to`` is the protocol and the port number asked for; an echo has none.
    """
    reason, source = _source(network, sender, destination, source, on)
    if source is None:
        return Ping(sender, destination, Outcome.NO_ROUTE, reason, sender)
    translator: Translator = NO_TRANSLATION
    protocol, number = to
    own_number = 0
    if network.translates:
        translator = sessions = sessions or Sessions(network)
        own_number = sessions.number(sender, protocol)
    packet = Packet(source, destination, protocol, own_number, number or own_number)
    request = carry(network, sender, packet, translator, on)
    if len(request.steps) == 1:
        return _at_home(request)
    if request.reason is None:
        return _answered(network, request, translator)
    if request.error:
        error = report(network, request, translator)
        came_back = error is not None and error.reason is None and error.node == sender
        return Ping(
            sender,
            destination,
            Outcome.UNREACHABLE if came_back else Outcome.TIMEOUT,
            request.reason,
            request.node,
            request=request,
            answer=error,
        )
    return Ping(sender, destination, Outcome.TIMEOUT, request.reason, request.node, request=request)


def _source(
    network: Network, sender: int, destination: int, source: int | None, on: IpPort | None
) -> tuple[Reason, int | None]:
    """Find the address to send from; else say why there is none."""
    if source is not None:
        if source in network.own(sender) or any(p.bears(source) for p in network.up_ports(sender)):
            return Reason.NO_SOURCE, source
        down = any(p.bears(source) for p in network.nodes[sender].ports)
        return Reason.PORT_DOWN if down else Reason.NO_SOURCE, None
    if is_link_local(destination) and on is not None and not network.is_up(on):
        return Reason.PORT_DOWN, None
    first = network.decide(sender, destination, on)
    if first.action is Action.DELIVER or first.route is None or first.route.out is None:
        return Reason.NO_SOURCE, destination  # it never leaves the node, so that nothing depends on it
    return Reason.NO_SOURCE, network.source_for(sender, first.route.out, destination)


def _at_home(request: Carried) -> Ping:
    """Judge a request that never left the sender."""
    sender, reason = request.node, request.reason
    if reason is None:
        return Ping(sender, request.destination, Outcome.REPLY, seen_as=request.source, request=request)
    silent = Outcome.NO_ROUTE if reason is Reason.NO_ROUTE else Outcome.UNREACHABLE
    outcome = silent if request.error else Outcome.TIMEOUT
    return Ping(sender, request.destination, outcome, reason, sender, request=request)


def _answered(network: Network, request: Carried, translator: Translator) -> Ping:
    """Carry the answer, whose source is the address that was asked there, back to where the request came from."""
    sender, far, arrived = request.steps[0].node, request.node, request.arrived
    back_on = network.port(request.steps[-1].enters) if is_link_local(arrived.source) else None
    answer = carry(network, far, arrived.answered(), translator, back_on)
    reason, by = answer.reason, answer.node
    if reason is None:
        if answer.node != sender:
            translating = network.nodes[answer.node].translating is not None
            reason = Reason.NO_SESSION if translating else Reason.DUPLICATE_ADDRESS
        elif answer.arrived.source != request.destination:
            reason = Reason.OTHER_SOURCE
    return Ping(
        sender,
        request.destination,
        Outcome.REPLY if reason is None else Outcome.TIMEOUT,
        reason,
        None if reason is None else by,
        arrived.source,
        request,
        answer,
    )
