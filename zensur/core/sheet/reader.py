"""Reads a sheet. It never raises: what can be read counts, what cannot is left out and reported."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..addresses import BadValue
from .configuration import AnyItem, Block, Configuration, Item, Where
from .decoding import decode
from .diagnostics import Diagnostic, Remarks, Severity
from .statements import BLOCKS, TOP, Open, Statement, statements_of
from .words import Line, check_name, nearest

MOST_BYTES = 256 * 1024
MOST_LINES = 20_000
MOST_NAMES = 32

_HEADERS = {kind.word: kind for kind in BLOCKS}
_WORDS = {place: statements_of(place) for place in (TOP, *_HEADERS)}


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet as read: its configuration, the remarks on it (``more`` beyond the first 200), its text."""

    configuration: Configuration
    diagnostics: tuple[Diagnostic, ...]
    more: int
    text: str

    @property
    def errors(self) -> tuple[Diagnostic, ...]:
        """The remarks that tell of something left out."""
        return tuple(d for d in self.diagnostics if d.severity is Severity.ERROR)


def read_sheet(source: str | bytes, file: str = "") -> Sheet:
    """Read one sheet; ``file`` is the name that every value remembers."""
    text, remarks = decode(source, MOST_BYTES, MOST_LINES)
    reading = _Reading(file, remarks)
    for number, line in enumerate(text.split("\n"), 1):
        reading.line(number, Line(line))
    if not reading.items and not remarks.kept:
        remarks.add(
            Diagnostic(Severity.WARNING, "empty-sheet", 1, 1, 1, "The sheet is empty: it configures nothing.")
        )
    items = Configuration.of_items(reading.items.values())
    return Sheet(items, tuple(remarks.kept), remarks.more, text)


class _Reading:
    """The state between two lines: the open blocks, and what has been read so far by its slot."""

    def __init__(self, file: str, remarks: Remarks) -> None:
        self.file = file
        self.remarks = remarks
        self.items: dict[tuple[object, ...], AnyItem] = {}
        self.blocks: list[Block] | None = None
        self.lost = False  # the header above could not be read: its lines are left out with it

    def line(self, number: int, line: Line) -> None:
        if not line.words:
            return
        where = Where(self.file, number)
        line.hints = not self.remarks.full
        try:
            if line.indented:
                self._in_block(line, where)
            elif line.peek() in _HEADERS:
                self._header(line, where)
            else:
                self._top(line, where)
        except BadValue as bad:
            column, end = line.span(max(0, line.at - 1) if bad.code != "unexpected-word" else line.at)
            if bad.code == "missing-word":
                column = end = line.words[-1].end
            self._say(Severity.ERROR, bad.code, number, column, end, str(bad), bad.suggestion)

    def _header(self, line: Line, where: Where) -> None:
        self.blocks, self.lost = None, True
        kind = line.take("The header").lower()
        names = [check_name(line.take("The name"))]
        while line.left:
            names.append(check_name(line.take("The name")))
            if len(names) > MOST_NAMES:
                raise BadValue("too-many-names", f"A header names at most {MOST_NAMES} {kind}s.")
        self.blocks, self.lost = [Block(kind, name) for name in names], False
        for block in self.blocks:
            opened: AnyItem = Item(block, Open(), where)
            self.items.setdefault(opened.slot, opened)

    def _top(self, line: Line, where: Where) -> None:
        kind = _WORDS[TOP].get(line.peek() or "")
        if kind is None:
            inside = [place for place in _HEADERS if line.peek() in _WORDS[place]]
            if inside:  # the block above stays open: forgetting the indent should not cost the lines below
                raise _at_first(line, _belongs(line, inside))
            self.blocks, self.lost = None, True
            raise _at_first(line, _unknown(line, [*_WORDS[TOP], *_HEADERS]))
        self.blocks, self.lost = None, False
        self._keep(None, _read(kind, line), where, line)

    def _in_block(self, line: Line, where: Where) -> None:
        if self.lost:
            return
        if self.blocks is None:
            raise _at_first(
                line,
                BadValue(
                    "indented-outside",
                    "This line is indented, but stands under no header: indented lines belong to a port or "
                    "loopback above them.",
                ),
            )
        kind = _WORDS[self.blocks[0].kind].get(line.peek() or "")
        if kind is None:
            word = line.words[0].text
            if line.peek() in _WORDS[TOP] or line.peek() in _HEADERS:
                raise _at_first(
                    line, BadValue("top-level-indented", f"{word} stands in the first column, not indented.")
                )
            raise _at_first(
                line, _unknown(line, _WORDS[self.blocks[0].kind], f" under {self.blocks[0].kind}")
            )
        statement = _read(kind, line)
        for block in self.blocks:
            self._keep(block, statement, where, line)

    def _keep(self, block: Block | None, statement: Statement, where: Where, line: Line) -> None:
        item: AnyItem = Item(block, statement, where)
        before = self.items.get(item.slot)
        if before is not None and before.where is not None:
            last = statement.SPEC.last_counts
            self._say(
                Severity.NOTE,
                "said-twice",
                where.line,
                line.words[0].column,
                line.words[-1].end,
                f"This was said before, in line {before.where.line}; {'this line' if last else 'that line'} counts.",
            )
            if not last:
                return
            del self.items[item.slot]
        self.items[item.slot] = item

    def _say(
        self,
        severity: Severity,
        code: str,
        line: int,
        column: int,
        end: int,
        message: str,
        mend: str | None = None,
    ) -> None:
        self.remarks.add(Diagnostic(severity, code, line, column, end, message, mend))


