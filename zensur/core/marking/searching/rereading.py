"""What has to be read again before a paper is compared line by line: sheets exchanged, headers not understood.

Each becomes one edit, which lets stand what the learner wrote; what is wrong in there is a mistake of its own.
"""

from collections.abc import Iterator
from dataclasses import replace

from ...sheet import AnyItem, Block, Configuration, Where, read_sheet
from ...sheet.statements import Open
from ..judging.attempt import Attempt
from ..judging.judge import Judge, telling
from ..judging.pairing import with_model_names
from ..judging.unread import Unread, unread_lines
from .edits import Edit, Of, apply
from .meant import header_meant

FEWEST = 3
"""So many statements have to tell two devices apart before a sheet is said to be the other's."""


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


def owner(judge: Judge, attempt: Attempt, name: str) -> str | None:
    """Return the device whose sheet was handed in for another."""
    others = (o for o in judge.lab.devices if o != name)
    return next((o for o in others if _is_of(judge, attempt, name, o, FEWEST, 2 / 3)), None)


def _is_of(judge: Judge, attempt: Attempt, name: str, other: str, fewest: int, share: float) -> bool:
    """Say whether the sheet of a device is another's.

    Of the ``fewest`` statements at least that tell the two apart, a ``share`` of the other's stands there, and hardly
    anything of this one's.
    """
    sheet = attempt.sheets.get(name)
    if sheet is None or not sheet.items or name in attempt.as_model:
        return False
    (model, under), (theirs, given) = judge.telling[name], judge.telling[other]
    own, foreign = model - under - theirs, theirs - model - given
    if len(foreign) < fewest or not telling(sheet) & foreign:
        return False
    if 4 * len(telling(attempt.configurations[name]) & own) > len(own):
        return False
    there = telling(with_model_names(sheet, judge.lab.model[other])) & foreign
    return len(there) >= share * len(foreign)


def _exchanged(judge: Judge, attempt: Attempt) -> Iterator[Edit]:
    """Find two devices that each have the other's sheet: where one clearly has, the other need show less."""
    sure = [
        (one, other)
        for one in judge.lab.devices
        for other in judge.lab.devices
        if one != other and _is_of(judge, attempt, one, other, 2, 2 / 3)
    ]
    done: set[str] = set()
    order = list(judge.lab.devices)
    for pair in sure:
        if not done & set(pair) and _is_of(judge, attempt, pair[1], pair[0], 1, 1 / 2):
            done |= set(pair)
            first, second = sorted(pair, key=order.index)
            yield _instead(judge, attempt, first, second, (_instead(judge, attempt, second, first),))


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
