"""The device itself: ietf-system (RFC 7317) for its name and the name servers that it asks, and our own module for what
it serves: leases, names, services, VLANs."""

import re
from ipaddress import IPv4Address

from ...addresses import AddressRange, BadValue, parse_address
from ...sheet import Block, Configuration, Forwarding, Name, Open
from ...sheet.statement import folded
from ...sheet.statements import (
    Ask,
    Exclude,
    Label,
    LeaseDuration,
    LeaseGateway,
    LeaseNetwork,
    LeaseOrder,
    LeaseRange,
    LeaseResolver,
    Record,
    Resolver,
    Service,
)
from ...sheet.statements.servers import DHCP, DNS
from ...sheet.vlans import LAST_VLAN
from ..tree import Members
from .modules import OWN, SYSTEM
from .node import Node
from .reading import Reading

_PART = r"([A-Za-z0-9_]([A-Za-z0-9_-]{0,61})?)?[A-Za-z0-9]"
_HOST_NAME = re.compile(rf"{_PART}(\.{_PART})*\Z")
"""What the type domain-name of RFC 6991 takes."""
_DEVICE = frozenset(("name", "forwarding", "vlan", "service", "dhcp", "dns"))

# --- reading -----------------------------------------------------------------------------------------


def read_device(root: Node, reading: Reading, instance: str | None) -> None:
    """Read what the device, or a network instance of it, is called, asks and serves."""
    system, own = root.child(f"{SYSTEM}:system"), root.child(f"{OWN}:device")
    own.only(_DEVICE)
    if instance is None:
        _read_self(system, own, reading)
    for server in system.child("dns-resolver").children("server"):
        transport = server.child("udp-and-tcp")
        address = transport.address("address")
        if address is not None:
            reading.keep(None, Resolver(address, instance), transport.where("address"), server)
    for service in own.children("service"):
        protocol = service.one_of("protocol", ("tcp", "udp"))
        port = service.number("port", 1, 65535)
        if protocol is not None and port is not None:
            said = Service(protocol, port, instance, service.text("about"))
            reading.keep(None, said, service.where("protocol"), service)
    for pool in own.children("dhcp"):
        _read_leases(pool, reading, instance)
    if own.has("dns"):
        _read_names(own.child("dns"), reading, Block(DNS, "", instance), own.line("dns"))


def _read_self(system: Node, own: Node, reading: Reading) -> None:
    """Read what there is once in a device: its name, whether it forwards, its VLANs."""
    node, leaf = (own, "name") if own.has("name") else (system, "hostname")
    name = node.name(leaf)
    if name is not None:
        reading.keep(None, Name(name), node.where(leaf), node)
    forwards = own.flag("forwarding")
    if forwards is not None:
        reading.keep(None, Forwarding(forwards), own.where("forwarding"), own)
    for vlan in own.children("vlan"):
        number = vlan.number("id", 1, LAST_VLAN)
        if number is None:
            continue
        block = Block("vlan", str(number))
        reading.keep(block, Open(), vlan.where("id"))
        label = vlan.text("label")
        if label:
            reading.keep(block, Label(label), vlan.where("label"), vlan)


def _read_leases(pool: Node, reading: Reading, instance: str | None) -> None:
    name = pool.name("name")
    if name is None:
        return
    block = Block(DHCP, name, instance)
    reading.keep(block, Open(), pool.where("name"))
    network = pool.v4_prefix("network")
    if network is not None:
        reading.keep(block, LeaseNetwork(network), pool.where("network"), pool)
    given = pool.child("range")
    held = given.span("first", "last")
    if held is not None:
        reading.keep(block, LeaseRange(held), given.where("first"), given)
    for excluded in pool.children("exclude"):
        held = excluded.span("first", "last" if excluded.has("last") else "first")
        if held is not None:
            reading.keep(block, Exclude(held), excluded.where("first"), excluded)
    gateway = pool.v4("gateway")
    if gateway is not None:
        reading.keep(block, LeaseGateway(gateway), pool.where("gateway"), pool)
    for address in pool.parsed_texts("resolver", _v4):
        reading.keep(block, LeaseResolver(address), pool.where("resolver"), pool)
    order = pool.one_of("order", ("lowest", "highest"))
    if order is not None:
        reading.keep(block, LeaseOrder(order == "highest"), pool.where("order"), pool)
    seconds = pool.number("duration", 1, 2**32 - 1)
    if seconds is not None:
        reading.keep(block, LeaseDuration(seconds), pool.where("duration"), pool)


