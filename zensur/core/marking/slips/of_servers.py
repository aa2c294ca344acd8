"""Slips in leases, names, services, learned routes, forwarding and network instances."""

from collections.abc import Iterable, Iterator

from ...sheet import OnPort, Statement
from ...sheet.statements import (
    Advertised,
    Announce,
    Ask,
    Exclude,
    Forwarding,
    Instance,
    Leased,
    LeaseGateway,
    LeaseNetwork,
    LeaseOrder,
    LeaseRange,
    LeaseResolver,
    Member,
    Passive,
    Record,
    Resolver,
    Run,
    Service,
)
from ...sheet.statements.routing import RIP
from ...sim.numbers import number_of
from ...sim.serving import LeaseBlock, serving_of
from ..differences.edits import Of
from .case import Case, Slip, adds, is_said, needs, wants
from .made import MadeSlip, Making, block_left_out, left_out, other_values, several

_LEASES = (LeaseNetwork, LeaseRange, Exclude, LeaseGateway, LeaseResolver, LeaseOrder)


def _fixed_in_range(c: Case) -> bool:
    """Whether addresses that devices have for themselves may be leased that the model answer holds back."""
    if not isinstance(c.wanted or c.found, LeaseRange | Exclude):
        return False
    instance = c.edit.block.instance if c.edit.block else None
    fixed = {
        number_of(i.statement.interface.ip)
        for model in c.lab.model.values()
        for block in model.bearers()
        for i in model.all(OnPort, block)
    }
    mine, ours = (serving_of(conf, instance).leases for conf in (c.learner, c.model))
    return any(_may_be_given(mine, a) and not _may_be_given(ours, a) for a in fixed)


def _may_be_given(blocks: Iterable[LeaseBlock], address: int) -> bool:
    return any(
        b.first <= address <= b.last and not any(low <= address <= high for low, high in b.excluded)
        for b in blocks
    )


def _network(c: Case) -> str:
    """Name the network of a lease block."""
    networks = (i.statement.prefix for i in c.edit.add if isinstance(i.statement, LeaseNetwork))
    return str(next(networks, "anybody"))


def _forwards_wrongly(c: Case) -> str:
    wanted = c.wanted
    on = wanted.on if isinstance(wanted, Forwarding) else c.lab.devices[c.device].forwards
    return f"{c.device} {'has to' if on else 'must not'} forward packets between its ports."


_SAID_OF_LEASES: dict[type[Statement], tuple[str, str]] = {
    LeaseNetwork: ("are for no network", "are for another network than planned"),
    LeaseRange: ("are not held to a range", "are of other addresses than planned"),
    Exclude: ("leave out too little", "leave out other addresses than planned"),
    LeaseGateway: ("name no gateway", "name another gateway than planned"),
    LeaseResolver: ("name no name server", "name another name server than planned"),
    LeaseOrder: ("begin at the wrong end", "begin at the wrong end"),
}


def _lease_said(c: Case) -> str:
    missing, wrong = _SAID_OF_LEASES[type(c.wanted)]  # type: ignore[index]  # it fits one of them
    return missing if c.found is None else wrong


