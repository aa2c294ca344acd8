"""A right answer is never marked wrong: model answers said otherwise, which all have full marks under ``effect``."""

import random
import re
from collections.abc import Iterator
from ipaddress import IPv4Network, IPv6Network, collapse_addresses, ip_address, ip_interface, ip_network
from itertools import product
from typing import cast

import pytest

from tests.core.every_lab import ALL, handed_in
from zensur.core.lab import Lab
from zensur.core.marking.guarded import ELSEWHERE
from zensur.core.marking.marker import Marker
from zensur.core.sheet import OnPort, Sheet


def other_names(text: str, chance: random.Random) -> str:
    """Pools, lists, lease blocks, loopbacks and instances are called otherwise."""
    for word in ("pool", "addresses", "dhcp", "loopback", "instance"):
        for name in dict.fromkeys(re.findall(rf"^{word} (\S+)", text, re.MULTILINE)):
            text = re.sub(rf"(?<=\s){re.escape(name)}(?=\s|$)", f"our-{name}", text)
    return text


def other_order(text: str, chance: random.Random) -> str:
    """Blocks and statements stand in another order; of translations, and of the lines of a list, the order stays."""
    parts = re.split(r"^(?=\S)", text, flags=re.MULTILINE)[1:]
    fixed = [p for p in parts if p.startswith("translate")]
    free = [p for p in parts if not p.startswith("translate")]
    chance.shuffle(free)
    at = chance.randrange(len(free) + 1)
    return "".join([*free[:at], *fixed, *free[at:]])


def dotted_masks(text: str, chance: random.Random) -> str:
    """IPv4 lengths are written as masks, in lists as wildcards."""

    def mask(found: re.Match[str]) -> str:
        word, address, length = found[1], found[2], int(found[3])
        network = ip_network(f"0.0.0.0/{length}")
        shown = f"wildcard {network.hostmask}" if word in ("permit", "deny") else f"mask {network.netmask}"
        return f"{word} {address} {shown}"

    return re.sub(r"\b(address|route|permit|deny|network) (\d+\.\d+\.\d+\.\d+)/(\d+)", mask, text)


def both_ways(text: str, chance: random.Random) -> str:
    """Routes by next hop also say their port, where the next hop lies in one of the sheet's own networks."""
    ports: dict[IPv4Network | IPv6Network, str] = {}
    port = ""
    for line in text.splitlines():
        if line.startswith("port "):
            port = line.split()[1]
        found = re.match(r"\s+address (\S+)/(\d+)", line)
        if found and port:
            network = ip_network(f"{found[1]}/{found[2]}", strict=False)
            ports[network] = "two" if network in ports else port  # of several instances: not told apart here

    def with_port(found: re.Match[str]) -> str:
        hop = ip_address(found[2])
        own = next((p for n, p in ports.items() if hop in n and p != "two"), None)
        return f"{found[1]}{found[2]} out {own}{found[3]}" if own else found[0]

    return re.sub(
        r"^(route \S+ via )([0-9a-f.:]+)((?: in \S+)?(?: about .*)?)$", with_port, text, flags=re.MULTILINE
    )


def halves(text: str, chance: random.Random) -> str:
    """A line of a list, and a discard, is said in two halves."""

    def split(found: re.Match[str]) -> str:
        one, two = ip_network(found[2]).subnets()
        return f"{found[1]}{one}{found[3]}\n{found[1]}{two}{found[3]}"

    text = re.sub(r"^( *permit )(\d\S+/\d+)()$", split, text, flags=re.MULTILINE)
    return re.sub(r"^(route )(\S+/\d+)( discard.*)$", split, text, flags=re.MULTILINE)


def capitals(text: str, chance: random.Random) -> str:
    """Keywords are written in capitals, tabs indent, comments stand between."""
    lines = [
        re.sub(r"^(\s*)(\w+)", lambda m: m[1].replace("  ", "\t") + m[2].upper(), line)
        for line in text.split("\n")
    ]
    return "# handed in late\r\n" + "\r\n".join(lines)