def _at_first(line: Line, bad: BadValue) -> BadValue:
    """Point the error at the first word of the line."""
    line.at = 1
    return bad


def _unknown(line: Line, known: Iterable[str], place: str = "") -> BadValue:
    word = line.words[0].text[:40]
    ours = nearest(word, known, line)
    return BadValue(
        "unknown-word",
        f"{word} is not a word that can stand here{place}." + (f" Did you mean {ours}?" if ours else ""),
        ours,
    )


def _belongs(line: Line, inside: list[str]) -> BadValue:
    word = line.words[0].text
    return BadValue(
        "not-indented",
        f"{word} belongs under a {' or '.join(inside)}: write it below the header, indented.",
        f"  {line.text.strip()}",
    )


def _read(kind: type[Statement], line: Line) -> Statement:
    """Read the statement in the form that gets furthest; raises what stopped that one."""
    best: BadValue | None = None
    furthest = -1
    wanted: list[str] = []
    for form in kind.SPEC.forms:
        line.at = 0
        try:
            values = form.read(line)
        except BadValue as bad:
            if line.at > furthest:
                furthest, best, wanted = line.at, bad, []
            if line.at == furthest and bad.suggestion and bad.code in ("unexpected-word", "missing-word"):
                wanted.append(bad.suggestion)
            continue
        _read_tails(kind, line, values)
        return kind.build(values)
    assert best is not None  # every statement has a form
    line.at = furthest
    raise _one_of(wanted, line, best) if len(wanted) > 1 else best


def _read_tails(kind: type[Statement], line: Line, values: dict[str, object]) -> None:
    tails = {str(tail.must[0]): tail for tail in kind.SPEC.tails}
    while line.left:
        tail = tails.pop(line.peek() or "", None)
        if tail is None:
            word = line.take("A word")
            ours = nearest(word, tails, line)
            hint = f" Did you mean {ours}?" if ours else " Put a # before a comment."
            raise BadValue("extra-words", f"The statement is complete before {word[:40]}.{hint}", ours)
        values.update(tail.read(line))


def _one_of(wanted: list[str], line: Line, best: BadValue) -> BadValue:
    found = line.peek()
    choice = f"{', '.join(wanted[:-1])} or {wanted[-1]}"
    if not found:
        return BadValue("missing-word", f"The line ends too early: {choice} is wanted next.")
    ours = nearest(found, wanted, line)
    return BadValue(best.code, f"{choice} is wanted here, not {found[:40]}.", ours)
