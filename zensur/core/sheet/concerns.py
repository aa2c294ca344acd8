"""What the lines of one configuration say about one another: names, networks, next hops, leases.

The reader looks at each line alone; this looks at the whole, so it also serves a sheet that is laid
over what is given.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from difflib import get_close_matches

from ..addresses import Address, Interface, usable
from .configuration import AnyItem, Block, Configuration, Item
from .diagnostics import Diagnostic, Mend, Severity
from .reader import Sheet
from .statement import folded
from .statements import (
    Access,
    Advertised,
    Dynamic,
    Gateway,
    Instance,
    Leased,
    Member,
    OneToOne,
    OnPort,
    Pool,
    Published,
    Route,
    Trunk,
)
from .statements.routing import Passive, Run
from .statements.servers import LeaseGateway, LeaseNetwork, LeaseRange
from .statements.translation import LIST
from .words import Line


@dataclass(frozen=True, slots=True)
class Concern:
    """Something that an item of a configuration says and should not; ``word`` is the word meant."""

    item: AnyItem
    severity: Severity
    code: str
    message: str
    word: str = ""
    suggestion: str | None = None


@dataclass(frozen=True, slots=True)
class Held:
    """An address of the device, with the port or loopback that bears it and its network instance."""

    item: Item[OnPort]
    block: Block
    instance: str | None

    @property
    def interface(self) -> Interface:
        """The address with its length."""
        return self.item.statement.interface


def held_addresses(configuration: Configuration) -> list[Held]:
    """Return all addresses of a configuration, whether their ports are on or not."""
    member = {i.block: i.statement.instance.lower() for i in configuration.everywhere(Member)}
    return [
        Held(item, item.block, member.get(item.block))
        for item in configuration.everywhere(OnPort)
        if item.block is not None
    ]


def concerns(configuration: Configuration, ports: Iterable[str] | None = None) -> Iterator[Concern]:
    """Check a configuration within itself; ``ports`` are the device's physical ports where they are known."""
    held = held_addresses(configuration)
    yield from _names(configuration, ports)
    yield from _mappings(configuration)
    yield from _addresses(held)
    yield from _hops(configuration, held)
    yield from _leases(configuration)
    yield from _sub_ports(configuration)


def located(concern: Concern, sheet: Sheet) -> Diagnostic:
    """Find the columns of a concern in the text of its sheet."""
    number = concern.item.where.line if concern.item.where else 1
    lines = sheet.text.split("\n")
    line = Line(lines[number - 1] if number <= len(lines) else "")
    line.at = len(line.words)
    column, end = line.span(0)
    exact = False
    for word in line.words[1:]:
        at = word.text.lower().find(concern.word.lower()) if concern.word else -1
        if at == 0 or (at > 0 and not word.text[at - 1].isalnum()):
            column, end, exact = word.column + at, word.column + at + len(concern.word) - 1, True
            break
    mend = Mend(number, column, end, concern.suggestion) if exact and concern.suggestion else None
    return Diagnostic(
        concern.severity, concern.code, number, column, end, concern.message, concern.suggestion, mend
    )


def _error(item: AnyItem, code: str, message: str, word: str = "", suggestion: str | None = None) -> Concern:
    return Concern(item, Severity.ERROR, code, message, word, suggestion)


def _warning(item: AnyItem, code: str, message: str, word: str = "") -> Concern:
    return Concern(item, Severity.WARNING, code, message, word)


# --- names ------------------------------------------------------------------------------------------


