"""Criteria about what devices serve and learn: leases, names, resolvers, learned routes, forwarding."""

from ...lab import Criterion, forwards
from ...sheet import AnyItem, Configuration
from ...sheet.statement import folded
from ...sheet.statements import Leased, LeaseDuration, LeaseNetwork, Open, Record, Resolver
from ...sim import Network
from ...sim.learning.rip import announcements
from ...sim.numbers import same_network, written
from ...sim.serving import serving_of
from ..result import Judged
from .attempt import Attempt
from .judge import Judge
from .shown import header_of, lines_of, share, texts_of
from .statements import same_statement


def resolver(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare the name servers by share."""
    own = [
        [i for i in c[criterion.device].all(Resolver) if (i.statement.instance or "").lower() == criterion.instance.lower()]
        for c in (judge.lab.model, attempt.configurations)
    ]  # fmt: skip
    fraction = share(*([i.statement.address for i in items] for items in own))
    return Judged(fraction, texts_of(own[0]), texts_of(own[1]), lines_of(own[1]))


def forwarding(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether the device forwards as it should."""
    device = judge.lab.devices[criterion.device]
    wanted, found = (forwards(device, c[criterion.device]) for c in (judge.lab.model, attempt.configurations))
    words = {True: "forwarding on", False: "forwarding off"}
    judged = same_statement(judge, criterion, attempt)
    return Judged(float(wanted == found), words[wanted], words[found], judged.lines)


def lease(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
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
    return Judged(fraction, "address dhcp", found, lines_of([asks]) or lines_of(header_of(learner, block)))


def _leased(network: Network, judge: Judge, criterion: Criterion) -> tuple[int, int] | None:
    number = judge.wiring.device[criterion.device.lower()]
    for given in network.leases:
        port = network.port(given.port)
        if judge.wiring.device_of(given.port) == number and port.name.lower() == criterion.operand.lower():
            return given.address, given.block.length
    return None


def dhcp(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare the lease block for a network, by share of what it does: which addresses are given, and what with them."""
    name = criterion.device
    model, learner = judge.lab.model[name], attempt.configurations[name]
    wanted, found = (_lease_lines(c, criterion) for c in (model, learner))
    fraction = share(_given(model, criterion), _given(learner, criterion)) if found else 0.0
    return Judged(fraction, texts_of(wanted), texts_of(found), lines_of(found))


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


def rip(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
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
    return Judged(fraction, texts_of(judge.counted(criterion)), texts_of(own), lines_of(own))


def dns(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
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
        texts_of(wanted), texts_of(found), lines_of(found),
    )  # fmt: skip
