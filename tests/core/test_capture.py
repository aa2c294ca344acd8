"""Packets as files: what is written is what went over the wires, byte for byte right."""

import io
import shutil
import subprocess
from collections.abc import Mapping

import dpkt
import pytest
from hypothesis import HealthCheck, given, settings

from tests.core.networks import LAB, NETWORKS
from tests.core.test_any_network import ASKED, WIRING, configurations, expected
from tests.helpers import lab_of
from zensur.core.export import capture
from zensur.core.lab import Expected, ExpectedPing, ExpectedService
from zensur.core.sim import Network, Runs, journey

MIXED = lab_of(
    "ana=host sw=switch:p1,p2 toll=router:p1,s1 far=router:s1,p1 shop=host",
    "ana:p1--sw:p1 sw:p2--toll:p1 toll:s1--far:s1 far:p1--shop:p1",
    {
        "ana": "port p1; -address 10.64.8.20/24; -address 2001:db8:8::20/64; gateway 10.64.8.1; gateway 2001:db8:8::1; resolver 198.51.100.80",
        "sw": "port p1; -access 8; port p2; -trunk 8; vlan 8",
        "toll": (
            "port p1; -on; port p1.8; -address 10.64.8.1/24; -address 2001:db8:8::1/64; -realm internal; "
            "port s1; -address 203.0.113.2/30; -address 2001:db8:1::1/64; -realm external; -on; "
            "route default via 203.0.113.1; route default via 2001:db8:1::2; translate from 10.64.8.0/24 to s1 shared"
        ),
        "far": (
            "port s1; -address 203.0.113.1/30; -address 2001:db8:1::2/64; -on; "
            "port p1; -address 198.51.100.1/24; -address 2001:db8:99::1/64; -on; route 2001:db8:8::/64 via 2001:db8:1::1"
        ),
        "shop": (
            "port p1; -address 198.51.100.80/24; -address 2001:db8:99::80/64; gateway 198.51.100.1; gateway 2001:db8:99::1; "
            "dns; -record page.example 2001:db8:99::80; -record page.example 198.51.100.80; service tcp 80"
        ),
    },
)  # fmt: skip
RUN = {
    "1": ExpectedPing("1", "ana", "reply", to="shop"),
    "2": ExpectedService("2", "ana", "answer", open="tcp page.example:80"),
    "3": ExpectedService("3", "ana", "no-answer", open="udp 198.51.100.80:7"),
    "4": ExpectedPing("4", "ana", "no-reply", to="198.51.100.77"),
    "5": ExpectedPing("5", "ana", "reply", to="shop:p1", family=6),
}  # fmt: skip


def captured(network: Network, asked: Mapping[str, Expected]) -> bytes:
    return capture(network, Runs(network, network, asked).values())


def sections(data: bytes) -> list[list[tuple[int, bytes]]]:
    """The packets of each section, as interface number and bytes."""
    found: list[list[tuple[int, bytes]]] = []
    at = 0
    while at < len(data):
        kind, length = (int.from_bytes(data[at + n : at + n + 4], "little") for n in (0, 4))
        block = data[at : at + length]
        assert int.from_bytes(block[-4:], "little") == length
        if kind == 0x0A0D0D0A:
            found.append([])
        elif kind == 6:
            packet = dpkt.pcapng.EnhancedPacketBlockLE(block)
            found[-1].append((packet.iface_id, bytes(packet.pkt_data)))
        at += length
    return found


def test_what_is_seen_at_each_port() -> None:
    network = Network.of_lab(MIXED, MIXED.model)
    ping, service, refused, vain, six = sections(captured(network, RUN))
    port = {
        (network.wiring.names[d], n): p
        for d, own in enumerate(network.wiring.ports_of)
        for n, p in own.items()
    }
    trunk = next(data for at, data in ping if at == port["toll", "p1"])
    assert dpkt.ethernet.Ethernet(trunk).vlan_tags[0].id == 8
    assert dpkt.ethernet.Ethernet(ping[0][1]).type == dpkt.ethernet.ETH_TYPE_ARP
    serial = [dpkt.ip.IP(data) for at, data in ping if at == port["toll", "s1"]]
    assert [(p.src.hex(), p.dst.hex(), p.ttl) for p in serial] == [
        ("cb007102", "c6336450", 63), ("c6336450", "cb007102", 63),
    ]  # fmt: skip
    at_shop = [dpkt.ethernet.Ethernet(data) for at, data in service if at == port["shop", "p1"]]
    assert [type(f.data.data).__name__ for f in at_shop if f.type != dpkt.ethernet.ETH_TYPE_ARP] == [
        "UDP", "UDP", "ICMP6", "ICMP6", "TCP", "TCP",
    ]  # fmt: skip
    answer = dpkt.dns.DNS(
        next(f.data.data.data for f in at_shop if f.type == 0x800 and f.data.data.sport == 53)
    )
    assert [(r.name, r.type) for r in answer.an] == [("page.example", 28), ("page.example", 1)]
    assert any(
        getattr(dpkt.ethernet.Ethernet(d).data.data, "type", None) == 3
        for at, d in refused
        if at == port["ana", "p1"]
    )
    asked = [
        dpkt.ethernet.Ethernet(d).data.tpa
        for at, d in vain
        if at == port["far", "p1"] and d[12:14] == b"\x08\x06"
    ]
    assert asked == [bytes((198, 51, 100, 77))]
    assert any(
        dpkt.ethernet.Ethernet(d).type == dpkt.ethernet.ETH_TYPE_IP6
        for at, d in six
        if at == port["ana", "p1"]
    )