def _names(configuration: Configuration, physical: Iterable[str] | None) -> Iterator[Concern]:
    """Find names of ports, pools, lists and instances that are not there."""
    own = [b.port_name for kind in ("port", "loopback", "vlan") for b in configuration.blocks(kind)]
    ports = own if physical is None else [*physical, *own]
    pools = configuration.all(Pool)
    lists = [b for b in configuration.blocks(LIST) if configuration.header(b)]
    for item, word in _ports_named(configuration):
        if physical is not None:
            yield from _undefined(item, word, "port", ports)
    for dynamic in configuration.all(Dynamic):
        said = dynamic.statement
        if isinstance(said.who, str):
            here = [b.name for b in lists if folded(b.instance) == folded(said.instance)]
            yield from _undefined(dynamic, said.who, "list", here, "addresses {}")
        here = [p.statement.name for p in pools if folded(p.statement.instance) == folded(said.instance)]
        if physical is not None or said.where.lower() not in [p.lower() for p in ports]:
            yield from _undefined(
                dynamic, said.where, "pool or port", [*here, *ports], "pool {} ADDRESS to ADDRESS"
            )
    for pool in pools:
        if pool.statement.name.lower() in [p.lower() for p in ports]:
            yield _error(
                pool, "pool-named-like-port",
                f"{pool.statement.name} is a port of this device: a pool needs another name.", pool.statement.name,
            )  # fmt: skip
    declared = [i.statement.name for i in configuration.all(Instance)]
    for item in configuration.items:
        instance = getattr(item.statement, "instance", None)
        if isinstance(instance, str):
            yield from _undefined(item, instance, "instance", declared, "instance {}")
    for kind in (LIST, "dhcp", "rip", "dns"):
        for block in configuration.blocks(kind):
            header = configuration.header(block)
            if header is not None and block.instance is not None:
                yield from _undefined(header, block.instance, "instance", declared, "instance {}")


def _ports_named(configuration: Configuration) -> Iterator[tuple[AnyItem, str]]:
    """Yield every statement that names a port, with that name."""
    named: list[tuple[AnyItem, str | None]] = []
    named += [(i, i.statement.port) for i in configuration.all(Route)]
    named += [(i, i.statement.port) for i in configuration.all(Gateway)]
    named += [
        (i, i.statement.outside) for i in configuration.all(OneToOne) if isinstance(i.statement.outside, str)
    ]
    named += [
        (i, i.statement.outside.holder)
        for i in configuration.all(Published)
        if isinstance(i.statement.outside.holder, str)
    ]
    named += [(i, i.statement.port) for i in configuration.everywhere(Run)]
    named += [(i, i.statement.port) for i in configuration.everywhere(Passive)]
    return ((item, name) for item, name in named if name is not None)


def _undefined(
    item: AnyItem, name: str, what: str, known: Iterable[str], declare: str = ""
) -> Iterator[Concern]:
    there = list(dict.fromkeys(known))
    if name.lower() in [k.lower() for k in there]:
        return
    near = get_close_matches(name, there, 1, 0.5)
    if near:
        hint = f" Did you mean {near[0]}?"
    elif declare:
        hint = f" It is declared by a line {declare.format(name)}."
    else:
        hint = f" There are {', '.join(there[:8])}." if there else ""
    yield _error(
        item, "undefined-name",
        f"There is no {what} {name}, so this line has no effect.{hint}", name, near[0] if near else None,
    )  # fmt: skip


# --- translations -----------------------------------------------------------------------------------


def _mappings(configuration: Configuration) -> Iterator[Concern]:
    """Find two mappings onto one external address or number: the first counts."""
    taken: dict[tuple[object, ...], AnyItem] = {}
    mappings = [
        *(((i.statement.outside, folded(i.statement.instance)), i) for i in configuration.all(OneToOne)),
        *(
            ((i.statement.protocol, i.statement.outside, folded(i.statement.instance)), i)
            for i in configuration.all(Published)
        ),
    ]
    for key, item in mappings:
        before = taken.setdefault(key, item)
        if before is not item:
            line = f", in line {before.where.line}" if before.where else ""
            outside = getattr(item.statement, "outside", "")
            yield _error(
                item, "mapped-twice",
                f"Something else is translated to {outside} already{line}; that one counts.", str(outside),
            )  # fmt: skip


# --- addresses --------------------------------------------------------------------------------------


def _addresses(held: list[Held]) -> Iterator[Concern]:
    """Find network and broadcast addresses on ports, and ports whose networks overlap."""
    for number, own in enumerate(held):
        interface = own.interface
        word = str(interface.ip)
        if interface.ip not in usable(interface.network):
            network = interface.ip == interface.network.network_address
            yield _warning(
                own.item, "address-is-network" if network else "address-is-broadcast",
                f"{interface} is the {'network' if network else 'broadcast'} address of {interface.network}: "
                f"no device bears it. The first usable one is {usable(interface.network).first}.",
                word,
            )  # fmt: skip
        for other in held[:number]:
            if other.block == own.block or other.instance != own.instance or interface.ip.is_link_local:
                continue
            if other.interface.ip == interface.ip:
                yield _warning(
                    own.item, "address-twice",
                    f"{interface.ip} is the address of {other.block.port_name} already: each port needs its own.", word,
                )  # fmt: skip
                break
            if other.interface.version == interface.version and other.interface.network.overlaps(
                interface.network
            ):
                yield _warning(
                    own.item, "networks-overlap",
                    f"{own.block.port_name} and {other.block.port_name} lie in overlapping networks, "
                    f"{interface.network} and {other.interface.network}: each port needs a network of its own.", word,
                )  # fmt: skip
                break


