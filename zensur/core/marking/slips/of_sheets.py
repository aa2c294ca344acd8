"""Slips that concern a whole sheet, a line that was not understood, or several devices at once."""

from collections.abc import Iterator
from dataclasses import replace

from ...formats import plain
from ...lab import Lab
from ...sheet import Gateway, OnPort, Switched
from ...sheet.statements import (
    About,
    Access,
    Dynamic,
    Entry,
    Name,
    OneToOne,
    Open,
    Published,
    Realm,
    Relay,
    Route,
)
from ..differences.edits import Of
from ..differences.headers import INDENTED, NO_SUCH_PORT, RESERVED
from ..differences.rereading import owner
from .case import Case, Slip, adds, is_said, mends, needs, port_of
from .made import Made, MadeSlip, Making, addresses_of, exchanged, on_another_port, several

_CONFUSED = ("wildcard-for-mask", "mask-for-wildcard")


def _elsewhere(case: Case) -> str:
    return case.edit.others[0].device if case.edit.others else ""


def _misplaced(case: Case) -> bool:
    return case.edit.of in (Of.STATEMENT, Of.MISSING) and bool(case.edit.others) and not case.edit.remove


def _on_another_port(case: Case) -> bool:
    found, wanted = case.edit.remove[:1], case.edit.add[:1]
    same = bool(found and wanted) and found[0].statement.plain() == wanted[0].statement.plain()
    return same and not isinstance(case.wanted, OnPort) and found[0].block != wanted[0].block


def _port_found(case: Case) -> str:
    block = case.edit.remove[0].block
    return block.port_name if block else ""


def _ports_swapped(case: Case) -> bool:
    parts = [item for part in (case.edit, *case.edit.others) for item in part.remove]
    return isinstance(case.wanted, OnPort | Access) and len(parts) == 2 and case.edit.of is Of.STATEMENT


def _is_described(case: Case) -> bool:
    return case.edit.of is Of.DESCRIPTION and case.edit.unread is None


def _line(case: Case) -> str:
    assert case.edit.unread is not None
    return f"Line {case.edit.unread.where.line} of {case.device}"


def _question(case: Case) -> str:
    return case.edit.subjects[0].partition(":")[2]


def _answer(case: Case) -> str:
    texts = case.session.answers[plain(_question(case))].texts
    return (
        f"{' and '.join(texts)} are two answers, and count as none"
        if len(texts) > 1
        else f"{texts[0]} is not right"
    )


def _why_not_understood(case: Case) -> str:
    assert case.edit.unread is not None
    block = case.edit.block
    header = block.header() if block is not None else ""
    why = case.edit.unread.why.partition(". ")[0].rstrip(".")  # what was meant is in the repair
    return {
        INDENTED: f"{_line(case)} opens a block and has to begin in the first column: {header}.",
        NO_SUCH_PORT: f"{_line(case)} names no port of {case.device}; what stands below it belongs under {header}.",
        RESERVED: f"{_line(case)} has a word of the language for a name, so nothing of it counts.",
    }.get(
        case.edit.unread.code,
        f"{_line(case)} was not understood, so nothing of it counts{f': {why[0].lower()}{why[1:]}' if why else ''}.",
    )


def _other_values(case: Case) -> str:
    names = " and ".join(case.lab.variables)
    return f"These numbers belong to another variant of the lab: {names} is another for you."


_LONG = (OnPort, Gateway, Route, OneToOne, Published, Dynamic)
"""Statements that are known again with a letter missing."""


def _misspelt(making: Making) -> Iterator[MadeSlip]:
    """Leave a letter out of a keyword, or of the header of a port."""
    for item in making.items:
        if isinstance(item.statement, _LONG):
            yield from making.typed("keyword misspelt", item, lambda line: f"{line[:2]}{line[3:]}")
        filled = sum(i.block == item.block for i in making.items) > 1
        if isinstance(item.statement, Open) and item.block and item.block.kind == "port" and filled:
            yield from making.typed("header misspelt", item, lambda line: line.replace("port", "prot", 1))


