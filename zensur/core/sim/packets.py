"""A packet carried from device to device until it arrives or ends: RFC 1812, section 5."""

from dataclasses import dataclass
from enum import Enum

from .decisions import Decision, Verb
from .network import Network

TTL = 64


class Reason(Enum):
    """Why a packet ended; the values are those of ``ping --json``."""

    NO_ROUTE = "no-route"
    NO_NEIGHBOUR = "no-neighbour"
    TTL = "ttl"
    DISCARD = "discard"
    NOT_FORWARDING = "not-forwarding"
    NOT_AN_ADDRESS = "not-an-address"
    OWN_SOURCE = "own-source"
    NO_SOURCE = "no-source"
    PORT_DOWN = "port-down"
    DUPLICATE_ADDRESS = "duplicate-address"


_REASONS = {
    Verb.NO_ROUTE: (Reason.NO_ROUTE, True),
    Verb.NO_NEIGHBOUR: (Reason.NO_NEIGHBOUR, True),
    Verb.EMPTY: (Reason.NOT_AN_ADDRESS, True),
    Verb.DISCARD: (Reason.DISCARD, False),
    Verb.DEAD: (Reason.NOT_AN_ADDRESS, False),
}
"""Why each verb ends a packet, and whether the device says so in an error (RFC 792)."""


@dataclass(frozen=True, slots=True)
class Step:
    """A device handling a packet: the key of the port it came in by (-1: its own), what it decided."""

    device: int
    enters: int
    decision: Decision


@dataclass(frozen=True, slots=True)
class Carried:
    """A packet's way. ``reason`` is None where it was delivered, at the device of the last step."""

    source: int
    destination: int
    steps: tuple[Step, ...]
    reason: Reason | None
    error: bool = False

    @property
    def device(self) -> int:
        """The device at which the packet arrived or ended."""
        return self.steps[-1].device


def carry(network: Network, device: int, source: int, destination: int) -> Carried:
    """Carry a packet that a device itself sends. Never takes more steps than the packet's TTL."""
    steps: list[Step] = []
    enters, ttl = -1, TTL
    while True:
        decision = network.decide(device, destination)
        steps.append(Step(device, enters, decision))
        if enters >= 0:
            if source in network.own(device):
                return Carried(source, destination, tuple(steps), Reason.OWN_SOURCE)
            if decision.verb is not Verb.DELIVER and not network.devices[device].forwards:
                return Carried(source, destination, tuple(steps), Reason.NOT_FORWARDING)
        if decision.verb is Verb.DELIVER:
            return Carried(source, destination, tuple(steps), None)
        if decision.verb in (Verb.NO_ROUTE, Verb.EMPTY, Verb.DISCARD, Verb.DEAD):
            return Carried(source, destination, tuple(steps), *_REASONS[decision.verb])
        if enters >= 0:
            if ttl <= 1:
                return Carried(source, destination, tuple(steps), Reason.TTL, True)
            ttl -= 1
        if decision.neighbour is None:
            return Carried(source, destination, tuple(steps), *_REASONS[decision.verb])
        device, enters = decision.neighbour.device, decision.neighbour.key


def report(network: Network, ended: Carried) -> Carried | None:
    """Send the error about a packet back to its source (RFC 1812, 4.3.2); None where none can be sent."""
    device = ended.device
    decision = network.decide(device, ended.source)
    if decision.verb is Verb.DELIVER:
        return Carried(ended.source, ended.source, (Step(device, -1, decision),), None)
    route = decision.route
    if route is not None and route.out is not None:
        source = network.source_for(device, route.out)
    else:  # it goes nowhere, and the journey says so
        source = next(iter(network.own(device)), None)
    return None if source is None else carry(network, device, source, ended.source)
