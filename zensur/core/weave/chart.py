"""Works out the chart: which networks there are, what stands at each knot, and how far strokes run."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from ..lab import Kind, Lab
from ..sheet import natural
from ..sim import Network, dotted
from .order import order_columns


@dataclass(frozen=True, slots=True)
class Loopback:
    """A loopback below a column's foot."""

    name: str
    address: str
    on: bool


@dataclass(frozen=True, slots=True)
class Column:
    """A device. ``first`` and ``last`` are the rows of its first and last knot, None where it has none."""

    device: str
    kind: str
    about: str
    first: int | None
    last: int | None
    loopbacks: tuple[Loopback, ...]


@dataclass(frozen=True, slots=True)
class Row:
    """A network. ``first`` and ``last`` are the columns of its first and last knot."""

    name: str
    prefix: str
    serial: bool
    first: int
    last: int


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


def weave(lab: Lab, network: Network) -> Weave:
    """Work out the weave of a lab whose configurations are compiled in ``network``."""
    wiring = network.wiring
    clusters = [
        ports
        for ports in wiring.in_cluster.values()
        if any(wiring.peer[p] >= 0 for p in ports) or any(_addresses(network, p) for p in ports)
    ]
    order = order_columns(
        len(wiring.names), [frozenset(wiring.port_device[p] for p in _used(network, c)) for c in clusters]
    )
    column_of = {device: n for n, device in enumerate(order)}
    spans = []
    for ports in clusters:
        columns = [column_of[wiring.port_device[p]] for p in _used(network, ports)]
        spans.append((min(columns), max(columns), ports))
    spans.sort(key=lambda s: (s[0], s[1]))
    rows, knots = [], []
    for number, (first, last, ports) in enumerate(spans):
        prefixes = _prefixes(network, ports)
        rows.append(
            Row(
                _name(lab, prefixes, [f"{wiring.names[wiring.port_device[p]]}" for p in ports]),
                ", ".join(f"{dotted(n)}/{length}" for n, length in prefixes),
                any(wiring.serial[p] for p in ports),
                first,
                last,
            )
        )
        by_device: dict[int, list[int]] = {}
        for port in _used(network, ports):
            by_device.setdefault(wiring.port_device[port], []).append(port)
        knots += [
            _knot(network, column_of[device], number, theirs, prefixes)
            for device, theirs in by_device.items()
        ]
    found = {c: [k.row for k in knots if k.column == c] for c in range(len(order))}
    columns_ = [_column(lab, network, device, found[n]) for n, device in enumerate(order)]
    links = [(a, b) for a, b in enumerate(wiring.peer) if a < b]
    down = [f"{_end(network, a)} -- {_end(network, b)}" for a, b in links if not network.link_up(a)]
    return Weave(
        tuple(columns_),
        tuple(rows),
        tuple(sorted(knots, key=lambda k: (k.row, k.column))),
        len(links),
        tuple(down),
    )


def _end(network: Network, port: int) -> str:
    return f"{network.wiring.names[network.wiring.port_device[port]]}:{network.wiring.port_name[port]}"


def _addresses(network: Network, port: int) -> list[tuple[int, int]]:
    found = network.devices[network.wiring.port_device[port]].by_port.get(port)
    return [(a.address, a.length) for a in found.addresses] if found else []


def _used(network: Network, ports: Iterable[int]) -> list[int]:
    """Leave out ports that are not linked and have no address, such as a switch's free ones."""
    return [p for p in ports if network.wiring.peer[p] >= 0 or _addresses(network, p)]


def _prefixes(network: Network, ports: Iterable[int]) -> list[tuple[int, int]]:
    """Return the networks that most ports of a row lie in, the commonest first; ties keep the lab's order."""
    count = Counter(
        (address >> (32 - length) << (32 - length), length)
        for port in ports
        for address, length in _addresses(network, port)[:1]
    )
    most = count.most_common()
    return [prefix for prefix, n in most if n > 1] or [prefix for prefix, _ in most[:1]]


def _name(lab: Lab, prefixes: list[tuple[int, int]], devices: list[str]) -> str:
    for named in lab.networks:
        for prefix in named.prefixes:
            if prefix.version == 4 and (int(prefix.network_address), prefix.prefixlen) in prefixes:
                return named.name
    joined = [d for d in dict.fromkeys(devices) if lab.devices[d].kind is not Kind.SWITCH]
    return " – ".join(joined[:2])


def _knot(network: Network, column: int, row: int, ports: list[int], prefixes: list[tuple[int, int]]) -> Knot:
    wiring = network.wiring
    names = tuple(sorted((wiring.port_name[p] for p in ports), key=natural))
    own = [a for p in ports for a in _addresses(network, p)]
    host = _host_part(own[0][0], prefixes) if own else ""
    return Knot(
        column,
        row,
        names,
        _joined(names),
        host + (" +" if len(own) > 1 else ""),
        f"{dotted(own[0][0])}/{own[0][1]}" if own else None,
        any(network.link_up(p) for p in ports),
    )


def _joined(names: tuple[str, ...]) -> str:
    """Write p1, p2, p3 as p1-3."""
    heads = [n.rstrip("0123456789") for n in names]
    tails = [n[len(h) :] for n, h in zip(names, heads, strict=True)]
    if len(names) > 1 and len(set(heads)) == 1 and all(tails):
        numbers = [int(t) for t in tails]
        if numbers == list(range(numbers[0], numbers[0] + len(numbers))):
            return f"{names[0]}–{tails[-1]}"
    return ", ".join(names)


def _host_part(address: int, prefixes: list[tuple[int, int]]) -> str:
    """Write the octets that the network leaves to the host; all four where it lies in another network."""
    octets = dotted(address).split(".")
    for network, length in prefixes:
        if (address ^ network) >> (32 - length) == 0:
            free = octets[min(length // 8, 3) :]
            return f".{free[0]}" if len(free) == 1 else ".".join(free)
    return ".".join(octets)


def _column(lab: Lab, network: Network, device: int, rows: list[int]) -> Column:
    name = network.wiring.names[device]
    loopbacks = [
        Loopback(p.name, dotted(p.addresses[0].address) if p.addresses else "", p.on)
        for p in network.devices[device].ports
        if p.is_loopback
    ]
    own = lab.devices[name]
    return Column(
        name,
        own.kind.value,
        own.about,
        min(rows, default=None),
        max(rows, default=None),
        tuple(loopbacks),
    )
