"""Interfaces and their addresses: ietf-interfaces (RFC 8343), ietf-ip (RFC 8344), router advertisements (RFC 8349).

What a port is besides (its clock, its side of a translation, its VLANs, its server for leases) stands in our module.
"""

import re
from collections.abc import Iterator
from ipaddress import IPv4Address
from typing import Any

from ...addresses import BadValue, mask_length
from ...sheet import About, Block, Configuration, Item, Masked, OnPort, Open, Statement, Switched, VlanSet
from ...sheet.statement import folded
from ...sheet.statements import (
    Access,
    Advertise,
    Advertised,
    Clocking,
    Dynamic,
    Forwarding,
    Gateway,
    Label,
    Leased,
    Member,
    OneToOne,
    Pool,
    Proxy,
    Published,
    Realm,
    Relay,
    Route,
    Trunk,
)
from ...sheet.statements.routing import Passive, Run
from ...sheet.vlans import LAST_VLAN, parse_vlan
from ..tree import Members
from .modules import EXTENSIONS, INSTANCES, INTERFACES, IP, OWN, ROUTES, is_identity
from .node import Node, interface_of
from .reading import Reading

_TYPE = "iana-if-type"
_ETHERNET, _SERIAL = f"{_TYPE}:ethernetCsmacd", f"{_TYPE}:propPointToPointSerial"
_LOOPBACK, _SUB_PORT, _VLAN = f"{_TYPE}:softwareLoopback", f"{_TYPE}:l2vlan", f"{_TYPE}:l3ipvlan"
_ADVERTISEMENTS = f"{ROUTES[6]}:ipv6-router-advertisements"
_PORTS = (
    "ethernetCsmacd", "propPointToPointSerial", "fastEther", "gigabitEthernet", "ppp", "hdlc", "l2vlan", "",
)  # fmt: skip
"""What is read as a port, or a tagged sub-port of one, as a matter of course."""
_OF_VLAN = re.compile(r"vlan\.?([0-9]{1,4})\Z", re.IGNORECASE)
_LEARNED = ("dhcp", "link-layer", "random")
"""Where an address comes from that no configuration says (RFC 8344, ip-address-origin)."""
_OWN_LEAFS = (
    "state-unsaid", "only-named", "clocking", "realm", "access", "trunk", "proxy", "relay", "parent", "vlan",
)  # fmt: skip
_MEMBERS = frozenset(
    ("name", "description", "type", "enabled", f"{IP}:ipv4", f"{IP}:ipv6", f"{INSTANCES}:bind-ni-name",
     *(f"{OWN}:{leaf}" for leaf in _OWN_LEAFS), f"{EXTENSIONS}:parent-interface", f"{EXTENSIONS}:encapsulation")
)  # fmt: skip
_STATE = frozenset(
    ("admin-status", "oper-status", "last-change", "if-index", "phys-address", "higher-layer-if", "lower-layer-if",
     "speed", "statistics", "link-up-down-trap-enable", "origin", "status", "neighbor", "mtu")
)  # fmt: skip
"""What tells of an interface's state, and says nothing of a configuration."""


# --- reading -----------------------------------------------------------------------------------------


def read_interfaces(root: Node, reading: Reading) -> None:
    """Read every interface."""
    for entry in root.child(f"{INTERFACES}:interfaces").children("interface"):
        if not entry.has("name"):
            entry.fail("missing-key", "An interface needs its name.")
            continue
        block = _block(entry)
        if block is None or entry.empty(f"{OWN}:only-named"):
            continue
        entry.only(_MEMBERS, _STATE)
        reading.keep(block, Open(), entry.where("name"))
        for statement, name, node in _statements(entry, block):
            reading.keep(block, statement, node.where(name), node)
        for version in (4, 6):
            family = entry.child(f"{IP}:ipv{version}")
            forwards = family.flag("forwarding")
            if forwards is not None:
                reading.forwards.append((version, forwards, family.where("forwarding")))


