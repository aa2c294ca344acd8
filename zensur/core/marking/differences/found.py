"""The differences between a learner's configuration and the nearest accepted one, as small edits.

Nearest: the learner's own statement wherever its criterion is met, else the model's. One statement
is one edit; an address that moved to another port and two ports swapped are one edit each, and so is
a sheet that was not handed in.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import islice

from ...lab import Device
from ...sheet import AnyItem, Block, Configuration, Gateway, Item, OnPort, Switched, Where
from ...sheet.operands import Masked
from ..reading.meant import how_likely
from ..reading.unread import Unread, UnreadLines
from ..scheme import is_on
from ..session import Attempt, Session
from .described import described
from .edits import Edit, Of
from .joining import joined
from .rereading import owner
from .routes import route_edits
from .statements import statement_edits

MOST_NEEDLESS = 120
"""So many needless statements are tried; a sheet of thousands of lines shall not keep everybody waiting."""


def differences(
    session: Session, attempt: Attempt, missing: frozenset[str], unread: UnreadLines
) -> tuple[list[Edit], list[Edit]]:
    """Return the edits that lead to the nearest accepted network, and further statements to take away.

    The second list holds what stands neither in the model answer nor serves in its place; whether any
    of it is a fault is found by trying. ``missing`` names the devices that handed in nothing, ``unread`` are the
    lines that were not understood.
    """
    edits: list[Edit] = []
    surplus: list[Edit] = []
    for name, device in session.lab.devices.items():
        if attempt.is_model(name) and not session.asks_more(name):
            continue
        beyond: list[Edit] = []
        found = list(_device(session, attempt, device, beyond))
        if (_is_missing(unread.get(name, ()), name, found, missing) or owner(session, attempt, name)) and len(
            found
        ) > 1:
            found, beyond = [_whole(session, attempt, name, found)], []
        edits += found
        surplus += beyond
    needless = islice(_with_whole_blocks(session, attempt, surplus), MOST_NEEDLESS)
    return joined(session, attempt, edits, list(needless), unread)


def _whole(session: Session, attempt: Attempt, name: str, found: list[Edit]) -> Edit:
    """Put the model answer in the place of a sheet."""
    learner, model = attempt.configurations[name], session.lab.model[name]
    there, wanted = set(learner.items), set(model.items)
    remove = tuple(i for i in learner.items if i not in wanted)
    add = tuple(i for i in model.items if i not in there)
    return Edit(name, remove, add, tuple(s for edit in found for s in edit.subjects), of=Of.SHEET)


def _is_missing(lines: tuple[Unread, ...], name: str, edits: list[Edit], missing: frozenset[str]) -> bool:
    """Whether nothing was handed in, or nothing that can be read or was probably meant as what is wanted."""
    return name in missing and not any(
        how_likely(line, edit.add[0]) for line in lines for edit in edits if edit.add
    )


def _with_whole_blocks(session: Session, attempt: Attempt, surplus: list[Edit]) -> Iterator[Edit]:
    """Take a block that the model answer does not have away as a whole."""
    for name in session.lab.devices:
        learner, model = attempt.configurations[name], session.lab.model[name]
        ours = {i.block for i in model.items}
        made = [b for b in learner.made_blocks() if b not in ours]
        for block in made:
            items = tuple(i for i in learner.items if i.block == block)
            yield Edit(name, items, (), (), _header(learner, block), Of.BLOCK)
        yield from (e for e in surplus if e.device == name and e.block not in made)


def _device(session: Session, attempt: Attempt, device: Device, surplus: list[Edit]) -> Iterator[Edit]:
    learner, model = attempt.configurations[device.name], session.lab.model[device.name]
    yield from _switched(learner, model, device)
    yield from _addresses(session, attempt, device, surplus)
    if not device.forwards:
        yield from _gateways(session, attempt, device, surplus)
    yield from route_edits(session, attempt, device, surplus)
    yield from statement_edits(session, attempt, device, surplus)
    yield from described(session, attempt, device)


def _header(configuration: Configuration, block: Block) -> Where | None:
    header = configuration.header(block)
    return header.where if header else None


def _switched(learner: Configuration, model: Configuration, device: Device) -> Iterator[Edit]:
    for block in dict.fromkeys((*model.bearers(), *learner.bearers())):
        if block.is_made and model.header(block) is None:
            continue  # an extra loopback: its addresses are what matters
        wanted = is_on(model, block, device)
        if is_on(learner, block, device) != wanted and not (block.is_made and learner.header(block) is None):
            switched = learner.one(Switched, block)
            yield Edit(
                device.name,
                (switched,) if switched else (),
                (Item(block, Switched(wanted)),),
                (f"{'enabled' if wanted else 'disabled'}:{device.name}:{block.port_name}",),
                _header(learner, block),
            )


@dataclass
class _Lack:
    """Addresses of one port: what is wanted and not there, what is there and not wanted."""

    block: Block
    wanted: list[AnyItem]
    found: list[AnyItem]
    families: set[int]
    """The families of address that the model answer has there."""


def _addresses(session: Session, attempt: Attempt, device: Device, surplus: list[Edit]) -> Iterator[Edit]:
    learner, model = attempt.configurations[device.name], session.lab.model[device.name]
    lacks = []
    for block in dict.fromkeys((*model.bearers(), *learner.bearers())):
        ours, theirs = model.all(OnPort, block), learner.all(OnPort, block)
        criterion = session.facts.criterion("address", device.name, block.port_name)
        met = bool(criterion.accept) and session.judge(criterion, attempt).fraction == 1
        found, wanted = {i.statement for i in theirs}, {i.statement for i in ours}
        lacks.append(
            _Lack(
                block,
                [i for i in ours if i.statement not in wanted & found and not met],
                [i for i in theirs if i.statement not in wanted & found],
                {i.statement.interface.version for i in ours},
            )
        )
        if criterion.dotted:
            short = (i for i in theirs if i.statement.is_short and i.statement in wanted)
            yield from (
                Edit(device.name, (i,), (_written(i),), (criterion.id,), _header(learner, block))
                for i in short
            )

    def edit(remove: tuple[AnyItem, ...], add: tuple[AnyItem, ...], at: _Lack) -> Edit:
        subjects = tuple(dict.fromkeys(f"address:{device.name}:{i.block.port_name}" for i in add if i.block))
        return Edit(device.name, remove, add, subjects, _header(learner, at.block))

    yield from _swaps(lacks, edit)
    for near in (_same_address, _moved, _same_network, _same_family):
        for lack in lacks:
            for item in list(lack.wanted):
                places = lacks if near is _moved else [lack]
                match = next(((p, f) for p in places for f in p.found if near(f, item)), None)
                if match is not None:
                    match[0].found.remove(match[1])
                    lack.wanted.remove(item)
                    yield edit((match[1],), (item,), lack)
    for lack in lacks:
        for item in lack.wanted:
            other = next((f for f in lack.found if _version(f) not in lack.families), None)
            if other is not None:
                lack.found.remove(other)
            yield edit((other,) if other else (), (item,), lack)
    surplus += [
        Edit(device.name, (item,), (), (), _header(learner, lack.block))
        for lack in lacks
        for item in lack.found
    ]


def _written(item: Item[OnPort]) -> Item[OnPort]:
    """Return an address with its mask written out."""
    return replace(item, statement=OnPort(Masked(item.statement.interface, True)))


def _version(item: AnyItem) -> int:
    assert isinstance(item.statement, OnPort)
    return item.statement.interface.version


def _ip(item: AnyItem) -> object:
    assert isinstance(item.statement, OnPort)
    return item.statement.interface.ip


def _same_address(found: AnyItem, wanted: AnyItem) -> bool:
    return _ip(found) == _ip(wanted)


def _moved(found: AnyItem, wanted: AnyItem) -> bool:
    return found.statement == wanted.statement and found.block != wanted.block


def _same_network(found: AnyItem, wanted: AnyItem) -> bool:
    assert isinstance(found.statement, OnPort)
    assert isinstance(wanted.statement, OnPort)
    return found.statement.interface.network == wanted.statement.interface.network


def _same_family(found: AnyItem, wanted: AnyItem) -> bool:
    assert isinstance(found.statement, OnPort)
    assert isinstance(wanted.statement, OnPort)
    return found.statement.interface.version == wanted.statement.interface.version


def _swaps(
    lacks: "list[_Lack]", edit: Callable[[tuple[AnyItem, ...], tuple[AnyItem, ...], _Lack], Edit]
) -> Iterator[Edit]:
    both = [lack for lack in lacks if lack.found and lack.wanted]
    for n, one in enumerate(both):
        for other in both[n + 1 :]:
            here = [(f, w) for f in one.found for w in other.wanted if _moved(f, w)]
            there = [(f, w) for f in other.found for w in one.wanted if _moved(f, w)]
            for (mine, theirs), (back, ours) in zip(here, there, strict=False):
                one.found.remove(mine)
                one.wanted.remove(ours)
                other.found.remove(back)
                other.wanted.remove(theirs)
                yield edit((mine, back), (ours, theirs), one)


def _gateways(session: Session, attempt: Attempt, device: Device, surplus: list[Edit]) -> Iterator[Edit]:
    learner, model = attempt.configurations[device.name], session.lab.model[device.name]
    slots = dict.fromkeys(i.statement.slot for c in (model, learner) for i in c.all(Gateway))
    spare = [i for i in learner.all(Gateway) if i.slot not in {m.slot for m in model.all(Gateway)}]
    for slot in slots:
        wanted = [i for i in model.all(Gateway) if i.statement.slot == slot]
        found = [i for i in learner.all(Gateway) if i.statement.slot == slot]
        if wanted:
            if not found and spare:
                found = [spare.pop()]  # of the other family, or in another instance
            gateway = wanted[0].statement
            operand = "6" if gateway.address.version == 6 else ""
            criterion = session.facts.criterion("gateway", device.name, operand, gateway.instance)
            if session.judge(criterion, attempt).fraction < 1:
                yield Edit(device.name, tuple(found), tuple(wanted), (criterion.id,))
            elif found and found[0].statement.address != gateway.address:
                yield Edit(device.name, tuple(found), tuple(wanted), (), of=Of.FOLLOWING)
        elif found and found[0] in spare:
            surplus.append(Edit(device.name, tuple(found), (), ()))
