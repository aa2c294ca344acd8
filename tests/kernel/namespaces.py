"""A network as Linux namespaces: veth pairs for links, bridges for switches, the active routes as they are.

A kernel may lack 802.1Q devices, so each VLAN of a switch is a bridge of its own, and a link has one
veth pair for every tag that passes it both ways.
"""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from zensur.core.sim import Network, written

ON_PORTS = {"mcast_solicit": 2, "retrans_time_ms": 150, "proxy_delay": 0, "unres_qlen": 200}
PINGER = Path(__file__).parent / "pinger.py"
SETTINGS = {
    "net.ipv4.conf.all.rp_filter": 0,
    "net.ipv4.conf.default.rp_filter": 0,
    "net.ipv4.conf.all.send_redirects": 0,
    "net.ipv4.conf.default.send_redirects": 0,
    "net.ipv4.icmp_ratelimit": 0,
    "net.ipv4.icmp_ratemask": 0,
    "net.ipv6.conf.default.disable_ipv6": 1,
}


def available() -> bool:
    """Whether this machine lets us make namespaces."""
    if os.geteuid() != 0 or shutil.which("ip") is None:
        return False
    made = subprocess.run(["ip", "netns", "add", "zprobe"], capture_output=True, check=False)
    subprocess.run(["ip", "netns", "del", "zprobe"], capture_output=True, check=False)
    return made.returncode == 0


def _batch(namespace: str | None, lines: list[str]) -> None:
    where = ["-n", namespace] if namespace else []
    done = subprocess.run(
        ["ip", *where, "-batch", "-"], input="\n".join(lines), text=True, capture_output=True, check=False
    )
    assert done.returncode == 0, f"{namespace}: {done.stderr}\n" + "\n".join(lines)


@contextmanager
def unlimited_errors() -> Iterator[None]:
    """Let the kernel report every missing route: by itself it holds back all but five of a moment."""
    cost = Path("/proc/sys/net/ipv4/route/error_cost")
    before = cost.read_text()
    cost.write_text("0")
    try:
        yield
    finally:
        cost.write_text(before)


@contextmanager
def built(network: Network) -> Iterator[list[str]]:
    """Build the network; yields the names of the namespaces, one for each device."""
    wiring = network.wiring
    names = [f"z{os.getpid()}-{n}" for n in range(len(wiring.names))]
    try:
        _batch(None, [f"netns add {name}" for name in names])
        for number, device in enumerate(network.devices):
            _settings(names[number], device.forwards)
        wires = sorted(wires_of(network))
        _batch(
            None,
            [
                f"link add {a.name} netns {names[a.device]} type veth peer name {b.name} netns {names[b.device]}"
                for a, b in wires
            ],
        )
        ends = [end for wire in wires for end in wire]
        for number, name in enumerate(names):
            own = [end for end in ends if end.device == number]
            _batch(name, list(_links(network, number, own)))
            _neighbours(
                name, [end.name for end in own] + [f"vlan{v}" for v in network.devices[number].declared]
            )
            _batch(name, list(_configuration(network, number)))
        for number, name in enumerate(names):
            _until_up(
                name, {end.name for a, b in wires if a.on and b.on for end in (a, b) if end.device == number}
            )
        yield names
    finally:
        for name in names:
            subprocess.run(["ip", "netns", "del", name], capture_output=True, check=False)


def _settings(namespace: str, forwards: bool) -> None:
    settings = {
        **SETTINGS,
        "net.ipv4.ip_forward": int(forwards),
        "net.ipv4.conf.all.proxy_arp": int(forwards),
        "net.ipv4.conf.all.accept_redirects": 0,
    }
    lines = "; ".join(f"echo {v} > /proc/sys/{k.replace('.', '/')}" for k, v in settings.items())
    subprocess.run(["ip", "netns", "exec", namespace, "sh", "-ec", lines], check=True, capture_output=True)


def _neighbours(namespace: str, ports: list[str]) -> None:
    """Let neighbours be given up soon: the pings wait for them."""
    lines = [
        f"test ! -d /proc/sys/net/ipv4/neigh/{port} || echo {value} > /proc/sys/net/ipv4/neigh/{port}/{name}"
        for port in ports
        for name, value in ON_PORTS.items()
    ]
    subprocess.run(
        ["ip", "netns", "exec", namespace, "sh", "-ec", "\n".join(lines)], check=True, capture_output=True
    )


def _until_up(namespace: str, ports: set[str]) -> None:
    """Wait for the kernel to notice that both ends of every link are up."""
    for _ in range(3_000):  # each look takes milliseconds, the kernel up to a second
        shown = subprocess.run(
            ["ip", "-n", namespace, "-json", "link"], capture_output=True, check=True
        ).stdout
        if ports <= {link["ifname"] for link in json.loads(shown) if link["operstate"] == "UP"}:
            return
    raise AssertionError(f"{namespace}: {ports} do not come up")


