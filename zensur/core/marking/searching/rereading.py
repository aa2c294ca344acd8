"""What has to be read again before a paper is compared line by line: sheets exchanged, headers not understood.

Each becomes one edit, which lets stand what the learner wrote; what is wrong in there is a mistake of its own.
"""

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from ...sheet import AnyItem, Block, Configuration, Where, read_sheet
from ...sheet.statements import Open
from ..judging.judge import Attempt, Judge, telling
from ..judging.pairing import with_model_names
from ..judging.unread import Unread, unread_lines
from .edits import Edit, Of, apply
from .meant import header_meant

FEWEST = 3
"""So many statements have to tell two devices apart before a sheet is said to be the other's."""
FEWEST_EXCHANGED = 2
"""Two sheets that are each other's say more."""


def reread(judge: Judge, attempt: Attempt) -> tuple[list[Edit], Attempt]:
    """Return the edits, and the attempt with them made."""
    edits = list(_exchanged(judge, attempt))
    unread = dict(attempt.unread)
    for edit, inside in _headers(judge, attempt):
        edits.append(edit)
        unread[edit.device] = (*unread[edit.device], *inside)
    if not edits:
        return [], attempt
    mended = attempt.with_devices(apply(edits, attempt.configurations))
    edits = [_with_subjects(judge, attempt, mended, edit) for edit in edits]
    return edits, replace(mended, unread=unread)


def _with_subjects(judge: Judge, before: Attempt, after: Attempt, edit: Edit) -> Edit:
    """Name the criteria that the edit makes better."""
    better = tuple(
        c.id
        for c in judge.criteria
        if not c.is_run
        and c.device in edit.devices
        and judge.judge(c, before).fraction < judge.judge(c, after).fraction
    )
    return replace(edit, subjects=better)


def owner(judge: Judge, attempt: Attempt, name: str, fewest: int = FEWEST) -> str | None:
    """Return the device whose sheet was handed in for another.

    Of what tells the two apart, most of the other's stands there, and hardly anything of this one's.
    """
    sheet = attempt.sheets.get(name)
    if sheet is None or len(sheet.items) < fewest or name in attempt.as_model:
        return None
    raw, said = telling(sheet), telling(attempt.configurations[name])
    model, under = judge.telling[name]
    for other, (theirs, given) in judge.telling.items():
        own, foreign = model - under - theirs, theirs - model - given
        if other == name or len(foreign) < fewest or not raw & foreign or 4 * len(said & own) > len(own):
            continue
        there = telling(with_model_names(sheet, judge.lab.model[other])) & foreign
        if 3 * len(there) >= 2 * len(foreign):
            return other
    return None


def _exchanged(judge: Judge, attempt: Attempt) -> Iterator[Edit]:
    """Find two devices that each have the other's sheet."""
    of = {name: owner(judge, attempt, name, FEWEST_EXCHANGED) for name in judge.lab.devices}
    for one, other in combinations(judge.lab.devices, 2):
        if of[one] == other and of[other] == one:
            yield _instead(judge, attempt, one, other, (_instead(judge, attempt, other, one),))


def _instead(judge: Judge, attempt: Attempt, name: str, of: str, others: tuple[Edit, ...] = ()) -> Edit:
    """Put what was handed in as the sheet of a device in the place of another's."""
    lab, found = judge.lab, attempt.configurations[name]
    wanted = with_model_names(attempt.sheets[of], lab.model[name]).over(lab.under[name])
    remove = tuple(i for i in found.items if i not in wanted.items)
    add = tuple(i for i in wanted.items if i not in found.items)
    return Edit(name, remove, add, (), of=Of.EXCHANGE, others=others)


def _headers(judge: Judge, attempt: Attempt) -> Iterator[tuple[Edit, tuple[Unread, ...]]]:
    """Find headers that were not understood, with the lines that were left out with them.

    Yields with each the lines below it that would not be understood either.
    """
    for name, lines in attempt.unread.items():
        learner, model = attempt.configurations[name], judge.lab.model[name]
        free = [b for b in _blocks(model) if not any(i.block == b and not _opens(i) for i in learner.items)]
        for line in lines:
            block = header_meant(line, free) if any(text.strip() for text in line.under) else None
            if block is None:
                continue
            items, inside = _read(line, block)
            if items:
                free.remove(block)
                yield Edit(name, (), items, (), unread=line), inside


def _blocks(configuration: Configuration) -> list[Block]:
    return list(dict.fromkeys(i.block for i in configuration.items if i.block is not None))


def _opens(item: AnyItem) -> bool:
    return isinstance(item.statement, Open)


def _read(line: Unread, block: Block) -> tuple[tuple[AnyItem, ...], tuple[Unread, ...]]:
    """Read the block as it was probably meant, each statement with the line where it stands."""
    rest = line.text.split()[len(block.header().split()) :]
    above = [block.header(), *([f"  {' '.join(rest)}"] if rest else [])]
    sheet = read_sheet("\n".join([*above, *line.under]), line.where.file)

    def moved(where: Where | None) -> Where:
        at = where.line if where else 1
        return replace(line.where, line=max(line.where.line, line.where.line + at - len(above)))

    items = tuple(replace(i, where=moved(i.where)) for i in sheet.configuration.items if i.block == block)
    unread = tuple(replace(u, where=moved(u.where)) for u in unread_lines(sheet, line.where.file))
    return (items if any(not _opens(i) for i in items) or unread else ()), unread
