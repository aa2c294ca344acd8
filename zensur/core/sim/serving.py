"""What a node offers and asks at the level of services, names and leases, compiled from its configuration."""

from dataclasses import dataclass

from ..addresses import AddressRange, usable
from ..sheet import Block, Configuration, Where
from ..sheet.statement import folded
from ..sheet.statements import Ask, Record, Resolver, Service
from ..sheet.statements.routing import Announce, Passive, Run
from ..sheet.statements.servers import (
    Exclude,
    LeaseGateway,
    LeaseNetwork,
    LeaseOrder,
    LeaseRange,
    LeaseResolver,
)
from .numbers import number_of

DNS_PORT = ("udp", 53)


@dataclass(frozen=True, slots=True)
class LeaseBlock:
    """Leases for one network (RFC 2131); ``spans`` are what may be given, first and last, in the order of giving.

    ``excluded`` are never given. Addresses are numbers.
    """

    name: str
    network: int
    length: int
    first: int
    last: int
    excluded: tuple[tuple[int, int], ...]
    highest: bool
    gateway: int | None
    resolvers: tuple[int, ...]
    where: Where | None


@dataclass(frozen=True, slots=True)
class Learning:
    """Where routes are learned and announced (RFC 2453): ports by their names in lower case."""

    run: frozenset[str]
    passive: frozenset[str]
    announces_default: bool
    announces_static: bool
    where: Where | None


@dataclass(frozen=True, slots=True)
class Serving:
    """Services by protocol and port number, name servers to ask, the names answered, leases given, routes learned.

    ``names`` is None on a node that answers no names; else addresses by name in lower case.
    """

    services: frozenset[tuple[str, int]] = frozenset()
    resolvers: tuple[int, ...] = ()
    names: dict[str, tuple[int, ...]] | None = None
    ask: int | None = None
    leases: tuple[LeaseBlock, ...] = ()
    learning: Learning | None = None


NOTHING = Serving()


def serving_of(configuration: Configuration, instance: str | None) -> Serving:
    """Compile the services and names of one network instance of a device."""
    own = folded(instance)

    def block(kind: str) -> Block | None:
        return next((b for b in configuration.blocks(kind) if folded(b.instance) == own), None)

    services = {
        (s.statement.protocol, s.statement.number)
        for s in configuration.all(Service)
        if folded(s.statement.instance) == own
    }
    resolvers = tuple(
        number_of(r.statement.address)
        for r in configuration.all(Resolver)
        if folded(r.statement.instance) == own
    )
    leases = tuple(_leases(configuration, own))
    dns, rip = block("dns"), block("rip")
    if not (services or resolvers or leases or dns or rip):
        return NOTHING
    names, ask = _names(configuration, dns) if dns else (None, None)
    return Serving(
        frozenset({*services, DNS_PORT} if dns else services),
        resolvers,
        names,
        ask,
        leases,
        _learning(configuration, rip) if rip else None,
    )


def _names(configuration: Configuration, block: Block) -> tuple[dict[str, tuple[int, ...]], int | None]:
    names: dict[str, tuple[int, ...]] = {}
    for record in configuration.all(Record, block):
        name = record.statement.name.lower().removesuffix(".")
        names[name] = (*names.get(name, ()), number_of(record.statement.address))
    ask = configuration.one(Ask, block)
    return names, number_of(ask.statement.address) if ask else None


def _learning(configuration: Configuration, block: Block) -> Learning:
    announced = {a.statement.what for a in configuration.all(Announce, block)}
    header = configuration.header(block)
    return Learning(
        frozenset(r.statement.port.lower() for r in configuration.all(Run, block)),
        frozenset(p.statement.port.lower() for p in configuration.all(Passive, block)),
        "default" in announced,
        "static" in announced,
        header.where if header else None,
    )


def _leases(configuration: Configuration, instance: str | None) -> list[LeaseBlock]:
    """Compile the lease blocks that name a network; addresses outside it are not given."""
    found = []
    for block in configuration.blocks("dhcp"):
        network = configuration.one(LeaseNetwork, block)
        if network is None or folded(block.instance) != instance:
            continue
        prefix = network.statement.prefix
        held, given = configuration.one(LeaseRange, block), usable(prefix)
        if held is not None:
            given = AddressRange(
                max(held.statement.held.first, given.first), min(held.statement.held.last, given.last)
            )
        gateway, order = configuration.one(LeaseGateway, block), configuration.one(LeaseOrder, block)
        found.append(
            LeaseBlock(
                block.name,
                int(prefix.network_address),
                prefix.prefixlen,
                int(given.first),
                int(given.last),
                tuple(
                    (int(e.statement.held.first), int(e.statement.held.last))
                    for e in configuration.all(Exclude, block)
                ),
                order.statement.highest if order else False,
                int(gateway.statement.address) if gateway else None,
                tuple(int(r.statement.address) for r in configuration.all(LeaseResolver, block)),
                network.where,
            )
        )
    return found
