"""Criteria about single statements that stand or do not: settings, names, descriptions, what has to be gone."""

import re

from ...lab import Criterion
from ...sheet import AnyItem, Block, Configuration
from ...sheet.statement import folded
from ...sheet.statements import About, Instance, Member, Name, Route
from ..result import Judged
from .attempt import Attempt
from .judge import Judge
from .shown import header_of, lines_of, texts_of


def same_statement(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare statements that stand or do not: realm, setting, service, instance."""
    learner = attempt.configurations[criterion.device]
    wanted = judge.counted(criterion)
    said = {i.slot: i for i in learner.items}
    found = [said[w.slot] for w in wanted if w.slot in said]
    right = [
        f
        for f, w in ((said.get(w.slot), w) for w in wanted)
        if f and f.statement.plain() == w.statement.plain()
    ]
    fraction = len(right) / len(wanted) if wanted else 1.0
    block = wanted[0].block if wanted else None
    return Judged(
        fraction, texts_of(wanted), texts_of(found), lines_of(found) or lines_of(header_of(learner, block))
    )


def absent(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether what first words name is gone."""
    found = attempt.configurations[criterion.device].named_by(criterion.operand)
    return Judged(
        float(not found), f"no {criterion.operand}", found[0].text() if found else "gone", lines_of(found)
    )


def name(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare the device's own name."""
    wanted, found = (c[criterion.device].one(Name) for c in (judge.lab.model, attempt.configurations))
    required = wanted.statement.name if wanted else criterion.device
    said = found.statement.name if found else None
    return Judged(
        float((said or "").lower() == required.lower()), required, said or "no name", lines_of([found])
    )


def about(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare a description: the same, or like a pattern."""

    def described(configuration: Configuration) -> tuple[str | None, AnyItem | None]:
        if criterion.operand.startswith("route "):
            dest = criterion.operand.removeprefix("route ")
            routes = [r for r in configuration.all(Route) if str(r.statement.dest) == dest]
            one = next((r for r in routes if r.statement.about), routes[0] if routes else None)
            return (one.statement.about, one) if one else (None, None)
        block = configuration.bearer(criterion.operand)
        said = configuration.one(About, block) if block else None
        return (said.statement.said, said) if said else (None, None)

    required, _ = described(judge.lab.model[criterion.device])
    found, item = described(attempt.configurations[criterion.device])
    if criterion.like is not None:
        right, required = bool(found and re.search(criterion.like, found)), f"like {criterion.like}"
    else:
        right = found == required
    return Judged(float(right), required or "a description", found or "no description", lines_of([item]))


def vlan(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether a switch declares a VLAN."""
    header = attempt.configurations[criterion.device].header(Block("vlan", criterion.operand))
    said = f"vlan {criterion.operand}"
    return Judged(float(header is not None), said, said if header else "not declared", lines_of([header]))


def instance(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether a port belongs to its instance, which has to be declared."""
    judged = same_statement(judge, criterion, attempt)
    learner = attempt.configurations[criterion.device]
    member = learner.one(Member, judge.block(criterion))
    declared = {folded(i.statement.name) for i in learner.all(Instance)}
    if member is None or folded(member.statement.instance) in declared:
        return judged
    return Judged(0.0, judged.required, f"{judged.found}, which is not declared", judged.lines)
