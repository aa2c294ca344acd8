"""Translations: ietf-nat (RFC 8512). A policy is a dynamic translation, an entry of the mapping table a standing one.

Instances stand in the order in which their policies are tried: one type of translation in each. The names of lists and
pools, and which way out a translation is for, stand in our module.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Network, summarize_address_range
from itertools import groupby, pairwise

from ...addresses import AddressRange, BadValue, Prefix, range_of, usable
from ...sheet import Block, Configuration, Endpoint, OnPort, Open
from ...sheet.statement import folded
from ...sheet.statements import Dynamic, Entry, OneToOne, Pool, Published, Realm
from ...sheet.statements.translation import LIST
from ..tree import Members
from .modules import NAT, OWN, is_identity
from .node import Node, parse_interface
from .reading import Reading

_PROTOCOLS = {"tcp": 6, "udp": 17}
_TYPES = ("static", "dynamic-implicit", "dynamic-explicit")
_BY_NUMBER = {number: name for name, number in _PROTOCOLS.items()}
_POOL, _SOURCES, _OUT, _EVERY = (f"{OWN}:{leaf}" for leaf in ("pool", "sources", "out", "every-way-out"))
_EXTERNAL_PORT = f"{OWN}:external-interface"
_ANY = IPv4Network("0.0.0.0/0")

# --- reading -----------------------------------------------------------------------------------------


def read_nat(root: Node, reading: Reading, instance: str | None) -> None:
    """Read the translations of the device, or of a network instance."""
    nat = root.child(f"{NAT}:nat")
    if nat.data:
        _Nat(reading, instance).read(nat)


@dataclass(slots=True)
class _Held:
    """A pool that was read, and where."""

    statement: Pool
    node: Node


class _Nat:
    """The translations of one network instance while they are read."""

    def __init__(self, reading: Reading, instance: str | None) -> None:
        self.reading, self.instance = reading, instance
        self.pools: dict[str, _Held] = {}
        self.external: list[str] = []

    def read(self, nat: Node) -> None:
        """Read pools, instances, and which ports lie outside."""
        for entry in nat.children(_POOL):
            name = entry.name("name")
            addresses = entry.prefix("prefix") if entry.has("prefix") else entry.span("first", "last")
            if name is not None and isinstance(addresses, AddressRange | IPv4Network):
                self.pools[name.lower()] = _Held(Pool(name, addresses, self.instance), entry)
        entries = []
        for entry in nat.child("instances").children("instance"):
            if entry.flag("enable") is False:
                entry.note(
                    "not-enabled", "This instance is not enabled, and nothing of it is read.", "enable"
                )
            else:
                entries.append(entry)
        policies = [(entry, policy) for entry in entries for policy in entry.children("policy")]
        ways = {self._realm(policy) for _, policy in policies} - {None}
        kept = [self._policy(entry, policy, len(ways) > 1) for entry, policy in policies]
        for held in self.pools.values():
            self.reading.keep(None, held.statement, held.node.where("name"), held.node)
        for found in kept:
            if found is not None:
                self.reading.keep(None, found[0], found[1].where("id"), found[1])
        for entry in entries:
            for mapping in entry.child("mapping-table").children("mapping-entry"):
                self._mapping(mapping)
        self._realms()

    def _realm(self, policy: Node) -> str | None:
        return policy.child("external-realm").name("external-interface")

    def _policy(self, entry: Node, policy: Node, several: bool) -> tuple[Dynamic, Node] | None:
        kind, refused = entry.word("type") or "", self.reading.refused
        shared = is_identity(kind, "napt44")
        if not shared and not is_identity(kind, "basic-nat44"):
            entry.warn(
                "not-read",
                f"{kind or 'An instance without a type'} is not read: basic-nat44 and napt44 are.",
                "type",
            )
            return None
        realm, own, every = self._realm(policy), policy.name(_OUT), policy.empty(_EVERY)
        if realm is not None and not (policy.has(_OUT) or every):
            self.external.append(realm)  # where our module is used, the realms stand in it, too
        first, last = _numbers(policy)
        pool, sources = policy.name(_POOL), policy.name(_SOURCES)
        addresses = [p for _, p in _prefixes_in(policy, "external-ip-address-pool", "external-ip-pool")]
        subnets = list(_prefixes_in(policy, "subscriber-match", "subnet"))
        if self.reading.refused > refused:
            return None
        where = (self._pool(policy, pool, addresses) if addresses else pool) or realm
        if where is None:
            policy.fail("pool-missing", "The policy says neither a pool nor an external interface.", "id")
            return None
        who = sources or self._sources(entry, policy, subnets)
        if own is None and several and not every:
            own = realm
        if first is None or last is None or not shared:
            first = last = None
        return Dynamic(who, where, shared, first, last, own, self.instance), policy

    def _pool(self, policy: Node, name: str | None, prefixes: list[IPv4Network]) -> str:
        """Return the pool that a policy translates to, and keep it: what the standard part says counts."""
        held = self.pools.get(name.lower()) if name else None
        if name is not None:
            if held is not None and prefixes == _prefixes(held.statement.addresses):
                return name
            policy.warn(
                "pools-disagree", f"The addresses of external-ip-address-pool count, and not those of the pool {name}.",
                "external-ip-address-pool",
            )  # fmt: skip
        name = name or f"pool-{policy.number('id', 0, 2**32 - 1) or 1}"
        addresses = _joined(prefixes)
        if addresses is None:
            policy.warn(
                "pool-with-gaps", "The addresses do not join on to one another; those up to the first gap are read.",
                "external-ip-address-pool",
            )  # fmt: skip
            addresses = range_of(prefixes[0].network_address, prefixes[0].broadcast_address)
        self.pools[name.lower()] = _Held(Pool(name, addresses, self.instance), policy)
        return name

    def _sources(self, entry: Node, policy: Node, subnets: list[tuple[Node, IPv4Network]]) -> Prefix | str:
        """Return whose sources a policy is about: anyone's where it says none; several prefixes become a list."""
        if len(subnets) < 2:
            return subnets[0][1] if subnets else _ANY
        name = f"sources-{entry.number('id', 0, 2**32 - 1) or 0}-{policy.number('id', 0, 2**32 - 1) or 0}"
        block = Block(LIST, name, self.instance)
        self.reading.keep(block, Open(), policy.where("id"))
        for node, prefix in subnets:
            self.reading.keep(block, Entry(True, prefix), node.where("subnet"), node)
        return name

    def _mapping(self, mapping: Node) -> None:
        refused, kind = self.reading.refused, mapping.one_of("type", _TYPES)
        if kind is not None and kind != "static":
            return  # what the run of a device made
        inside = mapping.parsed("internal-src-address", _one_address)
        external = mapping.parsed("external-src-address", _one_address)
        port = mapping.name(_EXTERNAL_PORT)
        outside: IPv4Address | str | None = external or port
        way, where = mapping.name(_OUT), mapping.where("internal-src-address")
        number = mapping.number("transport-protocol", 0, 255)
        inner = mapping.child("internal-src-port").number("start-port-number", 1, 65535)
        outer = mapping.child("external-src-port").number("start-port-number", 1, 65535) or inner
        if self.reading.refused > refused:
            return
        if inside is None or outside is None:
            mapping.fail(
                "mapping-incomplete", "A mapping needs its internal and its external address.", "index"
            )
            return
        protocol = None if number is None else _BY_NUMBER.get(number)
        if number is None:
            self.reading.keep(None, OneToOne(inside, outside, way, self.instance), where, mapping)
        elif protocol is None or inner is None or outer is None:
            mapping.fail(
                "mapping-incomplete", "A service is published by TCP (6) or UDP (17), with its port number.",
                "transport-protocol",
            )  # fmt: skip
        else:
            ends = Endpoint(inside, inner), Endpoint(outside, outer)
            self.reading.keep(None, Published(protocol, *ends, way, self.instance), where, mapping)

    def _realms(self) -> None:
        """Put the ports inside and outside as the policies say, where our module says nothing."""
        items = list(self.reading.items())
        if not self.external or any(isinstance(i.statement, Realm) for i in items):
            return
        external = {name.lower() for name in self.external}
        held = {i.block: i.where for i in items if isinstance(i.statement, OnPort) and i.block}
        for block, where in held.items():
            if block.kind == "port" and where is not None:
                self.reading.keep(block, Realm(block.name.lower() in external), where)


