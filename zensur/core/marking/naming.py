"""Names the faults: every edit that a lost criterion needs, with its slip, its place and what would mend it."""

from collections.abc import Mapping

from ..lab import Criterion
from .judging.attempt import Attempt
from .judging.judge import Judge
from .result import Fault, Paper
from .searching.faults import Search
from .searching.texts import found_text, repair_text, required_text
from .slips.case import Case
from .slips.catalogue import name_slip


def name_faults(
    judge: Judge, paper: Paper, attempt: Attempt, search: Search, lost: Mapping[str, Criterion]
) -> dict[int, Fault]:
    """Return the faults by the number of their edit, in the order of devices and lines."""
    order = {name: n for n, name in enumerate(judge.lab.devices)}
    used = {n for needs in search.needs.values() for n in needs}

    def place(n: int) -> tuple[int, int]:
        edit = search.edits[n]
        return order[edit.device], edit.where.line if edit.where else 0

    found: dict[int, Fault] = {}
    for number, n in enumerate(sorted(used, key=place), 1):
        edit = search.edits[n]
        case = Case(edit, judge, attempt if edit.whole else search.base, search.only_back.get(n, False))
        slip = name_slip(case)
        found[n] = Fault(
            id=number,
            slip=slip.keyword,
            title=slip.title,
            said=slip.said(case),
            told=slip.told,
            device=edit.device,
            port=edit.block.port_name if edit.block and not edit.whole else None,
            file=edit.where.file if edit.where else paper.files.get(edit.device),
            line=edit.where.line if edit.where else None,
            found=found_text(edit),
            required=required_text(edit),
            repair=repair_text(edit),
            direct=0.0,
            consequences=tuple(i for i, c in lost.items() if c.is_outcome and n in search.needs[i]),
            also=edit.also,
        )
    return found
