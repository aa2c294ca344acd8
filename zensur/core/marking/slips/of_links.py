"""Slips in what links carry: clocks and VLANs."""

from collections.abc import Iterator
from dataclasses import replace

from ...sheet import Block
from ...sheet.statements import Access, Clocking, Open, Trunk
from ...sheet.vlans import VlanSet
from .case import Case, Slip, adds, needs, wants
from .made import MadeSlip, Making, left_out, other_values, several


def _clock_elsewhere(c: Case) -> bool:
    """Whether the other end of the link gives a clock instead."""
    block = c.edit.block
    if not isinstance(c.wanted, Clocking) or c.found is not None or block is None:
        return False
    for link in c.lab.links:
        for near, far in ((link.a, link.b), (link.b, link.a)):
            if (near.device, near.port.lower()) == (c.device, block.name.lower()):
                other = c.attempt.configurations[far.device]
                port = other.bearer(far.port)
                return port is not None and other.one(Clocking, port) is not None
    return False


def _native(c: Case) -> bool:
    return isinstance(c.found, Trunk) and isinstance(c.wanted, Trunk) and c.found.native != c.wanted.native


def _too_many(c: Case) -> bool:
    """Whether a trunk carries all that is planned, and more."""
    found, wanted = c.found, c.wanted
    if not isinstance(found, Trunk) or not isinstance(wanted, Trunk) or found.vlans == wanted.vlans:
        return False
    return found.vlans.all or (not wanted.vlans.all and _listed(wanted) < _listed(found))


def _listed(trunk: Trunk) -> set[int]:
    return {v for low, high in trunk.vlans.spans for v in range(low, high + 1)}


def _one_more(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(Trunk):
        spans = item.statement.vlans.spans
        if not item.statement.vlans.all and spans[-1][1] < 4094:
            more = VlanSet.of([*spans, (spans[-1][1] + 1, spans[-1][1] + 1)])
            yield making.instead("one VLAN more", item, replace(item.statement, vlans=more))


def _at_the_other_end(making: Making) -> Iterator[MadeSlip]:
    """Give the clock at the other end of the link."""
    for item in making.of(Clocking):
        for _, port, far, far_port in making.neighbours():
            if item.block and port.lower() == item.block.name.lower():
                made = making.change("at the other end", [item], [])
                yield replace(made, put=((far, replace(item, block=Block("port", far_port))),))


def _other_vlans(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(Trunk):
        if item.statement.native is not None:
            other = replace(item.statement, native=item.statement.native + 1)
            yield making.instead("another native", item, other)


def _undeclared(making: Making) -> Iterator[MadeSlip]:
    """Leave the declaration of a VLAN out, where nothing else stands under it."""
    for item in making.of(Open):
        if (
            item.block is not None
            and item.block.kind == "vlan"
            and sum(i.block == item.block for i in making.items) == 1
        ):
            yield making.instead("left out", item, None)


OF_LINKS: tuple[Slip, ...] = (
    Slip(
        "clock-on-the-wrong-end",
        "Clock on the wrong end",
        _clock_elsewhere,
        lambda c: f"The clock is given at the other end; it belongs on {c.place}.",
        "The other end of the serial link gives the clock.",
        _at_the_other_end,
    ),
    Slip(
        "clock-missing",
        "Clock missing",
        adds(Clocking),
        lambda c: f"{c.place} has to give the clock of its link.",
        "No end of the serial link gives the clock, so that it stays down.",
        left_out(Clocking),
    ),
    Slip(
        "clock-rate-wrong",
        "Clock rate wrong",
        wants(Clocking),
        lambda c: f"{c.place} gives another rate than planned.",
        "The clock has another rate than planned.",
        other_values(Clocking),
    ),
    Slip(
        "native-mismatch",
        "Native mismatch",
        _native,
        lambda c: f"{c.place} has another native VLAN than planned.",
        "The two ends of the trunk disagree on which VLAN goes untagged.",
        _other_vlans,
    ),
    Slip(
        "too-many-vlans-on-the-trunk",
        "Too many VLANs on the trunk",
        _too_many,
        lambda c: f"{c.place} carries VLANs that it should not: {needs(c)} is planned.",
        "The trunk carries more VLANs than planned.",
        _one_more,
    ),
    Slip(
        "vlan-missing-on-the-trunk",
        "VLAN missing on the trunk",
        wants(Trunk),
        lambda c: f"{c.place} does not carry the VLANs that it should.",
        "The trunk does not carry all VLANs that have to pass it.",
        several(left_out(Trunk), other_values(Trunk, also=("native-mismatch",))),
    ),
    Slip(
        "wrong-vlan",
        "Wrong VLAN",
        wants(Access),
        lambda c: f"{c.place} is not in the VLAN that is planned.",
        "The port is in another VLAN than planned.",
        several(left_out(Access), other_values(Access)),
    ),
    Slip(
        "vlan-not-declared",
        "VLAN not declared",
        wants(Open),
        lambda c: f"{c.device} drops the frames of a VLAN that it does not declare.",
        "The switch does not know the VLAN, and drops its frames.",
        _undeclared,
    ),
)
