"""The rules of the lab check about what is asked: the scheme, the pings, and what learners are told."""

from collections import Counter
from collections.abc import Iterator
from ipaddress import ip_address

from ...addresses import Address, Prefix
from ...lab import KEYS, Criterion, ExpectedPing, Lab, Medium, with_answer
from ...sheet import Gateway, OnPort, Route
from ...sim import Model, Network
from ...sim.numbers import last_of, number_of, written
from ..criteria.effects import networks_of
from ..facts import LabFacts
from ..scheme import tasks_of
from .findings import Findings

_NUMBERS = frozenset("0123456789abcdefABCDEF.:")
_MOST_STEPS = 64


def check_total(findings: Findings, facts: LabFacts) -> None:
    """Report a total that is stated and not what the criteria add up to, with the running sum."""
    stated, total = findings.lab.scheme.total, facts.out_of
    if stated is None or abs(stated - total) < 0.005:
        return
    running, steps = 0.0, []
    for task in tasks_of(findings.lab):
        running += sum(c.marks for c in task.criteria)
        steps.append(f"{task.title} {running:g}")
    findings.error(
        "total-differs", "scheme.total",
        f"The scheme states {stated:g} marks in all, and its criteria add up to {total:g}: {', '.join(steps)}.",
        "Change the marks, or the total.",
    )  # fmt: skip


def check_asked_twice(findings: Findings, facts: LabFacts) -> None:
    """Report what is asked twice, and pings that nothing counts."""
    lab = findings.lab
    counted = Counter(c.id for _, _, c in facts.criteria)
    for ident, times in counted.items():
        if times > 1:
            what = (
                f"The ping {ident[5:]} is counted" if ident.startswith("ping:") else f"{ident} is asked for"
            )
            findings.note(
                "counted-twice", "scheme", f"{what} {times} times, so that one mistake costs as often.",
                "Leave all but one out.",
            )  # fmt: skip
    seen: dict[tuple[object, ...], str] = {}
    for number, ping in enumerate(lab.pings):
        asked = (ping.sender.lower(), ping.to.lower(), ping.source, ping.family, ping.out)
        before = seen.setdefault(asked, ping.id)
        if before != ping.id:
            findings.note("ping-twice", f"pings[{number}]", f"This is the ping {before} once more.")
    for key, listed in (("ping", lab.pings), ("check", lab.services)):
        for number, one in enumerate(listed):
            if f"{key}:{one.id}" not in counted:
                what = "ping" if isinstance(one, ExpectedPing) else "service check"
                findings.note(
                    "run-not-counted", f"{'pings' if key == 'ping' else 'services'}[{number}]",
                    f"No criterion counts this {what}.", "Count it with pings: all, or leave it out.",
                )  # fmt: skip


def check_accepted(findings: Findings, facts: LabFacts) -> None:
    """Report further answers with which a ping or check does not end as it should."""
    for _, _, criterion in facts.criteria:
        for text in criterion.accept if not KEYS[criterion.key].of_paper else ():
            other, _ = with_answer(findings.lab, criterion, text)
            failing = (
                [r for r in Model(other).runs.values() if not r.as_expected] if other is not None else []
            )
            if failing:
                some = ", ".join(f"{r.asked.sender} to {_to(r.asked)}" for r in failing[:3])
                findings.error(
                    "accepted-answer-fails", "scheme",
                    f"{text.strip()} is accepted for {criterion.id}, and with it {len(failing)} of the pings and "
                    f"checks are not as expected: {some}.", "Mend the further answer, or leave it out.",
                )  # fmt: skip


def _to(asked: object) -> str:
    return asked.to if isinstance(asked, ExpectedPing) else "its service"


def check_networks(findings: Findings, network: Network) -> None:
    """Report named networks that no port of the model answer is in."""
    held = {a for node in network.nodes for a in network.own(node)}
    for named in findings.lab.networks:
        if not any(number_of(p[0]) <= a <= number_of(p[-1]) for p in named.prefixes for a in held):
            findings.note(
                "empty-network", "networks", f"No port of the model answer lies in the network {named.name}."
            )