def _prefixes_in(policy: Node, entries: str, leaf: str) -> Iterator[tuple[Node, IPv4Network]]:
    """Yield the entries of a list, each with its prefix."""
    for entry in policy.children(entries):
        prefix = entry.v4_prefix(leaf)
        if prefix is not None:
            yield entry, prefix


def _numbers(policy: Node) -> tuple[int | None, int | None]:
    """Return the port numbers that a policy shares out."""
    numbers = policy.child("port-set-restrict")
    first = numbers.number("start-port-number", 1, 65535)
    last = numbers.number("end-port-number", 1, 65535)
    if first is not None and last is not None and last < first:
        bad = BadValue("range-reversed", f"The numbers {first} to {last} end before they begin.")
        policy.refuse("port-set-restrict", bad)
    return first, last


def _one_address(text: str) -> IPv4Address:
    """Return the one address of a prefix."""
    held = parse_interface(text)
    if not isinstance(held.ip, IPv4Address) or held.network.prefixlen != 32:
        raise BadValue("not-one-address", f"{held} has to be one IPv4 address: it ends in /32.")
    return held.ip


def _joined(prefixes: list[IPv4Network]) -> AddressRange | None:
    """Return prefixes as one range, where each joins on to the one before."""
    for one, other in pairwise(prefixes):
        if int(one.broadcast_address) + 1 != int(other.network_address):
            return None
    return AddressRange(prefixes[0].network_address, prefixes[-1].broadcast_address)


