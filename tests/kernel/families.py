"""Families of random networks: plans that mostly fit, each with a handful of mistakes."""

import random
from collections.abc import Callable
from ipaddress import ip_address
from typing import NamedTuple

from tests.helpers import lab_of
from zensur.core.lab import Lab
from zensur.core.sim.numbers import number_of

Chance = random.Random


class Family(NamedTuple):
    """A lab, how its sheets are drawn, and addresses that nobody has and that are asked for, too."""

    name: str
    lab: Lab
    sheets: Callable[[Chance], dict[str, str]]
    others: list[int]


def numbers(*addresses: str) -> list[int]:
    return [number_of(ip_address(a)) for a in addresses]


ROUTES = lab_of(
    "r1=router:p1,p2,p3 r2=router:p1,p2,s1 r3=router:p1,p2 r4=router:p1,p2,s1 sw=switch:p1,p2,p3,p4 "
    "h1=host h2=host h3=host",
    "r1:p1--sw:p1 r2:p1--sw:p2 sw:p3--h1:p1 sw:p4--h3:p1 r1:p2--r2:p2 r1:p3--r3:p1 r3:p2--r4:p1 r4:p2--h2:p1 "
    "r2:s1--r4:s1",
)
SEGMENTS = [
    ["r1:p1", "r2:p1", "h1:p1", "h3:p1"],
    ["r1:p2", "r2:p2"],
    ["r1:p3", "r3:p1"],
    ["r3:p2", "r4:p1"],
    ["r4:p2", "h2:p1"],
    ["r2:s1", "r4:s1"],
]


def random_routes(chance: Chance) -> dict[str, str]:
    """Addresses, routes and gateways of IPv4, with wrong masks, ports off, out-ports, proxies and loops."""
    address: dict[str, str] = {}
    for net, ends in enumerate(SEGMENTS):
        for host, end in enumerate(ends, 1):
            length = chance.choice([24] * 9 + [16, 22, 25, 29, 30])
            address[end] = f"10.0.{net if chance.random() < 0.96 else chance.randrange(6)}.{host}/{length}"
    sheets = {}
    for name, device in ROUTES.devices.items():
        lines = []
        for port in device.ports:
            end = f"{name}:{port.name}"
            lines.append(f"port {port.name}")
            if end in address:
                lines.append(f" address {address[end]}")
            lines.append(" on" if chance.random() < 0.95 else " off")
            if device.kind.value == "router" and chance.random() < 0.1:
                lines.append(" proxy off")
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
            lines.append(f"gateway {chance.choice(hops[:4] if name != 'h2' else hops[8:10])}")
        sheets[name] = "\n".join(lines)
    return sheets


TRUNKS = lab_of(
    "r1=router:p1,p2 r2=router:p1 s1=switch:p1,p2,p3,p4 s2=switch:p1,p2,p3 h1=host h2=host h3=host",
    "r1:p1--s1:p1 s1:p2--s2:p1 s1:p3--h1:p1 s1:p4--r2:p1 s2:p2--h2:p1 s2:p3--h3:p1",
)


def random_vlans(chance: Chance) -> dict[str, str]:
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


TOLLS = lab_of(
    "ana=host bob=host sw=switch:p1,p2,p3 toll=router:p1,p2,p3 out=router:p1,p2,p3,p4 gate=router:p1,p2 far=host "
    "shop=host",
    "ana:p1--sw:p1 bob:p1--sw:p2 sw:p3--toll:p1 toll:p2--out:p1 toll:p3--out:p3 out:p2--gate:p2 gate:p1--shop:p1 "
    "out:p4--far:p1",
)


