"""Works out the chart: which networks there are, what stands at each knot, and how far strokes run."""

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from ..lab import Kind, Lab
from ..sheet import natural
from ..sim import Domain, Network, domains, written
from ..sim.numbers import is_link_local, is_six, number_of, same_network
from ..sim.ports import PortAddress
from .order import order_columns


@dataclass(frozen=True, slots=True)
class Loopback:
    """A loopback below a column's foot."""

    name: str
    address: str
    on: bool


@dataclass(frozen=True, slots=True)
class Column:
    """A device, or one network instance of a box that has several; its main one has no name.

    ``first`` and ``last`` are the rows of its first and last knot, None where it has none.
    """

    device: str
    instance: str
    kind: str
    about: str
    first: int | None
    last: int | None
    loopbacks: tuple[Loopback, ...]


@dataclass(frozen=True, slots=True)
class Row:
    """A network. ``first`` and ``last`` are the columns of its first and last knot, None where nothing is in it yet."""

    name: str
    prefix: str
    serial: bool
    first: int | None
    last: int | None


@dataclass(frozen=True, slots=True)
class Knot:
    """A device's ports in a network, with the host part of the address; ``address`` is the whole one."""

    column: int
    row: int
    ports: tuple[str, ...]
    label: str
    host: str
    address: str | None
    up: bool


@dataclass(frozen=True, slots=True)
class Weave:
    """The chart, columns and rows in the order in which they are drawn."""

    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    knots: tuple[Knot, ...]
    links: int
    down: tuple[str, ...]
    """The links that are down, as ``DEVICE:PORT -- DEVICE:PORT``."""


def weave(lab: Lab, network: Network, planned: bool = False) -> Weave:
    """Work out the weave of a lab whose configurations are compiled in ``network``.

    ``planned`` asks for the named networks, too, in which there is no port yet: below the others.
    """
    wiring = network.wiring
    found = [own for domain in domains(network) if (own := _Network.of(network, domain)) is not None]
    units = _units(network)
    number_of_unit = {node: n for n, node in enumerate(units)}
    joined = [frozenset(number_of_unit[u] for u in own.knots) for own in found]
    order = units if lab.as_listed else [units[n] for n in order_columns(len(units), joined)]
    column_of = {node: n for n, node in enumerate(order)}

    def span(own: _Network) -> tuple[int, int]:
        columns = [column_of[node] for node in own.knots]
        return min(columns), max(columns)

    found.sort(key=span)
    rows = [
        Row(
            _name(lab, own.prefixes, [wiring.names[wiring.device_of_node(u)] for u in own.knots]),
            ", ".join(_prefix_text(*prefix) for prefix in own.prefixes),
            own.serial,
            *span(own),
        )
        for own in found
    ]
    knots = [
        _knot(network, column_of[node], number, ends, own.prefixes)
        for number, own in enumerate(found)
        for node, ends in own.knots.items()
    ]
    rows_of = {c: [k.row for k in knots if k.column == c] for c in range(len(order))}
    columns_ = [_column(lab, network, node, rows_of[n]) for n, node in enumerate(order)]
    rows += _planned(lab, found) if planned else ()
    links = [(a, b) for a, b in enumerate(wiring.peer) if a < b]
    down = [f"{_end(network, a)} -- {_end(network, b)}" for a, b in links if not network.link_up(a)]
    return Weave(
        tuple(columns_),
        tuple(rows),
        tuple(sorted(knots, key=lambda k: (k.row, k.column))),
        len(links),
        tuple(down),
    )


@dataclass(frozen=True, slots=True)
class _End:
    """A port at a knot: its name, the physical port (-1: a VLAN interface), and its addresses."""

    name: str
    port: int
    up: bool
    addresses: tuple[PortAddress, ...]


@dataclass(frozen=True, slots=True)
class _Network:
    """One row: the ends of each node in it, its prefixes, and whether it is a serial link."""

    knots: dict[int, list[_End]]
    prefixes: list[tuple[int, int]]
    serial: bool

    @classmethod
    def of(cls, network: Network, domain: Domain) -> "_Network | None":
        """Leave out ports that are not linked and have no address, and bare ports that only bear sub-ports."""
        wiring = network.wiring
        knots: dict[int, list[_End]] = {}
        for device, own in domain.interfaces:
            linked = own.port >= 0 and wiring.peer[own.port] >= 0
            bears = own.kind == "port" and any(
                p.kind == "sub-port" and p.port == own.port for p in network.devices[device].ports
            )
            addresses = (*own.four, *own.six, *(a for a in own.links if a.origin == "sheet"))
            if addresses or (linked and not bears):
                knots.setdefault(own.node, []).append(_End(own.name, own.port, network.is_up(own), addresses))
        if not knots:
            return None
        for device, port in domain.carried:
            knots.setdefault(device, []).append(_End(wiring.port_name[port], port, network.link_up(port), ()))
        return cls(
            {node: knots[node] for node in sorted(knots, key=lambda n: (wiring.device_of_node(n), n))},
            _prefixes(end.addresses for ends in knots.values() for end in ends),
            any(own.serial for _, own in domain.interfaces),
        )