def check_routes(findings: Findings, network: Network) -> None:
    """Report circles, gateways that are nobody's address, and routes that name an ethernet port alone."""
    held = {a for node in network.nodes for a in network.own(node)}
    for span in networks_of(network):
        inside = span[0] + (last_of(*span) - span[0] > 1)  # an address that a device may have
        circle = next((c for node in network.nodes if (c := _circle(network, node, inside))), None)
        if circle is not None:
            names = " to ".join(network.name(n) for n in circle)
            findings.note(
                "circle", "answer", f"Packets to {written(span[0])}/{span[1]} go round in a circle: {names}.",
                "Mend one of the routes, unless the circle is what the lab is about.",
            )  # fmt: skip
    for name, model in findings.lab.model.items():
        place = f"answer.{name}" if name in findings.lab.answer else f"given.{name}"
        device = findings.lab.devices[name]
        for gateway in model.all(Gateway):
            address = gateway.statement.address
            if not address.is_link_local and number_of(address) not in held and not device.forwards:
                findings.note(
                    "gateway-of-nobody", place, f"{address}, the gateway of {name}, is no device's address."
                )
        for route in model.all(Route):
            port = device.port(route.statement.port or "")
            if route.statement.next_hop is None and port is not None and port.medium is Medium.ETHERNET:
                findings.note(
                    "route-out-of-ethernet", place,
                    f"{route.statement.plain().text()} of {name} names an ethernet port and no neighbour: it works "
                    "only where one answers for others.", "Name the next hop.",
                )  # fmt: skip


def _circle(network: Network, node: int, address: int) -> list[int] | None:
    """Return the nodes that a packet to an address goes round; None where it ends somewhere."""
    way = [node]
    while len(way) < _MOST_STEPS:
        neighbour = network.decide(way[-1], address).neighbour
        if neighbour is None or not network.nodes[neighbour.node].forwards:
            return None
        if neighbour.node in way:
            return [*way[way.index(neighbour.node) :], neighbour.node]
        way.append(neighbour.node)
    return None


def check_told(findings: Findings) -> None:
    """Report addresses that are asked for, and that nothing on the learner's edition tells."""
    lab = findings.lab
    told = list(_told(lab))
    untold = [
        f"{c.device}:{c.operand}"
        for task in tasks_of(lab)
        for c in task.criteria
        if c.key == "address" and not _is_told(lab, c, told)
    ]
    if untold:
        some = ", ".join(untold[:4]) + (f" and {len(untold) - 4} more" if len(untold) > 4 else "")
        findings.note(
            "not-told", "brief", f"Nothing that learners get tells which addresses are wanted on {some}.",
            "Name the networks under networks, or write them into the brief.",
        )  # fmt: skip


def _told(lab: Lab) -> Iterator[Address]:
    """Yield the addresses that stand in what learners get."""
    for stage in lab.stages:
        yield from (p.network_address for n in stage.networks for p in n.prefixes)
        sheets = [s for name, s in stage.given.items() if name not in lab.hidden]
        texts = [stage.brief, *(d.about for d in lab.devices.values())]
        texts += [s.text for s in (*sheets, *stage.start.values())]
        texts += [ping.to for ping in stage.pings if ping.shown]
        for text in texts:
            words = "".join(c if c in _NUMBERS else " " for c in text or "").split()
            yield from (a for word in words if (a := _address(word.strip(".:"))) is not None)


def _address(word: str) -> Address | None:
    try:
        return ip_address(word)
    except ValueError:
        return None


def _is_told(lab: Lab, criterion: Criterion, told: list[Address]) -> bool:
    block = lab.model[criterion.device].bearer(criterion.operand)
    there = lab.model[criterion.device].all(OnPort, block) if block is not None else ()
    if any(lab.leaves_free(criterion.device, criterion.operand, i.statement.interface.ip) for i in there):
        return True
    networks: list[Prefix] = [i.statement.interface.network for i in there]
    return any(n.is_link_local or any(a in n for a in told if a.version == n.version) for n in networks)