def summaries(text: str, chance: random.Random) -> str:
    """Routes by the same way are said together, as far as their destinations make whole networks."""
    ways: dict[str, list[str]] = {}
    for dest, way in re.findall(r"^route (\S+/\d+) ((?:via|out|discard).*)$", text, re.MULTILINE):
        ways.setdefault(way.partition(" about")[0], []).append(dest)
    for way, dests in ways.items():
        whole = [
            n
            for v in (4, 6)
            for n in collapse_addresses(
                cast(IPv4Network, ip_network(d)) for d in dests if ip_network(d).version == v
            )
        ]
        if len(whole) < len(dests):
            for dest in dests:
                text = re.sub(rf"^route {re.escape(dest)} {re.escape(way)}.*\n", "", text, flags=re.MULTILINE)
            text += "".join(f"route {n} {way}\n" for n in whole)
    return text


def a_default(text: str, chance: random.Random) -> str:
    """In the place of all routes by one way stands a default."""
    routes = re.findall(r"^route (\S+) (via \d[\d.]+|out \S+)(?= about|$)", text, re.MULTILINE)
    if not routes or "route default" in text or re.search(r"^route .* in ", text, re.MULTILINE):
        return text
    way = chance.choice([way for _, way in routes])
    return (
        re.sub(rf"^route \S+ {re.escape(way)}( about.*)?\n", "", text, flags=re.MULTILINE)
        + f"route default {way}\n"
    )


def out_of_serial_ports(text: str, chance: random.Random) -> str:
    """On a serial link, which has one far end, a route says the port in place of the next hop."""
    for port, block in re.findall(r"^port (s\d+)\n((?:[ \t].*\n)*)", text, re.MULTILINE):
        for address in re.findall(r"address (\d\S+)", block):
            network = ip_network(address, strict=False)
            for before, hop in re.findall(r"^(route \S+ )via (\d[\d.]+)$", text, re.MULTILINE):
                if ip_address(hop) in network:
                    text = re.sub(
                        f"^{before}via {re.escape(hop)}$", f"{before}out {port}", text, flags=re.MULTILINE
                    )
    return text


BY_EFFECT = [summaries, a_default, out_of_serial_ports]
"""Rewritings that change what a device does with addresses nobody has: right where all pings are as expected."""
REWRITINGS = [other_names, other_order, dotted_masks, both_ways, halves, capitals]


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_what_is_said_otherwise_has_full_marks(lab: Lab) -> None:
    marker, chance = Marker(lab), random.Random(11)
    for rewritings in [[r] for r in REWRITINGS] + [chance.sample(REWRITINGS, 4) for _ in range(12)]:
        texts = {d: s.text for d, s in lab.full_paper.items()}
        for rewriting in sorted(rewritings, key=REWRITINGS.index):
            if rewriting is halves and lab.id == "tidings":
                continue  # halves are announced as two networks
            texts = {d: rewriting(text, chance) for d, text in texts.items()}
        result = marker.mark(handed_in(lab, texts))
        lost = [(c.id, c.required, c.found) for c in result.criteria if c.fraction < 1]
        assert result.score == result.out_of, ([r.__name__ for r in rewritings], lost)
        assert not result.faults


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_other_routes_that_do_the_same_have_full_marks(lab: Lab) -> None:
    """A summary, a default in the place of all, the port in the place of the next hop; device by device."""
    marker, changed = Marker(lab), 0
    own = {d: s.text for d, s in lab.full_paper.items()}
    for rewriting, (device, text), seed in product(BY_EFFECT, own.items(), range(3)):
        texts = {**own, device: rewriting(text, random.Random(seed))}
        if texts == own:
            continue
        result = marker.mark(handed_in(lab, texts))
        if not all(row.as_expected for row in (*result.pings, *result.services)):
            continue  # a ping that has to fail succeeds: this is no equivalent
        if any(c.note == ELSEWHERE for c in result.criteria):
            continue  # it fails, but not as it has to
        changed += 1
        lost = [(c.id, c.required, c.found) for c in result.criteria if c.fraction < 1]
        assert result.score == result.out_of, (rewriting.__name__, device, lost)
    assert changed or lab.id not in ("four-gates", "rebuilding", "night-shift")


