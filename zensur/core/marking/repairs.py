"""Repairs in the form of the file that they are for: beside our own language, as the learner wrote."""

from collections.abc import Iterator
from dataclasses import replace

from ..formats.fragments import fragment
from .session import Session
from .shapes import Fault


def in_their_forms(session: Session, faults: tuple[Fault, ...]) -> Iterator[Fault]:
    """Yield mistakes, those in sheets of another form than ours with the repair in that form, too."""
    sheets = session.sheets.paper.sheets
    for fault in faults:
        sheet = sheets.get(fault.device)
        if sheet is None or sheet.form == "sheet" or fault.required is None:
            yield fault
        else:
            yield replace(fault, in_form=_repair(fault, sheet.form))


def _repair(fault: Fault, form: str) -> str:
    """Write the repair of a mistake; several lines are under the first of them, which is their header."""
    if fault.missing:
        header = fault.missing[0]
        return fragment(header, [line.strip() for line in fault.missing[1:]], form)
    if fault.repair == fault.block:
        return fragment(fault.block, [], form)
    return fragment(fault.block, fault.repair.split("; "), form)
