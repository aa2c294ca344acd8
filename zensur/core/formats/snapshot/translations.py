"""Translations from nftables: rules of a chain that go together become one statement with its list and its pool.

The ports that packets leave by lie outside. A rule that is not understood is told by its words, never guessed.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from ipaddress import IPv4Address, IPv4Network
from itertools import islice

from ...addresses import AddressRange, Prefix
from ...sheet import Block, Endpoint, OnPort, Open, Severity, Statement, Where
from ...sheet.statements import Dynamic, Entry, OneToOne, Pool, Published, Realm
from ...sheet.statements.translation import LIST
from .kept import Kept
from .links import Link
from .nftables import Condition, Refused, Target, Translation, translations_in
from .parts import Snapshot
from .wording import NotUnderstood

_MOST_NUMBERS, _MOST_LISTED = 64, 10_000
"""So many port numbers does a rule publish, and so many sources are listed in all."""
_MOST_ADDRESSES = 256
"""So many addresses of a pool are looked at for whether a port bears them."""
_ANY = IPv4Network("0.0.0.0/0")


def read_translations(snapshot: Snapshot, kept: Kept, links: Mapping[str, Link]) -> None:
    """Read the translations of a machine."""
    entries = [(entry, snapshot.where("nftables", entry)) for entry in snapshot.entries("nftables")]
    found = list(translations_in(entries))
    for one in found:
        if isinstance(one, Refused):
            _tell(kept, one.words, str(one.why), one.where)
    _Translating(kept, links).read([one for one in found if isinstance(one, Translation)])
    _unanswered(kept)


def _tell(kept: Kept, words: str, why: str, where: Where) -> None:
    kept.say(
        Severity.WARNING,
        "rule-not-read",
        where.line,
        f"The rule “{words[:120]}” is not understood, for {why}.",
    )


@dataclass(slots=True)
class _Group:
    """Rules of one chain that translate to the same, one behind the other: a list in the making."""

    first: Translation
    leaves: frozenset[str]
    entries: dict[tuple[bool, IPv4Network], Where] = field(default_factory=dict)

    def add(self, asked: Condition, where: Where) -> None:
        """Add sources in the order in which they are tried."""
        for permit, networks in ((False, asked.denied), (True, asked.permitted or (_ANY,))):
            for network in networks:
                self.entries.setdefault((permit, network), where)


class _Translating:
    """Rules on their way to statements."""

    def __init__(self, kept: Kept, links: Mapping[str, Link]) -> None:
        self.kept = kept
        self.ports = {name: link.block.name for name, link in links.items() if link.block.kind == "port"}
        self.external: set[str] = set()
        self.internal: set[str] = set()
        self.all_inside = False
        self.mappings: list[tuple[Published | OneToOne, frozenset[str], Where]] = []
        self.standing: dict[IPv4Address, tuple[IPv4Address, Translation]] = {}
        """Destinations that are translated whole: they are one-to-one where their source is, too."""
        self.groups: list[_Group] = []
        self.pools: dict[tuple[IPv4Address, IPv4Address], str] = {}
        self.own: dict[IPv4Address, str] = {}
        seen: set[str] = set()
        for item in kept.items():
            if isinstance(item.statement, OnPort) and item.block and item.block.kind == "port":
                address = item.statement.interface.ip
                if isinstance(address, IPv4Address) and item.block.name not in seen:
                    seen.add(item.block.name)
                    self.own[address] = item.block.name

    def read(self, found: list[Translation]) -> None:
        """Keep all statements: mappings, then dynamic translations in their order, then the realms of the ports."""
        for hook, read in (("prerouting", self._inward), ("postrouting", self._outward)):
            for one in found:
                try:
                    if one.hook == hook:
                        read(one)
                except NotUnderstood as why:
                    _tell(self.kept, one.words, str(why), one.where)
        for outside, (mapped, one) in self.standing.items():
            _tell(self.kept, one.words, f"nothing translates {mapped} to {outside} on its way out", one.where)
        for mapping, ports, where in self.mappings:
            for way in self._ways(ports):
                self.kept.keep(None, replace(mapping, port=way), where)
        listed = 0
        for group in self.groups:
            listed += len(group.entries)
            if listed > _MOST_LISTED:
                too_many = f"it and the rules before it name more than {_MOST_LISTED:,} sources"
                _tell(self.kept, group.first.words, too_many, group.first.where)
                break
            self._keep(group)
        self._realms()

    def _named(self, names: frozenset[str] | None) -> frozenset[str]:
        """Return ports by the names that they have here."""
        unknown = [n for n in names or () if n not in self.ports]
        if unknown:
            raise NotUnderstood(f"{unknown[0]} is no port here")
        return frozenset(self.ports[n] for n in names or ())

    # --- inward --------------------------------------------------------------------------------------

    def _inward(self, one: Translation) -> None:
        asked, target = one.condition, one.target
        if asked.permitted or asked.denied or asked.leaves is not None or asked.from_ports is not None:
            raise NotUnderstood("it is for packets from some sources only")
        enters = self._named(asked.enters)
        if target.first is None or target.first != target.last:
            raise NotUnderstood("it spreads over several addresses")
        outside = self._outside(asked, enters)
        if asked.to_ports is None:
            if not isinstance(outside, IPv4Address) or target.ports is not None or asked.protocol is not None:
                raise NotUnderstood("it names no port number")
            self.standing[outside] = (target.first, one)
            return
        numbers = list(_numbers(asked, target))
        self.external |= enters
        for outer, inner in numbers:
            said = Published(asked.protocol or "tcp", Endpoint(target.first, inner), Endpoint(outside, outer))
            self.mappings.append((said, enters, one.where))

    def _outside(self, asked: Condition, enters: frozenset[str]) -> IPv4Address | str:
        """Return the address outside: the one asked for, or that of the port where it comes in."""
        if asked.dest is None:
            if len(enters) != 1:
                raise NotUnderstood("it says neither an address nor one port")
            return next(iter(enters))
        if len(asked.dest) != 1 or asked.dest[0].prefixlen != 32:
            raise NotUnderstood("it is for several destinations")
        return asked.dest[0].network_address

    # --- outward -------------------------------------------------------------------------------------

    def _outward(self, one: Translation) -> None:
        asked, target = one.condition, one.target
        if asked.dest is not None or asked.to_ports is not None:
            raise NotUnderstood("it is for packets to some destinations only")
        if not asked.leaves:
            raise NotUnderstood("it does not say by which port packets leave")
        leaves, enters = self._named(asked.leaves), self._named(asked.enters)
        if asked.protocol is not None or asked.from_ports is not None:
            self._answers_published(asked, target)
            return
        self.external |= leaves
        self.internal |= enters
        self.all_inside = self.all_inside or not asked.enters
        single = asked.single
        if (
            single is not None
            and target.first == target.last
            and target.first is not None
            and not target.ports
        ):
            standing = self.standing.get(target.first)
            if standing is not None and standing[0] == single:
                if any(_permits(group, single) and group.leaves & leaves for group in self.groups):
                    raise NotUnderstood(f"a rule before it translates {single} already")
                del self.standing[target.first]
                self.mappings.append((OneToOne(single, target.first), leaves, one.where))
                return
        last = self.groups[-1] if self.groups else None
        alike = last is not None and (
            (last.first.chain, last.first.target, last.leaves) == (one.chain, target, leaves)
        )
        group = last if last is not None and alike else _Group(one, leaves)
        if not alike:
            self.groups.append(group)
        group.add(asked, one.where)

    def _answers_published(self, asked: Condition, target: Target) -> None:
        """Pass over the way out of a published service, which the statement has with the way in."""
        single, numbers = asked.single, asked.from_ports
        for said, _, _ in self.mappings:
            if isinstance(said, Published) and single is not None and numbers and target.first is not None:
                inner = (said.inside.holder, ((said.inside.number, said.inside.number),), said.protocol)
                if inner == (single, numbers, asked.protocol):
                    return
        raise NotUnderstood("it is for some protocols or port numbers only")

    # --- statements ----------------------------------------------------------------------------------

    def _ways(self, ports: frozenset[str]) -> list[str | None]:
        """Return the ports that a statement is said to be for, each for itself; None where it is for all outside."""
        return [None] if not ports or self.external <= ports else [*sorted(ports)]

    def _keep(self, group: _Group) -> None:
        target, where = group.first.target, group.first.where
        who = self._who(group)
        first, last = target.ports if target.ports else (None, None)
        if target.first is None or target.last is None:
            for port in sorted(group.leaves):
                way = port if len(self.external) > 1 else None
                self.kept.keep(None, Dynamic(who, port, True, first, last, way), where)
            return
        owner = self.own.get(target.first) if target.first == target.last else None
        held = owner if owner is not None else self._pool(target.first, target.last, where)
        for out in self._ways(group.leaves):
            self.kept.keep(None, Dynamic(who, held, True, first, last, out), where)

    def _pool(self, first: IPv4Address, last: IPv4Address, where: Where) -> str:
        name = self.pools.get((first, last))
        if name is None:
            name = self.pools[first, last] = f"pool-{len(self.pools) + 1}"
            self.kept.keep(None, Pool(name, AddressRange(first, last)), where)
        return name

    def _who(self, group: _Group) -> Prefix | str:
        (permit, network), *more = group.entries
        if permit and not more:
            return network
        name = f"sources-{self.groups.index(group) + 1}"
        block = Block(LIST, name)
        self.kept.keep(block, Open(), group.first.where)
        for (permit, network), where in group.entries.items():
            self.kept.keep(block, Entry(permit, network), where)
        return name

    def _realms(self) -> None:
        """Put the ports inside and outside: packets leave by those outside; inside are those named, else all others."""
        if not self.external:
            return
        bearing = {
            i.block.name: i.where for i in self.kept.items() if isinstance(i.statement, OnPort) and i.block
        }
        for name, where in bearing.items():
            inside = name in self.internal or (self.all_inside or not self.internal)
            if where is not None and name in self.ports.values() and (name in self.external or inside):
                self.kept.keep(Block("port", name), Realm(name in self.external), where)


def _unanswered(kept: Kept) -> None:
    """Warn of addresses that packets are translated to while nobody answers for them on their link."""
    held = [
        (i.block, i.statement.interface) for i in kept.items() if isinstance(i.statement, OnPort) and i.block
    ]
    borne = {interface.ip for _, interface in held}  # by whatever interface: a kernel answers on all of them
    ports = [(block.port_name, interface) for block, interface in held if block.kind == "port"]
    for item in kept.items():
        for address in islice(_outside_addresses(item.statement), _MOST_ADDRESSES):
            port = next((name for name, interface in ports if address in interface.network), None)
            if port is not None and address not in borne and item.where is not None:
                kept.say(
                    Severity.WARNING, "not-borne", item.where.line,
                    f"{address} is translated to and lies in the network of {port}, which does not bear it: a machine "
                    f"answers for it only after “ip address add {address}/32 dev {port}”. It is read as answered.",
                )  # fmt: skip
                break


def _outside_addresses(statement: Statement) -> Iterator[IPv4Address]:
    """Yield the addresses that a statement has packets translated to."""
    if isinstance(statement, Pool) and isinstance(statement.addresses, AddressRange):
        first, last = statement.addresses.first, statement.addresses.last
        yield from (IPv4Address(n) for n in range(int(first), int(last) + 1))
        return
    outside = statement.outside if isinstance(statement, OneToOne) else None
    outside = statement.outside.holder if isinstance(statement, Published) else outside
    if isinstance(outside, IPv4Address):
        yield outside


def _permits(group: _Group, address: IPv4Address) -> bool:
    """Whether a list has an address translated: the first line that fits decides."""
    return next((permit for permit, network in group.entries if address in network), False)


def _numbers(asked: Condition, target: Target) -> Iterator[tuple[int, int]]:
    """Yield the port numbers outside, each with the one inside."""
    spans = asked.to_ports or ()
    outer = [n for low, high in spans for n in range(low, min(high, low + _MOST_NUMBERS) + 1)]
    if len(outer) > _MOST_NUMBERS:
        raise NotUnderstood(f"it publishes more than {_MOST_NUMBERS} port numbers")
    inner = target.ports
    if inner is None:
        yield from ((n, n) for n in outer)
    elif inner[0] == inner[1] and len(outer) == 1:
        yield outer[0], inner[0]
    else:
        raise NotUnderstood("it spreads over several port numbers")
