"""Networks built on this machine by the script that ``zensur export`` writes, and pinged."""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from zensur.core.export import namespaces_script
from zensur.core.export.namespaces import namespace_names
from zensur.core.export.wires import Wires
from zensur.core.sim import Network, written

PINGER = Path(__file__).parent / "pinger.py"
QUICK = {
    "ipv4": {"mcast_solicit": 2, "retrans_time_ms": 150, "proxy_delay": 0, "unres_qlen": 200},
    "ipv6": {"mcast_solicit": 2, "retrans_time_ms": 150, "unres_qlen": 200},
}
"""Neighbours are given up soon: the pings wait for them."""


class Target(NamedTuple):
    """What is pinged: an address by its number, and the port that a link-local one is meant on."""

    address: int
    port: str = ""


class Came(NamedTuple):
    """What came of a ping: outcome, why and by which address an error was told, and the source that was seen."""

    outcome: str
    reason: str = ""
    by: str = ""
    seen_as: tuple[str, ...] = ()


def available() -> bool:
    """Whether this machine lets us make namespaces and rules in them."""
    if os.geteuid() != 0 or shutil.which("ip") is None or shutil.which("nft") is None:
        return False
    probe = f"zprobe{os.getpid()}"  # two processes of tests may ask at the same moment
    made = subprocess.run(["ip", "netns", "add", probe], capture_output=True, check=False)
    subprocess.run(["ip", "netns", "del", probe], capture_output=True, check=False)
    return made.returncode == 0


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
def built(network: Network) -> Iterator[dict[int, str]]:
    """Build the network; yields the names of the namespaces by node."""
    script, name = namespaces_script(network), f"z{os.getpid()}"
    names = {node: f"{name}-{own}" for node, own in namespace_names(network).items()}

    def run(verb: str) -> None:
        done = subprocess.run(
            ["sh", "-s", verb], input=script, text=True, capture_output=True, check=False,
            env={**os.environ, "ZENSUR_NAME": name},
        )  # fmt: skip
        assert done.returncode == 0, f"{done.stderr}\n{script}"

    try:
        run("up")
        wires = Wires(network)
        for node, namespace in names.items():
            ends = [(end, far) for pair in wires.pairs for end, far in (pair, pair[::-1]) if end.node == node]
            vlans = network.devices[network.wiring.device_of_node(node)].declared
            _be_quick(namespace, [end.name for end, _ in ends] + [f"vlan{v}" for v in vlans])
            _until_up(namespace, {end.name for end, far in ends if end.on and far.on})
        yield names
    finally:
        run("down")


def _be_quick(namespace: str, ports: list[str]) -> None:
    lines = [
        f"test ! -d /proc/sys/net/{family}/neigh/{port} || echo {value} > /proc/sys/net/{family}/neigh/{port}/{name}"
        for port in ports
        for family, settings in QUICK.items()
        for name, value in settings.items()
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
        if ports <= {link["ifname"] for link in json.loads(shown) if link["operstate"] in ("UP", "UNKNOWN")}:
            return
    raise AssertionError(f"{namespace}: {ports} do not come up")


def pings(
    namespaces: dict[int, str], asked: dict[int, list[Target]], seconds: float
) -> dict[tuple[int, Target], Came]:
    """Ping from all senders at once, each its own targets, while everybody listens."""
    running = {
        node: subprocess.Popen(
            [
                "ip", "netns", "exec", namespace, sys.executable, str(PINGER), str(seconds), str(node),
                *(written(t.address) + (f"%{t.port}" if t.port else "") for t in asked.get(node, [])),
            ],
            stdout=subprocess.PIPE,
        )
        for node, namespace in namespaces.items()
    }  # fmt: skip
    told = {node: json.loads(process.communicate()[0]) for node, process in running.items()}
    seen: dict[tuple[int, int], set[str]] = {}
    for heard in told.values():
        for sender, number, source in heard["seen"]:
            seen.setdefault((int(sender), number), set()).add(source)
    return {
        (node, target): Came(
            came["outcome"],
            came.get("reason", ""),
            came.get("by", ""),
            tuple(sorted(seen.get((node, n), ()))),
        )
        for node, targets in asked.items()
        for n, (target, came) in enumerate(zip(targets, told[node]["outcomes"], strict=True))
    }