def _block(entry: Node) -> Block | None:
    """Return the block that an interface is: a port, a tagged sub-port, a loopback, or the interface of a VLAN."""
    name, kind = entry.text("name") or "", entry.word("type") or ""
    if is_identity(kind, "softwareLoopback"):
        named = entry.name("name")
        return Block("loopback", named) if named else None
    of_vlan = _OF_VLAN.match(name)
    own = f"{OWN}:vlan"
    if of_vlan and (is_identity(kind, "l3ipvlan") or (is_identity(kind, "l2vlan") and not entry.has(own))):
        return Block("vlan", str(int(of_vlan[1])))
    parent, vlan = entry.text(f"{OWN}:parent"), entry.number(own, 1, LAST_VLAN)
    extended = entry.child(f"{EXTENSIONS}:encapsulation")
    parent = parent or entry.text(f"{EXTENSIONS}:parent-interface")
    if parent and vlan is None:
        vlan = _tag_in(extended)
    named = entry.name("name") if not (parent and vlan) else entry.checked("name", f"{parent}.{vlan}")
    if named is None:
        return None
    if is_identity(kind, "l2vlan") and Block("port", named).sub_port_of is None:
        entry.fail(
            "no-parent", f"{named} is a VLAN's interface, and nothing says of which port and which VLAN."
        )
        return None
    if not any(is_identity(kind, port) for port in _PORTS):
        entry.note("unknown-type", f"An interface of the type {kind[:60]} is read as a port.", "type")
    return Block("port", named)


def _tag_in(encapsulation: Node) -> int | None:
    """Return the VLAN of an encapsulation: the outer tag of dot1q-vlan, wherever the module at hand has it."""
    for key in encapsulation.data:
        inner = encapsulation.child(key)
        tag = inner.child("outer-tag")
        found = tag.number("vlan-id", 1, LAST_VLAN) if tag.has("vlan-id") else None
        if found is not None:
            return found
    return None


_Said = tuple[Statement, str, Node]
"""A statement, and the leaf that says it with the object that the leaf is in."""


def _statements(entry: Node, block: Block) -> Iterator[_Said]:
    words = entry.text("description")
    if words:
        yield (Label(words) if block.kind == "vlan" else About(words)), "description", entry
    instance = entry.name(f"{INSTANCES}:bind-ni-name")
    for version in (4, 6):
        instance = instance or entry.child(f"{IP}:ipv{version}").name(f"{INSTANCES}:bind-ni-name")
    if instance and block.kind != "vlan":
        yield Member(instance), f"{INSTANCES}:bind-ni-name", entry
    yield from _addresses(entry)
    enabled = entry.flag("enabled")
    if enabled is not None:
        yield Switched(enabled), "enabled", entry
    elif not entry.has("enabled") and not entry.empty(f"{OWN}:state-unsaid"):
        yield Switched(True), "name", entry  # RFC 8343: the default
    if block.kind == "port":
        yield from _of_a_port(entry)


def _addresses(entry: Node) -> Iterator[_Said]:
    four, six = entry.child(f"{IP}:ipv4"), entry.child(f"{IP}:ipv6")
    for family in (four, six):
        if family.flag("enabled") is False:
            if family.has("address"):
                family.warn(
                    "family-off", "The family is not enabled here, so its addresses are left out.", "enabled"
                )
            continue
        for held in family.children("address"):
            origin = held.word("origin") or held.word(f"{IP}:origin") or "static"
            masked = None if origin in _LEARNED else _masked(held, 4 if family is four else 6)
            if masked is not None:
                yield OnPort(masked), "ip", held
    if four.empty(f"{OWN}:dhcp"):
        yield Leased(), f"{OWN}:dhcp", four
    autoconf = six.child("autoconf")
    if six.has("autoconf") and autoconf.flag("create-global-addresses") is not False:
        yield Advertised(), "create-global-addresses", autoconf
    sends = six.child(_ADVERTISEMENTS).flag("send-advertisements")
    if sends is not None:
        yield Advertise(sends), "send-advertisements", six.child(_ADVERTISEMENTS)


