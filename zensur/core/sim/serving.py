"""What a device offers and asks at the level of services and names, compiled from its configuration."""

from dataclasses import dataclass
from ipaddress import IPv4Address

from ..sheet import Block, Configuration
from ..sheet.statements import Ask, Record, Resolver, Service

DNS_PORT = ("udp", 53)


@dataclass(frozen=True, slots=True)
class Serving:
    """Services by protocol and port number, name servers to ask, and the names the device answers.

    ``names`` is None on a device that answers no names; else addresses by name in lower case.
    """

    services: frozenset[tuple[str, int]]
    resolvers: tuple[int, ...]
    names: dict[str, tuple[int, ...]] | None
    ask: int | None


NOTHING = Serving(frozenset(), (), None, None)


def serving_of(configuration: Configuration) -> Serving:
    """Compile the services and names of the device's main instance, IPv4 only."""
    block = next((b for b in configuration.blocks("dns") if b.instance is None), None)
    services = {
        (s.statement.protocol, s.statement.number)
        for s in configuration.all(Service)
        if s.statement.instance is None
    }
    resolvers = tuple(
        int(r.statement.address)
        for r in configuration.all(Resolver)
        if r.statement.instance is None and isinstance(r.statement.address, IPv4Address)
    )
    if block is None:
        return Serving(frozenset(services), resolvers, None, None) if services or resolvers else NOTHING
    return Serving(frozenset({*services, DNS_PORT}), resolvers, *_names(configuration, block))


def _names(configuration: Configuration, block: Block) -> tuple[dict[str, tuple[int, ...]], int | None]:
    names: dict[str, tuple[int, ...]] = {}
    for record in configuration.all(Record, block):
        if isinstance(record.statement.address, IPv4Address):
            name = record.statement.name.lower()
            names[name] = (*names.get(name, ()), int(record.statement.address))
    ask = configuration.one(Ask, block)
    address = ask.statement.address if ask else None
    return names, int(address) if isinstance(address, IPv4Address) else None
