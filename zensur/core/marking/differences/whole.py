"""Edits that are one mistake, for what they are about is missing or wrong as a whole.

A block of which not a line is there, a list that holds none of the lines planned, a translation with its list and pool,
and a network of which all devices agree on another prefix.
"""

from dataclasses import replace

from ...addresses import Prefix
from ...sheet import AnyItem, Block, Configuration, OnPort, Route
from ...sheet.statements import Dynamic, Entry
from ...sheet.statements.translation import LIST
from ..session import Attempt, Session
from .edits import Edit, Of

Edits = list[Edit]
_BLOCKS = ("dhcp", "rip", "dns")


def one_of_what_is_whole(session: Session, attempt: Attempt, edits: Edits) -> Edits:
    """Join what is missing or wrong as a whole."""
    edits = _networks(session, _translations(attempt, edits))
    for name in session.lab.devices:
        learner, model = attempt.configurations[name], session.lab.model[name]
        for block in dict.fromkeys(e.block for e in edits if e.device == name and e.block is not None):
            own = [e for e in edits if e.device == name and e.block == block and e.is_plain]
            if len(own) < 2:
                continue
            if block.kind in _BLOCKS and learner.header(block) is None:
                edits = _replaced(edits, own, replace(_one(own, model), of=Of.MISSING))
            elif block.kind == LIST and _holds_nothing_right(session, attempt, name, block):
                edits = _replaced(edits, own, _one(own, model))
    return edits


def _replaced(edits: Edits, own: Edits, one: Edit) -> Edits:
    """Put one edit where the first of several stood."""
    return [one if e is own[0] else e for e in edits if e is own[0] or e not in own]


def _one(own: Edits, model: Configuration) -> Edit:
    """Make one edit of several of one device."""
    return replace(
        own[0],
        remove=tuple(i for e in own for i in e.remove),
        add=_in_order([i for e in own for i in e.add], model),
        subjects=tuple(dict.fromkeys(s for e in own for s in e.subjects)),
    )


def _in_order(add: list[AnyItem], model: Configuration) -> tuple[AnyItem, ...]:
    """Put lines of a list, of which the first that fits decides, in the order of the model answer."""
    order = {item.slot: n for n, item in enumerate(model.items)}
    lines = [i for i in add if isinstance(i.statement, Entry)]
    waiting = iter(sorted(lines, key=lambda i: order.get(i.slot, len(order))))
    return tuple(next(waiting) if isinstance(i.statement, Entry) else i for i in add)


def _holds_nothing_right(session: Session, attempt: Attempt, name: str, block: Block) -> bool:
    mine = {i.statement for i in attempt.configurations[name].all(Entry, block)}
    return mine.isdisjoint(i.statement for i in session.lab.model[name].all(Entry, block))


def _translations(attempt: Attempt, edits: Edits) -> Edits:
    """Join a translation that is missing with its list and its pool, where these are missing, too."""
    for edit in edits:
        uses = [i for i in edit.add if isinstance(i.statement, Dynamic)]
        if not uses or edit.remove or not edit.is_plain:
            continue
        learner = attempt.configurations[edit.device]
        of_it = [e for e in edits if e.is_plain and not e.remove and _serves(e, edit, learner)]
        if of_it:
            model = attempt.session.lab.model[edit.device]
            whole = _replaced(edits, [edit], _one([edit, *of_it], model))
            return _translations(attempt, [e for e in whole if e not in of_it])
    return edits


def _serves(one: Edit, edit: Edit, learner: Configuration) -> bool:
    """Whether an edit adds nothing but what serves the translation that another adds, of which nothing is there."""
    if one.block is not None and learner.header(one.block) is not None:
        return False
    same = one is not edit and one.device == edit.device and one.subjects == edit.subjects
    return same and not any(isinstance(i.statement, Dynamic) for i in one.add)


def _networks(session: Session, edits: Edits) -> Edits:
    """Join the addresses of a network of which all devices agree on another prefix, with the routes to it."""
    found = edits
    for planned, agreed in dict.fromkeys(m for e in edits if (m := _misnumbered(e)) is not None):
        own = [e for e in found if _misnumbered(e) == (planned, agreed)]
        if len(own) < 2 or len(own) < _ports_in(session, planned):
            continue
        routes = [e for e in found if _is_route_to(e, planned, agreed)]
        first, *rest = [*own, *routes]
        following = [replace(f, subjects=()) for e in rest for f in (replace(e, following=()), *e.following)]
        whole = replace(
            first,
            of=Of.NETWORK,
            subjects=tuple(dict.fromkeys(s for e in (first, *rest) for s in e.subjects)),
            others=(*first.others, *following),
        )
        found = _replaced(found, [first, *rest], whole)
    return found


def _misnumbered(edit: Edit) -> tuple[Prefix, Prefix] | None:
    """Return the planned network of an address and the one it has instead, both of one length."""
    if not edit.is_plain or len(edit.remove) != 1 or len(edit.add) != 1:
        return None
    found, wanted = edit.remove[0].statement, edit.add[0].statement
    if not isinstance(found, OnPort) or not isinstance(wanted, OnPort):
        return None
    planned, agreed = wanted.interface.network, found.interface.network
    same_length = planned.prefixlen == agreed.prefixlen < planned.max_prefixlen
    return (planned, agreed) if same_length and planned != agreed else None


def _ports_in(session: Session, network: Prefix) -> int:
    items = (i for c in session.lab.model.values() for i in c.everywhere(OnPort))
    return sum(i.statement.interface.network == network for i in items)


def _is_route_to(edit: Edit, planned: Prefix, agreed: Prefix) -> bool:
    dests = [
        i.statement.dest for items in (edit.remove, edit.add) for i in items if isinstance(i.statement, Route)
    ]
    return edit.is_plain and dests == [agreed, planned]
