"""What the lines of one configuration say about one another: names, networks, next hops, leases.

The reader looks at each line alone; this looks at the whole, so it also serves a sheet that is laid
over what is given.
"""

from collections.abc import Iterable, Iterator
from itertools import chain, islice

from ..addresses import Address, PrefixSet
from .concern import Concern, Held, error, held_addresses, warning
from .configuration import AnyItem, Configuration, Item
from .diagnostics import Diagnostic, Mend
from .overlaps import find_overlaps
from .reader import Sheet
from .statement import folded
from .statements import (
    Access,
    Advertised,
    Gateway,
    Leased,
    OneToOne,
    Published,
    Route,
    Trunk,
)
from .statements.servers import LeaseGateway, LeaseNetwork, LeaseRange
from .undefined import find_undefined
from .words import Line

MOST_CONCERNS = 200


def concerns(configuration: Configuration, ports: Iterable[str] | None = None) -> Iterator[Concern]:
    """Check a configuration within itself; ``ports`` are the device's physical ports where they are known.

    At most 200 concerns are returned: nobody reads more, and suggestions cost most of the time.
    """
    held = held_addresses(configuration)
    found = chain(
        find_undefined(configuration, ports),
        _mappings(configuration),
        find_overlaps(held),
        _hops(configuration, held),
        _leases(configuration),
        _sub_ports(configuration),
    )
    return islice(found, MOST_CONCERNS)


def remarks_on(sheet: Sheet, found: Iterable[Concern]) -> list[Diagnostic]:
    """Turn concerns about the items of a sheet into diagnostics, with their columns in its text."""
    lines: list[str] = []
    diagnostics = []
    for concern in found:
        lines = lines or sheet.text.split("\n")
        diagnostics.append((_located if sheet.form == "sheet" else _at_its_line)(concern, lines))
    return diagnostics


def _at_its_line(concern: Concern, lines: list[str]) -> Diagnostic:
    """Locate a concern in a file of another form than ours, whose words are not those of the language."""
    number = concern.item.where.line if concern.item.where else 1
    text = lines[number - 1] if number <= len(lines) else ""
    column = len(text) - len(text.lstrip()) + 1
    end = max(column, len(text.rstrip()))
    return Diagnostic(concern.severity, concern.code, number, column, end, concern.message)


def _located(concern: Concern, lines: list[str]) -> Diagnostic:
    number = concern.item.where.line if concern.item.where else 1
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


# --- translations -----------------------------------------------------------------------------------


def _mappings(configuration: Configuration) -> Iterator[Concern]:
    """Find a second mapping of one internal address or service, or onto one external one: the first counts.

    What holds for one way out goes beside what holds for another; behind one that holds for all it has no effect.
    """
    taken: dict[tuple[object, ...], list[Item[OneToOne | Published]]] = {}
    mappings: list[Item[OneToOne | Published]] = [*configuration.all(OneToOne), *configuration.all(Published)]
    for item in mappings:
        said = item.statement
        kind = (getattr(said, "protocol", None), folded(said.instance))
        for word, way in ((said.outside, "to"), (said.inside, "")):
            before = taken.setdefault((*kind, way, word), [])
            other = next((b for b in before if folded(b.statement.port) in (None, folded(said.port))), None)
            if other is None:
                before.append(item)
                continue
            line = f", in line {other.where.line}" if other.where else ""
            what = f"Something else is translated to {word}" if way else f"{word} is translated"
            yield error(item, "mapped-twice", f"{what} already{line}; that one counts.", str(word))
            break


# --- next hops -------------------------------------------------------------------------------------


def _hops(configuration: Configuration, held: list[Held]) -> Iterator[Concern]:
    """Find gateways and next hops that lie in no connected network, or are the device's own address."""
    own: set[tuple[str | None, Address]] = {(h.instance, h.interface.ip) for h in held}
    connected, routed = PrefixSet(), PrefixSet()
    networks: dict[tuple[str | None, int], list[str]] = {}
    for h in held:
        connected.add(h.instance, h.interface.network)
        networks.setdefault((h.instance, h.interface.version), []).append(str(h.interface.network))
    routes = configuration.all(Route)
    for route in routes:
        if not route.statement.discard:
            routed.add(folded(route.statement.instance), route.statement.dest)
    leased = bool(configuration.everywhere(Leased) or configuration.everywhere(Advertised))
    hops: list[tuple[AnyItem, Address, str | None]] = [
        (g, g.statement.address, folded(g.statement.instance)) for g in configuration.all(Gateway)
    ]
    hops += [
        (r, r.statement.next_hop, folded(r.statement.instance))
        for r in routes
        if r.statement.next_hop is not None
    ]
    for item, hop, instance in hops:
        by_route = item.statement if isinstance(item.statement, Route) else None
        what = "next hop" if by_route else "gateway"
        if (instance, hop) in own and not hop.is_link_local:  # the same one may stand on other ports
            yield warning(
                item, f"{what.replace(' ', '-')}-is-own",
                f"{hop} is this device's own address: the {what} is the neighbour's.", str(hop),
            )  # fmt: skip
        elif hop.is_link_local or leased or connected.covers(instance, hop):
            continue
        elif by_route is None or by_route.port or not routed.covers(instance, hop, without=by_route.dest):
            there = ", ".join(list(dict.fromkeys(networks.get((instance, hop.version), [])))[:6])
            yield warning(
                item, f"{what.replace(' ', '-')}-not-connected",
                f"The {what} {hop} lies in no network of this device" + (f"; those are {there}." if there else "."),
                str(hop),
            )  # fmt: skip


# --- leases and VLANs -------------------------------------------------------------------------------


def _leases(configuration: Configuration) -> Iterator[Concern]:
    for block in configuration.blocks("dhcp"):
        network = configuration.one(LeaseNetwork, block)
        header = configuration.header(block)
        if network is None:
            if header is not None and header.where is not None:
                yield warning(
                    header, "lease-without-network", f"{block.name} gives no leases: it needs its network PREFIX.",
                    block.name,
                )  # fmt: skip
            continue
        prefix = network.statement.prefix
        given = configuration.one(LeaseRange, block)
        if given is not None and not given.statement.held.within(prefix):
            yield error(
                given, "range-outside-network",
                f"The range {given.statement.held} does not lie in {prefix}, the network of these leases.",
                str(given.statement.held.first),
            )  # fmt: skip
        gateway = configuration.one(LeaseGateway, block)
        if gateway is not None and gateway.statement.address not in prefix:
            yield warning(
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
            yield error(
                header, "sub-port-of-switch-port",
                f"{block.sub_port_of[0]} is a switch port, with access or trunk: it has no sub-ports.", block.name,
            )  # fmt: skip
