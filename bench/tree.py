"""A large lab for benchmarks: a tree of routers with a host each, every router knowing all networks below it."""

from zensur.core.lab import Device, End, Kind, Lab, Link, Port
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, written


def tree_of(routers: int) -> Network:
    """Compile a lab of as many routers and hosts; router n is joined to router (n - 1) / 2."""
    devices: dict[str, Device] = {}
    links: list[Link] = []
    for n in range(routers):
        ports = tuple(Port(p) for p in ("h", "u", "d0", "d1"))
        devices[f"r{n}"] = Device(f"r{n}", Kind.ROUTER, ports)
        devices[f"h{n}"] = Device(f"h{n}", Kind.HOST, (Port("p1"),))
        links.append(Link(End(f"r{n}", "h"), End(f"h{n}", "p1")))
        if n:
            links.append(Link(End(f"r{n}", "u"), End(f"r{(n - 1) // 2}", f"d{(n - 1) % 2}")))
    lab = Lab("tree", "A tree", devices, links=tuple(links))
    texts = {f"r{n}": _router(n, routers) for n in range(routers)}
    texts |= {
        f"h{n}": f"port p1\n  address {_network(n)}.9/24\ngateway {_network(n)}.1\n" for n in range(routers)
    }
    return Network.of_lab(lab, {name: read_sheet(texts[name], name).configuration for name in devices})


def _network(n: int) -> str:
    return f"10.{64 + (n >> 8)}.{n & 255}"


def _link(n: int) -> int:
    """The network between router n and the one above it."""
    return (10 << 24) + (100 << 16) + 4 * n


def _below(n: int, routers: int) -> list[int]:
    found, waiting = [], [n]
    while waiting:
        n = waiting.pop()
        found.append(n)
        waiting += [c for c in (2 * n + 1, 2 * n + 2) if c < routers]
    return found


def _router(n: int, routers: int) -> str:
    lines = [f"port h\n  address {_network(n)}.1/24\n  on"]
    if n:
        up = _link(n)
        lines.append(f"port u\n  address {written(up + 2)}/30\n  on\nroute default via {written(up + 1)}")
    for side, child in enumerate((2 * n + 1, 2 * n + 2)):
        if child < routers:
            lines.append(f"port d{side}\n  address {written(_link(child) + 1)}/30\n  on")
            lines += [
                f"route {_network(b)}.0/24 via {written(_link(child) + 2)}" for b in _below(child, routers)
            ]
    return "\n".join(lines)
