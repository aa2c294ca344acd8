"""The sixth step of marking: every mistake gets its slip, its place, and what would mend it."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..sheet import Configuration, Where, write_sheet
from .differences.edits import Edit, Of
from .differences.texts import found_text, repair_text, required_text
from .repairs import repair_in_form
from .searched import Searched
from .session import Attempt
from .shapes import Fault
from .slips.case import Case
from .slips.catalogue import name_slip


@dataclass(frozen=True, slots=True)
class Named:
    """The faults by the number of their edit, not charged yet."""

    searched: Searched
    faults: Mapping[int, Fault]


def name_faults(searched: Searched) -> Named:
    """Name the edits that a lost criterion needs, in the order of devices and lines."""
    session, edits = searched.session, searched.edits
    order = {name: n for n, name in enumerate(session.lab.devices)}
    files = session.sheets.paper.files

    def place(n: int) -> tuple[int, int]:
        where = edits[n].where
        return order.get(edits[n].device, len(order)), where.line if where else 0

    found: dict[int, Fault] = {}
    for number, n in enumerate(sorted(searched.used, key=place), 1):
        edit = edits[n]
        attempt = session.paper if edit.whole else searched.base
        case = Case(edit, session, attempt, searched.only_back.get(n, False))
        slip = name_slip(case)
        found[n] = Fault(
            id=number,
            slip=slip.keyword,
            title=slip.title,
            said=slip.said(case),
            told=slip.told,
            device=edit.device,
            port=edit.block.port_name if edit.block and not edit.whole else None,
            file=edit.where.file
            if edit.where
            else files.get(edit.device)
            if edit.of is not Of.CABLE
            else None,
            line=edit.where.line if edit.where else None,
            found=found_text(edit),
            required=required_text(edit),
            repair=repair_text(edit),
            direct=0.0,
            consequences=tuple(
                i for i, c in searched.lost.items() if c.is_outcome and n in searched.needs[i]
            ),
            also=edit.also,
            whole=edit.whole,
            block=edit.block.header() if edit.block and not edit.whole else None,
            missing=_missing(edit),
            in_form=repair_in_form(session, edit),
            in_front_of=_in_front_of(edit, attempt, files.get(edit.device)),
        )
    return Named(searched, found)


def _in_front_of(edit: Edit, attempt: Attempt, file: str | None) -> Where | None:
    """Return the first line of the file that what is added stands in front of; None where it comes to stand there by
    itself, in the place of what goes."""
    slots = {i.slot for i in edit.before}
    there = attempt.configurations[edit.device].items if slots and edit.device else ()
    lines = [i.where for i in there if i.slot in slots and i.where is not None and i.where.file == file]
    first = min(lines, key=lambda where: where.line, default=None)
    gone = next((i.where for i in edit.remove if i.where), None)
    return None if first is None or (gone is not None and gone.line < first.line) else first


def _missing(edit: Edit) -> tuple[str, ...]:
    """Write the lines that are missing, where they are several."""
    several = len(edit.add) > 1 and not edit.remove and edit.of in (Of.STATEMENT, Of.MISSING)
    return tuple(write_sheet(Configuration.of_items(edit.add)).splitlines()) if several else ()
