"""The scheme as it is used, with the places of its entries in the file; a derived one is written out to be changed."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Literal

from ..lab import EMPTY, Criterion, Lab, Task
from ..lab.criteria import entry_of
from ..marking.facts import LabFacts
from ..marking.scheme import tasks_of
from ..sheet import Gateway
from .draft import CannotEdit, Draft


@dataclass(frozen=True, slots=True, kw_only=True)
class CriterionRow:
    """A criterion as it is used: ``place`` is its entry in the file, empty where the scheme is derived.

    ``asks`` says in the words of the model answer what is asked, ``further`` the other keys of the entry.
    """

    id: str
    key: str
    device: str
    operand: str
    marks: float
    asks: str
    place: str
    further: dict[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskRow:
    """A task with its criteria; ``place`` is its entry in the file."""

    title: str
    marks: float
    place: str
    criteria: tuple[CriterionRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SchemeRows:
    """The scheme of a stage; ``derived`` says that the file lists no tasks, ``missing`` what the derived one would ask
    beyond it; ``place`` is that of the scheme."""

    derived: bool
    place: str
    tasks: tuple[TaskRow, ...]
    missing: tuple[CriterionRow, ...]
    marks: float
    total: float | None
    strictness: str
    extras: str
    carry_forward: bool
    grades: dict[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteScheme:
    """Write the derived scheme into the file, so that it can be changed."""

    do: Literal["write-scheme"] = "write-scheme"

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the tasks written out."""
        lab = draft.lab
        if lab.scheme.tasks is not None:
            raise CannotEdit("The scheme is written out already.")
        tasks: list[object] = [
            {"title": task.title, "criteria": list(_entries(lab, task.criteria))} for task in tasks_of(lab)
        ]
        if not tasks:
            raise CannotEdit("The model answer asks for nothing yet: there is nothing to write out.")
        place = f"{draft.stage_place}scheme.tasks"
        return (draft.remove(place) if place in draft.typed else draft).add(place, tasks)


def _entries(lab: Lab, criteria: Iterable[Criterion]) -> Iterator[dict[str, str]]:
    """Write the criteria of a derived task; all pings, and all checks, are asked for in one entry."""
    for key, own in groupby(criteria, key=lambda c: c.key):
        if key in _ALL:
            yield {_ALL[key]: "all"}
        else:
            yield from (entry_of(c, lab.model[c.device] if c.device else EMPTY) for c in own)


_ALL = {"ping": "pings", "check": "services"}


def scheme_rows(draft: Draft, facts: LabFacts) -> SchemeRows:
    """Return the scheme of the draft's stage."""
    lab = draft.lab
    derived = lab.scheme.tasks is None
    place = f"{draft.stage_place}scheme"
    ids = {id(criterion): ident for ident, _, criterion in facts.criteria}
    tasks = []
    for number, task in enumerate(tasks_of(lab)):
        at = "" if derived else f"{place}.tasks[{number}]"
        places = _places(draft, at, task.criteria) if at else [""] * len(task.criteria)
        rows = tuple(
            _row(draft, facts, c, ids.get(id(c), c.id), own)
            for c, own in zip(task.criteria, places, strict=True)
        )
        tasks.append(TaskRow(title=task.title, marks=sum(r.marks for r in rows), place=at, criteria=rows))
    asked = {c.id for _, _, c in facts.criteria}
    missing = [] if derived else [
        replace(_row(draft, facts, c, c.id, ""), further=entry_of(c, lab.model[c.device] if c.device else EMPTY))
        for task in _derived(lab) for c in task.criteria if c.id not in asked
    ]  # fmt: skip
    scheme = lab.scheme
    return SchemeRows(
        derived=derived, place=place, tasks=tuple(tasks), missing=tuple(missing), marks=facts.out_of,
        total=scheme.total, strictness=scheme.strictness, extras=scheme.extras, carry_forward=scheme.carry_forward,
        grades=dict(scheme.grades),
    )  # fmt: skip


def _derived(lab: Lab) -> tuple[Task, ...]:
    return tasks_of(replace(lab, scheme=replace(lab.scheme, tasks=None)))


def _places(draft: Draft, task: str, criteria: tuple[Criterion, ...]) -> list[str]:
    """Return the place of each criterion's entry: one entry may make several, such as ``pings: all``."""
    found: list[str] = []
    number = 0
    while len(found) < len(criteria) and f"{task}.criteria[{number}]" in draft.entries:
        place = f"{task}.criteria[{number}]"
        found += [place] * _made_by(draft, place)
        number += 1
    return found[: len(criteria)] + [""] * (len(criteria) - len(found))


def _made_by(draft: Draft, place: str) -> int:
    """Return how many criteria an entry makes: of ``pings: all`` one for each, of a gateway one for each family."""
    if f"{place}.pings" in draft.typed:
        return len(draft.lab.pings)
    if f"{place}.services" in draft.typed:
        return len(draft.lab.services)
    if f"{place}.gateway" in draft.typed and f"{place}.family" not in draft.typed:
        device = draft.device(draft.typed[f"{place}.gateway"]).name
        instance = draft.typed.get(f"{place}.in", "").lower()
        own = [g.statement for g in draft.lab.model[device].all(Gateway)]
        return len({g.address.version for g in own if (g.instance or "").lower() == instance})
    return 1


def _row(draft: Draft, facts: LabFacts, criterion: Criterion, ident: str, place: str) -> CriterionRow:
    further = {
        p.removeprefix(f"{place}."): v
        for p, v in draft.typed.items()
        if place and p.startswith(f"{place}.") and "[" not in p.removeprefix(f"{place}.")
    }
    return CriterionRow(
        id=ident, key=criterion.key, device=criterion.device, operand=criterion.operand, marks=criterion.marks,
        asks=_asks(facts, criterion), place=place, further=further,
    )  # fmt: skip


def _asks(facts: LabFacts, criterion: Criterion) -> str:
    """Say what a criterion asks, in the words of the model answer, or of the ping."""
    expected = facts.lab.expected.get(criterion.id)
    if expected is not None:
        to = (
            getattr(expected, "to", None)
            or getattr(expected, "open", None)
            or getattr(expected, "resolve", "")
        )
        return f"{expected.sender} to {to}: {expected.expect}"
    if not criterion.device:
        return criterion.operand
    items = facts.counted(criterion)
    return "; ".join(i.text() for i in items[:3])