def _mask_or_wildcard(making: Making) -> Iterator[MadeSlip]:
    """Write a wildcard where a mask belongs, and the other way round."""
    for item in making.of(OnPort):
        interface = item.statement.interface
        if interface.version == 4 and 8 <= interface.network.prefixlen <= 30:
            turned = f"address {interface.ip} mask {interface.hostmask}"
            yield from making.typed("wildcard for a mask", item, lambda _, turned=turned: turned)  # type: ignore[misc]
    for entry in making.of(Entry):
        prefix = entry.statement.prefix
        if 8 <= prefix.prefixlen <= 30:
            word = "permit" if entry.statement.permit else "deny"
            turned = f"{word} {prefix.network_address} wildcard {prefix.netmask}"
            yield from making.typed("mask for a wildcard", entry, lambda _, turned=turned: turned)  # type: ignore[misc]


def _on_a_neighbour(making: Making) -> Iterator[MadeSlip]:
    """Put a route on a neighbour that has no such route."""
    lab = making.lab
    for item in making.of(Route):
        hop = item.statement.next_hop
        for _, _, other, _ in making.neighbours():
            free = hop is not None and hop not in addresses_of(lab.model[other])
            if (
                free
                and lab.devices[other].forwards
                and item.slot not in {i.slot for i in lab.model[other].items}
            ):
                yield replace(making.change("on another device", [item], []), put=((other, item),))
                break


def _large(lab: Lab) -> list[str]:
    """Return the devices whose sheet in a full paper is large enough to be known again."""
    return [
        d
        for d, s in lab.full_paper.items()
        if sum(not isinstance(i.statement, Open) for i in s.configuration.items) > 4
    ]


def _exchange(making: Making) -> Iterator[MadeSlip]:
    """Exchange the device's sheet with one that comes behind it in the lab."""
    large, order = _large(making.lab), list(making.lab.devices)
    behind = (
        [d for d in large if order.index(d) > order.index(making.device)] if making.device in large else []
    )
    for other in behind:
        repair = f"hand in the sheets of {making.device} and {other} each under its own name"
        sheets = {making.device: other, other: making.device}
        yield MadeSlip("sheets: exchanged", making.device, frozenset({repair}), sheets=sheets)


def _for_another(making: Making) -> Iterator[MadeSlip]:
    large = _large(making.lab)
    for other in large[large.index(making.device) + 1 :] if making.device in large else []:
        repair = frozenset({f"hand in the sheet of {making.device}"})
        yield MadeSlip("sheet: another device's", making.device, repair, sheets={making.device: other})


def _without_sheet(making: Making) -> Iterator[MadeSlip]:
    if making.device in _large(making.lab) and making.device not in making.lab.start:
        repair = frozenset({f"hand in the sheet of {making.device}"})
        yield MadeSlip("sheet: missing", making.device, repair, sheets={making.device: None})


def _not_switched(on: bool) -> Made:
    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.of(Switched):
            if item.statement.on is on:
                yield making.instead("left out", item, None)

    return made


