"""Slips in the translation of addresses: realms, mappings, pools and lists."""

from collections.abc import Iterator
from dataclasses import replace

from ...sheet import Block
from ...sheet.statement import folded
from ...sheet.statements import Dynamic, Entry, OneToOne, Pool, Published, Realm
from ...sheet.statements.translation import LIST
from .case import Case, Slip, adds, changes, is_said, needs, wants
from .made import MadeSlip, Making, exchanged, left_out, other_values, several


def _turned(c: Case) -> bool:
    """Whether internal and external address of a mapping stand in each other's place."""
    found, wanted = c.found, c.wanted
    if isinstance(found, Published) and isinstance(wanted, Published):
        return (found.inside, found.outside) == (wanted.outside, wanted.inside)
    return (
        isinstance(found, OneToOne)
        and isinstance(wanted, OneToOne)
        and (found.inside, found.outside) == (wanted.outside, wanted.inside)
    )


def _not_shared(c: Case) -> bool:
    found, wanted = c.found, c.wanted
    return isinstance(found, Dynamic) and isinstance(wanted, Dynamic) and wanted.shared and not found.shared


def _undefined(c: Case) -> str:
    """Return the name of a list or pool that a translation uses and that the sheet does not have."""
    found = c.found
    if not isinstance(found, Dynamic) or not isinstance(c.wanted, Dynamic):
        return ""
    learner, instance = c.learner, folded(found.instance)
    if isinstance(found.who, str) and learner.header(Block(LIST, found.who, found.instance)) is None:
        return found.who
    pools = {p.statement.name.lower() for p in learner.all(Pool) if folded(p.statement.instance) == instance}
    ports = {p.name.lower() for p in c.lab.devices[c.device].ports}
    ports |= {b.port_name.lower() for b in learner.bearers()}
    return "" if found.where.lower() in pools | ports else found.where


def _only_order(c: Case) -> bool:
    """Whether the same lines stand in another order."""
    found, wanted = ({i.statement for i in items} for items in (c.edit.remove, c.edit.add))
    return isinstance(c.wanted, Entry | Dynamic) and len(wanted) > 1 and found == wanted


def _untranslated(c: Case) -> str:
    if isinstance(c.wanted, Published):
        return f"{c.device} does not publish {c.wanted.protocol} {c.wanted.inside}, so nobody outside reaches it."
    if isinstance(c.wanted, OneToOne):
        return f"A translation is missing on {c.device}: {c.wanted.inside} does not go out as {c.wanted.outside}."
    return f"A translation is missing on {c.device}: {needs(c)}."


def _otherwise(c: Case) -> str:
    found, wanted = c.found, c.wanted
    if isinstance(found, Dynamic) and isinstance(wanted, Dynamic) and found.shared and not wanted.shared:
        return f"{is_said(c)} lets the hosts share; here each has an address of its own."
    return f"{is_said(c)} translates otherwise than planned."


def _more_or_fewer(c: Case) -> str:
    """Say in what a list differs from the planned one."""
    mine, ours = (
        {i.statement for i in items if isinstance(i.statement, Entry)}
        for items in (c.edit.remove, c.edit.add)
    )
    permits = {e.permit for e in (mine or ours)}
    if mine and ours:
        return "other sources pass"
    return "fewer sources pass" if permits == {bool(ours)} else "more sources pass"


def _line_of_list(c: Case) -> str:
    if c.found is None:
        return f"{needs(c)} is missing"
    return (
        f"{is_said(c)} is not what belongs there"
        if c.wanted is not None
        else f"{is_said(c)} does not belong there"
    )


def _turned_round(making: Making) -> Iterator[MadeSlip]:
    """Exchange internal and external address of a mapping."""
    for item in making.of(OneToOne):
        inside, outside = item.statement.inside, item.statement.outside
        if not isinstance(outside, str):
            yield making.instead(
                "turned round", item, replace(item.statement, inside=outside, outside=inside)
            )


