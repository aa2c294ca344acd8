"""Slips in all statements but addresses, ports, gateways and routes; the most specific first."""

from collections.abc import Callable

from ...sheet import Statement
from ...sheet.statements import (
    Access,
    Advertised,
    Announce,
    Ask,
    Clocking,
    Dynamic,
    Entry,
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
    OneToOne,
    OnPort,
    Open,
    Passive,
    Pool,
    Published,
    Realm,
    Record,
    Resolver,
    Run,
    Service,
    Trunk,
)
from .case import Case, Slip, adds, changes, is_said, needs


def _of(*kinds: type[Statement]) -> Callable[[Case], bool]:
    return lambda c: isinstance(c.wanted, kinds)


def _added(*kinds: type[Statement]) -> Callable[[Case], bool]:
    return lambda c: isinstance(c.wanted, kinds) and c.found is None


def _clock_elsewhere(c: Case) -> bool:
    """Whether the other end of the link gives a clock instead."""
    block = c.edit.block
    if not isinstance(c.wanted, Clocking) or c.found is not None or block is None:
        return False
    for link in c.judge.lab.links:
        for near, far in ((link.a, link.b), (link.b, link.a)):
            if (near.device, near.port.lower()) == (c.edit.device, block.name.lower()):
                other = c.attempt.configurations[far.device]
                port = other.bearer(far.port)
                return port is not None and other.one(Clocking, port) is not None
    return False


def _turned(c: Case) -> bool:
    """Whether internal and external address of a one-to-one stand in each other's place."""
    found, wanted = c.found, c.wanted
    return (
        isinstance(found, OneToOne)
        and isinstance(wanted, OneToOne)
        and (found.inside, found.outside) == (wanted.outside, wanted.inside)
    )


def _not_shared(c: Case) -> bool:
    return (
        isinstance(c.found, Dynamic)
        and isinstance(c.wanted, Dynamic)
        and c.wanted.shared
        and not c.found.shared
    )


def _native(c: Case) -> bool:
    return isinstance(c.found, Trunk) and isinstance(c.wanted, Trunk) and c.found.native != c.wanted.native


_LEASES = (LeaseNetwork, LeaseRange, Exclude, LeaseGateway, LeaseResolver, LeaseOrder)

