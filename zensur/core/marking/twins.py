"""Papers that agree in every statement are marked once: the second takes over what was found, at its own lines."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, replace

from ..sheet import Configuration, Where
from .charged import Charged
from .session import Session
from .shapes import Extra, Fault, Marked

Moved = Callable[[Where], Where]


def twin_key(session: Session) -> Hashable | None:
    """Return what all twins of a paper have in common; None where it says more than its statements do.

    Lines that were not understood, answers to questions and cables are a paper's own.
    """
    sheets = session.sheets
    if any(sheets.unread.values()) or sheets.paper.answers or sheets.paper.cabling is not None:
        return None
    written = tuple(c.written for c in session.paper.configurations.values())
    forms = frozenset((name, s.form) for name, s in sheets.paper.sheets.items() if s.form != "sheet")
    return session.paper.state, written, sheets.missing, frozenset(sheets.own), forms


@dataclass(frozen=True, slots=True)
class Twin:
    """What was found of a paper, with its configurations, by which its lines are known."""

    configurations: Mapping[str, Configuration]
    criteria: tuple[Marked, ...]
    faults: tuple[Fault, ...]
    extras: tuple[Extra, ...]
    cut_short: bool

    @classmethod
    def of(cls, charged: Charged) -> "Twin":
        """Keep what was found, and let go of the session that found it."""
        configurations = charged.session.paper.configurations
        return cls(configurations, charged.criteria, charged.faults, charged.extras, charged.cut_short)


def at_own_lines(twin: Twin, session: Session) -> Charged | None:
    """Return what was found of a twin with the lines of another paper; None where they cannot be told apart.

    Statements that share a line in the one paper may stand in several in the other.
    """
    lines: dict[Where, Where] = {}
    for name, own in session.paper.configurations.items():
        for item, mine in zip(twin.configurations[name].items, own.items, strict=True):
            if item.where is not None and mine.where is not None:
                if lines.setdefault(item.where, mine.where) != mine.where:
                    return None
            elif item.where is not mine.where:
                return None
    files = session.sheets.paper.files

    def moved(where: Where) -> Where:
        return lines.get(where, where)

    return Charged(
        session,
        tuple(_criterion(c, moved) for c in twin.criteria),
        tuple(_fault(f, moved, files) for f in twin.faults),
        tuple(_extra(e, moved) for e in twin.extras),
        twin.cut_short,
    )


def _criterion(criterion: Marked, moved: Moved) -> Marked:
    return replace(criterion, lines=tuple(map(moved, criterion.lines))) if criterion.lines else criterion


def _fault(fault: Fault, moved: Moved, files: Mapping[str, str]) -> Fault:
    if fault.in_front_of is not None:
        fault = replace(fault, in_front_of=moved(fault.in_front_of))
    if fault.line is None or fault.file is None:
        return replace(fault, file=files.get(fault.device))
    where = moved(Where(fault.file, fault.line))
    return replace(fault, file=where.file, line=where.line, also=tuple(map(moved, fault.also)))


def _extra(extra: Extra, moved: Moved) -> Extra:
    if extra.line is None or extra.file is None:
        return extra
    where = moved(Where(extra.file, extra.line))
    return replace(extra, file=where.file, line=where.line)
