"""Criteria about ports: addresses, on and off, clocks, the VLANs they carry."""

from ...lab import Criterion
from ...sheet import AnyItem, Block, Configuration, OnPort, Switched
from ...sheet.statements import Access, Clocking, Trunk
from ..result import Judged
from ..scheme import is_on
from .attempt import Attempt
from .judge import Judge
from .shown import header_of, lines_of, share, texts_of
from .statements import same_statement


def address(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare the addresses of a port family by family: half where only the mask, or one of several, is wrong."""
    block = judge.block(criterion)
    learner = attempt.configurations[criterion.device]
    required = [i.statement.interface for i in judge.lab.model[criterion.device].all(OnPort, block)]
    items = learner.all(OnPort, block)
    found = [i.statement.interface for i in items]
    fractions = []
    for family in (4, 6):
        wanted = [r for r in required if r.version == family]
        if wanted:
            right = sum(r in found for r in wanted)
            near = sum(any(r.ip == f.ip for f in found) for r in wanted)
            fractions.append(1.0 if right == len(wanted) else 0.5 if near else 0.0)
    fraction = sum(fractions) / len(fractions) if fractions else 1.0
    lines = lines_of(items) or lines_of([learner.header(block)])
    said = ", ".join(str(f) for f in found) or "no address"
    written = ""
    if criterion.dotted:
        written = ", the mask written out"
        short = any(i.statement.is_short and i.statement.interface in required for i in items)
        if fraction and short:
            fraction, said = min(fraction, 0.5), f"{said}, as a length"
    return Judged(fraction, ", ".join(str(r) for r in required) + written, said, lines)


def enabled(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether a port is switched on in the sheet, or by default."""
    block, device = judge.block(criterion), judge.lab.devices[criterion.device]
    learner = attempt.configurations[criterion.device]
    on = is_on(learner, block, device)
    lines = lines_of([learner.one(Switched, block) or learner.header(block)])
    return Judged(float(on), "on", "on" if on else "off", lines)


def disabled(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether a port is switched off in the sheet."""
    judged = judge.judge(Criterion("enabled", criterion.device, criterion.operand, 0), attempt)
    return Judged(1.0 - judged.fraction, "off", judged.found, judged.lines)


def up(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
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


def clocking(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare the rate; another one is half."""
    judged = same_statement(judge, criterion, attempt)
    there = attempt.configurations[criterion.device].one(Clocking, Block("port", criterion.operand))
    if judged.fraction or there is None:
        return judged
    return Judged(0.5, judged.required, judged.found, judged.lines)


def carrying(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
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
        share(required, found), texts_of(i for i in wanted if i is not None), texts_of(shown) if shown else "access 1",
        lines_of(items) or lines_of(header_of(learner, block)),
    )  # fmt: skip
