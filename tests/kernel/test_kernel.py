"""The Linux kernel as reference: random networks built in namespaces, all their pings compared.

``KERNEL_LABS=200 pytest tests/kernel`` runs as many as wanted. Compared are the outcome and who
reported an error; left out are pings that depend on an address which two devices have, because
there it is chance who answers first.
"""

import os
import random
from collections.abc import Callable

import pytest

from tests.helpers import lab_of
from tests.kernel.namespaces import available, built, pings, unlimited_errors
from zensur.core.lab import Lab
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, Wiring, ping, written

LABS = int(os.environ.get("KERNEL_LABS", "6"))
LAB = lab_of(
    "r1=router:p1,p2,p3 r2=router:p1,p2,p3 r3=router:p1,p2 r4=router:p1,p2 sw=switch:p1,p2,p3,p4 h1=host h2=host h3=host",
    "r1:p1--sw:p1 r2:p1--sw:p2 sw:p3--h1:p1 sw:p4--h3:p1 r1:p2--r2:p2 r1:p3--r3:p1 r3:p2--r4:p1 r4:p2--h2:p1",
)
SEGMENTS = [
    ["r1:p1", "r2:p1", "h1:p1", "h3:p1"],
    ["r1:p2", "r2:p2"],
    ["r1:p3", "r3:p1"],
    ["r3:p2", "r4:p1"],
    ["r4:p2", "h2:p1"],
]


def random_sheets(chance: random.Random) -> dict[str, str]:
    """A plan with addresses, routes and gateways that mostly fit, and a handful of mistakes."""
    address: dict[str, str] = {}
    for net, ends in enumerate(SEGMENTS):
        for host, end in enumerate(ends, 1):
            length = chance.choice([24] * 9 + [16, 22, 25, 29, 30])
            address[end] = f"10.0.{net if chance.random() < 0.96 else chance.randrange(5)}.{host}/{length}"
    sheets = {}
    for name, device in LAB.devices.items():
        lines = []
        for port in device.ports:
            end = f"{name}:{port.name}"
            lines.append(f"port {port.name}")
            if end in address:
                lines.append(f" address {address[end]}")
            lines.append(" on" if chance.random() < 0.95 else " off")
        hops = [a.split("/")[0] for a in address.values()]
        mine = {a.split("/")[0] for e, a in address.items() if e.startswith(f"{name}:")}
        others = [h for h in hops if h not in mine]  # a kernel takes no route via the device's own address
        if device.kind.value == "router":
            if chance.random() < 0.5:
                lines += ["loopback lo0", f" address 10.0.9.{chance.randrange(1, 9)}/32"]
            for net in chance.sample(range(10), chance.randrange(3, 8)):
                dest = "default" if net > 8 else f"10.0.{net}.0/{chance.choice([24, 24, 24, 25])}"
                way = chance.choices(["via", "out", "both", "discard"], [12, 2, 2, 1])[0]
                port_name = chance.choice([p.name for p in device.ports])
                lines.append(
                    f"route {dest} "
                    + {
                        "via": f"via {chance.choice(hops)}",
                        "out": f"out {port_name}",
                        "both": f"via {chance.choice(others)} out {port_name}",
                        "discard": "discard",
                    }[way]
                )
        elif device.kind.value == "host" and chance.random() < 0.9:
            lines.append(f"gateway {chance.choice(hops[:4] if name != 'h2' else hops[-2:])}")
        sheets[name] = "\n".join(lines)
    return sheets


TRUNKS = lab_of(
    "r1=router:p1,p2 r2=router:p1 s1=switch:p1,p2,p3,p4 s2=switch:p1,p2,p3 h1=host h2=host h3=host",
    "r1:p1--s1:p1 s1:p2--s2:p1 s1:p3--h1:p1 s1:p4--r2:p1 s2:p2--h2:p1 s2:p3--h3:p1",
)