@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(NETWORKS, ASKED)
def test_any_run_can_be_written(sheets, asked) -> None:
    network = Network.of_lab(LAB, configurations(sheets), WIRING)
    data = captured(network, expected(asked))
    assert len(sections(data)) == len(asked)
    assert data == captured(network, expected(asked))
    list(dpkt.pcapng.Reader(io.BytesIO(data)))


@pytest.mark.skipif(shutil.which("tshark") is None, reason="tshark is not installed")
def test_a_packet_analyser_has_no_complaint(tmp_path) -> None:
    files = [captured(Network.of_lab(MIXED, MIXED.model), RUN)]

    @settings(
        max_examples=60,
        deadline=None,
        database=None,
        derandomize=True,
        suppress_health_check=list(HealthCheck),
    )
    @given(NETWORKS, ASKED)
    def more(sheets, asked) -> None:
        files.append(captured(Network.of_lab(LAB, configurations(sheets), WIRING), expected(asked)))

    more()
    path = tmp_path / "all.pcapng"
    path.write_bytes(b"".join(files))
    sums = [f"-o{p}.check_checksum:TRUE" for p in ("ip", "tcp", "udp")]
    wrong = "_ws.malformed || _ws.expert.severity == error || " + " || ".join(
        f"{p}.checksum.status == 0" for p in ("ip", "icmp", "icmpv6", "tcp", "udp")
    )
    shown = subprocess.run(
        ["tshark", "-r", str(path), *sums, "-Y", wrong], capture_output=True, text=True, check=False
    )
    assert shown.returncode == 0, shown.stderr
    assert shown.stdout == ""
    every = subprocess.run(["tshark", "-r", str(path)], capture_output=True, text=True, check=True).stdout
    assert every.count("\n") == sum(len(s) for s in sections(b"".join(files))) > 300


def sent_frames(section: list[tuple[int, bytes]]) -> list[tuple[str, str, int | None, int]]:
    """Source and destination address, tag and TTL of every Ethernet frame that holds an IP packet."""
    found = []
    for _, data in section:
        if data[:1] != b"\x02" and data[:2] != b"\x33\x33":
            continue  # a serial link's packet, or a question to all
        destination, source = data[:6].hex(":"), data[6:12].hex(":")
        tagged = data[12:14] == b"\x81\x00"
        body = data[18:] if tagged else data[14:]
        kind = data[16:18] if tagged else data[12:14]
        tag = int.from_bytes(data[14:16]) & 0xFFF if tagged else None
        if kind == b"\x08\x00":
            found.append((source, destination, tag, body[8]))
        elif kind == b"\x86\xdd" and not (body[6] == 58 and body[40] in (135, 136)):
            found.append((source, destination, tag, body[7]))
    return found


def test_a_leg_tells_the_fields_as_they_are_on_the_wire() -> None:
    network = Network.of_lab(MIXED, MIXED.model)
    pings = {key: asked for key, asked in RUN.items() if isinstance(asked, ExpectedPing)}
    runs = Runs(network, network, pings)
    for section, ran in zip(sections(capture(network, runs.values())), runs.values(), strict=True):
        legs = [leg for leg in journey(network, ran.result) if leg.sent is not None]
        on_ethernet = [leg.sent for leg in legs if leg.sent and leg.sent.source_mac]
        frames = sent_frames(section)
        assert [(w.source_mac, w.destination_mac, w.tag, w.ttl) for w in on_ethernet if w] != []
        for wire in on_ethernet:
            assert wire is not None
            assert (wire.source_mac, wire.destination_mac, wire.tag, wire.ttl) in frames
        assert {w.ttl for w in on_ethernet if w} == {f[3] for f in frames}
