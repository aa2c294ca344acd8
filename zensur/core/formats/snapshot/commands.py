"""Statements as commands for a Linux machine: what a learner would type to mend what a snapshot shows."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Any

from ...sheet import (
    AnyItem,
    Block,
    Configuration,
    Forwarding,
    Gateway,
    Name,
    OnPort,
    Open,
    Route,
    Switched,
)
from ...sheet.statements import (
    Access,
    Advertised,
    Dynamic,
    Entry,
    OneToOne,
    Pool,
    Proxy,
    Published,
    Realm,
    Resolver,
    Trunk,
)
from ...sheet.statements.translation import LIST
from .rules import Unsaid, rules_of

_MOST_VLANS = 16


def commands(remove: Sequence[AnyItem], add: Sequence[AnyItem], outside: Sequence[str] = ()) -> str:
    """Return the lines that take statements away and put others in their place; nothing where they cannot say all.

    ``outside`` are the ports by which translated packets leave, for translations that name none.
    """
    set_anew = {i.slot for i in add if type(i.statement) in _SET}
    first = [i for i in add if isinstance(i.statement, Open | OnPort)]
    gone = [i for i in remove if i.slot not in set_anew]
    try:
        lines = [line for item in first for line in _done(item)]
        lines += [*_promoted(first, gone), *(line for item in gone for line in _undone(item))]
        lines += [line for item in add if item not in first for line in _done(item)]
        rules = rules_of(Configuration.of_items(add), outside)
    except Unsaid:
        return ""
    if rules:
        lines += ["nft -f - <<END", *rules, "END"]
    return "".join(f"{line}\n" for line in lines)


def _done(item: AnyItem) -> Iterator[str]:
    kind = type(item.statement)
    if getattr(item.statement, "instance", None) is not None:
        raise Unsaid
    if kind in _SET or kind in _ADDED:
        yield from (_SET.get(kind) or _ADDED[kind][0])(item.block, item.statement)
    elif kind not in _IN_RULES:
        raise Unsaid


def _undone(item: AnyItem) -> Iterator[str]:
    said = item.statement
    if isinstance(said, Switched | Forwarding | Proxy):  # what nothing is said of is the other way round
        yield from _done(replace(item, statement=replace(said, on=not said.on)))
    elif type(said) in _ADDED and getattr(said, "instance", None) is None:
        yield from _ADDED[type(said)][1](item.block, said)
    else:
        raise Unsaid


def _promoted(added: Sequence[AnyItem], gone: Sequence[AnyItem]) -> Iterator[str]:
    """Keep a new address where the old one of the same network goes: by itself the kernel takes both away.

    The new one comes first all the same, for routes go with the last address of a port.
    """
    new = {(i.block, i.statement.interface.network) for i in added if isinstance(i.statement, OnPort)}
    old = {(i.block, i.statement.interface.network) for i in gone if isinstance(i.statement, OnPort)}
    for block, network in sorted(new & old, key=str):
        if network.version == 4:
            yield f"sysctl -w net.ipv4.conf.{_key(block)}.promote_secondaries=1"


def _device(block: Block | None) -> str:
    if block is None:
        raise Unsaid
    return block.port_name


# --- settings: one in the place of another ---------------------------------------------------------


def _switched(block: Block | None, said: Switched) -> Iterator[str]:
    yield f"ip link set {_device(block)} {'up' if said.on else 'down'}"


def _forwarding(block: Block | None, said: Forwarding) -> Iterator[str]:
    yield f"sysctl -w net.ipv4.ip_forward={said.on:d} net.ipv6.conf.all.forwarding={said.on:d}"


def _name(block: Block | None, said: Name) -> Iterator[str]:
    yield f"hostname {said.name}"


def _proxy(block: Block | None, said: Proxy) -> Iterator[str]:
    yield f"sysctl -w net.ipv4.conf.{_key(block)}.proxy_arp={said.on:d}"


def _key(block: Block | None) -> str:
    """Return a port as the names of settings have it: a dot of its own is a slash there."""
    return _device(block).replace(".", "/")


def _access(block: Block | None, said: Access) -> Iterator[str]:
    yield f"ip link set {_device(block)} master vlan{said.vlan}"


def _trunk(block: Block | None, said: Trunk) -> Iterator[str]:
    port = _device(block)
    vlans = [vlan for low, high in said.vlans.spans for vlan in range(low, min(high, low + _MOST_VLANS) + 1)]
    if len(vlans) > _MOST_VLANS:
        raise Unsaid
    for vlan in vlans:
        if vlan != said.native:
            yield f"ip link add link {port} name {port}.{vlan} type vlan id {vlan}"
            yield f"ip link set {port}.{vlan} up master vlan{vlan}"
    yield (
        f"ip link set {port} nomaster"
        if said.native is None
        else f"ip link set {port} master vlan{said.native}"
    )


# --- what is added, and taken away -----------------------------------------------------------------


def _address(verb: str) -> "_Written":
    def write(block: Block | None, said: OnPort) -> Iterator[str]:
        yield f"ip address {verb} {said.interface} dev {_device(block)}"

    return write


def _gateway(verb: str) -> "_Written":
    def write(block: Block | None, said: Gateway) -> Iterator[str]:
        yield from _a_route(verb, "default", said.address.version, said.address, said.port, 10)

    return write


def _route(verb: str) -> "_Written":
    def write(block: Block | None, said: Route) -> Iterator[str]:
        dest = "default" if said.dest.prefixlen == 0 else str(said.dest)
        yield from _a_route(verb, dest, said.dest.version, said.next_hop, said.port, said.preference)

    return write


def _a_route(
    verb: str, dest: str, version: int, hop: object, port: str | None, preference: int
) -> Iterator[str]:
    words = ["ip -6 route" if version == 6 else "ip route", verb]
    words += ["blackhole", dest] if hop is None and port is None else [dest]
    words += ["via", str(hop)] if hop is not None else []
    words += ["dev", port] if port is not None else []
    words += ["metric", str(preference)] if preference != 10 else []
    yield " ".join(words)


def _opened(block: Block | None, said: Open) -> Iterator[str]:
    if block is None or block.kind not in ("port", "loopback", "vlan", LIST):
        raise Unsaid
    if block.sub_port_of:
        port, vlan = block.sub_port_of
        yield f"ip link add link {port} name {block.name} type vlan id {vlan}"
    elif block.kind == "loopback" and block.name != "lo":
        yield f"ip link add {block.name} type dummy"
    elif block.kind == "vlan":
        yield f"ip link add {block.port_name} type bridge"
        yield f"ip link set {block.port_name} up"


def _closed(block: Block | None, said: Open) -> Iterator[str]:
    if block is None or block.kind not in ("port", "loopback", "vlan"):
        raise Unsaid
    if block.is_made:
        yield f"ip link delete {block.port_name}"


def _resolver(block: Block | None, said: Resolver) -> Iterator[str]:
    yield f"echo nameserver {said.address} >> /etc/resolv.conf"


def _no_resolver(block: Block | None, said: Resolver) -> Iterator[str]:
    yield f"sed -i '/^nameserver {said.address}$/d' /etc/resolv.conf"


def _advertised(on: int) -> "_Written":
    def write(block: Block | None, said: Advertised) -> Iterator[str]:
        conf = f"net.ipv6.conf.{_key(block)}"
        yield f"sysctl -w {conf}.autoconf={on} {conf}.accept_ra={2 * on}"

    return write


_Written = Callable[[Block | None, Any], Iterator[str]]
_SET: dict[type, _Written] = {
    Switched: _switched, Forwarding: _forwarding, Name: _name, Proxy: _proxy, Access: _access, Trunk: _trunk,
}  # fmt: skip
_ADDED: dict[type, tuple[_Written, _Written]] = {
    OnPort: (_address("add"), _address("del")),
    Gateway: (_gateway("add"), _gateway("del")),
    Route: (_route("add"), _route("del")),
    Open: (_opened, _closed),
    Resolver: (_resolver, _no_resolver),
    Advertised: (_advertised(1), _advertised(0)),
}
_IN_RULES = (Dynamic, OneToOne, Published, Pool, Entry, Realm)
"""What the rules of nftables say; the realm of a port lies in them."""
