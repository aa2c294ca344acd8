"""Slips put into configurations on purpose: for believable papers, and to see that each is found again."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, fields, replace
from ipaddress import IPv4Address, IPv4Network, IPv6Address, IPv6Network, ip_interface, ip_network
from typing import Any

from ...addresses import AddressRange, Prefix
from ...lab import Lab
from ...sheet import AnyItem, Configuration, Gateway, OnPort, Route, Statement, Switched, VlanSet
from ...sheet.operands import Masked
from ...sheet.statements import About, Label, LeaseDuration, Name, Open

_SAID_NOTHING = (Open, Name, About, Label, LeaseDuration)
"""Statements that no slip is made of: they change nothing that is simulated."""


@dataclass(frozen=True, slots=True)
class MadeSlip:
    """What a learner may have put in the place of a statement, ``put`` None where it was left out.

    ``slips`` are the keywords that this may be called by; empty where any is right.
    """

    what: str
    item: AnyItem
    put: AnyItem | None
    slips: frozenset[str]

    def on(self, configuration: Configuration) -> Configuration:
        """Return a configuration with the slip made."""
        return configuration.changed([self.item], [self.put] if self.put else [])


def slips_of(configuration: Configuration) -> Iterator[MadeSlip]:
    """Yield every slip that can be made of a configuration, statement by statement."""
    for item in configuration.items:
        statement = item.statement
        if isinstance(statement, _SAID_NOTHING):
            continue
        made = _of_kind(statement)
        for what, put, slips in made:
            yield MadeSlip(what, item, replace(item, statement=put) if put else None, frozenset(slips))


LabSlip = tuple[str, MadeSlip]
"""A slip with the device that it is made on."""


def slips_in(lab: Lab) -> list[LabSlip]:
    """Return every slip that can be made of what a lab's model answer adds."""
    found = []
    for device, sheet in lab.full_paper.items():
        given = {(i.block, i.statement) for i in lab.base[device].items}
        for slip in slips_of(sheet.configuration):
            if (slip.item.block, slip.item.statement) not in given:
                found.append((device, slip))
    return found


def sheets_with(lab: Lab, slips: Iterable[LabSlip]) -> dict[str, Configuration]:
    """Return the sheets of a full paper with some slips made."""
    sheets = {device: sheet.configuration for device, sheet in lab.full_paper.items()}
    for device, slip in slips:
        sheets[device] = slip.on(sheets[device])
    return sheets


Made = tuple[str, Statement | None, set[str]]


def _of_kind(statement: Statement) -> Iterator[Made]:
    if isinstance(statement, Switched):
        yield "left out", None, {"port-left-off", "port-not-switched-off"}
    elif isinstance(statement, OnPort):
        yield from _of_address(statement)
    elif isinstance(statement, Gateway):
        yield from _of_gateway(statement)
    elif isinstance(statement, Route):
        yield from _of_route(statement)
    else:
        yield "left out", None, set()
        for other in _near(statement):
            yield "another value", other, set()


def _of_address(statement: OnPort) -> Iterator[Made]:
    yield "left out", None, {"address-missing"}
    interface = statement.interface
    length, most = interface.network.prefixlen, interface.max_prefixlen
    for other in (length - 1, length + 1):
        if other < most - 1:
            masked = Masked(ip_interface((interface.ip, other)))
            yield "other mask", replace(statement, masked=masked), {"wrong-mask"}
    if not (interface.version == 6 and interface.ip.is_link_local):
        far = interface.ip + (25600 if interface.version == 4 else 100 << 64)
        yield "other octet", replace(statement, masked=Masked(ip_interface((far, length)))), {"wrong-address"}


def _of_gateway(statement: Gateway) -> Iterator[Made]:
    yield "left out", None, {"gateway-missing"}
    near = replace(statement, address=statement.address + 1)
    yield "other gateway", near, {"gateway-wrong", "gateway-is-the-device-itself"}
    if not (statement.address.version == 6 and statement.address.is_link_local):
        far = replace(
            statement, address=statement.address + (1 << (22 if statement.address.version == 4 else 80))
        )
        yield "gateway elsewhere", far, {"gateway-outside-the-network"}


def _of_route(statement: Route) -> Iterator[Made]:
    gone = {"discard-missing"} if statement.discard else {"route-missing", "return-route-missing"}
    yield "left out", None, gone
    if statement.next_hop is not None:
        hop = replace(statement, next_hop=statement.next_hop + 1)
        yield "other hop", hop, {"wrong-next-hop", "next-hop-is-the-device-itself"}
    moved = _beside(statement.dest, 8)
    if moved is not None:
        yield "other network", replace(statement, dest=moved), {"route-to-the-wrong-network"}


def _beside(prefix: Prefix, by: int) -> Prefix | None:
    """Return the network some places behind a prefix; None where there is none."""
    if not prefix.prefixlen:
        return None
    shift = prefix.max_prefixlen - prefix.prefixlen
    number = int(prefix.network_address) + (by << shift)
    if number >> prefix.max_prefixlen:
        return None
    return ip_network(
        (number, prefix.prefixlen) if prefix.version == 4 else (number.to_bytes(16, "big"), prefix.prefixlen)
    )


def _near(statement: Statement) -> Iterator[Statement]:
    """Yield the statement with one of its values another: a neighbour's number, the next address, the other word."""
    for field in fields(statement):
        other = _other(field.name, getattr(statement, field.name))
        if other is not None:
            yield replace(statement, **{field.name: other})


def _other(name: str, value: Any) -> Any:
    if isinstance(value, bool):
        return not value
    if isinstance(value, IPv4Address | IPv6Address):
        return value + 1
    if isinstance(value, IPv4Network | IPv6Network):
        return _beside(value, 1)
    if isinstance(value, AddressRange):
        return AddressRange(value.first + 1, value.last + 1)
    if isinstance(value, VlanSet):
        first = value.spans[0]
        return VlanSet.of([first if len(value.spans) > 1 else (first[0] % 4094 + 1, first[0] % 4094 + 1)])
    if isinstance(value, int) and name not in ("first", "last"):
        return value + 1
    return None
