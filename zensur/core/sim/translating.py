"""The translations that a node's sheet asks for (RFC 2663, RFC 3022), compiled; what names nothing is left out."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple, TypeVar

from ..addresses import Address, AddressRange, Prefix, usable
from ..sheet import Block, Configuration, Item, Where
from ..sheet.statement import folded
from ..sheet.statements import Dynamic, Entry, OneToOne, Pool, Published
from ..sheet.statements.translation import LIST
from .numbers import number_of, same_network
from .ports import IpPort

FIRST_NUMBER, LAST_NUMBER = 1024, 65535
Span = tuple[int, int]
"""The first and last number of a range of addresses."""


@dataclass(frozen=True, slots=True)
class Mapped:
    """A mapping of the sheet: one address to another, or one service. ``outside`` may be a port, by its name;
    ``port`` is the way out that it is for, None where it is for all."""

    protocol: str | None
    inside: int
    inside_number: int
    outside: int | str
    outside_number: int
    port: str | None
    where: Where | None
    text: str


class Listed(NamedTuple):
    """A line of a list: whether it permits, and the network that it is about."""

    permits: bool
    network: int
    length: int
    where: Where | None
    text: str


@dataclass(frozen=True, slots=True)
class Rule:
    """A dynamic translation: whose sources, to which addresses; ``span`` is None where the address of a port is meant,
    the ``holder``. ``port`` is the way out that it is for, None where it is for all."""

    who: tuple[Listed, ...]
    span: Span | None
    holder: str | None
    port: str | None
    shared: bool
    numbers: tuple[int, int]
    where: Where | None
    text: str

    def permits(self, source: int, port: str) -> bool:
        """Whether a source is translated by it where it leaves by a port."""
        line = self.line_for(source)
        return line is not None and line.permits and self.port in (None, port)

    def line_for(self, source: int) -> Listed | None:
        """Return the line of its list that decides on a source: the first that fits, None where none does."""
        return next((one for one in self.who if same_network(source, one.network, one.length)), None)


@dataclass(frozen=True, slots=True)
class Translating:
    """The translations of a node in the order of the sheet, published services before one-to-ones."""

    mappings: tuple[Mapped, ...]
    rules: tuple[Rule, ...]


@dataclass(frozen=True, slots=True)
class ActiveMapping:
    """A mapping with the address that it has outside now."""

    mapping: Mapped
    outside: int


Ways = tuple[ActiveMapping, ...]
"""The mappings of one address, or service, each for another way out; the first that is for a port counts there."""
Service = tuple[str, int, int]
"""A protocol, an address and a port number."""
_K = TypeVar("_K")


def by(ways: Ways | None, port: str) -> ActiveMapping | None:
    """Return the mapping that is for packets by a port, by its name in small letters; None where none is."""
    return next((a for a in ways or () if a.mapping.port in (None, port)), None)


def _added(
    outsides: dict[_K, Ways], outside: _K, insides: dict[_K, Ways], inside: _K, active: ActiveMapping
) -> bool:
    """Add a mapping on both sides, unless one before it takes all that it is for on either."""
    nothing: Ways = ()
    outer, inner = outsides.get(outside, nothing), insides.get(inside, nothing)
    if any(a.mapping.port in (None, active.mapping.port) for a in (*outer, *inner)):
        return False
    outsides[outside], insides[inside] = (*outer, active), (*inner, active)
    return True


class Rules:
    """The translations of a node that are in effect with the ports that are up and the addresses they have."""

    def __init__(self, translating: Translating, ports: Iterable[IpPort]) -> None:
        own = {p.name.lower(): p.four[0].address for p in ports if p.four}
        self.published: dict[Service, Ways] = {}
        self.published_inside: dict[Service, Ways] = {}
        self.one_to_one: dict[int, Ways] = {}
        self.one_to_one_inside: dict[int, Ways] = {}
        self.active_mappings: list[ActiveMapping] = []
        for mapping in translating.mappings:
            outside = own.get(mapping.outside) if isinstance(mapping.outside, str) else mapping.outside
            if outside is not None:
                self._add(ActiveMapping(mapping, outside))
        self.rules: list[tuple[Rule, Span]] = []
        for rule in translating.rules:
            span = rule.span
            if rule.holder is not None:
                address = own.get(rule.holder)
                span = None if address is None else (address, address)
            if span is not None:
                self.rules.append((rule, span))
        self.spans = [(s.outside, s.outside) for s in self.active_mappings] + [span for _, span in self.rules]

    def _add(self, active: ActiveMapping) -> None:
        """Add a mapping unless its address, or service, has one already on either side."""
        mapping = active.mapping
        if mapping.protocol is None:
            added = _added(self.one_to_one, active.outside, self.one_to_one_inside, mapping.inside, active)
        else:
            outside = (mapping.protocol, active.outside, mapping.outside_number)
            inside = (mapping.protocol, mapping.inside, mapping.inside_number)
            added = _added(self.published, outside, self.published_inside, inside, active)
        if added:
            self.active_mappings.append(active)

    def covers(self, address: int) -> bool:
        """Whether it is an address that the node translates to."""
        return any(first <= address <= last for first, last in self.spans)

    def covering(self, address: int) -> Mapped | Rule | None:
        """Return the first line that translates to an address."""
        active = next((s.mapping for s in self.active_mappings if s.outside == address), None)
        return active or next((rule for rule, span in self.rules if span[0] <= address <= span[1]), None)


def translating_of(configuration: Configuration, instance: str | None) -> Translating | None:
    """Compile the translations of one network instance; None where there are none."""
    own = folded(instance)
    published = [
        _service(item) for item in configuration.all(Published) if folded(item.statement.instance) == own
    ]
    one_to_one = [
        Mapped(None, number_of(s.inside), 0, _outer(s.outside), 0, folded(s.port), item.where, s.text())
        for item in configuration.all(OneToOne)
        if folded((s := item.statement).instance) == own
    ]
    rules = tuple(_rules(configuration, own))
    if not (published or one_to_one or rules):
        return None
    return Translating((*published, *one_to_one), rules)


def _service(item: Item[Published]) -> Mapped:
    statement, where = item.statement, item.where
    inside, outside = statement.inside, statement.outside
    assert not isinstance(inside.holder, str)  # the reader takes no port here
    return Mapped(
        statement.protocol, number_of(inside.holder), inside.number, _outer(outside.holder), outside.number,
        folded(statement.port), where, statement.text(),
    )  # fmt: skip


def _outer(outside: Address | str) -> int | str:
    return outside.lower() if isinstance(outside, str) else number_of(outside)


def _rules(configuration: Configuration, instance: str | None) -> Iterator[Rule]:
    pools: Mapping[str, AddressRange] = {
        p.statement.name.lower(): _held(p.statement.addresses)
        for p in configuration.all(Pool)
        if folded(p.statement.instance) == instance
    }
    for item in configuration.all(Dynamic):
        statement = item.statement
        if folded(statement.instance) != instance:
            continue
        who = _who(configuration, statement.who, instance)
        where = statement.where.lower()
        held = pools.get(where)
        if who is None:
            continue
        first = FIRST_NUMBER if statement.first is None else statement.first
        last = LAST_NUMBER if statement.last is None else statement.last
        yield Rule(
            who,
            (number_of(held.first), number_of(held.last)) if held else None,
            None if held else where,
            folded(statement.port),
            statement.shared,
            (first, last),
            item.where,
            statement.text(),
        )


def _held(addresses: AddressRange | Prefix) -> AddressRange:
    return addresses if isinstance(addresses, AddressRange) else usable(addresses)


def _who(configuration: Configuration, who: Prefix | str, instance: str | None) -> tuple[Listed, ...] | None:
    """Return the lines of a list; None where there is no such list."""
    if not isinstance(who, str):
        return (Listed(True, number_of(who.network_address), who.prefixlen, None, str(who)),)
    block = next(
        (
            b
            for b in configuration.blocks(LIST)
            if b.name.lower() == who.lower() and folded(b.instance) == instance
        ),
        None,
    )
    if block is None:
        return None
    return tuple(
        Listed(
            e.statement.permit,
            number_of(e.statement.prefix.network_address),
            e.statement.prefix.prefixlen,
            e.where,
            e.statement.text(),
        )
        for e in configuration.all(Entry, Block(block.kind, block.name, block.instance))
    )
