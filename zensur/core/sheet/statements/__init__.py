"""The table of statements: the one declaration of what a sheet may say.

Each statement is a frozen value whose ``SPEC`` declares its spelling, where it may stand, what it
replaces and in which order it is written. Reader, writer, overlay, differences, the editor's
completion and the reference all work from this table; a new statement is added here and nowhere else.
"""

from dataclasses import dataclass

from ..statement import TOP, Spec, Statement
from .device import Forwarding, Instance, Name, Resolver, Service
from .ports import (
    About,
    Access,
    Advertise,
    Advertised,
    Clocking,
    Label,
    Leased,
    Member,
    OnPort,
    Proxy,
    Realm,
    Relay,
    Switched,
    Trunk,
)
from .routing import Announce, Gateway, Passive, Route, Run
from .servers import (
    Ask,
    Exclude,
    LeaseDuration,
    LeaseGateway,
    LeaseNetwork,
    LeaseOrder,
    LeaseRange,
    LeaseResolver,
    Record,
)
from .translation import Dynamic, Entry, OneToOne, Pool, Published


@dataclass(frozen=True, slots=True)
class Open(Statement):
    """A block's header. It carries the line of the header; a loopback is there by its header alone."""

    SPEC = Spec(places=(), about="")


@dataclass(frozen=True, slots=True)
class BlockKind:
    """A kind of block.

    ``operand`` says what follows the header's word: names, VLANs, or nothing; ``in_instance`` whether
    it may be of one network instance; ``whole`` whether a learner's block replaces a given one whole.
    """

    word: str
    about: str
    operand: str | None = "name"
    in_instance: bool = False
    whole: bool = False

    def usage(self) -> str:
        """Return the header as the reference prints it."""
        words = [self.word, *(["VLAN" if self.operand == "vlan" else "NAME"] if self.operand else [])]
        return " ".join([*words, *(["[in INSTANCE]"] if self.in_instance else [])])


PORTS = BlockKind(
    "port", "a physical port that the topology gives the device; `port NAME.N` is its tagged sub-port"
)
LOOPBACKS = BlockKind("loopback", "a loopback, which needs no topology and is up unless switched off")
VLANS = BlockKind(
    "vlan", "on a switch: declares a VLAN, with the switch's own interface `vlanN` in it", "vlan"
)
LISTS = BlockKind("addresses", "an ordered list of addresses", in_instance=True, whole=True)
LEASES = BlockKind("dhcp", "leases for one network", in_instance=True, whole=True)
LEARNED = BlockKind("rip", "routes that are learned, RIPv2 (RFC 2453)", None, in_instance=True)
NAMES = BlockKind("dns", "this device answers names", None, in_instance=True, whole=True)

ORDER: tuple[type[Statement] | BlockKind, ...] = (
    Name, Instance, PORTS, LOOPBACKS, VLANS, Forwarding, Gateway, Resolver, Route, LISTS, Pool,
    OneToOne, Published, Dynamic, LEASES, LEARNED, NAMES, Service,
)  # fmt: skip
"""What stands in the first column, in the canonical order of writing."""

INSIDE: tuple[type[Statement], ...] = (
    About, Label, Member, OnPort, Leased, Advertised, Switched, Clocking, Realm, Access, Trunk, Proxy, Relay,
    Advertise, Entry, LeaseNetwork, LeaseRange, Exclude, LeaseGateway, LeaseResolver, LeaseOrder, LeaseDuration,
    Run, Passive, Announce, Record, Ask,
)  # fmt: skip
"""What stands inside blocks, in the canonical order of writing."""

BLOCKS: tuple[BlockKind, ...] = tuple(kind for kind in ORDER if isinstance(kind, BlockKind))
"""Every kind of block."""

STATEMENTS: tuple[type[Statement], ...] = (*(k for k in ORDER if not isinstance(k, BlockKind)), *INSIDE)
"""Every statement but headers."""


def statements_of(place: str) -> dict[str, tuple[type[Statement], ...]]:
    """Return the statements that may stand in a place by their first words.

    A place is ``top``, ``sub-port`` or the word of a block's header.
    """
    found: dict[str, tuple[type[Statement], ...]] = {}
    for kind in STATEMENTS:
        if place in kind.SPEC.places:
            for word in kind.SPEC.words:
                found[word] = (*found.get(word, ()), kind)
    return found


__all__ = [
    "BLOCKS", "INSIDE", "ORDER", "STATEMENTS", "TOP", "About", "Access", "Advertise", "Advertised", "Announce",
    "Ask", "BlockKind", "Clocking", "Dynamic", "Entry", "Exclude", "Forwarding", "Gateway", "Instance", "Label",
    "LeaseDuration", "LeaseGateway", "LeaseNetwork", "LeaseOrder", "LeaseRange", "LeaseResolver", "Leased",
    "Member", "Name", "OnPort", "OneToOne", "Open", "Passive", "Pool", "Proxy", "Published", "Realm", "Record",
    "Relay", "Resolver", "Route", "Run", "Service", "Statement", "Switched", "Trunk", "statements_of",
]  # fmt: skip
