"""The Linux kernel as reference: random networks built in namespaces, all their pings compared.

``make kernel N=200`` runs as many of each family as wanted. Compared are the outcome, who reported an error,
and the source that the answering device saw. Left out is what is a matter of chance, see :func:`comparable`.
"""

import os
import random
from collections.abc import Callable

import pytest

from tests.kernel.families import FAMILIES, Family
from tests.kernel.namespaces import Came, Target, available, built, pings, unlimited_errors
from zensur.core.export.nftables import is_inward
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, Ping, Wiring, ping, written
from zensur.core.sim.neighbours import answers_for
from zensur.core.sim.numbers import SIX, is_link_local
from zensur.core.sim.running.targets import parse_number

LABS = int(os.environ.get("KERNEL_LABS", "3"))


@pytest.mark.skipif(not available(), reason="network namespaces need root, iproute2 and nftables")
@pytest.mark.parametrize("seed", range(LABS))
@pytest.mark.parametrize("family", FAMILIES, ids=[f.name for f in FAMILIES])
def test_the_kernel_agrees(seed: int, family: Family, record_property: Callable[[str, object], None]) -> None:
    sheets = family.sheets(random.Random(seed))
    configurations = {n: read_sheet(sheets.get(n, ""), n).configuration for n in family.lab.devices}
    network = Network.of_lab(family.lab, configurations, Wiring(family.lab))
    asked = comparable(network, family.others)
    with unlimited_errors(), built(network) as namespaces:
        differences = disagreements(network, pings(namespaces, asked, 1.6))
        for _ in range(3):  # a kernel under load may be late: what differs is looked at again, alone
            if differences:
                again: dict[int, list[Target]] = {}
                for sender, target in list(differences)[:8]:
                    again.setdefault(sender, []).append(target)
                differences = {
                    pair: said for pair, said in differences.items() if pair[1] not in again.get(pair[0], [])
                } | disagreements(network, pings(namespaces, again, 2.5))
    record_property("pings", sum(map(len, asked.values())))
    assert sum(map(len, asked.values())) > 20
    assert not differences, "\n".join(differences.values())


def disagreements(network: Network, kernel: dict[tuple[int, Target], Came]) -> dict[tuple[int, Target], str]:
    """Compare what the kernel says with what we say."""
    found = {}
    for (sender, target), theirs in kernel.items():
        ours = ours_of(network, sender, target)
        if not _agree(network, ours, theirs):
            way = " ".join(network.name(n) for n in ours.there[:6])
            seen = "" if ours.seen_as is None else written(ours.seen_as)
            found[sender, target] = (
                f"{written(target.address)} via {way}: {ours.outcome} {ours.reason} {seen}, kernel {theirs}"
            )
    return found


def ours_of(network: Network, sender: int, target: Target) -> Ping:
    """Run the ping in the simulator."""
    port = next((p for p in network.nodes[sender].ports if p.name == target.port), None)
    return ping(network, sender, target.address, on=port)


def _agree(network: Network, ours: Ping, theirs: Came) -> bool:
    if theirs.outcome != ours.outcome.value:
        return False
    if theirs.outcome == "unreachable" and theirs.by:
        told = ours.answer.arrived.source if ours.answer and len(ours.there) > 1 else None
        tellers = {network.name(n) for n in network.nodes if _is_of(network, n, theirs.by)}
        if network.name(ours.sender if told is None else _owner(network, told)) not in tellers:
            return False
    if ours.seen_as is None or len(ours.there) == 1:
        return True
    return _seen_alike(network, ours, theirs)


def _seen_alike(network: Network, ours: Ping, theirs: Came) -> bool:
    """The same source; of a pool without numbers any address, because there the kernel chooses by itself."""
    assert ours.seen_as is not None
    for step in ours.request.steps if ours.request else ():
        if step.outward is not None and step.outward.kind == "pool":
            rules = network.rules(step.node)
            return rules is not None and all(rules.covers(parse_number(a) or 0) for a in theirs.seen_as)
    return theirs.seen_as == (written(ours.seen_as),)


def _is_of(network: Network, node: int, text: str) -> bool:
    """Whether an address is a node's own, one of its links', or one that it translates to."""
    number, rules = parse_number(text), network.rules(node)
    assert number is not None
    if rules is not None and rules.covers(number):
        return True
    return number in network.own(node) or any(p.bears(number) for p in network.up_ports(node))


def _owner(network: Network, address: int) -> int:
    return next(n for n in network.nodes if _is_of(network, n, written(address)))


def comparable(network: Network, others: list[int]) -> dict[int, list[Target]]:
    """Choose the pings whose outcome is no matter of chance.

    Left out: an address that two nodes have, asked for or as the sender's own; a router that answers for an
    address on a segment where another one or the owner does, too; an address that is another device's broadcast address
    through a wrong mask (the kernel sends it to everybody, our model never answers it) or a subnet-router
    anycast address (which a kernel answers); an address of a pool without numbers from outside, and a router's
    own translated ones: there an address stands on the kernel's port that ours only answers for.
    """
    nodes = list(network.nodes)
    owned = {a for n in nodes for a in network.own(n)}
    dead = {a for n in nodes for a in network.unanswered(n)} & owned
    twice = {a for a in owned if sum(a in network.own(n) for n in nodes) > 1}
    asked: dict[int, list[Target]] = {}
    for sender in nodes:
        own = set(network.own(sender))
        if not own or own & (dead | twice):
            continue
        targets = [Target(a) for a in sorted((owned | set(others)) - dead)]
        for port in network.up_ports(sender):
            if port.links and not port.is_loopback:
                links = {a.address for r in network.receivers(port) for a in network.port(r.key).links}
                targets += [Target(a, port.name) for a in sorted(links)]
        asked[sender] = [t for t in targets if _is_certain(network, sender, t)]
    return asked


def _is_certain(network: Network, sender: int, target: Target) -> bool:
    result = ours_of(network, sender, target)
    if result.duplicates:
        return False
    for node in network.nodes:
        rules = network.rules(node)
        if rules is None or target.address in network.own(node):
            continue
        kept = any(first <= target.address <= last for rule, (first, last) in rules.rules if not rule.shared)
        mapped = any(
            s.outside == target.address and not is_inward(network, node, s) for s in rules.active_mappings
        )
        one_sided = {p.external for p in network.up_ports(node)}.isdisjoint((False,))
        if rules.covers(target.address) and (kept or mapped or one_sided or node == sender):
            return False
    for step in result.steps:
        neighbour, route, ask = step.decision.neighbour, step.decision.route, step.decision.ask
        if not neighbour or route is None or route.out is None or ask is None or ask >= SIX:
            continue
        receivers = [r for r in network.receivers(route.out) if r.key != neighbour.key]
        if any(answers_for(network, r, ask) == "proxy" for r in receivers):
            return False  # two answer, and the first to do so is taken
    if target.address >= SIX and not is_link_local(target.address):
        return not any(target.address in network.unanswered(n) for n in network.nodes)
    return True