STATEMENT_SLIPS: tuple[Slip, ...] = (
    Slip(
        "realms-swapped",
        "Realms swapped",
        lambda c: isinstance(c.wanted, Realm) and len(c.edit.add) > 1,
        lambda c: f"Internal and external stand in each other's place on {c.edit.device}.",
    ),
    Slip(
        "realm-missing",
        "Realm missing",
        adds(Realm),
        lambda c: f"{c.place} is neither internal nor external, so nothing is translated there.",
    ),
    Slip(
        "wrong-realm",
        "Wrong realm",
        _of(Realm),
        lambda c: f"{c.place} lies on the other side of the translation.",
    ),
    Slip(
        "translated-addresses-swapped",
        "Translated addresses swapped",
        _turned,
        lambda c: f"{is_said(c)}: the internal address stands first, then the one outside.",
    ),
    Slip(
        "one-to-one-onto-a-wrong-address",
        "One-to-one onto a wrong address",
        changes(OneToOne),
        lambda c: f"{is_said(c)} is not the pair that is planned.",
    ),
    Slip(
        "shared-missing",
        "Shared missing",
        _not_shared,
        lambda c: f"{is_said(c)} gives every host an address of its own; here they share.",
    ),
    Slip(
        "translation-missing",
        "Translation missing",
        _added(OneToOne, Published, Dynamic),
        lambda c: f"Nothing on {c.edit.device} says {needs(c)}.",
    ),
    Slip(
        "translation-wrong",
        "Translation wrong",
        _of(Published, Dynamic),
        lambda c: f"{is_said(c)} translates other than planned.",
    ),
    Slip(
        "pool-wrong",
        "Pool wrong",
        _of(Pool),
        lambda c: f"The pool of {c.edit.device} does not hold the addresses that are planned.",
    ),
    Slip(
        "list-does-not-permit-the-sources",
        "List does not permit the sources",
        _of(Entry),
        lambda c: f"The list on {c.edit.device} does not permit the sources that it should.",
    ),
    Slip(
        "clock-on-the-wrong-end",
        "Clock on the wrong end",
        _clock_elsewhere,
        lambda c: f"The clock is given at the other end; it belongs on {c.place}.",
    ),
    Slip(
        "clock-missing",
        "Clock missing",
        adds(Clocking),
        lambda c: f"{c.place} has to give the clock of its link.",
    ),
    Slip(
        "clock-rate-wrong",
        "Clock rate wrong",
        _of(Clocking),
        lambda c: f"{c.place} gives another rate than planned.",
    ),
    Slip(
        "native-mismatch",
        "Native mismatch",
        _native,
        lambda c: f"{c.place} has another native VLAN than planned.",
    ),
    Slip(
        "vlan-missing-on-the-trunk",
        "VLAN missing on the trunk",
        _of(Trunk),
        lambda c: f"{c.place} does not carry the VLANs that it should.",
    ),
    Slip("wrong-vlan", "Wrong VLAN", _of(Access), lambda c: f"{c.place} is not in the VLAN that is planned."),
    Slip(
        "vlan-not-declared",
        "VLAN not declared",
        _of(Open),
        lambda c: f"{c.edit.device} drops the frames of a VLAN that it does not declare.",
    ),
    Slip(
        "fixed-address-instead-of-lease",
        "Fixed address instead of a lease",
        lambda c: adds(Leased)(c) and c.has(OnPort),
        lambda c: f"{c.place} has a fixed address; it should take a lease.",
    ),
    Slip("lease-missing", "Lease missing", _of(Leased), lambda c: f"{c.place} does not ask for a lease."),
    Slip(
        "lease-pool-wrong",
        "Lease pool wrong",
        _of(*_LEASES),
        lambda c: f"The leases of {c.edit.device} are not as planned: {needs(c)} is wanted.",
    ),
    Slip(
        "learned-route-network-missing",
        "Learned-route network missing",
        _of(Run, Passive, Announce),
        lambda c: f"{c.edit.device} does not announce what it should: {needs(c)} is wanted.",
    ),
    Slip(
        "name-record-missing",
        "Name record missing",
        adds(Record),
        lambda c: f"{c.edit.device} lacks {needs(c)}.",
    ),
    Slip(
        "name-record-wrong",
        "Name record wrong",
        _of(Record, Ask),
        lambda c: f"{is_said(c)} is not what is planned.",
    ),
    Slip(
        "service-missing",
        "Service missing",
        _of(Service),
        lambda c: f"{c.edit.device} does not offer {needs(c)}.",
    ),
    Slip(
        "resolver-missing",
        "Resolver missing",
        _of(Resolver),
        lambda c: f"{c.edit.device} asks no such name server.",
    ),
    Slip(
        "forwarding-off",
        "Forwarding off",
        _of(Forwarding),
        lambda c: f"{needs(c)} is wanted on {c.edit.device}.",
    ),
    Slip(
        "port-in-the-wrong-instance",
        "Port in the wrong instance",
        _of(Member, Instance),
        lambda c: f"{c.place} does not belong to the network instance that is planned.",
    ),
    Slip(
        "address-not-asked-for",
        "Address not asked for",
        _of(Advertised),
        lambda c: f"{c.place} does not take an address from the router's advertisement.",
    ),
    Slip(
        "setting-missing",
        "Setting missing",
        lambda c: c.wanted is not None and c.found is None,
        lambda c: f"{needs(c)} is missing on {c.place}.",
    ),
    Slip(
        "setting-wrong",
        "Setting wrong",
        lambda c: c.wanted is not None,
        lambda c: f"{is_said(c)} has to be {needs(c)}.",
    ),
)
