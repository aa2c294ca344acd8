"""What a node does with a packet: the outcome of its tables for one destination."""

from dataclasses import dataclass
from enum import Enum

from .neighbours import Neighbour
from .ports import IpPort, PortAddress
from .routes import ActiveRoute


class Action(Enum):
    """What is done with the packet."""

    DELIVER = "deliver"
    """It is for the node itself."""
    SEND = "send"
    DISCARD = "discard"
    NO_ROUTE = "no-route"
    NO_NEIGHBOUR = "no-neighbour"
    OTHER_VLAN = "other-vlan"
    """Nobody answers, because who has the address is joined by cables alone, and in another VLAN."""
    UNANSWERED = "unanswered"
    """A network or broadcast address, or one that is never on a wire: dropped without a word."""
    UNASSIGNED = "unassigned"
    """Inside a loopback's prefix, but nobody's."""


@dataclass(frozen=True, slots=True)
class Decision:
    """The action, with the route, the neighbour asked for and the one found, or the own address."""

    action: Action
    route: ActiveRoute | None = None
    ask: int | None = None
    neighbour: Neighbour | None = None
    own: tuple[IpPort, PortAddress] | None = None
    segment: int | None = None
    """The layer-2 segment in which it asks for a neighbour; None where it asks nobody."""
