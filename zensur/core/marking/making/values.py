"""A statement left out, or with another of its values."""

from collections.abc import Iterator
from dataclasses import fields, replace
from ipaddress import IPv4Address, IPv4Network, IPv6Address, IPv6Network, ip_interface, ip_network
from typing import Any

from ...addresses import AddressRange, Prefix
from ...sheet import Gateway, OnPort, Route, Statement, Switched, VlanSet
from ...sheet.operands import Masked
from ...sheet.statements import Dynamic

Made = tuple[str, Statement | None, set[str]]


def changed_values(statement: Statement) -> Iterator[Made]:
    """Yield what may stand in the place of a statement, None where it was left out, and what that may be called."""
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
        if isinstance(statement, Dynamic):
            yield "undefined name", replace(statement, where=f"{statement.where}x"), {"undefined-name"}
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
    if statement.port is not None:
        yield "without its port", replace(statement, port=None), {"link-local-gateway-without-its-port"}
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
    if 0 < statement.dest.prefixlen < statement.dest.max_prefixlen - 1:
        narrow: Any = next(iter(statement.dest.subnets()))
        yield "narrower", replace(statement, dest=narrow), {"route-with-the-wrong-mask"}
    if statement.discard and statement.dest.prefixlen > 2:
        wide = statement.dest.supernet(2)
        yield "wider discard", replace(statement, dest=wide), {"discard-too-wide"}


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
