"""Criteria about single statements and blocks: what stands in the model answer, and how much of it the paper has.

Each takes the judge, the criterion and the attempt. By share: right items among those required and the
wrong ones more.
"""

import re
from collections.abc import Callable, Collection, Iterable
from typing import TYPE_CHECKING

from ...lab import Criterion, forwards
from ...sheet import AnyItem, Block, Configuration, Where
from ...sheet.statement import folded
from ...sheet.statements import (
    About,
    Access,
    Clocking,
    Instance,
    Leased,
    LeaseDuration,
    LeaseNetwork,
    Member,
    Name,
    Open,
    Record,
    Resolver,
    Route,
    Trunk,
)
from ...sim import Network
from ...sim.learning.rip import announcements
from ...sim.numbers import same_network, written
from ...sim.serving import serving_of
from ..result import Judged

if TYPE_CHECKING:
    from .judge import Attempt, Judge

Judging = Callable[["Judge", Criterion, "Attempt"], Judged]


def share(required: Collection[object], found: Collection[object]) -> float:
    """Return the right items among those required and the wrong ones more; 1 where nothing is required."""
    wanted, got = set(required), set(found)
    most = len(wanted | got)
    return len(wanted & got) / most if most else 1.0


def _lines(items: Iterable[AnyItem | None]) -> tuple[Where, ...]:
    return tuple(dict.fromkeys(i.where for i in items if i is not None and i.where is not None))


def _texts(items: Iterable[AnyItem]) -> str:
    return "; ".join(i.statement.plain().text() for i in items) or "nothing"


def _header(configuration: Configuration, block: Block | None) -> list[AnyItem | None]:
    return [configuration.header(block)] if block is not None else []