class End(NamedTuple):
    """One end of a veth pair: its name, the bridge it belongs to, and whether it is on."""

    device: int
    name: str
    master: str
    on: bool


def wires_of(network: Network) -> set[tuple[End, End]]:
    """Return a veth pair for whatever passes each link both ways, and for what is sent and dropped."""
    wiring = network.wiring
    found: set[tuple[End, End]] = set()
    for a, b in enumerate(wiring.peer):
        if b < 0:
            continue
        for sent in _sent(network, a):
            own, tag = sent
            far = _end_of(network, b, tag)
            if far is not None and own != _end_of(network, a, _tag_back(network, b, tag)):
                far = None  # it would pass one way only
            if far is None and network.wiring.is_switch[own.device]:
                continue
            other = far or End(wiring.port_device[b], f"{wiring.port_name[b]}x{tag}", "", network.on[b])
            found.add((own, other) if own < other else (other, own))
    return found


def _sent(network: Network, port: int) -> list[tuple[End, int]]:
    device = network.devices[network.wiring.port_device[port]]
    if device.is_switch:
        tags = [device.carries[port].tag_of(vlan) for vlan in device.declared]
    else:
        tags = [own.vlan for own in device.ports if own.port == port]
    return [
        (end, tag) for tag in tags if tag is not None and (end := _end_of(network, port, tag)) is not None
    ]


def _end_of(network: Network, port: int, tag: int | None) -> End | None:
    """Return what takes in a frame with a tag at a port."""
    number, name = network.wiring.port_device[port], network.wiring.port_name[port]
    device = network.devices[number]
    if tag is None:
        return None
    if device.is_switch:
        vlan = device.carries[port].vlan_of(tag)
        if vlan is None or vlan not in device.declared:
            return None
        return End(number, f"{name}v{vlan}", f"vlan{vlan}", network.on[port])
    own = device.by_key.get(network.wiring.key_of(port, tag))
    return None if own is None else End(number, own.name, "", own.on and network.on[port])


def _tag_back(network: Network, port: int, tag: int) -> int | None:
    """Return the tag with which the answer to what came in with a tag leaves."""
    device = network.devices[network.wiring.port_device[port]]
    if not device.is_switch:
        return tag
    vlan = device.carries[port].vlan_of(tag)
    return None if vlan is None else device.carries[port].tag_of(vlan)


def _links(network: Network, number: int, ends: list[End]) -> Iterator[str]:
    device = network.devices[number]
    yield "link set lo up"
    for vlan in device.declared:
        yield f"link add vlan{vlan} type bridge"
        own = device.by_key.get(network.wiring.vlan_key(number, vlan))
        hears = own is not None and own.addresses and network.is_up(own)
        # Frames are carried in any case; the switch itself hears only where it has an address.
        yield f"link set vlan{vlan} up arp {'on' if hears else 'off'}"
    for end in ends:
        if end.master:
            yield f"link set {end.name} master {end.master}"
        elif device.is_switch:  # what arrives here is dropped: the kernel is not to answer for the switch
            yield f"link set {end.name} arp off"
        yield f"link set {end.name} {'up' if end.on else 'down'}"


def _configuration(network: Network, number: int) -> Iterator[str]:
    for port in network.up_ports(number):
        for address in port.addresses:
            name = "lo" if port.is_loopback else port.name
            yield (
                f"address add {written(address.address)}/{address.length} brd + dev {name}"
                if address.length < 31
                else (f"address add {written(address.address)}/{address.length} dev {name}")
            )
    for metric, route in enumerate(network.table(number).routes(), 1):
        if route.static is None:
            continue
        dest = f"{written(route.network)}/{route.length}"
        if route.out is None:
            yield f"route add blackhole {dest} metric {metric}"
        elif route.ask is None:
            yield f"route add {dest} dev {route.out.name} metric {metric}"
        else:
            yield f"route add {dest} via {written(route.ask)} dev {route.out.name} onlink metric {metric}"


def pings(
    namespaces: list[str], asked: dict[int, list[int]], seconds: float
) -> dict[tuple[int, int], dict[str, str]]:
    """Ping from all senders at once, each its own targets; returns what came of each ping."""
    running = {
        sender: subprocess.Popen(
            [
                "ip",
                "netns",
                "exec",
                namespaces[sender],
                sys.executable,
                str(PINGER),
                str(seconds),
                *map(written, targets),
            ],
            stdout=subprocess.PIPE,
        )
        for sender, targets in asked.items()
    }
    found = {}
    for sender, process in running.items():
        out, _ = process.communicate()
        for target, outcome in zip(asked[sender], json.loads(out), strict=True):
            found[sender, target] = outcome
    return found
