"""Snapshots of the kernel: a network that was built by hand, and every demo lab as our own export builds it."""

import itertools
import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from ipaddress import ip_address

import pytest

from tests.core.every_lab import ALL
from tests.helpers import lab_of
from tests.kernel.namespaces import Target, available, built, pings, unlimited_errors
from zensur.core.export import namespaces_script
from zensur.core.export.namespaces import SETTINGS
from zensur.core.formats import read_configurations
from zensur.core.formats.snapshot import SCRIPT
from zensur.core.lab import Kind, Lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.shapes import Result
from zensur.core.sheet import Configuration, OnPort, Route, Sheet, Switched
from zensur.core.sim import Network, Wiring, ping
from zensur.core.sim.numbers import number_of
from zensur.work.papers import read_paper

pytestmark = pytest.mark.skipif(not available(), reason="network namespaces need root, iproute2 and nftables")

BY_HAND = lab_of(
    "ana=host bob=host web=host toll=router:p1,p2,p3,p4 east=router:p1,p2 west=router:p1,p2 far=host",
    "ana:p1--toll:p1 web:p1--toll:p2 toll:p3--east:p1 toll:p4--west:p1 east:p2--far:p1 bob:p1--west:p2",
)
COMMANDS = {
    "ana": "addr add 10.8.1.20/24 dev p1; route add default via 10.8.1.1",
    "web": "addr add 10.8.2.80/24 dev p1; route add default via 10.8.2.1",
    "toll": "addr add 10.8.1.1/24 dev p1; addr add 10.8.2.1/24 dev p2; addr add 203.0.113.2/28 dev p3;"
    "addr add 203.0.113.5/32 dev p3; addr add 203.0.113.18/28 dev p4; route add default via 203.0.113.1 metric 5;"
    "route add 192.0.2.0/24 via 203.0.113.17 dev p4; route add default via 203.0.113.17 metric 50;"
    "route add blackhole 10.8.0.0/16",
    "east": "addr add 203.0.113.1/28 dev p1; addr add 198.51.100.1/24 dev p2; addr add 10.7.7.7/32 dev lo",
    "west": "addr add 203.0.113.17/28 dev p1; addr add 192.0.2.1/24 dev p2; route add 198.51.100.0/24 via 203.0.113.18 onlink dev p1",
    "far": "addr add 198.51.100.9/24 dev p1; route add default via 198.51.100.1",
    "bob": "addr add 192.0.2.9/24 dev p1; route add default via 192.0.2.1",
}  # fmt: skip
RULES = {
    "each way out": """
      chain post { type nat hook postrouting priority srcnat;
        oifname "p3" ip saddr 10.8.0.0/16 masquerade
        oifname "p4" ip saddr 10.8.1.0/24 counter masquerade; }""",
    "in and out": """
      set inside { type ipv4_addr; flags interval; elements = { 10.8.1.0/24, 10.8.2.64-10.8.2.127 } }
      chain leaving {
        ip saddr @inside meta l4proto { icmp, tcp, udp } snat to 203.0.113.2:1024-65535
      }
      chain pre { type nat hook prerouting priority dstnat;
        iifname "p3" ip daddr 203.0.113.5 dnat to 10.8.2.80; }
      chain post { type nat hook postrouting priority srcnat;
        oifname "p3" ip saddr 10.8.2.80 snat to 203.0.113.5
        oifname "p3" ip saddr 10.8.1.66 return
        oifname { "p3", "p4" } jump leaving; }""",
    "by maps": """
      map inside { type ipv4_addr : ipv4_addr; elements = { 203.0.113.5 : 10.8.2.80 } }
      chain leaving { ip saddr 10.8.1.20 snat to 203.0.113.2; }
      chain pre { type nat hook prerouting priority dstnat;
        iifname "p3" dnat to ip daddr map @inside; }
      chain post { type nat hook postrouting priority srcnat;
        oifname . ip saddr vmap { "p4" . 10.8.1.99 : accept }
        oifname "p3" snat to ip saddr map { 10.8.2.80 : 203.0.113.5, 10.8.1.64/26 : 203.0.113.2 }
        oifname vmap { "p3" : jump leaving }
        oifname . ip saddr { "p4" . 10.8.1.0/25 } masquerade; }""",
    "nothing of ours": """
      chain post { type nat hook postrouting priority srcnat;
        oifname "p3" ct mark 7 masquerade; }""",
    "nobody": "",
}


