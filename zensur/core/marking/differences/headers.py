"""Headers read otherwise than meant: indented, of a port that is not there, or with a reserved word for a name.

The sheet is read once more with that line written as it was probably meant; all that stands below it is one mistake.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from ...lab import Device
from ...sheet import Block, Configuration, Item, Statement, Where, read_sheets, sheet_of
from ...sheet.statements import Open
from ..reading.pairing import with_model_names
from ..reading.unread import Unread
from ..session import Attempt, Session
from .edits import Edit

INDENTED, RESERVED, NO_SUCH_PORT = "top-level-indented", "reserved-name", "no-such-port"


@dataclass(frozen=True)
class _Meant:
    """A line that opens a block, and how it was probably meant: by line number, lines in the place of others."""

    line: int
    code: str
    block: Block
    instead: Mapping[int, str]


def headers_meant(session: Session, attempt: Attempt, name: str) -> Iterator[Edit]:
    """Yield an edit for every header of a sheet that has to be written otherwise, with all that stands below it.

    To read a sheet once more is work as any other: counted, and at most once for a block of the model answer.
    """
    sheet, file = session.sheets.paper.sheets[name], session.sheets.paper.files.get(name, "")
    if sheet.form != "sheet":
        return
    lines = sheet.text.split("\n")
    for meant in _meant(session, attempt, name, lines):
        if session.is_cut_short:
            return
        session.spend(len(lines))
        written = [meant.instead.get(number, line) for number, line in enumerate(lines, 1)]
        own = sheet_of(read_sheets("\n".join(written), file), name).configuration
        edit = _edit(session, attempt, name, own, meant.block)
        if edit is not None:
            was = " ".join(lines[meant.line - 1].split())
            yield replace(edit, unread=Unread(Where(file, meant.line), was, code=meant.code))


def _edit(session: Session, attempt: Attempt, name: str, own: Configuration, block: Block) -> Edit | None:
    """Return what is read otherwise, where that is nearer to the model answer."""
    lab, learner = session.lab, attempt.configurations[name]
    model = lab.model[name]
    strict = session.facts.strict_names.get(name, frozenset())
    read = with_model_names(own, model, strict).over(lab.under[name])
    if len(set(read.items) & set(model.items)) <= len(set(learner.items) & set(model.items)):
        return None
    there, wanted = set(learner.items), set(read.items)
    header = read.header(block) or Item(block, Open())
    add = [i for i in read.items if i not in there and i != header]
    return Edit(name, tuple(i for i in learner.items if i not in wanted), (header, *add), ())


def _meant(session: Session, attempt: Attempt, name: str, lines: list[str]) -> Iterator[_Meant]:
    sheet, device = session.sheets.paper.sheets[name], session.lab.devices[name]
    model = session.lab.model[name]
    free = free_blocks(attempt.configurations[name], model)
    for remark in sheet.errors:
        line = lines[remark.line - 1] if remark.line <= len(lines) else ""
        if remark.code == INDENTED:
            block = next((b for b in free if _opens(line, b)), None)
            if block is not None:
                free.remove(block)
                yield _Meant(remark.line, INDENTED, block, {remark.line: line.lstrip()})
        elif remark.code == RESERVED:
            kind, *named = line.lower().split()[:2]
            block = next((b for b in free if b.kind == kind), None)
            if block is not None and named:
                free.remove(block)
                same = [r.line for r in sheet.errors if r.code == RESERVED]
                yield _Meant(remark.line, RESERVED, block, _renamed(lines, same, named[0], block.name))
    yield from _of_no_port(sheet.configuration, model, device, free)


def _opens(line: str, block: Block) -> bool:
    words = block.header().lower().split()
    return line.lower().split()[: len(words)] == words


def _renamed(lines: list[str], numbers: list[int], name: str, other: str) -> dict[int, str]:
    """Write another name for one that stands in some lines by itself, in each once."""
    word = re.compile(rf"(?<!\S){re.escape(name)}(?!\S)", re.IGNORECASE)
    return {n: word.sub(other, lines[n - 1], count=1) for n in numbers}


def free_blocks(learner: Configuration, model: Configuration) -> list[Block]:
    """Return the blocks of the model answer of which the learner has nothing."""
    filled = {i.block for i in learner.items if not isinstance(i.statement, Open)}
    return [b for b in dict.fromkeys(i.block for i in model.items) if b is not None and b not in filled]


def _of_no_port(
    own: Configuration, model: Configuration, device: Device, free: list[Block]
) -> Iterator[_Meant]:
    """Find headers of ports that the device does not have, and the port whose statements stand below each."""
    ports = [b for b in free if b.kind == "port" and b.sub_port_of is None]
    below: dict[int, set[Statement]] = {}
    for block in own.blocks("port"):
        header = own.header(block)
        if (
            header is not None
            and header.where
            and device.port(block.sub_port_of[0] if block.sub_port_of else block.name) is None
        ):
            held = {i.statement for i in own.items if i.block == block and not isinstance(i.statement, Open)}
            below.setdefault(header.where.line, set()).update(held)
    for line, held in sorted(below.items()):
        alike = {b: len(held & {i.statement for i in model.items if i.block == b}) for b in ports}
        best = max(ports, key=lambda b: alike[b], default=None)
        if best is not None and (alike[best] > 1 or len(ports) == 1):
            ports.remove(best)
            yield _Meant(line, NO_SUCH_PORT, best, {line: best.header()})