def random_translations(chance: Chance) -> dict[str, str]:
    """Two translating routers with a third between them, a second way out, and a handful of mistakes."""

    def often(right: str, *wrong: str, most: float = 0.88) -> str:
        return right if chance.random() < most else chance.choice(wrong)

    realm_in, realm_out = "realm internal", "realm external"
    lists = [
        "addresses crew\n deny 10.8.0.21\n permit 10.8.0.0/24",
        "addresses crew\n permit 10.8.0.0/24",
        "addresses crew\n permit 10.8.0.16/28\n deny any",
    ]
    dynamics = [
        "translate from crew to p2 shared",
        "translate from 10.8.0.0/24 to p2 shared ports 2000 to 3000",
        "pool spare 203.0.113.4 to 203.0.113.6\ntranslate from crew to spare shared",
        "pool spare 203.0.113.4 to 203.0.113.6\ntranslate from crew to spare",
        "pool spare 192.0.2.0/29\ntranslate from crew to spare shared",
        "translate from nobody to p2 shared",
        "translate from crew to p2 shared out p2\ntranslate from crew to p3 shared out p3",
        "pool spare 203.0.113.4 to 203.0.113.6\ntranslate from crew to p3 shared out p3\n"
        "translate from 10.8.0.0/24 to spare shared",
        "",
    ]
    standing = [
        "",
        "",
        "translate 10.8.0.20 as 203.0.113.7",
        "translate 10.8.0.21 as p2",
        "translate 10.8.0.20 as 192.0.2.9",
        "translate 10.8.0.20 as 203.0.113.7 out p2\ntranslate 10.8.0.20 as 203.0.113.39 out p3",
        "translate 10.8.0.21 as 203.0.113.39 out p3",
    ]
    routes_back = ["", "route 10.8.0.0/24 via 203.0.113.2", "route 192.0.2.0/28 via 203.0.113.2",
                   "route 10.8.0.0/24 via 203.0.113.34"]  # fmt: skip
    back = "\n".join(chance.sample(routes_back, 2))
    second = often(realm_out, "", realm_in, most=0.5)
    way = often("route default via 203.0.113.1", "route default via 203.0.113.33")
    return {
        "ana": "port p1\n address 10.8.0.20/24\ngateway 10.8.0.1",
        "bob": f"port p1\n address 10.8.0.21/24\ngateway 10.8.0.{often('1', '9')}",
        "toll": (
            f"port p1\n address 10.8.0.1/24\n {often(realm_in, '', realm_out)}\n on\n"
            f"port p2\n address 203.0.113.2/28\n {often(realm_out, '', realm_in)}\n on\n"
            f"port p3\n address 203.0.113.34/28\n {second}\n on\n"
            f"{way}\nroute 198.51.100.0/24 via {chance.choice(['203.0.113.1', '203.0.113.33'])}\n"
            f"{chance.choice(lists)}\n{chance.choice(dynamics)}\n{chance.choice(standing)}\n"
        ),
        "out": (
            "port p1\n address 203.0.113.1/28\n on\nport p2\n address 203.0.113.17/28\n on\n"
            "port p3\n address 203.0.113.33/28\n on\nport p4\n address 198.51.100.1/24\n on\n" + back
        ),
        "gate": (
            f"port p1\n address 10.9.0.1/24\n {often(realm_in, '')}\n on\n"
            f"port p2\n address 203.0.113.18/28\n {often(realm_out, '')}\n on\n"
            "route default via 203.0.113.17\ntranslate 10.9.0.80 as 203.0.113.20\n"
            + often("translate from 10.9.0.0/24 to p2 shared", "")
        ),
        "far": f"port p1\n address 198.51.100.9/24\ngateway 198.51.100.{often('1', '2')}",
        "shop": "port p1\n address 10.9.0.80/24\ngateway 10.9.0.1",
    }  # fmt: skip


SIX = lab_of(
    "r1=router:p1,p2,s1 r2=router:p1,p2 r3=router:p1,s1 sw=switch:p1,p2,p3,p4 h1=host h2=host h3=host",
    "r1:p1--sw:p1 r2:p1--sw:p2 h1:p1--sw:p3 h2:p1--sw:p4 r1:p2--r2:p2 r1:s1--r3:s1 r3:p1--h3:p1",
)


