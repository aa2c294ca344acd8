"""Which criterion counts a statement of the model answer: the one place that ties statements to criteria."""

from ..sheet import AnyItem, Configuration, Gateway, OnPort, Route, Switched
from ..sheet.statement import Statement
from ..sheet.statements import (
    Access,
    Advertise,
    Advertised,
    Ask,
    Clocking,
    Dynamic,
    Forwarding,
    Leased,
    LeaseNetwork,
    Member,
    OneToOne,
    Open,
    Proxy,
    Published,
    Realm,
    Record,
    Relay,
    Resolver,
    Service,
    Trunk,
)
from .model import Criterion

MARKS = {"address": 2.0, "route": 2.0, "translation": 3.0}
"""Marks of a derived criterion; every other key earns 1."""
_OF_PORT: dict[type[Statement], str] = {
    OnPort: "address",
    Clocking: "clocking",
    Access: "access",
    Trunk: "trunk",
    Realm: "realm",
    Leased: "lease",
    Member: "instance",
}
_SETTINGS: tuple[type[Statement], ...] = (Proxy, Relay, Advertise, Advertised, Ask)


def counted_by(device: str, item: AnyItem, configuration: Configuration) -> Criterion | None:
    """Return the criterion that counts a statement; None where its effect is counted elsewhere, or not at all."""
    key, operand, instance = _place(item, configuration)
    if not key:
        return None
    return Criterion(key, device, operand, MARKS.get(key, 1.0), None, instance)


def _place(item: AnyItem, configuration: Configuration) -> tuple[str, str, str]:
    statement, block = item.statement, item.block
    kind, instance = type(statement), getattr(statement, "instance", None) or ""
    if block is None:
        return (*_at_the_top(statement), instance)
    own, port = block.instance or "", block.port_name
    if kind in _OF_PORT:
        return _OF_PORT[kind], port, ""
    if isinstance(statement, Switched):
        return "enabled" if statement.on else "disabled", port, ""
    if isinstance(statement, Open):
        return ("vlan", block.name, "") if block.kind == "vlan" else ("", "", "")
    if isinstance(statement, Record):
        return "dns", statement.name.lower(), own
    if kind in _SETTINGS:
        return "setting", f"{port} {_words(statement)}".strip(), own
    if block.kind == "rip":
        return "rip", "", own
    if block.kind == "dhcp":
        network = configuration.one(LeaseNetwork, block)
        return ("dhcp", str(network.statement.prefix), own) if network else ("", "", "")
    return "", "", ""


def _at_the_top(statement: Statement) -> tuple[str, str]:
    if isinstance(statement, Route):
        return "route", str(statement.dest)
    if isinstance(statement, Gateway):
        return "gateway", "6" if statement.address.version == 6 else ""
    if isinstance(statement, OneToOne):
        return "translation", str(statement.inside)
    if isinstance(statement, Published):
        return "translation", f"{statement.protocol} {statement.inside}"
    if isinstance(statement, Dynamic):
        return "translation", str(statement.who)
    if isinstance(statement, Service):
        return "service", f"{statement.protocol} {statement.number}"
    if isinstance(statement, Resolver):
        return "resolver", ""
    if isinstance(statement, Forwarding):
        return "forwarding", ""
    return "", ""


def _words(statement: Statement) -> str:
    """Return the keyword of a setting, without its value."""
    return "address auto" if isinstance(statement, Advertised) else statement.text().split()[0]
