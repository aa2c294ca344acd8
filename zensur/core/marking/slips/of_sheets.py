"""Slips that concern a whole sheet, a line that was not understood, or several devices at once."""

from ...sheet import OnPort, Switched
from ...sheet.statements import About, Access, Name, Route
from ..differences.edits import Of
from ..differences.rereading import owner
from .case import Case, Slip, adds, is_said, mends, needs, port_of

_CONFUSED = ("wildcard-for-mask", "mask-for-wildcard")


def _elsewhere(case: Case) -> str:
    return case.edit.others[0].device if case.edit.others else ""


def _misplaced(case: Case) -> bool:
    return case.edit.of is Of.STATEMENT and bool(case.edit.others) and not case.edit.remove


def _ports_swapped(case: Case) -> bool:
    parts = [item for part in case.edit.parts for item in part.remove]
    return isinstance(case.wanted, OnPort | Access) and len(parts) == 2 and case.edit.of is Of.STATEMENT


def _is_described(case: Case) -> bool:
    return case.edit.of is Of.DESCRIPTION and case.edit.unread is None


def _line(case: Case) -> str:
    assert case.edit.unread is not None
    return f"Line {case.edit.unread.where.line} of {case.device}"


def _other_values(case: Case) -> str:
    names = " and ".join(case.lab.variables)
    return f"These numbers belong to another variant of the lab: {names} is another for you."


OF_SHEETS: tuple[Slip, ...] = (
    Slip(
        "two-sheets-exchanged",
        "Two sheets exchanged",
        mends(Of.EXCHANGE),
        lambda c: f"The sheets of {c.device} and {_elsewhere(c)} were handed in under each other's name.",
        "Two sheets were handed in under each other's name; what stands in them is marked where it belongs.",
    ),
    Slip(
        "sheet-handed-in-for-the-wrong-device",
        "Sheet handed in for the wrong device",
        lambda c: c.edit.of is Of.SHEET and owner(c.session, c.attempt, c.device) is not None,
        lambda c: f"What was handed in as the sheet of {c.device} is that of another device.",
        "The sheet of another device was handed in under this device's name.",
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
            f"{_line(c)}: a mask has its ones in front (255.255.255.0), a wildcard behind (0.0.0.255), and here one stands "
            "where the other belongs."
        ),
        "A mask stands where a wildcard belongs, or the other way round.",
    ),
    Slip(
        "line-not-understood",
        "Line not understood",
        lambda c: c.edit.unread is not None,
        lambda c: f"{_line(c)} is not in the device language as it stands, so nothing of it counts.",
        "The line is meant right, as far as can be seen, but is misspelt, so that it has no effect.",
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
            f"{port_of(c, 0)} and {port_of(c, 1)}{'' if len(c.edit.devices) > 1 else f' of {c.device}'} have each other's "
            f"{'VLAN' if isinstance(c.wanted, Access) else 'address'}."
        ),
        "The values of two ports were exchanged: each is right, at the other's place.",
    ),
    Slip(
        "statement-on-the-wrong-device",
        "Statement on the wrong device",
        _misplaced,
        lambda c: f"{needs(c)} belongs on {c.place}, and stands on {_elsewhere(c)}.",
        "The right line was entered on another device.",
    ),
    Slip(
        "port-left-off",
        "Port left off",
        lambda c: isinstance(c.wanted, Switched) and c.wanted.on,
        lambda c: f"{c.place} is never turned on, so nothing passes it.",
        "The port was configured, or should have been, and was never turned on.",
    ),
    Slip(
        "port-not-switched-off",
        "Port not switched off",
        lambda c: isinstance(c.wanted, Switched) and not c.wanted.on,
        lambda c: f"{c.place} has to be off.",
        "The port is on and should be off.",
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