@contextmanager
def by_hand(rules: str) -> Iterator[dict[str, str]]:
    """Build the network from the commands above; yields the namespaces by device."""
    names = {device: f"z{os.getpid()}-{device}" for device in COMMANDS}

    def run(*words: str, text: str | None = None) -> None:
        subprocess.run(words, check=True, input=text, text=True, capture_output=True)

    try:
        for name in names.values():
            run("ip", "netns", "add", name)
            run("ip", "-n", name, "link", "set", "lo", "up")
            settings = [f"echo {value} > /proc/sys/{key}" for key, value in SETTINGS.items()]
            run("ip", "netns", "exec", name, "sh", "-c", "; ".join(settings))
        for link in BY_HAND.links:
            one, other = ((names[end.device], end.port) for end in (link.a, link.b))
            run(
                "ip",
                "link",
                "add",
                one[1],
                "netns",
                one[0],
                "type",
                "veth",
                "peer",
                "name",
                other[1],
                "netns",
                other[0],
            )
            for namespace, port in (one, other):
                run("ip", "-n", namespace, "link", "set", port, "up")
        for device, commands in COMMANDS.items():
            for command in commands.split(";"):
                run("ip", "-n", names[device], *command.split())
            if BY_HAND.devices[device].kind is Kind.ROUTER:
                run(
                    "ip", "netns", "exec", names[device], "sh", "-c", "echo 1 > /proc/sys/net/ipv4/ip_forward"
                )
        if rules:
            run(
                "ip", "netns", "exec", names["toll"], "nft", "-f", "-", text=f"table ip ours {{ {rules}\n}}\n"
            )
        yield names
    finally:
        for name in names.values():
            subprocess.run(["ip", "netns", "del", name], check=False, capture_output=True)


def taken(namespace: str, device: str) -> bytes:
    """Take a snapshot with our own script."""
    return subprocess.run(
        ["ip", "netns", "exec", namespace, "env", f"ZENSUR_DEVICE={device}", "sh", "-s"],
        input=SCRIPT.encode(), check=True, capture_output=True,
    ).stdout  # fmt: skip


def snapshot_of(namespace: str, device: str, lab: Lab) -> Sheet:
    """Take a snapshot, and read it."""
    (sheet,) = read_configurations(taken(namespace, device), f"{device}.snapshot", lab.devices[device])
    assert sheet.form == "snapshot"
    assert not sheet.errors
    return sheet


@pytest.mark.parametrize("case", RULES)
def test_a_network_built_by_hand_pings_as_the_kernel_does(case: str) -> None:
    with unlimited_errors(), by_hand(RULES[case]) as namespaces:
        sheets = {device: snapshot_of(namespace, device, BY_HAND) for device, namespace in namespaces.items()}
        network = Network.of_lab(BY_HAND, {d: s.configuration for d, s in sheets.items()}, Wiring(BY_HAND))
        nodes = {device: network.wiring.device[device] for device in namespaces}
        targets = [*{a for n in nodes.values() for a in network.own(n) if a < 1 << 32}]
        targets += [number_of(ip_address(a)) for a in ("203.0.113.5", "10.8.77.7", "203.0.113.9", "8.8.8.8")]
        asked = {
            nodes[d]: [Target(t) for t in sorted(targets)]
            for d in ("ana", "web", "far", "bob", "toll", "east")
        }
        kernel = pings({nodes[d]: namespace for d, namespace in namespaces.items()}, asked, 4)
    told = {d.code for d in sheets["toll"].diagnostics}
    assert ("rule-not-read" in told) == (case == "nothing of ours")
    if case == "nothing of ours":
        return  # what is not understood is told, and not simulated
    differ = [
        (network.name(sender), target.address, came.outcome, ours.outcome.value)
        for (sender, target), came in kernel.items()
        if came.outcome != (ours := ping(network, sender, target.address)).outcome.value
    ]
    assert not differ
    assert sum(came.outcome == "reply" for came in kernel.values()) > 30


PLAIN = ("port", "loopback")


def comparable(configuration: Configuration) -> dict[str, object]:
    """What a namespace keeps of a configuration: ports that are on, addresses, where routes lead, forwarding."""
    off = {i.block for i in configuration.everywhere(Switched) if not i.statement.on}
    return {
        "addresses": {
            (i.block.name if i.block.kind == "port" else "lo", str(i.statement.interface.ip))
            for i in configuration.everywhere(OnPort)
            if i.block
            and i.block.kind in PLAIN
            and i.block not in off
            and not i.statement.interface.ip.is_link_local
        },
        "routes": {str(i.statement.dest) for i in configuration.all(Route)},
    }