def _misnamed(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(Dynamic):
        yield making.instead(
            "undefined name", item, replace(item.statement, where=f"{item.statement.where}x")
        )


def _unshared(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(Dynamic):
        if item.statement.shared:
            yield making.instead(
                "not shared", item, replace(item.statement, shared=False, first=None, last=None)
            )


def _reordered(making: Making) -> Iterator[MadeSlip]:
    """Put the lines of a list, or the translations, in another order."""
    for kind in (Entry, Dynamic):
        for block in dict.fromkeys(i.block for i in making.of(kind)):
            own = [i for i in making.of(kind) if i.block == block]
            if len(own) > 1:
                yield making.change("in another order", own, reversed(own))


OF_TRANSLATION: tuple[Slip, ...] = (
    Slip(
        "realms-swapped",
        "Realms swapped",
        lambda c: isinstance(c.wanted, Realm) and len(c.edit.add) > 1,
        lambda c: f"Internal and external stand in each other's place on {c.device}.",
        "Inside and outside of the translation are exchanged.",
        exchanged(Realm),
    ),
    Slip(
        "realm-missing",
        "Realm missing",
        adds(Realm),
        lambda c: f"{c.place} is neither internal nor external, so nothing is translated there.",
        "The port was not given its side of the translation.",
        left_out(Realm),
    ),
    Slip(
        "wrong-realm",
        "Wrong realm",
        wants(Realm),
        lambda c: f"{c.place} lies on the other side of the translation.",
        "The port was put on the wrong side of the translation.",
        other_values(Realm),
    ),
    Slip(
        "translated-addresses-swapped",
        "Translated addresses swapped",
        _turned,
        lambda c: f"{is_said(c)}: the internal address stands first, then the one outside.",
        "Internal and external address of the mapping are exchanged.",
        _turned_round,
    ),
    Slip(
        "one-to-one-onto-a-wrong-address",
        "One-to-one onto a wrong address",
        changes(OneToOne),
        lambda c: f"{is_said(c)} is not the pair that is planned.",
        "The one-to-one mapping joins other addresses than planned.",
        other_values(OneToOne),
    ),
    Slip(
        "lines-in-the-wrong-order",
        "Lines in the wrong order",
        _only_order,
        lambda c: (
            f"The first line that fits decides, and on {c.device} they stand in another order than planned."
        ),
        "All lines are right; the first that fits decides, and they stand in another order.",
        _reordered,
    ),
    Slip(
        "undefined-name",
        "Undefined name",
        lambda c: bool(_undefined(c)),
        lambda c: f"{is_said(c)} names {_undefined(c)}, which {c.device} does not have.",
        "The translation names a list, pool or port that is not there, often by one letter.",
        _misnamed,
    ),
    Slip(
        "shared-missing",
        "Shared missing",
        _not_shared,
        lambda c: f"{is_said(c)} gives every host an address of its own; here they share.",
        "The word shared was left out: the pool runs empty after a few hosts.",
        _unshared,
    ),
    Slip(
        "translation-missing",
        "Translation missing",
        adds(OneToOne, Published, Dynamic),
        _untranslated,
        "The translation was not entered.",
        left_out(OneToOne, Published, Dynamic),
    ),
    Slip(
        "translation-wrong",
        "Translation wrong",
        wants(OneToOne, Published, Dynamic),
        _otherwise,
        "The translation does something else than planned.",
        other_values(Published),
    ),
    Slip(
        "pool-wrong",
        "Pool wrong",
        wants(Pool),
        lambda c: f"The pool of {c.device} does not hold the addresses that are planned.",
        "The pool holds other addresses than planned, or is not there.",
        several(left_out(Pool), other_values(Pool)),
    ),
    Slip(
        "list-does-not-permit-the-sources",
        "List does not permit the sources",
        lambda c: isinstance(c.wanted, Entry) or isinstance(c.found, Entry),
        lambda c: f"The list on {c.device} lets {_more_or_fewer(c)} than planned: {_line_of_list(c)}.",
        "The list that the translation uses lets other sources pass than planned.",
        several(left_out(Entry), other_values(Entry)),
    ),
)
