"""The packets of runs as a pcapng file: one section a run, one interface a port, in the order of the journey."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import pairwise

import dpkt

from ..sim import AnyRun, Checked, Network, Ping
from ..sim.numbers import SIX
from ..sim.packets import TTL, Carried, Packet, Step
from ..sim.ports import IpPort
from ..sim.segments import Passed
from .frames import BROADCAST, Talk, advertisement, arp, ethernet, mac_bytes, solicitation

_IN, _OUT = b"\x01\0\0\0", b"\x02\0\0\0"
_NAME, _FLAGS = 2, 2  # the codes of if_name and epb_flags
_RAW = 101  # LINKTYPE_RAW: IP alone, on serial links
_MICROSECONDS = 1_000  # from one packet to the next


Point = tuple[int, bool, int]
"""A physical port that a frame passes, whether it goes out there, and its tag."""


@dataclass(frozen=True, slots=True)
class _Seen:
    """A packet seen at a physical port, going out or coming in."""

    port: int
    out: bool
    data: bytes


def capture(network: Network, runs: Iterable[AnyRun]) -> bytes:
    """Return the packets of runs as the bytes of a pcapng file. Deterministic: time begins at 0 in each run."""
    return b"".join(_section(network, number, ran) for number, ran in enumerate(runs, 1))


def _section(network: Network, number: int, ran: AnyRun) -> bytes:
    wiring = network.wiring
    found = [bytes(dpkt.pcapng.SectionHeaderBlockLE())]
    for port, name in enumerate(wiring.port_name):
        block = dpkt.pcapng.InterfaceDescriptionBlockLE(snaplen=65535)
        block.linktype = _RAW if wiring.serial[port] else dpkt.pcapng.DLT_EN10MB
        block.opts = [_option(_NAME, f"{wiring.names[wiring.port_device[port]]}:{name}".encode()), _end()]
        found.append(bytes(block))
    for at, seen in enumerate(_seen(network, number, ran)):
        time = (at + 1) * _MICROSECONDS
        packet = dpkt.pcapng.EnhancedPacketBlockLE(
            iface_id=seen.port, ts_high=time >> 32, ts_low=time & 0xFFFFFFFF
        )
        packet.pkt_data = seen.data
        packet.opts = [_option(_FLAGS, _OUT if seen.out else _IN), _end()]
        found.append(bytes(packet))
    return b"".join(found)


def _option(code: int, data: bytes) -> "dpkt.pcapng.PcapngOptionLE":
    return dpkt.pcapng.PcapngOptionLE(code=code, data=data)


def _end() -> "dpkt.pcapng.PcapngOptionLE":
    return dpkt.pcapng.PcapngOptionLE(code=0, len=0)


def _seen(network: Network, number: int, ran: AnyRun) -> Iterator[_Seen]:
    recorder = _Recorder(network)
    walks = ran.walks if isinstance(ran, Checked) else ()
    for walk in walks:
        talk = Talk(number, walk.asked_name, walk.told, walk.refused, walk.result.reason)
        yield from recorder.walk(walk.result, talk)
    if not walks:
        yield from recorder.walk(ran.result, Talk(number, reason=ran.result.reason))


class _Recorder:
    """Writes down what passes every port; nodes that have met need not ask for each other again."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.acquainted: set[tuple[int, int, bool]] = set()

    def walk(self, result: Ping, talk: Talk) -> Iterator[_Seen]:
        """Yield what a walk there and back shows."""
        for carried in (result.request, result.answer):
            if carried is not None:
                yield from self._carried(carried, talk)
                if carried.reason is not None:
                    yield from self._asked_in_vain(carried.steps[-1])

    def _carried(self, carried: Carried, talk: Talk) -> Iterator[_Seen]:
        packet, ttl = carried.sent, TTL
        for step, following in pairwise(carried.steps):
            ttl -= step.enters >= 0
            for translated in (step.inward, step.outward):
                packet = translated.after if translated else packet
            yield from self._hop(step, following, packet, ttl, talk)

    def _hop(self, step: Step, following: Step, packet: Packet, ttl: int, talk: Talk) -> Iterator[_Seen]:
        decision = step.decision
        assert decision.route is not None
        assert decision.route.out is not None
        out, taken = decision.route.out, self.network.port(following.enters)
        data = talk.ip(packet, ttl)
        if out.serial:
            yield _Seen(out.port, True, data)
            yield _Seen(taken.port, False, data)
            return
        six = packet.destination >= SIX
        if (step.node, following.node, six) not in self.acquainted:
            self.acquainted |= {(step.node, following.node, six), (following.node, step.node, six)}
            yield from self._found(step, out, taken)
        kind = dpkt.ethernet.ETH_TYPE_IP6 if six else dpkt.ethernet.ETH_TYPE_IP
        yield from self._along(step, out, taken, mac_bytes(taken.mac), kind, data)

    def _found(self, step: Step, out: IpPort, taken: IpPort) -> Iterator[_Seen]:
        """Yield the question for a neighbour and its answer."""
        ask = step.decision.ask
        assert ask is not None
        own, theirs = mac_bytes(out.mac), mac_bytes(taken.mac)
        source = self.network.source_for(step.node, out, ask) or 0
        back = self._path_back(out, taken)
        if ask >= SIX:
            question, group = solicitation((own, source), ask)
            yield from self._along(step, out, taken, group, dpkt.ethernet.ETH_TYPE_IP6, question)
            answer = advertisement((theirs, ask), source, self.network.nodes[taken.node].forwards)
            yield from self._frames(back, theirs, own, dpkt.ethernet.ETH_TYPE_IP6, answer)
            return
        kind = dpkt.ethernet.ETH_TYPE_ARP
        yield from self._along(step, out, taken, BROADCAST, kind, arp(1, (own, source), (b"\0" * 6, ask)))
        yield from self._frames(back, theirs, own, kind, arp(2, (theirs, ask), (own, source)))

    def _asked_in_vain(self, last: Step) -> Iterator[_Seen]:
        """Yield the question that nobody answers, where that ended the walk."""
        decision = last.decision
        out = decision.route.out if decision.route else None
        if decision.neighbour is not None or out is None or decision.ask is None or out.serial:
            return
        own = mac_bytes(out.mac)
        source = self.network.source_for(last.node, out, decision.ask) or 0
        kind, destination = dpkt.ethernet.ETH_TYPE_ARP, BROADCAST
        if decision.ask >= SIX:
            kind = dpkt.ethernet.ETH_TYPE_IP6
            question, destination = solicitation((own, source), decision.ask)
        else:
            question = arp(1, (own, source), (b"\0" * 6, decision.ask))
        if out.port >= 0:
            yield _Seen(out.port, True, ethernet(own, destination, kind, question, self._tag(out)))

    def _along(
        self, step: Step, out: IpPort, taken: IpPort, destination: bytes, kind: int, payload: bytes
    ) -> Iterator[_Seen]:
        neighbour = step.decision.neighbour
        assert neighbour is not None
        points = self._points(out, neighbour.path, taken)
        yield from self._frames(points, mac_bytes(out.mac), destination, kind, payload)

    def _path_back(self, out: IpPort, taken: IpPort) -> list[Point]:
        path = next((r.path for r in self.network.receivers(taken) if r.key == out.key), ())
        return self._points(taken, path, out)

    def _points(self, out: IpPort, path: Iterable[Passed], taken: IpPort) -> list[Point]:
        """Return the ports that a frame passes, with whether it goes out and its tag there."""
        points = [(out.port, True, self._tag(out))] if out.port >= 0 else []
        tag = self._tag(out)
        for passed in path:
            if passed.enters >= 0:
                points.append((passed.enters, False, tag))
            carries = self.network.devices[passed.device].carries[passed.leaves]
            tag = carries.tag_of(passed.vlan) or 0
            points.append((passed.leaves, True, tag))
        if taken.port >= 0:
            points.append((taken.port, False, tag))
        elif points:  # a switch's own interface: the frame comes in at the far end of the last link
            points.append((self.network.wiring.peer[points[-1][0]], False, tag))
        return points

    @staticmethod
    def _tag(port: IpPort) -> int:
        return port.vlan if port.kind == "sub-port" else 0

    @staticmethod
    def _frames(
        points: list[Point], source: bytes, destination: bytes, kind: int, payload: bytes
    ) -> Iterator[_Seen]:
        for port, out, tag in points:
            yield _Seen(port, out, ethernet(source, destination, kind, payload, tag))
