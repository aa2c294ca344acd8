"""A second simulator, written from the rules alone: no tables, nothing kept, slow and short.

It shares no code with ``zensur.core.sim``; the tests hold the two against each other.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Interface, IPv4Network
from typing import Any

from zensur.core.lab import Kind, Lab
from zensur.core.sheet import Block, Configuration, Gateway, OnPort, Route, Switched

End = tuple[str, str]
NEVER = [IPv4Network(n) for n in ("0.0.0.0/8", "127.0.0.0/8", "224.0.0.0/3")]


class Unsettled(Exception):
    """Routes that find their next hops through one another never come to rest; no rule says which are active."""


@dataclass(frozen=True)
class Way:
    """A route: where it leads, by which port, whom to ask (None: the destination), or a discard."""

    dest: IPv4Network
    preference: int
    order: int
    port: str | None
    ask: IPv4Address | None = None
    steps: int = 0
    rule: object = None


class Reference:
    """The network of a lab with one configuration per device."""

    def __init__(self, lab: Lab, configurations: Mapping[str, Configuration]) -> None:
        self.lab, self.configurations = lab, configurations
        ends = [((k.a.device, k.a.port), (k.b.device, k.b.port)) for k in lab.links]
        self.far = dict(ends) | {b: a for a, b in ends}

    def on(self, device: str, port: str, kind: str = "port") -> bool:
        said = self.configurations[device].one(Switched, Block(kind, port))
        default = kind == "loopback" or self.lab.devices[device].kind is not Kind.ROUTER
        return said.statement.on if said else default

    def link_up(self, end: End) -> bool:
        return end in self.far and self.on(*end) and self.on(*self.far[end])

    def addresses(self, device: str) -> Iterator[tuple[str, bool, IPv4Interface]]:
        """Yield port, whether it is a loopback, and address, for all that is up."""
        if self.lab.devices[device].kind is Kind.SWITCH:
            return
        configuration = self.configurations[device]
        for port in self.lab.devices[device].ports:
            if self.link_up((device, port.name)):
                for item in configuration.all(OnPort, Block("port", port.name)):
                    yield port.name, False, _four(item.statement.interface)
        for block in configuration.blocks("loopback"):
            if self.on(device, block.name, "loopback"):
                for item in configuration.all(OnPort, block):
                    yield block.name, True, _four(item.statement.interface)

    def owns(self, device: str, address: IPv4Address | None) -> bool:
        return any(i.ip == address for _, _, i in self.addresses(device))

    def dead(self, device: str, address: IPv4Address) -> bool:
        """A network or broadcast address of one of its networks, unless it is a proper address of its own."""
        if any(address in n for n in NEVER):
            return True
        here = [i for _, _, i in self.addresses(device) if address in i.network]
        edge = [i.network.prefixlen < 31 and address in (i.network[0], i.network[-1]) for i in here]
        return any(edge) and not any(i.ip == address and not e for i, e in zip(here, edge, strict=True))

    def heard(self, end: End, seen: frozenset[End] = frozenset()) -> set[End]:
        """Flood out of a port: the ports of routers and hosts that are reached."""
        if not self.link_up(end) or end in seen:
            return set()
        device, port = self.far[end]
        if self.lab.devices[device].kind is not Kind.SWITCH:
            return {(device, port)}
        beyond = [(device, p.name) for p in self.lab.devices[device].ports if p.name != port]
        return set().union(*(self.heard(b, seen | {end, (device, port)}) for b in beyond))

    def ways(self, device: str) -> list[Way]:
        """All active routes. Next hops are looked for again and again until nothing changes."""
        loopback = {p for p, is_loopback, _ in self.addresses(device) if is_loopback}
        ports = {
            p.name.lower(): p.name for p in self.lab.devices[device].ports if self.link_up((device, p.name))
        }
        ports |= {p.lower(): p for p in loopback}
        for block in self.configurations[device].blocks("loopback"):
            if self.on(device, block.name, "loopback"):
                ports.setdefault(block.name.lower(), block.name)
        sure = [Way(i.network, 0, -1, p) for p, _, i in self.addresses(device)]
        hops: list[tuple[IPv4Network, int, int, IPv4Address, object]] = []
        rules: list[tuple[Any, ...]] = [  # of IPv4 alone
            (r.statement.dest, r.statement.preference, n, r.statement.next_hop, r.statement.port, r)
            for n, r in enumerate(self.configurations[device].all(Route))
        ]
        if self.lab.devices[device].kind is not Kind.ROUTER:
            rules += [
                (IPv4Network("0.0.0.0/0"), 20, -1, g.statement.address, g.statement.port, g)
                for g in self.configurations[device].all(Gateway)
            ]
        for dest, preference, order, hop, port, rule in rules:
            if port is not None:
                if port.lower() in ports:
                    sure.append(Way(dest, preference, order, ports[port.lower()], hop, rule=rule))
            elif hop is None:
                sure.append(Way(dest, preference, order, None, rule=rule))
            else:
                hops.append((dest, preference, order, hop, rule))
        found: list[Way] = []
        for _ in range(9):
            before = found
            found = [w for h in hops if (w := self._by_hop(device, h, [*sure, *before], loopback))]
            if found == before:
                return [*sure, *found]
        raise Unsettled

    def _by_hop(
        self,
        device: str,
        hop: tuple[IPv4Network, int, int, IPv4Address, object],
        ways: list[Way],
        loopback: set[str],
    ) -> Way | None:
        dest, preference, order, address, rule = hop
        way = best([w for w in ways if w.rule is not rule], address)
        if (
            self.owns(device, address)
            or way is None
            or way.port is None
            or way.port in loopback
            or way.steps >= 8
        ):
            return None
        return Way(dest, preference, order, way.port, way.ask or address, way.steps + 1, rule)

    def source(self, device: str, port: str) -> IPv4Address | None:
        own = list(self.addresses(device))
        there = [i.ip for p, _, i in own if p == port]
        return next(iter([*there, *(i.ip for _, _, i in own)]), None)

    def neighbour(self, device: str, port: str, address: IPv4Address) -> str | None:
        """Find who takes a packet in: an owner before a router that answers for others."""
        far = self.far[device, port]
        if next(p for p in self.lab.devices[device].ports if p.name == port).medium == "serial":
            return far[0]
        asker = self.source(device, port)
        order = list(self.lab.devices)
        heard = sorted(self.heard((device, port)), key=lambda e: order.index(e[0]))
        heard = [e for e in heard if e[0] != device and not (asker and self.owns(e[0], asker))]
        for name, _ in heard:
            if self.owns(name, address):
                return name
        for name, their_port in heard:
            if self.lab.devices[name].kind is Kind.ROUTER and not self.dead(name, address):
                way = best(self.ways(name), address)
                if way and way.port not in (None, their_port):
                    return name
        return None

    def walk(self, device: str, source: IPv4Address | None, to: IPv4Address) -> tuple[str, str | None, bool]:
        """Carry a packet: where it ended, why (None: it arrived), and whether an error is sent."""
        ttl, first = 64, True
        while True:
            if not first and source and self.owns(device, source):
                return device, "own-source", False
            if self.owns(device, to) and not self.dead(device, to):
                return device, None, False
            if not first and self.lab.devices[device].kind is not Kind.ROUTER:
                return device, "not-forwarding", False
            if self.dead(device, to):
                return device, "not-an-address", False
            way = best(self.ways(device), to)
            if way is None:
                return device, "no-route", True
            if way.port is None:
                return device, "discard", False
            if way.port not in [p.name for p in self.lab.devices[device].ports]:
                return device, "not-an-address", True
            if not first:
                if ttl <= 1:
                    return device, "ttl", True
                ttl -= 1
            following = self.neighbour(device, way.port, way.ask or to)
            if following is None:
                return device, "no-neighbour", True
            device, first = following, False

    def ping(self, sender: str, to: int) -> tuple[str, str | None, str | None]:
        """Return outcome, reason and where it ended."""
        address = IPv4Address(to)
        way = best(self.ways(sender), address)
        local = self.owns(sender, address) or self.dead(sender, address) or way is None or way.port is None
        source = address if way is None or local else self.source(sender, way.port or "")
        if source is None:
            return "no-route", "no-source", sender
        end, reason, error = self.walk(sender, source, address)
        if reason is None:
            back, lost, _ = (sender, None, False) if end == sender else self.walk(end, address, source)
            if lost is None and back == sender:
                return "reply", None, None
            return "timeout", lost or "duplicate-address", back
        if end == sender:
            return (
                ("no-route" if reason == "no-route" else "unreachable" if error else "timeout"),
                reason,
                end,
            )
        if error:
            home = best(self.ways(end), source)
            own = self.source(end, home.port) if home and home.port else None
            told = own is not None and self.walk(end, own, source)[:2] == (sender, None)
            return ("unreachable" if told else "timeout"), reason, end
        return "timeout", reason, end


def _four(interface: object) -> IPv4Interface:
    assert isinstance(interface, IPv4Interface), "the reference knows IPv4 alone"
    return interface


def best(ways: list[Way], address: IPv4Address) -> Way | None:
    """Longest prefix, lowest preference, first in the sheet."""
    fitting = [w for w in ways if address in w.dest]
    return min(fitting, key=lambda w: (-w.dest.prefixlen, w.preference, w.order), default=None)