def random_six(chance: Chance) -> dict[str, str]:
    """IPv6: link-local next hops, advertisements, wrong lengths, ports off, loops, a loopback, a serial link."""

    def often(right: str, *wrong: str, most: float = 0.88) -> str:
        return right if chance.random() < most else chance.choice(wrong)

    def length() -> str:
        return often("64", "48", "80", "127", "126", most=0.9)

    def on() -> str:
        return often("on", "off", most=0.95)

    advertise = chance.choice(["", " advertise on\n"])
    nets = [*(f"2001:db8:{n}::/64" for n in range(4)), "default", "2001:db8::/32"]
    hops = {
        "r1": [
            "2001:db8:0::2",
            "2001:db8:1::2",
            "fe80::2 out p2",
            "fe80::3 out s1",
            "2001:db8:2::2",
            "fe80::9 out p1",
        ],
        "r2": ["2001:db8:0::1", "2001:db8:1::1", "fe80::1 out p2", "fe80::11 out p1"],
        "r3": ["2001:db8:2::1", "fe80::1 out s1"],
    }

    def routes(name: str) -> str:
        return "\n".join(
            f"route {net} " + often(f"via {chance.choice(hops[name])}", "discard", most=0.93)
            for net in chance.sample(nets, chance.randrange(2, 5))
        )

    gateway = chance.choice(["2001:db8:0::1", "2001:db8:0::2", "fe80::11"])
    return {
        "r1": (
            f"port p1\n address 2001:db8:0::1/{length()}\n address fe80::11/64\n{advertise} {on()}\n"
            f"port p2\n address 2001:db8:1::1/{length()}\n address fe80::1/64\n {on()}\n"
            f"port s1\n {chance.choice(['address 2001:db8:2::1/64', 'about x'])}\n address fe80::1/64\n {on()}\n"
            f"{routes('r1')}"
        ),
        "r2": (
            f"port p1\n address 2001:db8:0::2/{length()}\n {on()}\nport p2\n"
            f" {chance.choice(['address 2001:db8:1::2/64', 'about x'])}\n address fe80::2/64\n {on()}\n"
            f"loopback lo0\n address 2001:db8:9::1/128\n{routes('r2')}"
        ),
        "r3": (
            f"port p1\n address 2001:db8:3::1/{length()}\n {on()}\nport s1\n address 2001:db8:2::2/64\n"
            f" address fe80::3/64\n {on()}\n{routes('r3')}"
        ),
        "h1": "port p1\n address auto" if advertise else f"port p1\n address 2001:db8::a/64\ngateway {gateway}",
        "h2": f"port p1\n address 2001:db8:0::b/{length()}\ngateway {gateway}",
        "h3": f"port p1\n address 2001:db8:3::c/64\ngateway {often('2001:db8:3::1', '2001:db8:3::2')}",
    }  # fmt: skip


CABINETS = lab_of(
    "cab=router:p1,p2,t1,t2,s1,s2 ana=host bob=host",
    "cab:p1--ana:p1 cab:p2--bob:p1 cab:t1--cab:t2 cab:s1--cab:s2",
)


def random_instances(chance: Chance) -> dict[str, str]:
    """Two instances of one box with the same networks, joined inside it."""

    def often(right: str, *wrong: str) -> str:
        return right if chance.random() < 0.85 else chance.choice(wrong)

    return {
        "cab": (
            f"instance west\ninstance east\nport p1\n instance west\n address 10.0.1.1/24\n on\n"
            f"port p2\n instance {often('east', 'west')}\n address 10.0.{often('2', '1')}.1/24\n on\n"
            f"port t1\n instance west\n address 10.0.12.1/30\n {often('on', 'off')}\n"
            f"port t2\n instance {often('east', 'west')}\n address 10.0.12.2/30\n on\n"
            f"port s1\n address 10.0.5.1/30\n on\nport s2\n instance east\n address 10.0.5.2/30\n on\n"
            f"route 10.0.2.0/24 via 10.0.12.2 {often('in west', 'in east')}\nroute default via 10.0.12.1 in east\n"
            f"route default {often('out s1', 'via 10.0.5.2')}"
        ),
        "ana": "port p1\n address 10.0.1.20/24\ngateway 10.0.1.1",
        "bob": f"port p1\n address 10.0.{often('2', '1')}.30/24\ngateway 10.0.2.1",
    }


FAMILIES = [
    Family(
        "routes", ROUTES, random_routes,
        [a + h for a in numbers(*(f"10.0.{net}.0" for net in range(6))) for h in (77, 255)],
    ),
    Family("vlans", TRUNKS, random_vlans, numbers("10.0.10.77", "10.0.20.255", "10.0.30.1")),
    Family(
        "translations", TOLLS, random_translations,
        numbers("203.0.113.4", "203.0.113.7", "203.0.113.9", "203.0.113.20", "192.0.2.1", "192.0.2.9", "10.8.0.77",
                "198.51.100.77", "10.7.0.1"),
    ),
    Family("six", SIX, random_six, numbers("2001:db8::77", "2001:db8:2::77", "2001:db8:5::1")),
    Family("instances", CABINETS, random_instances, numbers("10.0.1.77", "10.0.2.77", "10.0.9.9")),
]  # fmt: skip