def random_vlans(chance: random.Random) -> dict[str, str]:
    """Two VLANs over two switches, a router on a trunk, and a handful of mistakes."""

    def often(right: str, *wrong: str) -> str:
        return right if chance.random() < 0.85 else chance.choice(wrong)

    trunk = often("trunk 10,20", "trunk 10", "trunk all", "access 10")
    sheets = {
        "r1": f"port p1\n {often('on', 'off')}\nport p1.10\n address 10.0.10.1/24\n"
        f"port p1.{often('20', '30')}\n address 10.0.20.1/24\n {often('on', 'off')}\n",
        "r2": f"port p1\n address 10.0.{often('10', '20')}.9/24\n on\nroute default via 10.0.10.1\n",
        "s1": f"port p1\n {often('trunk 10,20', 'trunk 20', 'access 10')}\nport p2\n {trunk}\n"
        f"port p3\n access {often('10', '20')}\nport p4\n access 10\n"
        f"vlan 10\n address 10.0.10.2/24\n {often('on', 'off')}\n{often('vlan 20', '# none')}\n"
        f"gateway 10.0.10.{often('1', '9')}\n",
        "s2": f"port p1\n {often(trunk, 'trunk 10,20')}\nport p2\n access {often('10', '20')}\n"
        f"port p3\n access {often('20', '10')}\n {often('on', 'off')}\nvlan 10\nvlan 20\n"
        f" address 10.0.20.2/{often('24', '25')}\ngateway 10.0.20.1\n",
    }
    for name, net in (("h1", "10"), ("h2", "10"), ("h3", "20")):
        own = often(net, "10", "20")
        sheets[name] = (
            f"port p1\n address 10.0.{own}.{name[1]}{chance.randrange(1, 4)}/24\ngateway 10.0.{own}.1\n"
        )
    return sheets


@pytest.mark.skipif(not available(), reason="network namespaces need root and iproute2")
@pytest.mark.parametrize("seed", range(LABS))
@pytest.mark.parametrize(
    ("lab", "sheets"), [(LAB, random_sheets), (TRUNKS, random_vlans)], ids=["routes", "vlans"]
)
def test_the_kernel_agrees(seed: int, lab: Lab, sheets: Callable[[random.Random], dict[str, str]]) -> None:
    chance = random.Random(seed)
    configurations = {n: read_sheet(t, n).configuration for n, t in sheets(chance).items()}
    network = Network.of_lab(lab, configurations, Wiring(lab))
    asked = comparable(network, {a for d in range(len(network.devices)) for a in network.own(d)})
    with unlimited_errors(), built(network) as namespaces:
        differences = disagreements(network, pings(namespaces, asked, 1.6))
        for _ in range(3):  # a kernel under load may be late: what differs is looked at again, alone
            if differences:
                again: dict[int, list[int]] = {}
                for sender, target in list(differences)[:8]:
                    again.setdefault(sender, []).append(target)
                differences = {
                    pair: said for pair, said in differences.items() if pair[1] not in again.get(pair[0], [])
                } | disagreements(network, pings(namespaces, again, 2.5))
    assert sum(map(len, asked.values())) > 20
    assert list(differences.values()) == []


def disagreements(
    network: Network, kernel: dict[tuple[int, int], dict[str, str]]
) -> dict[tuple[int, int], str]:
    """Compare the kernel's outcomes with ours: the outcome, and who reported an error."""
    names, found = network.wiring.names, {}
    for (sender, target), theirs in kernel.items():
        ours = ping(network, sender, target)
        told = ours.by if ours.outcome == "unreachable" else None
        by = {d for d in range(len(names)) if "by" in theirs and number(theirs["by"]) in network.own(d)} or {
            None
        }
        if theirs["outcome"] != ours.outcome.value or told not in by:
            way = " ".join(names[d] for d in ours.there[:6])
            found[sender, target] = (
                f"{written(target)} via {way}: {ours.outcome} {ours.reason}, kernel {theirs}"
            )
    return found


def comparable(network: Network, owned: set[int]) -> dict[int, list[int]]:
    """Choose the pings whose outcome is no matter of chance.

    Left out: an address that two devices have, asked for or as the sender's own; two routers on one
    segment that may both answer for others; and an address that is another device's broadcast address
    through a wrong mask (the kernel sends it to everybody, our model never answers it).
    """
    devices = range(len(network.devices))
    dead = {a for d in devices for a in network.dead(d)} & owned
    twice = {a for a in owned if sum(a in network.own(d) for d in devices) > 1}
    nets = {a >> 8 & 255 for a in owned} - {9} | {5}
    others = {(10 << 24) + (net << 8) + host for net in nets for host in (77, 255)}
    asked: dict[int, list[int]] = {}
    for sender in devices:
        own = set(network.own(sender))
        if not own or own & (dead | twice):
            continue
        asked[sender] = [
            target
            for target in sorted((owned | others) - dead)
            if not (result := ping(network, sender, target)).duplicates
            and not any(
                s.decision.neighbour and s.decision.neighbour.proxy and s.decision.neighbour.path
                for s in result.steps
            )
        ]
    return asked


def number(address: str) -> int:
    a, b, c, d = map(int, address.split("."))
    return a << 24 | b << 16 | c << 8 | d