def _v4(text: str) -> IPv4Address:
    address = parse_address(text)
    if not isinstance(address, IPv4Address):
        raise BadValue("wrong-family", f"{address} is of IPv6; addresses are leased in IPv4 only.")
    return address


def _read_names(dns: Node, reading: Reading, block: Block, line: int) -> None:
    reading.keep(block, Open(), reading.where(line))
    for record in dns.children("record"):
        name = record.domain("name")
        address = record.address("address")
        if name is not None and address is not None:
            reading.keep(block, Record(name, address), record.where("name"), record)
    asked = dns.address("ask")
    if asked is not None:
        reading.keep(block, Ask(asked), dns.where("ask"), dns)


# --- writing -----------------------------------------------------------------------------------------


def write_device(configuration: Configuration, instance: str | None, forwards_said: bool) -> Members:
    """Return what the device, or a network instance of it, is called, asks and serves.

    ``forwards_said`` tells whether an interface says already whether the device forwards.
    """
    own = folded(instance)
    system, said = _self(configuration, forwards_said) if instance is None else ({}, {})
    servers = [
        i.statement.address for i in configuration.all(Resolver) if folded(i.statement.instance) == own
    ]
    if servers:
        asked = [{"name": str(a), "udp-and-tcp": {"address": str(a)}} for a in servers]
        system["dns-resolver"] = {"server": asked}
    services = [i.statement for i in configuration.all(Service) if folded(i.statement.instance) == own]
    if services:
        said["service"] = [
            {"protocol": s.protocol, "port": s.number} | ({"about": s.about} if s.about is not None else {})
            for s in services
        ]
    pools = [_leases(configuration, b) for b in configuration.blocks(DHCP) if folded(b.instance) == own]
    if pools:
        said["dhcp"] = pools
    block = Block(DNS, "", instance)
    if configuration.header(block) is not None:
        said["dns"] = _names(configuration, block)
    return ({f"{SYSTEM}:system": system} if system else {}) | ({f"{OWN}:device": said} if said else {})


def _self(configuration: Configuration, forwards_said: bool) -> tuple[Members, Members]:
    """Return what there is once in a device, in the standard module and in ours."""
    system: Members = {}
    said: Members = {}
    name, forwarding = configuration.one(Name), configuration.one(Forwarding)
    if name is not None:
        standard = _HOST_NAME.match(name.statement.name) is not None
        (system if standard else said)["hostname" if standard else "name"] = name.statement.name
    if forwarding is not None and not forwards_said:
        said["forwarding"] = forwarding.statement.on
    vlans = [_vlan(configuration, block) for block in configuration.blocks("vlan")]
    return system, said | ({"vlan": vlans} if vlans else {})


def _vlan(configuration: Configuration, block: Block) -> Members:
    label = configuration.one(Label, block)
    return {"id": int(block.name)} | ({"label": label.statement.words} if label else {})


def _leases(configuration: Configuration, block: Block) -> Members:
    said: Members = {"name": block.name}
    network = configuration.one(LeaseNetwork, block)
    if network is not None:
        said["network"] = str(network.statement.prefix)
    held = configuration.one(LeaseRange, block)
    if held is not None:
        said["range"] = _span(held.statement.held)
    excluded = [_span(i.statement.held) for i in configuration.all(Exclude, block)]
    if excluded:
        said["exclude"] = excluded
    gateway = configuration.one(LeaseGateway, block)
    if gateway is not None:
        said["gateway"] = str(gateway.statement.address)
    resolvers = [str(i.statement.address) for i in configuration.all(LeaseResolver, block)]
    if resolvers:
        said["resolver"] = resolvers
    order = configuration.one(LeaseOrder, block)
    if order is not None:
        said["order"] = "highest" if order.statement.highest else "lowest"
    duration = configuration.one(LeaseDuration, block)
    if duration is not None:
        said["duration"] = duration.statement.seconds
    return said


def _span(held: AddressRange) -> Members:
    return {"first": str(held.first), "last": str(held.last)}


def _names(configuration: Configuration, block: Block) -> Members:
    records = [i.statement for i in configuration.all(Record, block)]
    said: Members = {}
    if records:
        said["record"] = [{"name": r.name, "address": str(r.address)} for r in records]
    asked = configuration.one(Ask, block)
    if asked is not None:
        said["ask"] = str(asked.statement.address)
    return said