def _masked(held: Node, version: int) -> Masked | None:
    """Return an address with its length, or with its netmask, which is remembered as written out."""
    address = held.address("ip")
    if address is None:
        if not held.has("ip"):
            held.fail("missing-key", "An address needs its ip.")
        return None
    if address.version != version:
        held.fail("wrong-family", f"{address} does not belong among the addresses of IPv{version}.", "ip")
        return None
    length = held.number("prefix-length", 0, address.max_prefixlen)
    if length is not None:
        return Masked(interface_of((address, length)))
    mask = held.word("netmask") if version == 4 else None
    if mask is None:
        if not held.has("prefix-length") and not held.has("netmask"):
            held.fail("length-missing", f"{address} needs its prefix-length, such as 24.", "ip")
        return None
    try:
        return Masked(interface_of((address, mask_length(mask))), True)
    except BadValue as bad:
        return held.refuse("netmask", bad)


def _of_a_port(entry: Node) -> Iterator[_Said]:
    rate = entry.wide(f"{OWN}:clocking", 1, 10**11)
    if rate is not None:
        yield Clocking(rate), f"{OWN}:clocking", entry
    realm = entry.one_of(f"{OWN}:realm", ("internal", "external"))
    if realm is not None:
        yield Realm(realm == "external"), f"{OWN}:realm", entry
    vlan = entry.number(f"{OWN}:access", 1, LAST_VLAN)
    if vlan is not None:
        yield Access(vlan), f"{OWN}:access", entry
    trunk, refused = entry.child(f"{OWN}:trunk"), entry.reading.refused
    spans, native = trunk.parsed_texts("vlans", _span), trunk.number("native", 1, LAST_VLAN)
    if spans and entry.reading.refused == refused:
        yield Trunk(VlanSet.of(spans), native), "vlans", trunk
    stands_in = entry.flag(f"{OWN}:proxy")
    if stands_in is not None:
        yield Proxy(stands_in), f"{OWN}:proxy", entry
    server = entry.v4(f"{OWN}:relay")
    if server is not None:
        yield Relay(server), f"{OWN}:relay", entry


def _span(text: str) -> tuple[int, int]:
    first, dash, last = text.partition("-")
    low, high = parse_vlan(first), parse_vlan(last if dash else first)
    return min(low, high), max(low, high)


# --- writing -----------------------------------------------------------------------------------------


def write_interfaces(configuration: Configuration) -> Members:
    """Return the interfaces of a configuration; those that are only named elsewhere are there, too, to be known."""
    forwarding = configuration.one(Forwarding)
    bearers = [b for b in configuration.bearers() if b.kind != "vlan" or _is_interface(configuration, b)]
    entries = [_written(configuration, block, forwarding) for block in bearers]
    there = {b.port_name.lower() for b in bearers}
    for name in _named(configuration):
        if name.lower() not in there:
            there.add(name.lower())
            entries.append({"name": name, "type": _ETHERNET, f"{OWN}:only-named": [None]})
    return {f"{INTERFACES}:interfaces": {"interface": entries}} if entries else {}


def _is_interface(configuration: Configuration, vlan: Block) -> bool:
    """Whether a VLAN has an interface of the device itself, and not only its declaration."""
    return any(configuration.all(kind, vlan) for kind in (OnPort, Leased, Switched))


def _named(configuration: Configuration) -> list[str]:
    """Return the interfaces that other parts refer to, which have to be there (RFC 7950, 9.9)."""
    found: list[str | None] = [i.statement.port for i in configuration.all(Route)]
    found += [i.statement.port for i in configuration.all(Gateway)]
    found += [i.statement.port for i in configuration.all(OneToOne)]
    found += [i.statement.port for i in configuration.all(Published)]
    found += [i.statement.port for i in configuration.all(Dynamic)]
    pools = pool_names(configuration)
    found += [
        i.statement.where
        for i in configuration.all(Dynamic)
        if (folded(i.statement.instance), i.statement.where.lower()) not in pools
    ]
    found += [i.statement.port for i in configuration.everywhere(Run)]
    found += [i.statement.port for i in configuration.everywhere(Passive)]
    found += [b.sub_port_of[0] for b in configuration.blocks("port") if b.sub_port_of]
    return [name for name in found if name is not None]


