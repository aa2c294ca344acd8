"""Criteria about ports: addresses, on and off, clocks, realms, the VLANs they carry."""

from collections.abc import Mapping

from ...lab import Criterion, CriterionKey, Device
from ...lab.criteria import of_model_port, of_port
from ...lab.keys import on_port
from ...lab.shapes import Choice, Key
from ...sheet import AnyItem, Block, Configuration, OnPort, Switched
from ...sheet.statements import Access, Clocking, Realm, Trunk
from ...sim import Wiring
from ..scheme import is_on
from ..shapes import Judged
from .judging import Attempted, Judging, header_of, share, shown, texts_of
from .statements import same_statement


def address(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the addresses of a port family by family: half where only the mask, or one of several, is wrong."""
    block = session.block(criterion)
    learner = attempt.configurations[criterion.device]
    given = {i.statement.interface for i in session.lab.blank[criterion.device].all(OnPort, block)}
    every = [i.statement.interface for i in session.lab.model[criterion.device].all(OnPort, block)]
    required = [r for r in every if r not in given] or every
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
    text = ", ".join(str(f) for f in found) or "no address"
    asked = ", ".join(str(r) for r in required)
    if criterion.dotted:
        asked = f"{asked}, the mask written out"
        short = any(i.statement.is_short and i.statement.interface in required for i in items)
        if fraction and short:
            fraction, text = min(fraction, 0.5), f"{text}, as a length"
    return Judged(fraction, asked, text, items or header_of(learner, block))


def enabled(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a port is switched on in the sheet, or by default."""
    block, device = session.block(criterion), session.lab.devices[criterion.device]
    learner = attempt.configurations[criterion.device]
    on = is_on(learner, block, device)
    proof = shown([learner.one(Switched, block) or learner.header(block)])
    return Judged(float(on), "on", "on" if on else "off", proof)


def disabled(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a port is switched off in the sheet."""
    judged = enabled(session, criterion, attempt)
    return Judged(1.0 - judged.fraction, "off", judged.found, judged.proof)


def up(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a port is up in the run."""
    network, number = attempt.network, session.wiring.device[criterion.device.lower()]
    ports = network.devices[number].ports
    port = next((p for p in ports if p.name.lower() == criterion.operand.lower()), None)
    why = network.why_down(port) if port else "not there"
    learner, block = attempt.configurations[criterion.device], session.block(criterion)
    proof = shown([learner.one(Switched, block) or learner.header(block)]) if port else ()
    return Judged(float(why is None), "up", f"down: {why}" if why else "up", proof)


def clocking(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the rate; another one is half."""
    judged = same_statement(session, criterion, attempt)
    there = attempt.configurations[criterion.device].one(Clocking, Block("port", criterion.operand))
    if judged.fraction or there is None:
        return judged
    return Judged(0.5, judged.required, judged.found, judged.proof)


def carrying(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare which VLANs a switch's port carries: by share of them, the native one another item.

    A native VLAN that both ends share is as good as the model's, unless the form is asked for.
    Of ``all`` only those count that the model answer or the learner declares: the switch carries no others.
    """
    block = Block("port", criterion.operand)
    learner = attempt.configurations[criterion.device]
    both = (session.lab.model[criterion.device], learner)
    declared = {int(b.name) for c in both for b in c.blocks("vlan")}
    (required, wanted), (found, items) = (_carried(c, block, declared) for c in both)
    if criterion.form is None and shares_native(
        session.wiring, criterion.device, block, attempt.configurations
    ):
        found = _with_native_of(required, found)
    text = texts_of(items) if items else "access 1"
    return Judged(share(required, found), texts_of(wanted), text, items or header_of(learner, block))


def _native(configuration: Configuration, block: Block) -> int | None:
    trunk = configuration.one(Trunk, block)
    return trunk.statement.native if trunk is not None else None


def _with_native_of(required: set[object], found: set[object]) -> set[object]:
    """Put the model's native VLAN in the place of the learner's."""
    ours, theirs = ({i for i in c if isinstance(i, tuple) and i[0] == "native"} for c in (required, found))
    own = {vlan for _, vlan in theirs} - required
    return (found - theirs - own) | ours | {vlan for _, vlan in ours}


def shares_native(
    wiring: Wiring, device: str, block: Block, configurations: Mapping[str, Configuration]
) -> bool:
    """Say whether both ends of a trunk have the same native VLAN, whichever it is."""
    own = wiring.ports_of[wiring.device[device.lower()]].get(block.name.lower(), -1)
    far = wiring.peer[own] if own >= 0 else -1
    if far < 0:
        return False
    there = configurations[wiring.names[wiring.port_device[far]]]
    native = _native(configurations[device], block)
    return native is not None and native == _native(there, Block("port", wiring.port_name[far]))


def _carried(
    configuration: Configuration, block: Block, declared: set[int]
) -> tuple[set[object], tuple[AnyItem, ...]]:
    """Return what a port carries, and the statement that says so."""
    access, trunk = configuration.one(Access, block), configuration.one(Trunk, block)
    if trunk is None:
        return {("access", access.statement.vlan if access else 1)}, shown([access])
    vlans, native = trunk.statement.vlans, trunk.statement.native
    found: set[object] = (
        set(declared) if vlans.all else {v for low, high in vlans.spans for v in range(low, high + 1)}
    )
    if native is not None:  # it is carried even if it is not listed
        found |= {native, ("native", native)}
    return found, (trunk,)


def _first_vlan(item: AnyItem, device: Device) -> bool:
    """Whether a port is put where every port of a switch is without a word."""
    return isinstance(item.statement, Access) and item.statement.vlan == 1


def _switched_on(item: AnyItem, configuration: Configuration) -> tuple[str, str] | None:
    return (
        on_port(item, configuration) if isinstance(item.statement, Switched) and item.statement.on else None
    )


def _switched_off(item: AnyItem, configuration: Configuration) -> tuple[str, str] | None:
    return None if _switched_on(item, configuration) else on_port(item, configuration)


_TASK = "Addresses and ports of {device}"

PORTS = (
    CriterionKey(
        word="address", about="DEVICE:PORT: the addresses of the port", judge=address, read=of_port,
        counts=(OnPort,), place=on_port, marks=2.0, task=_TASK, bears_name=True,
        further={"mask": Key(Choice("dotted"), "that the mask of an address is written out")},
    ),
    CriterionKey(
        word="enabled", about="DEVICE:PORT: the port is switched on", judge=enabled, read=of_port,
        counts=(Switched,), place=_switched_on, task=_TASK, bears_name=True,
    ),
    CriterionKey(
        word="disabled", about="DEVICE:PORT: the port is switched off", judge=disabled, read=of_port,
        counts=(Switched,), place=_switched_off, task=_TASK, bears_name=True,
    ),
    CriterionKey(
        word="up", about="DEVICE:PORT: the port is up in the run", judge=up, read=of_port, of_network=True,
        bears_name=True,
    ),
    CriterionKey(
        word="clocking", about="DEVICE:PORT: the rate; another one is half", judge=clocking,
        read=of_model_port, counts=(Clocking,), place=on_port,
    ),
    CriterionKey(
        word="access", about="DEVICE:PORT: the VLAN", judge=carrying, read=of_model_port, counts=(Access,),
        place=on_port, needless=_first_vlan, by_share=True,
    ),
    CriterionKey(
        word="trunk", about="DEVICE:PORT: the VLANs with the native one, by share", judge=carrying,
        read=of_model_port, counts=(Trunk,), place=on_port, by_share=True, beside=True,
    ),
    CriterionKey(
        word="realm", about="DEVICE:PORT: internal or external", judge=same_statement, read=of_model_port,
        counts=(Realm,), place=on_port, task="Translation",
    ),
)  # fmt: skip