def _prefixes(addresses: AddressRange | Prefix) -> list[IPv4Network]:
    """Return the prefixes that hold just the addresses of a pool."""
    held = addresses if isinstance(addresses, AddressRange) else usable(addresses)
    return [p for p in summarize_address_range(held.first, held.last) if isinstance(p, IPv4Network)]


# --- writing -----------------------------------------------------------------------------------------


def write_nat(configuration: Configuration, instance: str | None) -> Members:
    """Return the translations of the device, or of a network instance."""
    own = folded(instance)
    pools = [p.statement for p in configuration.all(Pool) if folded(p.statement.instance) == own]
    instances = list(_instances(configuration, own, {p.name.lower(): p for p in pools}))
    said: Members = {}
    if pools:
        said[_POOL] = [_pool(p) for p in pools]
    if instances:
        said["instances"] = {"instance": [{"id": n, **entry} for n, entry in enumerate(instances, 1)]}
    return {f"{NAT}:nat": said} if said else {}


def _pool(pool: Pool) -> Members:
    held = pool.addresses
    if isinstance(held, AddressRange):
        return {"name": pool.name, "first": str(held.first), "last": str(held.last)}
    return {"name": pool.name, "prefix": str(held)}


def _instances(configuration: Configuration, own: str | None, pools: dict[str, Pool]) -> Iterator[Members]:
    one_to_one = [i.statement for i in configuration.all(OneToOne) if folded(i.statement.instance) == own]
    published = [i.statement for i in configuration.all(Published) if folded(i.statement.instance) == own]
    dynamic = [i.statement for i in configuration.all(Dynamic) if folded(i.statement.instance) == own]
    if one_to_one:
        yield {"type": f"{NAT}:basic-nat44", **_table(_one_to_one(m) for m in one_to_one)}
    if published:
        yield {"type": f"{NAT}:napt44", **_table(_published(m) for m in published)}
    number = 0
    for shared, policies in groupby(dynamic, key=lambda d: d.shared):
        written = []
        for policy in policies:
            number += 1
            written.append({"id": number, **_policy(configuration, policy, pools)})
        yield {"type": f"{NAT}:{'napt44' if shared else 'basic-nat44'}", "policy": written}


def _table(mappings: Iterator[Members]) -> Members:
    return {
        "mapping-table": {
            "mapping-entry": [{"index": n, "type": "static", **m} for n, m in enumerate(mappings, 1)]
        }
    }


def _one_to_one(mapping: OneToOne) -> Members:
    return {"internal-src-address": f"{mapping.inside}/32", **_outer(mapping.outside), **_out(mapping.port)}


def _published(mapping: Published) -> Members:
    return {
        "transport-protocol": _PROTOCOLS[mapping.protocol],
        "internal-src-address": f"{mapping.inside.holder}/32",
        "internal-src-port": {"start-port-number": mapping.inside.number},
        **_outer(mapping.outside.holder),
        "external-src-port": {"start-port-number": mapping.outside.number},
        **_out(mapping.port),
    }


def _outer(outside: IPv4Address | str) -> Members:
    if isinstance(outside, str):
        return {_EXTERNAL_PORT: outside}
    return {"external-src-address": f"{outside}/32"}


def _out(port: str | None) -> Members:
    return {} if port is None else {_OUT: port}


def _policy(configuration: Configuration, policy: Dynamic, pools: dict[str, Pool]) -> Members:
    said: Members = {}
    pool = pools.get(policy.where.lower())
    if pool is not None:
        said["external-ip-address-pool"] = [
            {"pool-id": n, "external-ip-pool": str(p)} for n, p in enumerate(_prefixes(pool.addresses), 1)
        ]
        said[_POOL] = policy.where
    if policy.first is not None and policy.last is not None:
        said["port-set-restrict"] = {
            "start-port-number": policy.first, "end-port-number": policy.last
        }  # fmt: skip
    sources = _sources(configuration, policy)
    if sources:
        said["subscriber-match"] = [{"match-id": n, "subnet": str(p)} for n, p in enumerate(sources, 1)]
    if isinstance(policy.who, str):
        said[_SOURCES] = policy.who
    way = policy.port if pool is not None else policy.where
    if way is not None:
        said["external-realm"] = {"external-interface": way}
    if policy.port is not None:
        said[_OUT] = policy.port
    elif pool is None:
        said[_EVERY] = [None]
    return said


def _sources(configuration: Configuration, policy: Dynamic) -> list[Prefix]:
    """Return the sources of a policy as prefixes; none where a list denies some, which prefixes cannot say."""
    if not isinstance(policy.who, str):
        return [policy.who]
    entries = [e.statement for e in configuration.all(Entry, Block(LIST, policy.who, policy.instance))]
    prefixes: list[Prefix] = [e.prefix for e in entries if e.prefix.version == 4]
    return prefixes if all(e.permit for e in entries) else []
