"""A packet carried from node to node until it arrives or ends: RFC 1812, section 5."""

from enum import Enum
from typing import NamedTuple

from .decisions import Action, Decision
from .fabric import Fabric
from .numbers import SIX, is_link_local
from .ports import IpPort
from .translating import Mapped, Rule

TTL = 64


class Reason(Enum):
    """Why a packet ended; the values are those of ``ping --json``."""

    NO_ROUTE = "no-route"
    NO_NEIGHBOUR = "no-neighbour"
    OTHER_VLAN = "other-vlan"
    TTL = "ttl"
    DISCARD = "discard"
    NOT_FORWARDING = "not-forwarding"
    NOT_AN_ADDRESS = "not-an-address"
    OWN_SOURCE = "own-source"
    OTHER_SOURCE = "other-source"
    NO_SOURCE = "no-source"
    NO_SESSION = "no-session"
    POOL_EMPTY = "pool-empty"
    BEYOND_SCOPE = "beyond-scope"
    PORT_DOWN = "port-down"
    DUPLICATE_ADDRESS = "duplicate-address"


CIRCLES = frozenset({Reason.TTL, Reason.OWN_SOURCE})
"""Why a packet ends that goes round in a circle: its TTL is gone, or it comes home."""
REASONS = {
    Action.NO_ROUTE: (Reason.NO_ROUTE, True),
    Action.NO_NEIGHBOUR: (Reason.NO_NEIGHBOUR, True),
    Action.OTHER_VLAN: (Reason.OTHER_VLAN, True),
    Action.UNASSIGNED: (Reason.NOT_AN_ADDRESS, True),
    Action.DISCARD: (Reason.DISCARD, False),
    Action.UNANSWERED: (Reason.NOT_AN_ADDRESS, False),
}
"""Why each action ends a packet, and whether the node says so in an error (RFC 792, RFC 4443)."""


class Kind(Enum):
    """What a packet is: one that begins a flow, the answer to one, or an error about one."""

    FIRST = "first"
    ANSWER = "answer"
    ERROR = "error"


class Packet(NamedTuple):
    """A packet by what routers and translators look at. An ICMP echo has its identifier as both numbers.

    ``about`` is the packet that an error quotes.
    """

    source: int
    destination: int
    protocol: str = "icmp"
    source_number: int = 0
    destination_number: int = 0
    kind: Kind = Kind.FIRST
    about: "Packet | None" = None

    @property
    def flow(self) -> "Flow":
        """What all packets of its direction have in common."""
        return self.protocol, self.source, self.source_number, self.destination, self.destination_number

    def answered(self) -> "Packet":
        """Return the answer to it."""
        return Packet(
            self.destination,
            self.source,
            self.protocol,
            self.destination_number,
            self.source_number,
            Kind.ANSWER,
        )


Flow = tuple[str, int, int, int, int]
"""Protocol, source and its number, destination and its number."""


class Translated(NamedTuple):
    """A packet rewritten by a node: before and after, the kind of translation and the line that asks for it."""

    kind: str
    before: Packet
    after: Packet
    line: Mapped | Rule | None


class Step(NamedTuple):
    """A node handling a packet: the key of the port it came in by (-1: its own), what it decided.

    ``inward`` and ``outward`` are the translations made before and after the decision.
    """

    node: int
    enters: int
    decision: Decision
    inward: Translated | None = None
    outward: Translated | None = None


class Carried(NamedTuple):
    """A packet's way: as it was sent and as it arrived or ended, with what handled it.

    ``reason`` is None where it was delivered, at the node of the last step; ``error`` says whether that
    node reports the reason.
    """

    sent: Packet
    arrived: Packet
    steps: tuple[Step, ...]
    reason: Reason | None
    error: bool = False

    @property
    def node(self) -> int:
        """The node at which the packet arrived or ended."""
        return self.steps[-1].node

    @property
    def circle(self) -> tuple[int, ...]:
        """The nodes that it went round in a circle; none where it came to no node twice."""
        nodes = [step.node for step in self.steps]
        for at, node in enumerate(nodes):
            if node in nodes[:at]:
                return tuple(dict.fromkeys(nodes[nodes.index(node) : at]))
        return ()

    @property
    def source(self) -> int:
        """The source address as it was sent."""
        return self.sent.source

    @property
    def destination(self) -> int:
        """The destination address as it was sent."""
        return self.sent.destination


Rewriting = tuple[Reason | None, Translated | None]
"""What a translating node does: why it refuses a packet, or how it rewrites it; neither where it leaves it alone."""
ALONE: Rewriting = (None, None)