def vlans_of(network: Network, switch: int) -> dict[str, list[tuple[int, int | None]]]:
    """Return the VLANs that pass each port with a link, with their tags; 0 is none."""
    device, wiring = network.devices[switch], network.wiring
    return {
        wiring.port_name[port]: [
            (vlan, tag) for vlan in sorted(device.declared) if (tag := carries.tag_of(vlan)) is not None
        ]
        for port, carries in device.carries.items()
        if wiring.peer[port] >= 0 and network.on[port]
    }


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_what_our_export_builds_reads_back_and_pings_alike(lab: Lab) -> None:
    """Every device is what its snapshot says: switches, too, which are built of a bridge for each VLAN."""
    network = Network.of_lab(lab, lab.model, Wiring(lab))
    if any("/" in node.name for node in network.nodes.values()):
        pytest.skip("an instance is a namespace of its own, and a snapshot is of one namespace")
    assert "ip -json -details link" in namespaces_script(network)
    with built(network) as namespaces:
        read = {
            network.wiring.names[node]: snapshot_of(namespace, network.wiring.names[node], lab)
            for node, namespace in namespaces.items()
        }
    for device, sheet in read.items():
        leases = any(
            p.asks_lease or p.asks_router for p in network.nodes[network.wiring.device[device]].ports
        )
        built_of, back = comparable(lab.model[device]), comparable(sheet.configuration)
        if not leases:
            assert built_of["addresses"] <= back["addresses"], device  # type: ignore[operator]
            assert built_of["routes"] <= back["routes"], device  # type: ignore[operator]
    again = Network.of_lab(lab, {d: s.configuration for d, s in read.items()}, Wiring(lab))
    for number, name in enumerate(network.wiring.names):
        if lab.devices[name].kind is Kind.SWITCH:
            assert vlans_of(again, number) == vlans_of(network, number), name
    nodes = [n for n in network.nodes if network.own(n)]
    pairs = list(itertools.product(nodes, [min(network.own(n)) for n in nodes]))
    for sender, address in pairs:
        wanted = ping(network, sender, address)
        if wanted.outcome.value == "reply":
            assert ping(again, sender, address).outcome.value == "reply", (network.name(sender), address)


OFFICE = lab_of(
    "ana=host clerk=host sw=switch:p1,p2,p3 weir=router:p1,p2 far=host",
    "ana:p1--sw:p1 clerk:p1--sw:p2 sw:p3--weir:p1 weir:p2--far:p1",
    {
        "ana": "port p1; -address 10.8.1.20/24; gateway 10.8.1.1",
        "clerk": "port p1; -address 10.8.1.21/24; gateway 10.8.1.1",
        "sw": "vlan 10; port p1; -access 10; port p2; -access 10; port p3; -access 10",
        "weir": "port p1; -address 10.8.1.1/24; -realm internal; -on; port p2; -address 203.0.113.2/28; -realm external; -on;"
        "route 198.51.100.0/24 via 203.0.113.1; route 10.9.0.0/16 discard; translate from 10.8.1.0/24 to p2 shared",
        "far": "port p1; -address 203.0.113.1/28; forwarding off",
    },
    pings="ana>far=reply clerk>weir:p1=reply",
)  # fmt: skip


@pytest.mark.parametrize(
    ("device", "slip"),
    [
        ("ana", "ip address add 10.8.1.20/25 dev p1; ip address del 10.8.1.20/24 dev p1"),
        ("ana", "ip address add 10.8.1.25/24 dev p1; sysctl -qw net.ipv4.conf.p1.promote_secondaries=1; ip address del 10.8.1.20/24 dev p1"),
        ("clerk", "ip route del default; ip route add default via 10.8.1.2"),
        ("clerk", "ip route del default"),
        ("weir", "ip link set p1 down"),
        ("weir", "echo 0 > /proc/sys/net/ipv4/ip_forward"),
        ("weir", "ip route del 198.51.100.0/24; ip route add 198.51.100.0/25 via 203.0.113.1"),
        ("weir", "ip route del 198.51.100.0/24; ip route del blackhole 10.9.0.0/16"),
        ("weir", "nft flush ruleset"),
        ("sw", "ip link set p2 nomaster; ip link add vlan20 type bridge; ip link set vlan20 up; ip link set p2 master vlan20"),
        ("sw", "ip link set p1 down"),
    ],
)  # fmt: skip
def test_repairs_of_a_snapshot_are_carried_out_and_earn_all_marks(device: str, slip: str) -> None:
    network = Network.of_lab(OFFICE, OFFICE.model, Wiring(OFFICE))

    def marked() -> Result:
        files = {n: (f"{n}.snapshot", taken(space, n)) for n, space in spaces.items()}
        return Marker(OFFICE).mark(read_paper("x", files, devices=OFFICE.devices))

    with built(network) as namespaces:
        spaces = {network.wiring.names[node]: namespace for node, namespace in namespaces.items()}
        assert marked().percent == 100
        shell(spaces[device], slip)
        before = marked()
        assert before.percent < 100
        for fault in before.faults:
            assert fault.in_form, fault
            shell(spaces[fault.device], fault.in_form)
        after = marked()
        assert (after.percent, after.faults) == (100, ())


def shell(namespace: str, commands: str) -> None:
    subprocess.run(
        ["ip", "netns", "exec", namespace, "sh", "-e"],
        input=commands,
        check=True,
        text=True,
        capture_output=True,
    )