def _fixed(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(Leased):
        yield making.instead("fixed", item, OnPort.of("192.0.2.77/24"))


def _lines_of_leases(making: Making) -> Iterator[MadeSlip]:
    """Leave a line of a lease block out, or give it another value; both may lease what is held fixed."""
    also = ("lease-range-contains-fixed-addresses",)
    return several(left_out(*_LEASES, also=also), other_values(*_LEASES, also=also))(making)


OF_SERVERS: tuple[Slip, ...] = (
    Slip(
        "fixed-address-instead-of-lease",
        "Fixed address instead of lease",
        lambda c: isinstance(c.wanted, Leased) and isinstance(c.found, OnPort),
        lambda c: f"{c.place} has a fixed address; it should take a lease.",
        "The port has a fixed address where a lease is planned.",
        _fixed,
    ),
    Slip(
        "lease-missing",
        "Lease missing",
        wants(Leased),
        lambda c: f"{c.place} does not ask for a lease.",
        "The port does not ask for a lease.",
        left_out(Leased),
    ),
    Slip(
        "lease-block-missing",
        "Lease block missing",
        lambda c: c.edit.of is Of.MISSING and isinstance(c.wanted, _LEASES),
        lambda c: f"{c.device} gives no leases for {_network(c)}.",
        "The lease block was not entered.",
        block_left_out("dhcp"),
    ),
    Slip(
        "learned-routes-not-started",
        "Learned routes not started",
        lambda c: c.edit.of is Of.MISSING and isinstance(c.wanted, Run | Passive | Announce),
        lambda c: f"{c.device} neither announces networks nor learns any.",
        "The block for learned routes was not entered.",
        block_left_out(RIP),
    ),
    Slip(
        "names-missing",
        "Names missing",
        lambda c: c.edit.of is Of.MISSING and isinstance(c.wanted, Record | Ask),
        lambda c: f"{c.device} knows none of the names that it should tell.",
        "The block of names was not entered.",
        block_left_out("dns"),
    ),
    Slip(
        "lease-range-contains-fixed-addresses",
        "Lease range contains fixed addresses",
        _fixed_in_range,
        lambda c: (
            f"The leases of {c.device} include addresses that others have for themselves: {needs(c)} is wanted."
        ),
        "Addresses that devices have for themselves may be leased to others.",
    ),
    Slip(
        "lease-pool-wrong",
        "Lease pool wrong",
        wants(*_LEASES),
        lambda c: f"The leases of {c.device} {_lease_said(c)}: {needs(c)} is wanted.",
        "The lease block says something else than planned.",
        _lines_of_leases,
    ),
    Slip(
        "learned-route-network-missing",
        "Learned-route network missing",
        wants(Run, Passive, Announce),
        lambda c: f"{c.device} does not announce what it should: {needs(c)} is wanted.",
        "A network is not announced to the neighbours, so that nobody learns the way to it.",
        left_out(Run, Passive, Announce),
    ),
    Slip(
        "name-record-missing",
        "Name record missing",
        adds(Record),
        lambda c: f"{c.device} lacks {needs(c)}.",
        "The name is not recorded.",
        left_out(Record),
    ),
    Slip(
        "name-record-wrong",
        "Name record wrong",
        wants(Record, Ask),
        lambda c: f"{is_said(c)} is not what is planned.",
        "The name stands for another address than planned, or is another name.",
        several(other_values(Record, Ask), left_out(Ask)),
    ),
    Slip(
        "service-missing",
        "Service missing",
        wants(Service),
        lambda c: f"{c.device} does not offer {needs(c)}.",
        "The service was not started.",
        several(left_out(Service), other_values(Service)),
    ),
    Slip(
        "resolver-missing",
        "Resolver missing",
        wants(Resolver),
        lambda c: f"{c.device} does not ask the name server that it should.",
        "The device was not told which name server to ask.",
        several(left_out(Resolver), other_values(Resolver)),
    ),
    Slip(
        "forwarding-off",
        "Forwarding off",
        lambda c: isinstance(c.wanted or c.found, Forwarding),
        _forwards_wrongly,
        "The device forwards where it should not, or does not where it should.",
        several(left_out(Forwarding), other_values(Forwarding)),
    ),
    Slip(
        "port-in-the-wrong-instance",
        "Port in the wrong instance",
        wants(Member, Instance),
        lambda c: f"{c.place} does not belong to the network instance that is planned.",
        "The port belongs to another network instance than planned.",
        left_out(Member, Instance),
    ),
    Slip(
        "address-not-asked-for",
        "Address not asked for",
        wants(Advertised),
        lambda c: f"{c.place} does not take an address from the router's advertisement.",
        "The port does not take an address from the router's advertisement.",
        left_out(Advertised),
    ),
)