def _hops(configuration: Configuration, held: list[Held]) -> Iterator[Concern]:
    """Find gateways and next hops that lie in no connected network, or are the device's own address."""
    reachable: dict[str | None, list[Interface]] = {}
    for own in held:
        reachable.setdefault(own.instance, []).append(own.interface)
    routes = configuration.all(Route)
    leased = bool(configuration.everywhere(Leased) or configuration.everywhere(Advertised))
    hops: list[tuple[AnyItem, Address, str | None, bool]] = [
        (g, g.statement.address, folded(g.statement.instance), False) for g in configuration.all(Gateway)
    ]
    hops += [
        (r, r.statement.next_hop, folded(r.statement.instance), r.statement.port is None)
        for r in routes
        if r.statement.next_hop is not None
    ]
    for item, hop, instance, may_resolve in hops:
        what = "gateway" if isinstance(item.statement, Gateway) else "next hop"
        own_networks = reachable.get(instance, [])
        if any(hop == i.ip for i in own_networks):
            yield _warning(
                item, f"{what.replace(' ', '-')}-is-own",
                f"{hop} is this device's own address: the {what} is the neighbour's.", str(hop),
            )  # fmt: skip
        elif hop.is_link_local or leased or any(hop in i.network for i in own_networks):
            continue
        elif not (may_resolve and any(_covers(r, item, hop, instance) for r in routes)):
            networks = ", ".join(
                dict.fromkeys(str(i.network) for i in own_networks if i.version == hop.version)
            )
            yield _warning(
                item, f"{what.replace(' ', '-')}-not-connected",
                f"The {what} {hop} lies in no network of this device"
                + (f"; those are {networks}." if networks else "."), str(hop),
            )  # fmt: skip


def _covers(route: Item[Route], other: AnyItem, hop: Address, instance: str | None) -> bool:
    said = route.statement
    return (
        route is not other
        and not said.discard
        and folded(said.instance) == instance
        and hop.version == said.dest.version
        and hop in said.dest
    )


# --- leases and VLANs -------------------------------------------------------------------------------


def _leases(configuration: Configuration) -> Iterator[Concern]:
    for block in configuration.blocks("dhcp"):
        network = configuration.one(LeaseNetwork, block)
        header = configuration.header(block)
        if network is None:
            if header is not None and header.where is not None:
                yield _warning(
                    header, "lease-without-network", f"{block.name} gives no leases: it needs its network PREFIX.",
                    block.name,
                )  # fmt: skip
            continue
        prefix = network.statement.prefix
        given = configuration.one(LeaseRange, block)
        if given is not None and not given.statement.held.within(prefix):
            yield _error(
                given, "range-outside-network",
                f"The range {given.statement.held} does not lie in {prefix}, the network of these leases.",
                str(given.statement.held.first),
            )  # fmt: skip
        gateway = configuration.one(LeaseGateway, block)
        if gateway is not None and gateway.statement.address not in prefix:
            yield _warning(
                gateway, "gateway-not-connected",
                f"The gateway {gateway.statement.address} does not lie in {prefix}, the network of these leases.",
                str(gateway.statement.address),
            )  # fmt: skip


def _sub_ports(configuration: Configuration) -> Iterator[Concern]:
    """Find tagged sub-ports of ports that carry VLANs as a switch's do."""
    carrying = {
        i.block.name.lower(): i for k in (Access, Trunk) for i in configuration.everywhere(k) if i.block
    }
    for block in configuration.blocks("port"):
        header = configuration.header(block)
        if block.sub_port_of and header and block.sub_port_of[0].lower() in carrying:
            yield _error(
                header, "sub-port-of-switch-port",
                f"{block.sub_port_of[0]} is a switch port, with access or trunk: it has no sub-ports.", block.name,
            )  # fmt: skip
