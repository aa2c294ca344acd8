"""What has to be read again before a paper is compared line by line: sheets exchanged, headers not understood.

Each becomes one edit, which lets stand what the learner wrote; what is wrong in there is a mistake of its own.
"""

from collections.abc import Iterator
from dataclasses import replace

from ...sheet import AnyItem, Block, Where, read_sheet
from ...sheet.statements import Open
from ..facts import identifying
from ..reading.meant import header_meant
from ..reading.pairing import with_model_names
from ..reading.unread import Unread, UnreadLines, unread_lines
from ..session import Attempt, Session
from .edits import Edit, Of, apply
from .headers import free_blocks, headers_meant

FEWEST = 3
"""So many statements have to tell two devices apart before a sheet is said to be the other's."""


def reread(session: Session) -> tuple[list[Edit], Attempt, UnreadLines]:
    """Return the edits, the paper with them made, and the lines that are still not understood."""
    attempt = session.paper
    edits = list(_exchanged(session, attempt))
    exchanged = {name for edit in edits for name in edit.devices}
    foreign = {n for n in session.sheets.own if n not in exchanged and owner(session, attempt, n)}
    own = (n for n in session.sheets.own if n not in exchanged | foreign)
    edits += (edit for name in own for edit in headers_meant(session, attempt, name))
    settled = {(edit.device, edit.unread.where.line) for edit in edits if edit.unread is not None}
    unread = {
        name: tuple(line for line in lines if (name, line.where.line) not in settled)
        for name, lines in session.sheets.unread.items()
    }
    of_own = {name: lines for name, lines in unread.items() if name not in foreign}
    for edit, inside in list(_headers(session, attempt, of_own)):
        edits.append(edit)
        unread[edit.device] = (*unread[edit.device], *inside)
    if not edits:
        return [], attempt, unread
    mended = attempt.with_devices(apply(edits, attempt.configurations))
    return [_with_subjects(session, attempt, mended, edit) for edit in edits], mended, unread


def _with_subjects(session: Session, before: Attempt, after: Attempt, edit: Edit) -> Edit:
    """Name the criteria that the edit makes better."""
    better = tuple(
        c.id
        for c in session.criteria
        if not c.is_run
        and c.device in edit.devices
        and session.judge(c, before).fraction < session.judge(c, after).fraction
    )
    return replace(edit, subjects=better)


def owner(session: Session, attempt: Attempt, name: str) -> str | None:
    """Return the device whose sheet was handed in for another."""
    others = (o for o in session.lab.devices if o != name)
    return next((o for o in others if _is_of(session, attempt, name, o, FEWEST, 2 / 3)), None)


def _is_of(session: Session, attempt: Attempt, name: str, other: str, fewest: int, share: float) -> bool:
    """Say whether the sheet of a device is another's.

    Of the ``fewest`` statements at least that tell the two apart, a ``share`` of the other's stands there, and hardly
    anything of this one's.
    """
    sheet = session.sheets.own.get(name)
    if sheet is None or not sheet.items or attempt.is_model(name):
        return False
    own_ones, of_others = session.facts.identifying, session.facts.identifying_given
    model, under, theirs, given = own_ones[name], of_others[name], own_ones[other], of_others[other]
    own, foreign = model - under - theirs, theirs - model - given
    if len(foreign) < fewest or not identifying(sheet) & foreign:
        return False
    if 4 * len(identifying(attempt.configurations[name]) & own) > len(own):
        return False
    if session.sheets.own.get(other) == sheet and len(sheet.items) >= fewest:
        return True  # handed in for both
    there = identifying(with_model_names(sheet, session.lab.model[other])) & foreign
    return len(there) >= share * len(foreign)


def _exchanged(session: Session, attempt: Attempt) -> Iterator[Edit]:
    """Find two devices that each have the other's sheet: where one clearly has, the other need show less."""
    sure = [
        (one, other)
        for one in session.lab.devices
        for other in session.lab.devices
        if one != other and _is_of(session, attempt, one, other, 2, 2 / 3)
    ]
    done: set[str] = set()
    order = list(session.lab.devices)
    for pair in sure:
        if not done & set(pair) and _is_of(session, attempt, pair[1], pair[0], 1, 1 / 2):
            done |= set(pair)
            first, second = sorted(pair, key=order.index)
            yield _instead(session, attempt, first, second, (_instead(session, attempt, second, first),))


def _instead(session: Session, attempt: Attempt, name: str, of: str, others: tuple[Edit, ...] = ()) -> Edit:
    """Put what was handed in as the sheet of a device in the place of another's."""
    lab, found = session.lab, attempt.configurations[name]
    wanted = with_model_names(session.sheets.own[of], lab.model[name]).over(lab.under[name])
    remove = tuple(i for i in found.items if i not in wanted.items)
    add = tuple(i for i in wanted.items if i not in found.items)
    return Edit(name, remove, add, (), of=Of.EXCHANGE, others=others)


def _headers(
    session: Session, attempt: Attempt, unread: UnreadLines
) -> Iterator[tuple[Edit, tuple[Unread, ...]]]:
    """Find headers that were not understood, with the lines that were left out with them.

    Yields with each the lines below it that would not be understood either.
    """
    for name, lines in unread.items():
        free = free_blocks(attempt.configurations[name], session.lab.model[name])
        for line in lines:
            block = header_meant(line, free) if any(text.strip() for text in line.under) else None
            if block is None:
                continue
            items, inside = _read(line, block)
            if items:
                free.remove(block)
                yield Edit(name, (), items, (), unread=line), inside


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
