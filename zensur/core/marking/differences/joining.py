"""Edits that are one mistake: exchanged values, a statement on the wrong device, lines that were not understood."""

from collections.abc import Iterator
from dataclasses import replace

from ...addresses import Address
from ...sheet import AnyItem, Block, Configuration, Gateway, OnPort
from ...sheet.statement import folded
from ...sheet.statements import Member, Realm
from ..reading.meant import ALIKE, how_likely
from ..reading.unread import UnreadLines
from ..session import Attempt, Session
from .edits import Edit, Of
from .numbers import of_another_variant
from .serving import serves
from .whole import one_of_what_is_whole

Edits = list[Edit]


def joined(
    session: Session, attempt: Attempt, edits: Edits, surplus: Edits, unread: UnreadLines
) -> tuple[Edits, Edits]:
    """Join what is one mistake; returns the edits, and the statements that are still to be taken away."""
    edits, surplus = _said_beside(unread, edits, surplus)
    edits = _exchanged(edits)
    edits = list(_in_two_instances(session, attempt, edits))
    edits, surplus = _fixed_or_leased(edits, surplus)
    edits, surplus = of_another_variant(session, attempt, edits, surplus)
    edits = _with_following(edits)
    edits = one_of_what_is_whole(session, attempt, edits)
    edits = _realms_with_rules(session, edits)
    edits, surplus = _misplaced(session, attempt, edits, surplus)
    return _with_lines(unread, edits), surplus


def _said_beside(unread: UnreadLines, edits: Edits, surplus: Edits) -> tuple[Edits, Edits]:
    """Part a statement from another in its place, where a line that was not understood all but says it."""
    found, spare = [], list(surplus)
    for edit in edits:
        lines = (
            unread.get(edit.device, ()) if edit.is_plain and len(edit.remove) == len(edit.add) == 1 else ()
        )
        if any(how_likely(line, edit.add[0]) >= 1 + ALIKE for line in lines):
            found.append(replace(edit, remove=()))
            spare.append(replace(edit, add=(), subjects=()))
        else:
            found.append(edit)
    return found, spare


def _with_following(edits: Edits) -> Edits:
    """Join what points to a wrong address of another device with the edit that takes this address away."""
    found = [e for e in edits if e.of is not Of.FOLLOWING]
    for edit in edits:
        pointed = _points_to(edit) if edit.of is Of.FOLLOWING else None
        at = next((n for n, e in enumerate(found) if pointed is not None and pointed in _taken_away(e)), None)
        if at is not None:
            found[at] = replace(found[at], following=(*found[at].following, replace(edit, of=Of.STATEMENT)))
    return found


def _points_to(edit: Edit) -> Address | None:
    statement = edit.remove[0].statement
    return statement.address if isinstance(statement, Gateway) else getattr(statement, "next_hop", None)


def _taken_away(edit: Edit) -> set[Address]:
    """Return the addresses that an edit takes away."""
    gone = (i.statement for part in edit.parts for i in part.remove)
    return {s.interface.ip for s in gone if isinstance(s, OnPort)}


def _together(first: Edit, others: Edits, of: Of = Of.STATEMENT) -> Edit:
    """Make one edit of several; on the same device their statements stand side by side."""
    subjects = tuple(dict.fromkeys(s for e in (first, *others) for s in e.subjects))
    own = [e for e in others if e.device == first.device]
    away = tuple(replace(e, subjects=()) for e in others if e.device != first.device)
    remove = (*first.remove, *(i for e in own for i in e.remove))
    add = (*first.add, *(i for e in own for i in e.add))
    return replace(first, remove=remove, add=add, subjects=subjects, of=of, others=(*first.others, *away))


def _exchanged(edits: Edits) -> Edits:
    """Join two edits that put each other's value: realms or VLANs of two ports, addresses of two devices."""
    left, found = list(edits), []
    while left:
        one = left.pop(0)
        other = next((e for e in left if _each_others(one, e)), None)
        if other is not None:
            left.remove(other)
            one = _together(one, [other])
        found.append(one)
    return found


def _each_others(one: Edit, other: Edit) -> bool:
    if not all(e.is_plain and len(e.remove) == len(e.add) == 1 for e in (one, other)):
        return False
    mine, wanted = one.remove[0].statement, one.add[0].statement
    theirs, their_wanted = other.remove[0].statement, other.add[0].statement
    if not mine.SPEC.traits.exchanged or type(mine) is not type(theirs):
        return False
    if isinstance(mine, OnPort) == (one.device == other.device):
        return (
            False  # addresses of one device are told apart before, other values are exchanged on one device
        )
    return mine == their_wanted and theirs == wanted and mine != theirs


def _realms_with_rules(session: Session, edits: Edits) -> Edits:
    """Join missing realms with a missing translation in a snapshot: a machine says both by one rule."""
    sheets, found = session.sheets.paper.sheets, list(edits)
    for name in [name for name, sheet in sheets.items() if sheet.form == "snapshot"]:
        added = [e for e in found if e.device == name and e.is_plain and e.add and not e.remove]
        realms = [e for e in added if isinstance(e.add[0].statement, Realm)]
        rule = next((e for e in added if e.add[0].statement.SPEC.traits.needs_forwarding), None)
        if rule is not None and realms:
            at = found.index(rule)
            found[at] = _together(rule, realms)
            found = [e for e in found if e not in realms]
    return found


