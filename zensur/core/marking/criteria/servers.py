"""Criteria about what devices serve and learn: leases, names, resolvers, learned routes, forwarding."""

from ...lab import Criterion, CriterionKey, forwards
from ...lab.criteria import of_device, of_model_port, with_operand
from ...lab.keys import Place, at_top, in_block, on_port
from ...lab.schema import IN
from ...lab.shapes import Key, Text
from ...sheet import AnyItem, Configuration, Item
from ...sheet.statements import (
    Announce,
    Exclude,
    Forwarding,
    Leased,
    LeaseDuration,
    LeaseGateway,
    LeaseNetwork,
    LeaseOrder,
    LeaseRange,
    LeaseResolver,
    Passive,
    Record,
    Resolver,
    Run,
)
from ...sim import Network
from ...sim.learning.rip import announcements
from ...sim.numbers import same_network, written
from ...sim.serving import serving_of
from ..shapes import Judged
from .judging import Attempted, Judging, header_of, in_instance, share, shown, texts_of
from .statements import same_statement


def resolver(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the name servers by share."""
    wanted, found = (
        [i for i in c[criterion.device].all(Resolver) if in_instance(i.statement.instance, criterion)]
        for c in (session.lab.model, attempt.configurations)
    )
    fraction = share([i.statement.address for i in wanted], [i.statement.address for i in found])
    return Judged(fraction, texts_of(wanted), texts_of(found), shown(found))


def forwarding(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether the device forwards as it should."""
    device = session.lab.devices[criterion.device]
    wanted = forwards(device, session.lab.model[criterion.device])
    found = forwards(device, attempt.configurations[criterion.device])
    words = {True: "forwarding on", False: "forwarding off"}
    proof = same_statement(session, criterion, attempt).proof
    return Judged(float(wanted == found), words[wanted], words[found], proof)


def lease(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a port asks for a lease, which is half, and gets one from the model's network."""
    name, block = criterion.device, session.block(criterion)
    learner = attempt.configurations[name]
    asks = learner.one(Leased, block)
    if asks is None:
        return Judged(0.0, "address dhcp", "no lease asked for", header_of(learner, block))
    wanted = _leased(session, session.network, criterion)
    candidates = (session.alone(name, c) for c in session.candidate_configurations(name, attempt))
    given = (found for network in candidates if (found := _leased(session, network, criterion)))
    got = next(given, None)
    right = wanted is None or (got is not None and same_network(got[0], *wanted))
    text = "address dhcp" if right else "address dhcp, and no lease"
    return Judged(1.0 if right else 0.5, "address dhcp", text, shown([asks]))


def _leased(session: Judging, network: Network, criterion: Criterion) -> tuple[int, int] | None:
    """Return the address that the port is given, and the length of its network."""
    number = session.wiring.device[criterion.device.lower()]
    for given in network.leases:
        port = network.port(given.port)
        if session.wiring.device_of(given.port) == number and port.name.lower() == criterion.operand.lower():
            return given.address, given.block.length
    return None


def dhcp(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the lease block for a network, by share of what it does: which addresses are given, and what with
    them."""
    name = criterion.device
    model, learner = session.lab.model[name], attempt.configurations[name]
    wanted, found = (_lease_lines(c, criterion) for c in (model, learner))
    fraction = share(_given(model, criterion), _given(learner, criterion)) if found else 0.0
    return Judged(fraction, texts_of(wanted), texts_of(found), shown(found))


def _lease_lines(configuration: Configuration, criterion: Criterion) -> list[AnyItem]:
    """Return the lines of the lease block for the criterion's network."""
    for block in configuration.blocks("dhcp"):
        network = configuration.one(LeaseNetwork, block)
        own = in_instance(block.instance, criterion)
        if own and network is not None and str(network.statement.prefix) == criterion.operand:
            return [i for i in configuration.items if i.block == block and _has_effect(i)]
    return []


def _has_effect(item: AnyItem) -> bool:
    return bool(item.statement.SPEC.forms) and not item.statement.SPEC.traits.only_describes


def _given(configuration: Configuration, criterion: Criterion) -> set[object]:
    """Return what a lease block does: the network, the spans of addresses given, the order, gateway and resolvers."""
    for block in serving_of(configuration, criterion.instance or None).leases:
        if f"{written(block.network)}/{block.length}" == criterion.operand:
            spans, first = [], block.first
            for low, high in [*sorted(block.excluded), (block.last + 1, block.last + 1)]:
                if low > first:
                    spans.append((first, min(low - 1, block.last)))
                first = max(first, high + 1)
            does: set[object] = {"network", tuple(s for s in spans if s[0] <= s[1])}
            does |= {("gateway", block.gateway)} - {("gateway", None)}
            return (
                does | {("resolver", r) for r in block.resolvers} | ({"highest"} if block.highest else set())
            )
    return set()


def rip(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare what the device itself announces to whom, by share."""
    name, node = criterion.device, session.node(criterion)
    wanted = announcements(session.network, node)
    fraction = max(
        share(wanted, announcements(session.alone(name, c), node))
        for c in session.candidate_configurations(name, attempt)
    )
    items = attempt.configurations[name].items
    own = [i for i in items if i.block is not None and i.block.kind == "rip" and i.statement.SPEC.forms]
    return Judged(fraction, texts_of(session.counted(criterion)), texts_of(own), shown(own))


def dns(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the addresses of a name by share."""
    wanted = _records(session.lab.model[criterion.device], criterion)
    found = _records(attempt.configurations[criterion.device], criterion)
    fraction = share([i.statement.address for i in wanted], [i.statement.address for i in found])
    return Judged(fraction, texts_of(wanted), texts_of(found), shown(found))


def _records(configuration: Configuration, criterion: Criterion) -> list[Item[Record]]:
    return [
        i
        for i in configuration.everywhere(Record)
        if i.statement.name.lower().removesuffix(".") == criterion.operand.removesuffix(".")
        and i.block is not None
        and in_instance(i.block.instance, criterion)
    ]


def _by_network(item: AnyItem, configuration: Configuration) -> Place | None:
    """Count a line of a lease block by the network that the block is for."""
    network = configuration.one(LeaseNetwork, item.block) if item.block else None
    own = item.block.instance or "" if item.block else ""
    return (str(network.statement.prefix), own) if network else None


SERVERS = (
    CriterionKey(
        word="resolver", about="DEVICE: its name servers, by share", judge=resolver, read=of_device,
        counts=(Resolver,), place=at_top(lambda s: ""), by_share=True, further={"in": IN},
    ),
    CriterionKey(
        word="forwarding", about="DEVICE: whether it forwards", judge=forwarding, read=of_device,
        counts=(Forwarding,), place=at_top(lambda s: ""),
    ),
    CriterionKey(
        word="lease", about="DEVICE:PORT: it asks for a lease, and gets one from the model's network", judge=lease,
        read=of_model_port, counts=(Leased,), place=on_port,
    ),
    CriterionKey(
        word="dhcp", about="DEVICE, with network: what the lease block says, by share", judge=dhcp,
        read=with_operand("network"), place=_by_network, by_share=True, bears_name=True,
        counts=(LeaseNetwork, LeaseRange, Exclude, LeaseGateway, LeaseResolver, LeaseOrder, LeaseDuration),
        further={"network": Key(Text(), "the prefix of a lease block"), "in": IN},
    ),
    CriterionKey(
        word="rip", about="DEVICE: the networks it announces itself, and to whom, by share", judge=rip, read=of_device,
        counts=(Run, Passive, Announce), place=in_block(lambda s: ""), by_share=True, further={"in": IN},
    ),
    CriterionKey(
        word="dns", about="DEVICE, with record: the addresses of a name, by share", judge=dns,
        read=with_operand("record", "."), counts=(Record,), place=in_block(lambda s: s.name.lower()), by_share=True,
        further={"record": Key(Text(), "a name"), "in": IN},
    ),
)  # fmt: skip