class Translator:
    """What :func:`carry` asks of the tables of translating nodes; this one leaves every packet alone."""

    def inward(self, node: int, enters: IpPort | None, packet: Packet) -> Rewriting:
        """Say what is done with a packet that comes in, or that the node itself sends (``enters`` None)."""
        return ALONE

    def outward(
        self, node: int, enters: IpPort | None, leaves: IpPort | None, packet: Packet, came: Packet
    ) -> Rewriting:
        """Say what is done with a packet that is about to go out; ``came`` is how it came in."""
        return ALONE


NO_TRANSLATION = Translator()


def carry(  # noqa: C901, PLR0912 - one packet through one node, read from top to bottom in the order of RFC 1812
    network: Fabric,
    node: int,
    packet: Packet,
    translator: Translator = NO_TRANSLATION,
    on: IpPort | None = None,
) -> Carried:
    """Carry a packet that a node itself sends; to a link-local address out of the port ``on``.

    Never takes more steps than the packet's TTL. Of a node: translation inward, own source, local
    delivery, route, TTL, translation outward, neighbour, send (RFC 1812).
    """
    steps: list[Step] = []
    sent, ttl, error = packet, TTL, False
    key, enters = -1, None
    while True:
        translates = network.translates and network.nodes[node].translating is not None
        came, inward, outward = packet, None, None
        reason: Reason | None = None
        if translates:
            enters = network.port(key) if key >= 0 else None
            reason, inward = translator.inward(node, enters, packet)
            packet = inward.after if inward else packet
        decision = network.decide(node, packet.destination, on)
        action = decision.action
        if reason is not None:
            break
        if key >= 0:
            if packet.source in network.own(node) and packet.source < SIX:
                reason = Reason.OWN_SOURCE
                break
            if action is not Action.DELIVER:
                reason, error = _not_passed_on(network, node, packet)
                if reason is not None:
                    break
        if action is Action.DELIVER:
            break
        if decision.ask is None:
            reason, error = REASONS[action]
            break
        if key >= 0:
            if ttl <= 1:
                reason, error = Reason.TTL, True
                break
            ttl -= 1
        if translates:
            assert decision.route is not None
            reason, outward = translator.outward(node, enters, decision.route.out, packet, came)
            if reason is not None:
                error = reason is Reason.POOL_EMPTY
                break
        neighbour = decision.neighbour
        if neighbour is None:  # the error is about the packet as it was before it would have gone out
            reason, error = REASONS[action]
            break
        steps.append(Step(node, key, decision, inward, outward))
        packet = outward.after if outward else packet
        node, key = neighbour.node, neighbour.key
        on = network.port(key) if packet.destination >= SIX and is_link_local(packet.destination) else None
    steps.append(Step(node, key, decision, inward, outward))
    return Carried(sent, packet, tuple(steps), reason, error)


def _not_passed_on(network: Fabric, node: int, packet: Packet) -> tuple[Reason | None, bool]:
    """Say why a node that does not have the address does not pass a packet on, and whether it reports that."""
    if not network.nodes[node].forwards:
        return Reason.NOT_FORWARDING, False
    if packet.destination < SIX:
        return None, False
    if is_link_local(packet.destination):
        return Reason.NOT_AN_ADDRESS, False
    if is_link_local(packet.source):
        return Reason.BEYOND_SCOPE, True  # RFC 4443, 3.1, code 2
    return None, False


def report(network: Fabric, ended: Carried, translator: Translator = NO_TRANSLATION) -> Carried | None:
    """Send the error about a packet back to its source (RFC 1812, 4.3.2); None where none can be sent.

    The packet is quoted as it was before that node translated it.
    """
    node, last = ended.node, ended.steps[-1]
    about = last.inward.before if last.inward else ended.arrived
    on = network.port(last.enters) if is_link_local(about.source) and last.enters >= 0 else None
    decision = network.decide(node, about.source, on)
    if decision.action is Action.DELIVER:
        error = Packet(about.source, about.source, kind=Kind.ERROR, about=about)
        return Carried(error, error, (Step(node, -1, decision),), None)
    route = decision.route
    if route is not None and route.out is not None:
        source = network.source_for(node, route.out, about.source)
    else:  # it goes nowhere, and the journey says so
        source = next((a for a in network.own(node) if (a >= SIX) == (about.source >= SIX)), None)
    if source is None:
        return None
    return carry(network, node, Packet(source, about.source, kind=Kind.ERROR, about=about), translator, on)
