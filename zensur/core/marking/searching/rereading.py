"""What has to be read again before a paper is compared line by line: sheets exchanged, headers not understood.

Each becomes one edit, which lets stand what the learner wrote; what is wrong in there is a mistake of its own.
"""

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations

from ...sheet import AnyItem, Block, Configuration, Switched, Where, read_sheet
from ...sheet.statements import Open
from ..judging.judge import Attempt, Judge
from ..judging.pairing import with_model_names
from ..judging.unread import Unread
from .edits import Edit, Of, apply
from .meant import header_meant

FEWEST = 4
"""A sheet of fewer statements says too little about whose it is."""
FEWEST_EXCHANGED = 2
"""Two sheets that are each other's say more."""


def reread(judge: Judge, attempt: Attempt) -> tuple[list[Edit], Attempt]:
    """Return the edits, and the attempt with them made."""
    edits = [*_exchanged(judge, attempt), *_headers(judge, attempt)]
    if not edits:
        return [], attempt
    mended = attempt.with_devices(apply(edits, attempt.configurations))
    return [_with_subjects(judge, attempt, mended, edit) for edit in edits], mended


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
    """Return the device whose sheet was handed in for another: most of it stands in that one's model answer, and not here."""
    given = _said(judge.lab.blank[name])
    own = _said(attempt.configurations[name]) - given
    if len(own) < fewest:
        return None
    here = len(own & _said(judge.lab.model[name]))
    there, device = max(
        ((len(own & _said(model)), other) for other, model in judge.lab.model.items() if other != name),
        key=lambda found: found[0],
        default=(0, ""),
    )
    return device if 2 * there > len(own) and 3 * here < len(own) else None


def _said(configuration: Configuration) -> set[object]:
    """What tells a sheet from another's: all its statements but headers and switches."""
    return {
        (i.block, i.statement.plain())
        for i in configuration.items
        if not isinstance(i.statement, Open | Switched)
    }


def _exchanged(judge: Judge, attempt: Attempt) -> Iterator[Edit]:
    """Find two devices that each have the other's sheet."""
    of = {name: owner(judge, attempt, name, FEWEST_EXCHANGED) for name in judge.lab.devices}
    for one, other in combinations(judge.lab.devices, 2):
        if of[one] == other and of[other] == one:
            yield _instead(judge, attempt, one, other, (_instead(judge, attempt, other, one),))


def _instead(judge: Judge, attempt: Attempt, name: str, of: str, others: tuple[Edit, ...] = ()) -> Edit:
    """Put what was handed in as the sheet of a device in the place of another's."""
    lab = judge.lab
    under = {i.slot for i in lab.under[of].items}
    own = Configuration.of_items(i for i in attempt.configurations[of].items if i.slot not in under)
    wanted = with_model_names(own, lab.model[name]).over(lab.under[name])
    found = attempt.configurations[name]
    remove = tuple(i for i in found.items if i not in wanted.items)
    add = tuple(i for i in wanted.items if i not in found.items)
    return Edit(name, remove, add, (), of=Of.EXCHANGE, others=others)


def _headers(judge: Judge, attempt: Attempt) -> Iterator[Edit]:
    """Find headers that were not understood, with the lines that were left out with them."""
    for name, lines in attempt.unread.items():
        learner, model = attempt.configurations[name], judge.lab.model[name]
        free = [b for b in _blocks(model) if not any(i.block == b and not _opens(i) for i in learner.items)]
        for line in lines:
            block = header_meant(line, free) if any(text.strip() for text in line.under) else None
            if block is None:
                continue
            items = tuple(_read(line, block))
            if items:
                free.remove(block)
                yield Edit(name, (), items, (), unread=line)


def _blocks(configuration: Configuration) -> list[Block]:
    return list(dict.fromkeys(i.block for i in configuration.items if i.block is not None))


def _opens(item: AnyItem) -> bool:
    return isinstance(item.statement, Open)


def _read(line: Unread, block: Block) -> list[AnyItem]:
    """Read the block as it was probably meant, each statement with the line where it stands."""
    rest = line.text.split()[len(block.header().split()) :]
    above = [block.header(), *([f"  {' '.join(rest)}"] if rest else [])]
    items = read_sheet("\n".join([*above, *line.under]), line.where.file).configuration.items
    if not any(not _opens(i) for i in items):
        return []
    first = line.where.line

    def moved(item: AnyItem) -> AnyItem:
        at = item.where.line if item.where else 1
        return replace(item, where=Where(line.where.file, max(first, first + at - len(above))))

    return [moved(i) for i in items if i.block == block]
