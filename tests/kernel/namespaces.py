"""A network as Linux namespaces: veth pairs for links, bridges for switches, the active routes as they are."""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from zensur.core.sim import Network, dotted

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
        links = [(a, b) for a, b in enumerate(wiring.peer) if a < b]
        _batch(
            None,
            [
                f"link add {wiring.port_name[a]} netns {names[wiring.port_device[a]]} type veth "
                f"peer name {wiring.port_name[b]} netns {names[wiring.port_device[b]]}"
                for a, b in links
            ],
        )
        for number, name in enumerate(names):
            _neighbours(name, list(wiring.ports_of[number]))
            _batch(name, list(_configuration(network, number)))
        for number, name in enumerate(names):
            _until_up(
                name, {p.name for p in network.devices[number].ports if p.port >= 0 and network.is_up(p)}
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


def _configuration(network: Network, number: int) -> Iterator[str]:
    device, wiring = network.devices[number], network.wiring
    yield "link set lo up"
    if device.is_switch:
        yield "link add bridge type bridge"
        yield "link set bridge up"
    for port in device.ports:
        if port.port < 0 or wiring.peer[port.port] < 0:
            continue
        if device.is_switch:
            yield f"link set {port.name} master bridge"
        yield f"link set {port.name} {'up' if port.on else 'down'}"
    for port in network.up_ports(number):
        for address in port.addresses:
            name = "lo" if port.is_loopback else port.name
            yield (
                f"address add {dotted(address.address)}/{address.length} brd + dev {name}"
                if address.length < 31
                else (f"address add {dotted(address.address)}/{address.length} dev {name}")
            )
    for metric, route in enumerate(network.table(number).routes(), 1):
        if route.static is None:
            continue
        dest = f"{dotted(route.network)}/{route.length}"
        if route.out is None:
            yield f"route add blackhole {dest} metric {metric}"
        elif route.ask is None:
            yield f"route add {dest} dev {route.out.name} metric {metric}"
        else:
            yield f"route add {dest} via {dotted(route.ask)} dev {route.out.name} onlink metric {metric}"


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
                *map(dotted, targets),
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
