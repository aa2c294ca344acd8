"""Another learner's numbers: values that are right in another variant of the lab."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import replace

from ...lab import Lab, read_lab
from ...sheet import AnyItem, Configuration, Gateway, OnPort, Route
from ..judging.attempt import Attempt
from ..judging.judge import Judge
from .edits import Edit, Of

FEWEST = 2
"""So many statements at least have to be the other variant's; one alone is a slip."""


def of_another_variant(
    judge: Judge, attempt: Attempt, edits: list[Edit], surplus: list[Edit]
) -> tuple[list[Edit], list[Edit]]:
    """Join the edits of all statements that are as another variant of the lab has them."""
    if not judge.lab.variables or len(edits) < FEWEST:
        return edits, surplus
    other = _likeliest(judge.lab, attempt, edits)
    if other is None:
        return edits, surplus
    counterparts = {
        name: _counterparts(judge.lab.model[name], other.model[name]) for name in judge.lab.devices
    }
    concerned = [e for e in edits if _is_the_others(e, counterparts[e.device], attempt)]
    said = {
        name: {(i.block, i.statement.plain()) for i in other.model[name].items} for name in judge.lab.devices
    }
    needless = [s for s in surplus if all((i.block, i.statement.plain()) in said[s.device] for i in s.remove)]
    if len(concerned) < FEWEST:
        return edits, surplus
    first, *rest = concerned
    subjects = tuple(dict.fromkeys(s for e in concerned for s in e.subjects))
    others = tuple(replace(e, subjects=()) for e in (*rest, *needless))
    whole = replace(first, of=Of.NUMBERS, subjects=subjects, others=others)
    return (
        [whole, *(e for e in edits if e not in concerned)],
        [s for s in surplus if s not in needless],
    )


def _variant(lab: Lab, values: Mapping[str, int]) -> Lab | None:
    """Read the lab, and the same stage of it, with other values."""
    read = read_lab(lab.text, values).lab
    return next((s for s in read.stages if s.stage == lab.stage), None) if read else None


def _likeliest(lab: Lab, attempt: Attempt, edits: list[Edit]) -> Lab | None:
    """Find the values for which most of the wrong statements would be right.

    Numbers grow evenly with a value: how much, two variants show.
    """
    votes: Counter[tuple[str, int]] = Counter()
    for name, variable in lab.variables.items():
        now = lab.values[name]
        probe = _variant(lab, {**lab.values, name: now + 1 if now < variable.high else now - 1})
        if probe is None:
            continue
        for device in lab.devices:
            pairs = _counterparts(lab.model[device], probe.model[device])
            found = [n for i in attempt.configurations[device].items for n in _numbers(i)]
            for ours, theirs in pairs.items():
                for mine, moved in zip(_numbers(ours), _numbers(theirs), strict=True):
                    step = (moved - mine) * (1 if now < variable.high else -1)
                    votes.update(
                        {(name, now + (n - mine) // step): 1 for n in found if step and n != mine and (n - mine) % step == 0}
                    )  # fmt: skip
    possible = [v for v in votes if lab.variables[v[0]].low <= v[1] <= lab.variables[v[0]].high]
    best = max(possible, key=lambda v: (votes[v], -v[1]), default=None)
    return _variant(lab, {**lab.values, best[0]: best[1]}) if best and votes[best] >= FEWEST else None


def _counterparts(ours: Configuration, theirs: Configuration) -> dict[AnyItem, AnyItem]:
    """Return the statements that differ between two variants: they stand in the same order."""
    if len(ours.items) != len(theirs.items):
        return {}
    pairs = zip(ours.items, theirs.items, strict=True)
    return {a: b for a, b in pairs if a != b and type(a.statement) is type(b.statement)}


def _numbers(item: AnyItem) -> list[int]:
    """Return the addresses of a statement as numbers."""
    said = item.statement
    if isinstance(said, OnPort):
        return [int(said.interface.ip)]
    if isinstance(said, Gateway):
        return [int(said.address)]
    if isinstance(said, Route):
        return [int(said.dest.network_address), int(said.next_hop or 0)]
    return []


def _is_the_others(edit: Edit, counterparts: Mapping[AnyItem, AnyItem], attempt: Attempt) -> bool:
    """Whether the learner has the other variant's statements in the place of what is wanted."""
    if edit.of is not Of.STATEMENT or not edit.add:
        return False
    there = {(i.block, i.statement.plain()) for i in attempt.configurations[edit.device].items}
    theirs = [counterparts.get(item) for item in edit.add]
    return all(t is not None and (t.block, t.statement.plain()) in there for t in theirs)
