"""The bytes of packets and frames: Ethernet, 802.1Q, ARP, IPv4, IPv6, ICMP, TCP, UDP and DNS, by dpkt."""

from collections.abc import Sequence

import dpkt

from ..sim.numbers import SIX, address_of
from ..sim.packets import Kind, Packet, Reason

BROADCAST = b"\xff" * 6
_PAYLOAD = b"zensur " * 8
_QUOTED = 548  # RFC 1812, 4.3.2.3: an error is at most 576 bytes long
_ERRORS = {
    Reason.NO_ROUTE: ((3, 0), (1, 0)),
    Reason.NO_NEIGHBOUR: ((3, 1), (1, 3)),
    Reason.OTHER_VLAN: ((3, 1), (1, 3)),
    Reason.NOT_AN_ADDRESS: ((3, 1), (1, 3)),
    Reason.POOL_EMPTY: ((3, 1), (1, 3)),
    Reason.BEYOND_SCOPE: ((3, 1), (1, 2)),
    Reason.TTL: ((11, 0), (3, 0)),
}
"""Type and code of the errors about each reason: RFC 792, RFC 4443."""
_PORT_UNREACHABLE = ((3, 3), (1, 4))
_TYPE_A, _TYPE_AAAA, _NO_NAME = 1, 28, 3


def mac_bytes(mac: int) -> bytes:
    """Return the bytes of a MAC address."""
    return mac.to_bytes(6, "big")


def ip_bytes(number: int) -> bytes:
    """Return the bytes of an address."""
    return address_of(number).packed


class Talk:
    """What a run says above IP: how its packets are filled, and whether its answer is a refusal.

    ``echo_id`` is the identifier of an echo where no translation needed one.
    """

    def __init__(
        self,
        echo_id: int,
        name: str | None = None,
        told: Sequence[int] = (),
        refused: bool = False,
        reason: Reason | None = None,
    ) -> None:
        self.echo_id, self.name, self.told, self.refused, self.reason = echo_id, name, told, refused, reason

    def ip(self, packet: Packet, ttl: int) -> bytes:
        """Return a whole IP packet."""
        six = packet.destination >= SIX
        protocol, body = self._body(packet, six)
        if six:
            header = dpkt.ip6.IP6(
                src=ip_bytes(packet.source),
                dst=ip_bytes(packet.destination),
                nxt=protocol,
                hlim=ttl,
                plen=len(body),
            )
            header.data = body
            return _with_sum(header, protocol, body, packet)
        header = dpkt.ip.IP(
            src=ip_bytes(packet.source), dst=ip_bytes(packet.destination), p=protocol, ttl=ttl, df=1
        )
        header.data = _summed(protocol, body, packet)
        header.len = 20 + len(body)
        return bytes(header)

    def _body(self, packet: Packet, six: bool) -> tuple[int, bytes]:
        """Return the protocol's number and the bytes above IP, their checksum left 0."""
        icmp = dpkt.ip.IP_PROTO_ICMP6 if six else dpkt.ip.IP_PROTO_ICMP
        if packet.kind is Kind.ERROR:
            assert self.reason is not None
            assert packet.about is not None
            kind, code = _ERRORS[self.reason][six]
            return icmp, bytes((kind, code, 0, 0, 0, 0, 0, 0)) + self.ip(packet.about, 1)[:_QUOTED]
        if packet.protocol == "icmp":
            request, reply = (128, 129) if six else (8, 0)
            ident = packet.source_number or self.echo_id
            kind = request if packet.kind is Kind.FIRST else reply
            return icmp, bytes((kind, 0, 0, 0)) + ident.to_bytes(2, "big") + b"\x00\x01" + _PAYLOAD
        ports = (
            packet.source_number or 49151 + self.echo_id,
            packet.destination_number or 49151 + self.echo_id,
        )
        answer = packet.kind is Kind.ANSWER
        if packet.protocol == "udp":
            if answer and self.refused:
                kind, code = _PORT_UNREACHABLE[six]
                quoted = Talk(self.echo_id, self.name).ip(packet.answered()._replace(kind=Kind.FIRST), 1)
                return icmp, bytes((kind, code, 0, 0, 0, 0, 0, 0)) + quoted[:_QUOTED]
            data = self._dns(answer) if self.name is not None else b"zensur"
            return dpkt.ip.IP_PROTO_UDP, _numbers(*ports) + _numbers(8 + len(data), 0) + data
        flags = dpkt.tcp.TH_SYN
        if answer:
            flags = dpkt.tcp.TH_RST | dpkt.tcp.TH_ACK if self.refused else flags | dpkt.tcp.TH_ACK
        segment = dpkt.tcp.TCP(
            sport=ports[0], dport=ports[1], seq=0 if answer and self.refused else 7000 if answer else 1000,
            ack=1001 if answer else 0, flags=flags, win=64240,
        )  # fmt: skip
        return dpkt.ip.IP_PROTO_TCP, bytes(segment)

    def _dns(self, answer: bool) -> bytes:
        """Return a query for a name, or its answer (RFC 1035, RFC 3596)."""
        assert self.name is not None
        kind = _TYPE_AAAA if self.told and all(a >= SIX for a in self.told) else _TYPE_A
        message = dpkt.dns.DNS(id=self.echo_id, qd=[dpkt.dns.DNS.Q(name=self.name, type=kind)])
        message.rd = 1
        if answer:
            message.qr, message.ra = 1, 1
            message.rcode = 0 if self.told else _NO_NAME
            message.an = [_record(self.name, a) for a in self.told]
        return bytes(message)