OF_SHEETS: tuple[Slip, ...] = (
    Slip(
        "answer-missing",
        "Answer missing",
        lambda c: c.edit.of is Of.ANSWER and (c.edit.unread is None or not c.edit.unread.text),
        lambda c: f"{_question(c)} is not answered.",
        "The question was not answered.",
    ),
    Slip(
        "answer-wrong",
        "Answer wrong",
        mends(Of.ANSWER),
        lambda c: f"{_question(c)}: {_answer(c)}.",
        "The question was answered, and not right.",
    ),
    Slip(
        "two-sheets-exchanged",
        "Two sheets exchanged",
        mends(Of.EXCHANGE),
        lambda c: f"The sheets of {c.device} and {_elsewhere(c)} were handed in under each other's name.",
        "Two sheets were handed in under each other's name; what stands in them is marked where it belongs.",
        _exchange,
    ),
    Slip(
        "sheet-handed-in-for-the-wrong-device",
        "Sheet handed in for the wrong device",
        lambda c: c.edit.of is Of.SHEET and owner(c.session, c.attempt, c.device) is not None,
        lambda c: f"What was handed in as the sheet of {c.device} is that of another device.",
        "The sheet of another device was handed in under this device's name.",
        _for_another,
    ),
    Slip(
        "sheet-missing",
        "Sheet missing",
        mends(Of.SHEET),
        lambda c: (
            f"The sheet of {c.device} is empty, or nothing in it could be read."
            if c.device in c.session.sheets.own
            else f"There is no sheet of {c.device}."
        ),
        "Nothing was handed in for this device, or nothing that can be read.",
        _without_sheet,
    ),
    Slip(
        "another-learner's-numbers",
        "Another learner's numbers",
        mends(Of.NUMBERS),
        _other_values,
        "Several values are right, but in another variant of the lab. Ask where they come from before you judge.",
    ),
    Slip(
        "mask-and-wildcard-confused",
        "Mask and wildcard confused",
        lambda c: c.edit.unread is not None and c.edit.unread.code in _CONFUSED,
        lambda c: (
            f"{_line(c)}: a mask has its ones in front (255.255.255.0), a wildcard behind (0.0.0.255), and here one "
            "stands where the other belongs."
        ),
        "A mask stands where a wildcard belongs, or the other way round.",
        _mask_or_wildcard,
    ),
    Slip(
        "line-not-understood",
        "Line not understood",
        lambda c: c.edit.unread is not None,
        _why_not_understood,
        "The line is meant right, as far as can be seen, but is misspelt, so that it has no effect.",
        _misspelt,
    ),
    Slip(
        "same-name-in-two-instances",
        "Same name in two instances",
        mends(Of.NAME),
        lambda c: (
            f"One name stands for two loopbacks of {c.device} in different instances; names hold for the whole box, so "
            "the second took the first one's place."
        ),
        "One name was used in two network instances; names are unique in a box, so that the second replaced the first.",
    ),
    Slip(
        "two-ports-swapped",
        "Two ports swapped",
        _ports_swapped,
        lambda c: (
            f"{port_of(c, 0)} and {port_of(c, 1)}{'' if len(c.edit.devices) > 1 else f' of {c.device}'} have each "
            f"other's {'VLAN' if isinstance(c.wanted, Access) else 'address'}."
        ),
        "The values of two ports were exchanged: each is right, at the other's place.",
        several(exchanged(OnPort), exchanged(Access)),
    ),
    Slip(
        "statement-on-the-wrong-device",
        "Statement on the wrong device",
        _misplaced,
        lambda c: f"{needs(c)} belongs on {c.place}, and stands on {_elsewhere(c)}.",
        "The right line was entered on another device.",
        _on_a_neighbour,
    ),
    Slip(
        "statement-on-the-wrong-port",
        "Statement on the wrong port",
        _on_another_port,
        lambda c: f"{is_said(c)} belongs on {c.place}, and stands on {_port_found(c)}.",
        "The right statement was entered on another port of the device.",
        on_another_port(Realm, Relay),
    ),
    Slip(
        "port-left-off",
        "Port left off",
        lambda c: isinstance(c.wanted, Switched) and c.wanted.on,
        lambda c: f"{c.place} is never turned on, so nothing passes it.",
        "The port was configured, or should have been, and was never turned on.",
        _not_switched(True),
    ),
    Slip(
        "port-not-switched-off",
        "Port not switched off",
        lambda c: isinstance(c.wanted, Switched) and not c.wanted.on,
        lambda c: f"{c.place} has to be off.",
        "The port is on and should be off.",
        _not_switched(False),
    ),
    Slip(
        "description-missing",
        "Description missing",
        lambda c: _is_described(c) and not isinstance(c.wanted, Name) and _says_nothing(c),
        lambda c: f"{_described(c)} has to be described, and is not.",
        "A description is asked for and not there.",
    ),
    Slip(
        "description-wrong",
        "Description wrong",
        lambda c: _is_described(c) and not isinstance(c.wanted, Name),
        lambda c: f"{_described(c)} is described otherwise than asked for.",
        "A description is there, but not the one that is asked for.",
    ),
    Slip(
        "name-missing",
        "Name missing",
        adds(Name),
        lambda c: f"The sheet of {c.device} does not give the device its name.",
        "The device was not given its name.",
    ),
    Slip(
        "name-wrong",
        "Name wrong",
        lambda c: isinstance(c.wanted, Name),
        lambda c: f"{is_said(c)} is not the device's name.",
        "The device was given another name than planned.",
    ),
)


def _says_nothing(case: Case) -> bool:
    found = case.found
    return found is None or (isinstance(found, Route) and found.about is None)


def _described(case: Case) -> str:
    if isinstance(case.wanted, Route):
        return f"The route of {case.device} to {case.wanted.dest}"
    assert isinstance(case.wanted, About)
    return case.place