def routers_pointed_to(lab: Lab) -> Iterator[tuple[str, str, str, str]]:
    """Yield addresses that gateways or routes of a full paper point to: its device, port, as it is written, and one that
    is free beside it."""
    texts = {d: s.text for d, s in lab.full_paper.items()}
    everything = "\n".join([*texts.values(), *(s.text for s in lab.given.values())])
    held = {i.statement.interface.ip for c in lab.model.values() for i in c.everywhere(OnPort)}
    for device, text in texts.items():
        for port, block in re.findall(r"^port (\S+)\n((?:[ \t].*\n)*)", text, re.MULTILINE):
            for written in re.findall(r"address (\d[\d.]+/\d+)", block):
                interface = ip_interface(written)
                pointed = re.search(
                    rf"^(gateway|route .* via) {re.escape(str(interface.ip))}$", everything, re.MULTILINE
                )
                free = (
                    [a for a in interface.network.hosts() if a not in held]
                    if interface.network.prefixlen > 16
                    else []
                )
                once = text.count(f"address {written}\n") == 1
                if pointed and free and once and "realm external" not in block:
                    yield device, port, written, str(free[len(free) // 2])


def pointing_to(texts: dict[str, str], old: str, new: str) -> dict[str, str]:
    """Let gateways and routes point to another address."""
    found = re.compile(rf"^((?:gateway|route .* via) ){re.escape(old)}$", re.MULTILINE)
    return {device: found.sub(rf"\g<1>{new}", text) for device, text in texts.items()}


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_a_second_address_of_the_right_router_serves_as_well(lab: Lab) -> None:
    marker, own = Marker(lab), {d: s.text for d, s in lab.full_paper.items()}
    for device, _, written, free in routers_pointed_to(lab):
        ip, _, length = written.partition("/")
        texts = pointing_to(own, ip, free)
        texts[device] = texts[device].replace(
            f"address {written}", f"address {written}\n  address {free}/{length}", 1
        )
        result = marker.mark(handed_in(lab, texts))
        lost = [(c.id, c.required, c.found) for c in result.criteria if c.fraction < 1]
        assert (lost, result.faults) == ([], ()), (device, written, free)


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_who_points_to_a_router_where_it_is_has_made_no_mistake(lab: Lab) -> None:
    """A router is misnumbered, and others go by its number: one mistake, and its repair takes the others along."""
    marker, own = Marker(lab), {d: s.text for d, s in lab.full_paper.items()}
    for device, port, written, free in routers_pointed_to(lab):
        ip, _, length = written.partition("/")
        texts = pointing_to(own, ip, free)
        texts[device] = texts[device].replace(f"address {written}", f"address {free}/{length}", 1)
        paper = handed_in(lab, texts)
        result = marker.mark(paper)
        lost = {c.id for c in result.criteria if c.fraction < 1 and c.key in ("gateway", "route", "address")}
        assert lost <= {f"address:{device}:{port}"}, (device, written, free)
        assert {(f.slip, f.device) for f in result.faults} <= {("wrong-address", device)}
        mended = {d: Sheet(c, (), 0, "") for d, c in marker.repaired(paper).items()}
        again = marker.mark(handed_in(lab, mended))
        assert again.score == again.out_of, [(c.id, c.found) for c in again.criteria if c.fraction < 1]


def test_the_demo_labs_hold_enough_routers_that_others_point_to() -> None:
    assert sum(len(list(routers_pointed_to(lab))) for lab in ALL) > 15