def pool_names(configuration: Configuration) -> set[tuple[str | None, str]]:
    """Return the pools as they are compared, each with its network instance."""
    return {(folded(p.statement.instance), p.statement.name.lower()) for p in configuration.all(Pool)}


def _written(configuration: Configuration, block: Block, forwarding: Item[Forwarding] | None) -> Members:
    entry: Members = {"name": block.port_name}
    sub_port = block.sub_port_of
    serial = configuration.one(Clocking, block) is not None
    kinds = {"loopback": _LOOPBACK, "vlan": _VLAN, "port": _SERIAL if serial else _ETHERNET}
    words = configuration.one(About, block)
    if words is not None:
        entry["description"] = words.statement.words
    entry["type"] = _SUB_PORT if sub_port else kinds[block.kind]
    switched = configuration.one(Switched, block)
    if switched is not None:
        entry["enabled"] = switched.statement.on
    else:
        entry[f"{OWN}:state-unsaid"] = [None]
    if sub_port:
        entry[f"{OWN}:parent"], entry[f"{OWN}:vlan"] = sub_port
    member = configuration.one(Member, block)
    if member is not None:
        entry[f"{INSTANCES}:bind-ni-name"] = member.statement.instance
    entry |= _families(configuration, block, forwarding.statement.on if forwarding else None)
    for leaf, value in _own_leafs(configuration, block):
        entry[f"{OWN}:{leaf}"] = value
    return entry


def _own_leafs(configuration: Configuration, block: Block) -> Iterator[tuple[str, Any]]:
    """Yield what our module says of a port."""
    if clocking := configuration.one(Clocking, block):
        yield "clocking", str(clocking.statement.rate)
    if realm := configuration.one(Realm, block):
        yield "realm", "external" if realm.statement.external else "internal"
    if access := configuration.one(Access, block):
        yield "access", access.statement.vlan
    if trunk := configuration.one(Trunk, block):
        yield "trunk", _trunk(trunk.statement)
    if proxy := configuration.one(Proxy, block):
        yield "proxy", proxy.statement.on
    if relay := configuration.one(Relay, block):
        yield "relay", str(relay.statement.server)


def _trunk(trunk: Trunk) -> Members:
    spans = [str(low) if low == high else f"{low}-{high}" for low, high in trunk.vlans.spans]
    return {"vlans": spans} | ({} if trunk.native is None else {"native": trunk.native})


def _families(configuration: Configuration, block: Block, forwards: bool | None) -> Members:
    """Return the containers of both families; one that has nothing to say is left out."""
    said: dict[int, Members] = {4: {}, 6: {}}
    for item in configuration.all(OnPort, block):
        masked, interface = item.statement.masked, item.statement.interface
        address: Members = {"ip": str(interface.ip)}
        if masked.written and isinstance(interface.ip, IPv4Address):
            address["netmask"] = str(interface.netmask)
        else:
            address["prefix-length"] = interface.network.prefixlen
        said[interface.version].setdefault("address", []).append(address)
    if configuration.one(Leased, block):
        said[4][f"{OWN}:dhcp"] = [None]
    if configuration.one(Advertised, block):
        said[6]["autoconf"] = {"create-global-addresses": True}
    advertise = configuration.one(Advertise, block)
    if advertise is not None:
        said[6][_ADVERTISEMENTS] = {"send-advertisements": advertise.statement.on}
    return {
        f"{IP}:ipv{version}": ({} if forwards is None else {"forwarding": forwards}) | members
        for version, members in said.items()
        if members
    }