def _planned(lab: Lab, found: list[_Network]) -> Iterator[Row]:
    """Yield a row for every named network of which no port has an address."""
    held = {prefix for own in found for prefix in own.prefixes}
    for named in lab.networks:
        if not any((number_of(p.network_address), p.prefixlen) in held for p in named.prefixes):
            yield Row(named.name, ", ".join(map(str, named.prefixes)), False, None, None)


def _end(network: Network, port: int) -> str:
    return f"{network.wiring.names[network.wiring.port_device[port]]}:{network.wiring.port_name[port]}"


def _prefixes(held: Iterable[tuple[PortAddress, ...]]) -> list[tuple[int, int]]:
    """Return the networks that most ports of a row lie in, of each family, the commonest first; ties keep the lab's
    order."""
    own = list(held)
    return [*_commonest(own, False), *_commonest(own, True)]


def _commonest(held: list[tuple[PortAddress, ...]], six: bool) -> list[tuple[int, int]]:
    firsts = ([a for a in own if is_six(a.address) is six and not is_link_local(a.address)] for own in held)
    most = Counter((a.network, a.length) for own in firsts for a in own[:1]).most_common()
    return [prefix for prefix, n in most if n > 1] or [prefix for prefix, _ in most[:1]]


def _prefix_text(network: int, length: int) -> str:
    return f"{written(network)}/{length}"


def _name(lab: Lab, prefixes: list[tuple[int, int]], devices: list[str]) -> str:
    for named in lab.networks:
        for prefix in named.prefixes:
            if (number_of(prefix.network_address), prefix.prefixlen) in prefixes:
                return named.name
    joined = [d for d in dict.fromkeys(devices) if lab.devices[d].kind is not Kind.SWITCH]
    return " – ".join(joined[:2])


def _knot(network: Network, column: int, row: int, ends: list[_End], prefixes: list[tuple[int, int]]) -> Knot:
    physical = tuple(sorted((e.name for e in ends if e.port >= 0), key=natural))
    names = physical or tuple(e.name for e in ends)
    own = [a for e in ends for a in e.addresses]
    host = _host_part(own[0].address, prefixes) if own else ""
    return Knot(
        column,
        row,
        (*names, *(e.name for e in ends if e.name not in names)),
        _joined(names),
        host + (" +" if len(own) > 1 else ""),
        own[0].text if own else None,
        any(e.up for e in ends),
    )


def _joined(names: tuple[str, ...]) -> str:
    """Write p1, p2, p3, p5 as p1–3,5."""
    heads = [n.rstrip("0123456789") for n in names]
    tails = [n[len(h) :] for n, h in zip(names, heads, strict=True)]
    if len(names) < 2 or len(set(heads)) > 1 or not all(tails):
        return ", ".join(names)
    runs: list[list[int]] = []
    for number in map(int, tails):
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    return heads[0] + ",".join(f"{r[0]}–{r[-1]}" if len(r) > 1 else str(r[0]) for r in runs)


def _host_part(address: int, prefixes: list[tuple[int, int]]) -> str:
    """Write what the network leaves to the host; the whole address where it lies in another network."""
    inside = next((n for n in prefixes if same_network(address, *n)), None)
    if is_six(address):
        if inside is None:
            return written(address)
        host = address - inside[0]  # a host part formed of a MAC address is shown by its end alone
        return f"::{host:x}" if host < 1 << 16 else f"::…{host & 0xFFFF:x}"
    octets = written(address).split(".")
    if inside is not None:
        free = octets[min(inside[1] // 8, 3) :]
        return f".{free[0]}" if len(free) == 1 else ".".join(free)
    return ".".join(octets)


def _units(network: Network) -> list[int]:
    """Return the nodes that are columns, in the order of the lab: of a box with instances those that have ports."""
    units = []
    for device in network.devices:
        with_ports = [node.number for node in device.nodes if node.ports]
        units += with_ports if len(device.nodes) > 1 and with_ports else [device.number]
    return units


def _column(lab: Lab, network: Network, node: int, rows: list[int]) -> Column:
    device = network.wiring.device_of_node(node)
    name = network.wiring.names[device]
    loopbacks = [
        Loopback(p.name, written(p.addresses[0].address) if p.addresses else "", p.on)
        for p in network.devices[device].ports
        if p.is_loopback and p.node == node
    ]
    own = lab.devices[name]
    return Column(
        name,
        network.nodes[node].instance or "",
        own.kind.value,
        own.about,
        min(rows, default=None),
        max(rows, default=None),
        tuple(loopbacks),
    )
