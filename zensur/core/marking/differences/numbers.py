"""Another learner's numbers: values that are right in another variant of the lab."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import lru_cache

from ...lab import Lab, read_lab
from ...sheet import AnyItem, Configuration, Gateway, OnPort, Route
from ..session import Attempt, Session
from .edits import Edit, Of

FEWEST = 2
"""So many statements at least have to be the other variant's; one alone is a slip."""


def of_another_variant(
    session: Session, attempt: Attempt, edits: list[Edit], surplus: list[Edit]
) -> tuple[list[Edit], list[Edit]]:
    """Join the edits of all statements that are as another variant of the lab has them."""
    if not session.lab.variables or len(edits) < FEWEST:
        return edits, surplus
    tried = [
        (other, _concerned(session.lab, other, attempt, edits)) for other in _likely(session.lab, attempt)
    ]
    other, concerned = max(tried, key=lambda one: len(one[1]), default=(session.lab, []))
    if len(concerned) < FEWEST:
        return edits, surplus
    planned = {
        name: {(i.block, i.statement.plain()) for i in other.model[name].items}
        for name in session.lab.devices
    }
    needless = [
        s for s in surplus if all((i.block, i.statement.plain()) in planned[s.device] for i in s.remove)
    ]
    first, *rest = concerned
    subjects = tuple(dict.fromkeys(s for e in concerned for s in e.subjects))
    others = tuple(replace(e, subjects=()) for e in (*rest, *needless))
    whole = replace(first, of=Of.NUMBERS, subjects=subjects, others=others)
    return (
        [whole, *(e for e in edits if e not in concerned)],
        [s for s in surplus if s not in needless],
    )


def _concerned(lab: Lab, other: Lab, attempt: Attempt, edits: list[Edit]) -> list[Edit]:
    """Return the edits of what the learner has as another variant has it."""
    counterparts = {name: _counterparts(lab.model[name], other.model[name]) for name in lab.devices}
    return [e for e in edits if _is_the_others(e, counterparts[e.device], attempt)]


def _variant(lab: Lab, values: Mapping[str, int]) -> Lab | None:
    """Read the lab, and the same stage of it, with other values."""
    return _read_variant(lab.text, lab.stage, tuple(values.items()))


@lru_cache(maxsize=64)
def _read_variant(text: str, stage: str, values: tuple[tuple[str, int], ...]) -> Lab | None:
    read = read_lab(text, dict(values)).lab
    return next((s for s in read.stages if s.stage == stage), None) if read else None


def _likely(lab: Lab, attempt: Attempt) -> Iterator[Lab]:
    """Yield the variants for which most of the wrong statements would be right.

    Another learner has other values for every variable, or by chance the same for some: all that are likely
    together are tried, and each alone.
    """
    likely = {name: value for name in lab.variables if (value := _value(lab, attempt, name)) is not None}
    tried = [likely, *({name: value} for name, value in likely.items() if len(likely) > 1)]
    for values in tried if likely else []:
        other = _variant(lab, {**lab.values, **values})
        if other is not None:
            yield other


def _value(lab: Lab, attempt: Attempt, name: str) -> int | None:
    """Find the value of a variable that most of the wrong numbers speak for.

    Numbers grow evenly with a value: how much, a variant beside this one shows.
    """
    variable, now = lab.variables[name], lab.values[name]
    step_to = 1 if now < variable.high else -1
    probe = _variant(lab, {**lab.values, name: now + step_to})
    if probe is None:
        return None
    votes: Counter[int] = Counter()
    for device in lab.devices:
        found = {n for i in attempt.configurations[device].items for n in _numbers(i)}
        for ours, theirs in _counterparts(lab.model[device], probe.model[device]).items():
            for mine, moved in zip(_numbers(ours), _numbers(theirs), strict=True):
                step = (moved - mine) * step_to
                fitting = (n for n in found if step and n != mine and (n - mine) % step == 0)
                votes.update({now + (n - mine) // step for n in fitting})
    possible = [v for v in votes if variable.low <= v <= variable.high and votes[v] >= FEWEST]
    return max(possible, key=lambda v: (votes[v], -v), default=None)


def _counterparts(ours: Configuration, theirs: Configuration) -> dict[AnyItem, AnyItem]:
    """Return the statements that differ between two variants: they stand in the same order."""
    if len(ours.items) != len(theirs.items):
        return {}
    pairs = zip(ours.items, theirs.items, strict=True)
    return {a: b for a, b in pairs if a != b and type(a.statement) is type(b.statement)}


def _numbers(item: AnyItem) -> list[int]:
    """Return the addresses of a statement as numbers."""
    statement = item.statement
    if isinstance(statement, OnPort):
        return [int(statement.interface.ip)]
    if isinstance(statement, Gateway):
        return [int(statement.address)]
    if isinstance(statement, Route):
        return [int(statement.dest.network_address), int(statement.next_hop or 0)]
    return []


def _is_the_others(edit: Edit, counterparts: Mapping[AnyItem, AnyItem], attempt: Attempt) -> bool:
    """Whether the learner has the other variant's statements in the place of what is wanted."""
    if edit.of not in (Of.STATEMENT, Of.FOLLOWING) or not edit.add:
        return False
    there = {(i.block, i.statement.plain()) for i in attempt.configurations[edit.device].items}
    theirs = [counterparts.get(item) for item in edit.add]
    return all(t is not None and (t.block, t.statement.plain()) in there for t in theirs)