def _fixed_or_leased(edits: Edits, surplus: Edits) -> tuple[Edits, Edits]:
    """Join a missing lease with the fixed address in its place, and the other way round."""
    spare = list(surplus)
    found = []
    for edit in edits:
        opposite = edit.add[0].statement.SPEC.traits.gives_way_to if edit.add and not edit.remove else ""
        other = next((s for s in spare if opposite and _is_on(s, edit, opposite)), None)
        if other is not None:
            spare.remove(other)
        found.append(replace(edit, remove=other.remove) if other else edit)
    return found, spare


def _is_on(other: Edit, edit: Edit, kind: str) -> bool:
    same = (other.device, other.block) == (edit.device, edit.block)
    return same and other.of is Of.STATEMENT and type(other.remove[0].statement).__name__ == kind


def _in_two_instances(session: Session, attempt: Attempt, edits: Edits) -> Iterator[Edit]:
    """Join what comes of one name for two loopbacks of different instances: the second takes the first with it."""
    for name in session.lab.devices:
        learner, model = attempt.configurations[name], session.lab.model[name]
        own = [e for e in edits if e.device == name]
        for block in learner.blocks("loopback"):
            wanted = _wanted_blocks(model, {i.statement for i in learner.all(OnPort, block)})
            instances = {folded(_instance_of(model, b)) for b in wanted}
            concerned = [e for e in own if e.is_plain and e.block in {block, *wanted}]
            if len(wanted) > 1 and len(instances) > 1 and len(concerned) > 1:
                yield _second_name(_together(concerned[0], concerned[1:], Of.NAME), learner, model, block)
                own = [e for e in own if e not in concerned]
        yield from own


def _second_name(edit: Edit, learner: Configuration, model: Configuration, block: Block) -> Edit:
    """Point at where the name is used for the second time: its instance is the one that counts, as said last."""
    instance, header = folded(_instance_of(learner, block)), learner.header(block)

    def is_first(item: AnyItem) -> bool:
        return item.block is not None and folded(_instance_of(model, item.block)) != instance

    return replace(
        edit,
        remove=tuple(sorted(edit.remove, key=lambda i: not isinstance(i.statement, Member))),
        add=tuple(sorted(edit.add, key=is_first)),
        header=header.where if header else None,
    )


def _wanted_blocks(model: Configuration, addresses: set[OnPort]) -> list[Block]:
    return [
        b for b in model.blocks("loopback") if any(i.statement in addresses for i in model.all(OnPort, b))
    ]


def _instance_of(configuration: Configuration, block: Block) -> str | None:
    member = configuration.one(Member, block)
    return member.statement.instance if member else None


def _misplaced(session: Session, attempt: Attempt, edits: Edits, surplus: Edits) -> tuple[Edits, Edits]:
    """Join a statement that is missing here with the same one that stands on another device for nothing."""
    spare = list(surplus)
    found = []
    for edit in edits:
        alone = edit.is_plain and len(edit.add) == 1 and edit.add[0].statement.SPEC.traits.identifies
        other = None
        if (alone or edit.of is Of.MISSING) and not edit.remove:
            other = next((s for s in spare if _stands_there(session, attempt, edit, s)), None)
        if other is not None:
            spare.remove(other)
        found.append(replace(edit, others=(other,)) if other else edit)
    return found, spare


def _stands_there(session: Session, attempt: Attempt, edit: Edit, other: Edit) -> bool:
    there = {i.statement.plain() for i in other.remove}
    if other.device == edit.device or not {i.statement.plain() for i in edit.add} <= there:
        return False
    filled = sum(bool(i.statement.SPEC.forms) for i in other.remove)
    if other.of is Of.BLOCK and filled > len(edit.add) + 1:
        return False  # the block holds more than what was misplaced
    changed = other.on(attempt.configurations[other.device])
    return not serves(session, attempt, attempt.with_devices({other.device: changed}), other.device)


def _with_lines(unread: UnreadLines, edits: Edits) -> Edits:
    """Say of missing statements which lines of the sheet were meant as them, the likeliest first."""
    if not unread:
        return edits
    likely = [
        (-likelihood, n, line)
        for n, edit in enumerate(edits)
        if edit.of in (Of.STATEMENT, Of.DESCRIPTION)
        and len(edit.add) == 1
        and not edit.remove
        and not edit.others
        for line in unread.get(edit.device, ())
        if (likelihood := how_likely(line, edit.add[0]))
    ]
    found = list(edits)
    used: set[object] = set()
    for _, n, line in sorted(likely, key=lambda one: (one[0], one[1], one[2].where.line)):
        place = (found[n].device, line.where)
        if found[n].unread is None and place not in used:
            used.add(place)
            found[n] = replace(found[n], unread=line)
    return found
