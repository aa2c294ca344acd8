"""Headers read otherwise than meant: indented, of a port that is not there, or with a reserved word for a name.

The sheet is read once more with that line written as it was probably meant; all that stands below it is one mistake.
"""

from collections.abc import Iterator
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
    """A line that opens a block, and how it was probably meant: by line number the words in place of others."""

    line: int
    code: str
    block: Block
    instead: dict[int, tuple[str, str]]


def headers_meant(session: Session, attempt: Attempt, name: str) -> Iterator[Edit]:
    """Yield an edit for every header of a sheet that has to be written otherwise, with all that stands below it."""
    sheet, file = session.sheets.paper.sheets[name], session.sheets.paper.files.get(name, "")
    for meant in _meant(session, attempt, name):
        lines = sheet.text.split("\n")
        was = " ".join(lines[meant.line - 1].split())
        for number, (word, other) in meant.instead.items():
            lines[number - 1] = lines[number - 1].lstrip().replace(word, other, 1)
        own = sheet_of(read_sheets("\n".join(lines), file), name).configuration
        edit = _edit(session, attempt, name, own, meant.block)
        if edit is not None:
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


def _meant(session: Session, attempt: Attempt, name: str) -> Iterator[_Meant]:
    sheet, device = session.sheets.paper.sheets[name], session.lab.devices[name]
    learner, model = attempt.configurations[name], session.lab.model[name]
    free = _free(learner, model)
    lines = sheet.text.split("\n")
    for remark in sheet.errors:
        words = lines[remark.line - 1].lower().split() if remark.line <= len(lines) else []
        if remark.code == INDENTED:
            block = next(
                (b for b in free if b.header().lower().split() == words[: len(b.header().split())]), None
            )
            if block is not None:
                yield _Meant(remark.line, INDENTED, block, {remark.line: ("", "")})
        elif remark.code == RESERVED and len(words) > 1:
            block = next((b for b in free if b.kind == words[0]), None)
            if block is not None:
                same = {r.line for r in sheet.errors if r.code == RESERVED}
                put = {
                    n: (f" {words[1]}", f" {block.name}")
                    for n in same
                    if words[1] in lines[n - 1].lower().split()
                }
                yield _Meant(remark.line, RESERVED, block, put)
    yield from _of_no_port(sheet.configuration, model, device, free, lines)


def _free(learner: Configuration, model: Configuration) -> list[Block]:
    """Return the blocks of the model answer of which the learner has nothing."""
    filled = {i.block for i in learner.items if not isinstance(i.statement, Open)}
    return [b for b in dict.fromkeys(i.block for i in model.items) if b is not None and b not in filled]


def _of_no_port(
    own: Configuration, model: Configuration, device: Device, free: list[Block], lines: list[str]
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
            yield _Meant(line, NO_SUCH_PORT, best, {line: (lines[line - 1].strip(), best.header())})
