"""What a paper would earn if a mistake of it were mended, and the others left as they are.

What a criterion still needs is what it needed before, without what is mended. Where that is nothing, as with a ping
that two mistakes together let pass, it is looked for among the other mistakes.
"""

from collections.abc import Collection
from dataclasses import replace

from .differences.cables import recabled
from .differences.edits import Edit, Of, apply
from .guarded import Guard, Guarded, guard_marks
from .judged import judge_all
from .named import Named
from .searched import Searched, needed_of
from .session import Session
from .sheets import Sheets


def without(named: Named, numbers: Collection[int], guard: Guard) -> Named:
    """Return what is named of a paper as it would be without some mistakes, by the numbers of their edits."""
    searched = named.searched
    edits = [searched.edits[n] for n in sorted(numbers)]
    session = Session(searched.session.memo, _with(searched.session, edits))
    guarded = _as_answered(guard_marks(judge_all(session), guard), edits)
    lost = {
        i: c
        for i, _, c in session.facts.criteria
        if guarded.earned[i] < 1 and i not in guarded.untouched
    }  # fmt: skip
    needs = {i: tuple(n for n in searched.needs.get(i, ()) if n not in numbers) for i in lost}
    left = [n for n in named.faults if n not in numbers]
    new = {i: c for i, c in lost.items() if not needs[i]}
    again = needed_of(session, [searched.edits[n] for n in left], new)
    needs |= {i: tuple(left[n] for n in own) for i, own in again.items()}
    faults = {
        n: replace(
            named.faults[n], consequences=tuple(i for i, c in lost.items() if c.is_outcome and n in needs[i])
        )
        for n in left
    }
    return Named(Searched(guarded, lost, searched.edits, searched.base, needs), faults)


def _with(session: Session, edits: list[Edit]) -> Sheets:
    """Return the sheets of a paper with some edits made."""
    sheets = session.sheets
    made = apply(edits, sheets.configurations)
    links = recabled(sheets.cabled.links, session.lab.links, [e for e in edits if e.of is Of.CABLE])
    return replace(
        sheets,
        configurations={**sheets.configurations, **made},
        cabled=replace(sheets.cabled, links=links),
    )


def _as_answered(guarded: Guarded, edits: list[Edit]) -> Guarded:
    """Give the questions their marks that some edits are about: no statement answers them."""
    answered = {ident: 1.0 for edit in edits if edit.of is Of.ANSWER for ident in edit.subjects}
    return replace(guarded, earned={**guarded.earned, **answered})