def same_statement(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare statements that stand or do not: realm, setting, service, instance."""
    learner = attempt.configurations[criterion.device]
    wanted = judge.counted(criterion)
    said = {i.slot: i for i in learner.items}
    found = [said[w.slot] for w in wanted if w.slot in said]
    right = [
        f
        for f, w in ((said.get(w.slot), w) for w in wanted)
        if f and f.statement.plain() == w.statement.plain()
    ]
    fraction = len(right) / len(wanted) if wanted else 1.0
    block = wanted[0].block if wanted else None
    return Judged(fraction, _texts(wanted), _texts(found), _lines(found) or _lines(_header(learner, block)))


def disabled(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether a port is switched off in the sheet."""
    judged = judge.judge(Criterion("enabled", criterion.device, criterion.operand, 0), attempt)
    return Judged(1.0 - judged.fraction, "off", judged.found, judged.lines)


def up(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether a port is up in the run."""
    network, number = attempt.network, judge.wiring.device[criterion.device.lower()]
    port = next(
        (p for p in network.devices[number].ports if p.name.lower() == criterion.operand.lower()), None
    )
    why = network.why_down(port) if port else "not there"
    return Judged(
        float(why is None),
        "up",
        f"down: {why}" if why else "up",
        (port.where,) if port and port.where else (),
    )


def absent(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether what first words name is gone."""
    found = attempt.configurations[criterion.device].named_by(criterion.operand)
    return Judged(
        float(not found), f"no {criterion.operand}", found[0].text() if found else "gone", _lines(found)
    )


def name(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare the device's own name."""
    wanted, found = (c[criterion.device].one(Name) for c in (judge.lab.model, attempt.configurations))
    required = wanted.statement.name if wanted else criterion.device
    said = found.statement.name if found else None
    return Judged(
        float((said or "").lower() == required.lower()), required, said or "no name", _lines([found])
    )


def about(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare a description: the same, or like a pattern."""

    def described(configuration: Configuration) -> tuple[str | None, AnyItem | None]:
        if criterion.operand.startswith("route "):
            dest = criterion.operand.removeprefix("route ")
            routes = [r for r in configuration.all(Route) if str(r.statement.dest) == dest]
            one = next((r for r in routes if r.statement.about), routes[0] if routes else None)
            return (one.statement.about, one) if one else (None, None)
        block = configuration.bearer(criterion.operand)
        said = configuration.one(About, block) if block else None
        return (said.statement.said, said) if said else (None, None)

    required, _ = described(judge.lab.model[criterion.device])
    found, item = described(attempt.configurations[criterion.device])
    if criterion.like is not None:
        right, required = bool(found and re.search(criterion.like, found)), f"like {criterion.like}"
    else:
        right = found == required
    return Judged(float(right), required or "a description", found or "no description", _lines([item]))


def clocking(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare the rate; another one is half."""
    judged = same_statement(judge, criterion, attempt)
    there = attempt.configurations[criterion.device].one(Clocking, Block("port", criterion.operand))
    if judged.fraction or there is None:
        return judged
    return Judged(0.5, judged.required, judged.found, judged.lines)


def carrying(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare which VLANs a switch's port carries: by share of them, the native one another item.

    Of ``all`` only those count that the model answer or the learner declares: the switch carries no others.
    """
    block = Block("port", criterion.operand)
    both = (judge.lab.model[criterion.device], attempt.configurations[criterion.device])
    declared = {int(b.name) for c in both for b in c.blocks("vlan")}

    def carried(configuration: Configuration) -> tuple[set[object], list[AnyItem | None]]:
        access, trunk = configuration.one(Access, block), configuration.one(Trunk, block)
        if trunk is not None:
            said = trunk.statement
            found: set[object] = (
                set(declared)
                if said.vlans.all
                else {v for low, high in said.vlans.spans for v in range(low, high + 1)}
            )
            if said.native is not None:  # it is carried even if it is not listed
                found |= {said.native, ("native", said.native)}
            return found, [trunk]
        return {("access", access.statement.vlan if access else 1)}, [access]

    learner = attempt.configurations[criterion.device]
    required, wanted = carried(judge.lab.model[criterion.device])
    found, items = carried(learner)
    shown = [i for i in items if i is not None]
    return Judged(
        share(required, found), _texts(i for i in wanted if i is not None), _texts(shown) if shown else "access 1",
        _lines(items) or _lines(_header(learner, block)),
    )  # fmt: skip


def vlan(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether a switch declares a VLAN."""
    header = attempt.configurations[criterion.device].header(Block("vlan", criterion.operand))
    said = f"vlan {criterion.operand}"
    return Judged(float(header is not None), said, said if header else "not declared", _lines([header]))


def resolver(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare the name servers by share."""
    own = [
        [i for i in c[criterion.device].all(Resolver) if (i.statement.instance or "").lower() == criterion.instance.lower()]
        for c in (judge.lab.model, attempt.configurations)
    ]  # fmt: skip
    fraction = share(*([i.statement.address for i in items] for items in own))
    return Judged(fraction, _texts(own[0]), _texts(own[1]), _lines(own[1]))


def forwarding(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether the device forwards as it should."""
    device = judge.lab.devices[criterion.device]
    wanted, found = (forwards(device, c[criterion.device]) for c in (judge.lab.model, attempt.configurations))
    words = {True: "forwarding on", False: "forwarding off"}
    judged = same_statement(judge, criterion, attempt)
    return Judged(float(wanted == found), words[wanted], words[found], judged.lines)


def lease(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether a port asks for a lease, which is half, and gets one from the model's network."""
    learner = attempt.configurations[criterion.device]
    block = judge.block(criterion)
    asks = learner.one(Leased, block)
    wanted = _leased(judge.model.network, judge, criterion)
    got = next(
        (a for c in judge.arranged(criterion.device, attempt) if (a := _leased(judge.alone(criterion.device, c), judge, criterion))),
        None,
    ) if asks else None  # fmt: skip
    right = wanted is None or (got is not None and same_network(got[0], *wanted))
    fraction = 0.0 if asks is None else 1.0 if right else 0.5
    found = (
        "no lease asked for" if asks is None else "address dhcp" if right else "address dhcp, and no lease"
    )
    return Judged(fraction, "address dhcp", found, _lines([asks]) or _lines(_header(learner, block)))


def _leased(network: Network, judge: "Judge", criterion: Criterion) -> tuple[int, int] | None:
    number = judge.wiring.device[criterion.device.lower()]
    for given in network.leases:
        port = network.port(given.port)
        if judge.wiring.device_of(given.port) == number and port.name.lower() == criterion.operand.lower():
            return given.address, given.block.length
    return None


def dhcp(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare the lease block for a network, by share of what it does: which addresses are given, and what with them."""
    name = criterion.device
    model, learner = judge.lab.model[name], attempt.configurations[name]
    wanted, found = (_lease_lines(c, criterion) for c in (model, learner))
    fraction = share(_given(model, criterion), _given(learner, criterion)) if found else 0.0
    return Judged(fraction, _texts(wanted), _texts(found), _lines(found))


def _lease_lines(configuration: Configuration, criterion: Criterion) -> list[AnyItem]:
    for block in configuration.blocks("dhcp"):
        network = configuration.one(LeaseNetwork, block)
        own = folded(block.instance) == folded(criterion.instance or None)
        if own and network is not None and str(network.statement.prefix) == criterion.operand:
            return [i for i in configuration.items if i.block == block and _says_something(i)]
    return []


def _says_something(item: AnyItem) -> bool:
    return not isinstance(item.statement, LeaseDuration | Open)


def _given(configuration: Configuration, criterion: Criterion) -> set[object]:
    """Return what a lease block does: the network, the spans of addresses given, the order, gateway and resolvers."""
    for block in serving_of(configuration, criterion.instance or None).leases:
        if f"{written(block.network)}/{block.length}" == criterion.operand:
            spans, first = [], block.first
            for low, high in [*sorted(block.excluded), (block.last + 1, block.last + 1)]:
                if low > first:
                    spans.append((first, min(low - 1, block.last)))
                first = max(first, high + 1)
            said: set[object] = {"network", tuple(s for s in spans if s[0] <= s[1])}
            said |= {("gateway", block.gateway)} - {("gateway", None)}
            return (
                said | {("resolver", r) for r in block.resolvers} | ({"highest"} if block.highest else set())
            )
    return set()


def rip(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare what the device itself announces to whom, by share."""
    node = judge.node(criterion)
    learner = attempt.configurations[criterion.device]
    wanted = announcements(judge.model.network, node)
    fraction = max(
        share(wanted, announcements(judge.alone(criterion.device, c), node))
        for c in judge.arranged(criterion.device, attempt)
    )
    own = [
        i for i in learner.items if i.block is not None and i.block.kind == "rip" and i.statement.SPEC.forms
    ]
    return Judged(fraction, _texts(judge.counted(criterion)), _texts(own), _lines(own))


def dns(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Compare the addresses of a name by share."""

    def records(configuration: Configuration) -> list[AnyItem]:
        return [
            i
            for i in configuration.everywhere(Record)
            if i.statement.name.lower().removesuffix(".") == criterion.operand.removesuffix(".")
            and i.block is not None
            and (i.block.instance or "").lower() == criterion.instance.lower()
        ]

    wanted, found = (
        records(judge.lab.model[criterion.device]),
        records(attempt.configurations[criterion.device]),
    )
    return Judged(
        share([i.statement.slot[2] for i in wanted], [i.statement.slot[2] for i in found]),
        _texts(wanted), _texts(found), _lines(found),
    )  # fmt: skip


def instance(judge: "Judge", criterion: Criterion, attempt: "Attempt") -> Judged:
    """Say whether a port belongs to its instance, which has to be declared."""
    judged = same_statement(judge, criterion, attempt)
    learner = attempt.configurations[criterion.device]
    member = learner.one(Member, judge.block(criterion))
    declared = {folded(i.statement.name) for i in learner.all(Instance)}
    if member is None or folded(member.statement.instance) in declared:
        return judged
    return Judged(0.0, judged.required, f"{judged.found}, which is not declared", judged.lines)


JUDGING: dict[str, Judging] = {
    "disabled": disabled,
    "up": up,
    "absent": absent,
    "name": name,
    "about": about,
    "clocking": clocking,
    "access": carrying,
    "trunk": carrying,
    "vlan": vlan,
    "realm": same_statement,
    "setting": same_statement,
    "service": same_statement,
    "instance": instance,
    "resolver": resolver,
    "forwarding": forwarding,
    "lease": lease,
    "dhcp": dhcp,
    "rip": rip,
    "dns": dns,
}
"""How each key is judged, but those that the judge knows by itself."""