def _record(name: str, address: int) -> "dpkt.dns.DNS.RR":
    record = dpkt.dns.DNS.RR(name=name, type=_TYPE_AAAA if address >= SIX else _TYPE_A, ttl=60)
    setattr(record, "ip6" if address >= SIX else "ip", ip_bytes(address))
    return record


def _numbers(*numbers: int) -> bytes:
    return b"".join(n.to_bytes(2, "big") for n in numbers)


_SUM_AT = {
    dpkt.ip.IP_PROTO_ICMP: 2, dpkt.ip.IP_PROTO_ICMP6: 2, dpkt.ip.IP_PROTO_TCP: 16, dpkt.ip.IP_PROTO_UDP: 6,
}  # fmt: skip


def _summed(protocol: int, body: bytes, packet: Packet) -> bytes:
    """Return the bytes above IP with their checksum; over the addresses too but for ICMP in IPv4."""
    over = body
    if protocol != dpkt.ip.IP_PROTO_ICMP:
        ends = ip_bytes(packet.source) + ip_bytes(packet.destination)
        over = ends + len(body).to_bytes(4, "big") + protocol.to_bytes(4, "big") + body
    total: int = dpkt.in_cksum(over)
    if total == 0 and protocol == dpkt.ip.IP_PROTO_UDP:
        total = 0xFFFF  # RFC 768: 0 says that there is no checksum
    at = _SUM_AT[protocol]
    return body[:at] + total.to_bytes(2, "big") + body[at + 2 :]


def _with_sum(header: "dpkt.ip6.IP6", protocol: int, body: bytes, packet: Packet) -> bytes:
    head: bytes = bytes(header)[:40]
    return head + _summed(protocol, body, packet)


def ethernet(source: bytes, destination: bytes, kind: int, payload: bytes, vlan: int) -> bytes:
    """Return a frame, with an 802.1Q tag where the VLAN is not 0."""
    tag = b"" if not vlan else _numbers(dpkt.ethernet.ETH_TYPE_8021Q, vlan)
    return destination + source + tag + _numbers(kind) + payload


def arp(operation: int, sender: tuple[bytes, int], target: tuple[bytes, int]) -> bytes:
    """Return an ARP message (RFC 826): 1 asks, 2 answers."""
    message = dpkt.arp.ARP(
        op=operation, sha=sender[0], spa=ip_bytes(sender[1]), tha=target[0], tpa=ip_bytes(target[1])
    )
    data: bytes = bytes(message)
    return data


def solicitation(asker: tuple[bytes, int], target: int) -> tuple[bytes, bytes]:
    """Return a neighbour solicitation (RFC 4861, 4.3) and the MAC address that it is sent to."""
    group = SIX | int.from_bytes(b"\xff\x02" + b"\0" * 9 + b"\x01\xff" + b"\0" * 3, "big") | target & 0xFFFFFF
    body = bytes((135, 0, 0, 0, 0, 0, 0, 0)) + ip_bytes(target) + b"\x01\x01" + asker[0]
    return _neighbour(asker[1], group, body), b"\x33\x33" + ip_bytes(group)[-4:]


def advertisement(owner: tuple[bytes, int], asker: int, router: bool) -> bytes:
    """Return a neighbour advertisement (RFC 4861, 4.4): solicited, overriding, with the owner's MAC address."""
    flags = 0x60 | (0x80 if router else 0)
    body = bytes((136, 0, 0, 0, flags, 0, 0, 0)) + ip_bytes(owner[1]) + b"\x02\x01" + owner[0]
    return _neighbour(owner[1], asker, body)


def _neighbour(source: int, destination: int, body: bytes) -> bytes:
    header = dpkt.ip6.IP6(
        src=ip_bytes(source), dst=ip_bytes(destination), nxt=dpkt.ip.IP_PROTO_ICMP6, hlim=255, plen=len(body)
    )
    return bytes(header)[:40] + _summed(dpkt.ip.IP_PROTO_ICMP6, body, Packet(source, destination))
