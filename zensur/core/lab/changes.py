"""What became of a lab from one version to another, in sentences: not lines of a file, but what they mean."""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import TypeVar

from ..sheet import Sheet, write_sheet
from .model import Criterion, Device, Expected, ExpectedPing, ExpectedService, Lab, Link, Scheme, Task

SIDES = {"given": "given", "start": "to start from", "answer": "model answer"}
"""The sheets of a lab, as they are called in a sentence."""


@dataclass(frozen=True, slots=True)
class Change:
    """A sentence about what changed, and where: a device, ``pings``, ``scheme``, or nothing for the whole lab."""

    stage: str
    place: str
    said: str


def changes(old: Lab, new: Lab) -> tuple[Change, ...]:
    """Return what is otherwise in a lab than it was, stage by stage; in the order of the lab file."""
    before = {stage.stage: stage for stage in old.stages}
    after = {stage.stage: stage for stage in new.stages}
    if len(old.stages) == len(new.stages) == 1:  # what has no stages yet, or no more, is the same lab
        before = {new.stage: old}
    found = [Change("", place, said) for place, said in _of_lab(old, new)]
    for ident, stage in after.items():
        was = before.get(ident)
        if was is None:
            found.append(Change(ident, "", f"The stage {stage.stage_title or ident} was added."))
            continue
        if ident and was.stage_title != stage.stage_title:
            found.append(
                Change(ident, "", f"The stage is called {stage.stage_title}; before, {was.stage_title}.")
            )
        found += [Change(ident, place, said) for place, said in _of_stage(was, stage)]
    found += [
        Change("", "", f"The stage {before[i].stage_title or i} was removed.")
        for i in before
        if i not in after
    ]
    return tuple(found)


Said = Iterator[tuple[str, str]]
T = TypeVar("T")


def _of_lab(old: Lab, new: Lab) -> Said:
    for what, one, other in (
        ("title", old.title, new.title),
        ("level", old.level, new.level),
        ("time in minutes", old.minutes, new.minutes),
        ("topics", ", ".join(old.topics), ", ".join(new.topics)),
    ):
        if one != other:
            yield "", _became(f"The {what}", one, other)
    for name in _gone(old.variables, new.variables):
        yield "", f"The variable {name} was removed."
    for name, variable in new.variables.items():
        was, told = old.variables.get(name), f"{variable.low} to {variable.high}"
        if was is None:
            yield "", f"The variable {name} was added, {told}."
        elif was != variable:
            yield "", f"The variable {name} is {told}; before, {was.low} to {was.high}."


def _of_stage(old: Lab, new: Lab) -> Said:
    if old.brief != new.brief:
        yield (
            "",
            "The brief was changed."
            if old.brief and new.brief
            else _became("The brief", old.brief, new.brief),
        )
    yield from _of_devices(old.devices, new.devices)
    yield from _of_links(old.links, new.links)
    yield from _of_networks(old, new)
    for side in SIDES:
        yield from _of_sheets(side, getattr(old, side), getattr(new, side))
    for name in (*old.devices, *(n for n in new.devices if n not in old.devices)):
        if (name in old.hidden) != (name in new.hidden) and name in new.devices:
            yield (
                name,
                "What is given is hidden from learners." if name in new.hidden else "What is given is shown.",
            )
        for words in _counted(new.removed.get(name, ()), old.removed.get(name, ())):
            yield name, f"{words} is taken away."
        for words in _counted(old.removed.get(name, ()), new.removed.get(name, ())):
            yield name, f"{words} is not taken away any more."
    if old.asks_cabling != new.asks_cabling:
        yield "", "Learners cable, too." if new.asks_cabling else "Learners do not cable any more."
    if old.free != new.free:
        yield "", "What learners choose themselves was changed."
    yield from _of_runs(old, new)
    yield from _of_scheme(old.scheme, new.scheme)


def _became(what: str, one: object, other: object) -> str:
    are, were = ("are", "were") if what.endswith("topics") else ("is", "was")
    if not one:
        return f"{what} {were} added: {other}." if len(str(other)) < 80 else f"{what} {were} added."
    return f"{what} {are} {other}; before, {one}." if other else f"{what} {were} removed."


def _gone(old: Iterable[str], new: Iterable[str]) -> list[str]:
    kept = set(new)
    return [name for name in old if name not in kept]


def _counted(more: Iterable[str], less: Iterable[str]) -> list[str]:
    """Return what is in one list more often than in another, in its order."""
    return list((Counter(more) - Counter(less)).elements())


def _of_devices(old: Mapping[str, Device], new: Mapping[str, Device]) -> Said:
    for name in _gone(old, new):
        yield name, f"The {old[name].kind} {name} was removed."
    for name, device in new.items():
        was = old.get(name)
        if was is None:
            yield name, f"The {device.kind} {name} was added."
            continue
        if was.kind != device.kind:
            yield name, f"{name} is a {device.kind}; before, a {was.kind}."
        if was.about != device.about:
            yield name, _became("The note", was.about, device.about)
        yield from (
            (name, f"The port {p.name} was removed.") for p in was.ports if device.port(p.name) is None
        )
        for port in device.ports:
            earlier = was.port(port.name)
            if earlier is None:
                yield name, f"The port {port.name} was added."
            elif earlier.medium != port.medium:
                yield name, f"The port {port.name} is {port.medium}; before, {earlier.medium}."


def _of_links(old: tuple[Link, ...], new: tuple[Link, ...]) -> Said:
    for link in old:
        if not any(link.is_same(other) for other in new):
            yield "links", f"{link} was removed."
    for link in new:
        was = next((other for other in old if link.is_same(other)), None)
        if was is None:
            yield "links", f"{link} was added."
        elif (was.medium, was.clock, was.clock_hidden) != (link.medium, link.clock, link.clock_hidden):
            clock = (
                f", the clock at {link.clock}{' (hidden)' if link.clock_hidden else ''}" if link.clock else ""
            )
            yield "links", f"{link} is {link.medium}{clock}."


def _of_networks(old: Lab, new: Lab) -> Said:
    before = {n.name: ", ".join(map(str, n.prefixes)) for n in old.networks}
    after = {n.name: ", ".join(map(str, n.prefixes)) for n in new.networks}
    for name in _gone(before, after):
        yield "networks", f"The network {name} was removed."
    for name, prefixes in after.items():
        if name not in before:
            yield "networks", f"The network {name} was added, {prefixes}."
        elif before[name] != prefixes:
            yield "networks", f"The network {name} is {prefixes}; before, {before[name]}."


def _of_sheets(side: str, old: Mapping[str, Sheet], new: Mapping[str, Sheet]) -> Said:
    for name in dict.fromkeys((*old, *new)):
        if name not in new:
            yield name, f"The sheet ({SIDES[side]}) was removed."
        elif name not in old:
            yield name, f"The sheet ({SIDES[side]}) was added."
        else:
            yield from ((name, f"{said} ({SIDES[side]})") for said in _of_lines(old[name], new[name]))


def _of_lines(old: Sheet, new: Sheet) -> Iterator[str]:
    """Say which statements came, went, or have another value: in canonical form, each with its header."""
    before, after = _lines(old), _lines(new)
    went, came = _counted(before, after), _counted(after, before)
    for line in went:
        others = [other for other in came if _alike(line, other)]
        if len(others) == 1 and sum(_alike(one, others[0]) for one in went) == 1:
            came.remove(others[0])
            header, _, text = others[0].rpartition(": ")
            yield f"{header + ': ' if header else ''}{text}; before, {line.rpartition(': ')[2]}"
        else:
            yield f"{line} was removed"
    yield from (f"{line} was added" for line in came)
    if not went and before != after and Counter(before) == Counter(after):
        yield "The order of statements was changed"
    elif before == after and old.text != new.text:
        yield "Only how it is written was changed"


def _lines(sheet: Sheet) -> list[str]:
    """Return the statements of a sheet, those of a block behind its header."""
    found, header = [], ""
    for line in write_sheet(sheet.configuration).splitlines():
        if line.startswith("  "):
            found.append(f"{header}: {line.strip()}")
        else:
            header = line
            found.append(line)
    return found


def _alike(one: str, other: str) -> bool:
    """Whether two lines stand at the same place and begin with the same word."""
    (place, _, text), (another, _, told) = one.rpartition(": "), other.rpartition(": ")
    return place == another and text.split(" ", 1)[0] == told.split(" ", 1)[0]


def _of_runs(old: Lab, new: Lab) -> Said:
    yield from _of_expected("ping", old.pings, new.pings)
    yield from _of_expected("check", old.services, new.services)


def _asked(run: Expected) -> str:
    """Say what is asked, without what is expected of it."""
    source = f" {run.source}" if run.source else ""
    if isinstance(run, ExpectedPing):
        what = f"to {run.to}"
    else:
        assert isinstance(run, ExpectedService)
        what = f"opens {run.open}" if run.open else f"looks up {run.resolve}"
    family, out = f", IPv{run.family}" if run.family else "", f", out {run.out}" if run.out else ""
    return f"{run.sender}{source} {what}{family}{out}"


def _of_expected(what: str, old: tuple[Expected, ...], new: tuple[Expected, ...]) -> Said:
    before, after = _by_name(old, _asked), _by_name(new, _asked)
    for name in _gone(before, after):
        yield "pings", f"The {what} {name} was removed."
    for name, run in after.items():
        was = before.get(name)
        if was is None:
            yield "pings", f"The {what} {name} was added, {run.expect}."
        elif was.expect != run.expect:
            yield "pings", f"The {what} {name} expects {run.expect}; before, {was.expect}."
        elif _beside(was) != _beside(run):
            yield "pings", f"What else the {what} {name} expects, or its note, was changed."


def _by_name(items: Iterable[T], name_of: Callable[[T], str]) -> dict[str, T]:
    """Return items by name; the second of a name has a number behind it."""
    found: dict[str, T] = {}
    met = Counter[str]()
    for item in items:
        name = name_of(item)
        met[name] += 1
        found[name if met[name] == 1 else f"{name} ({met[name]})"] = item
    return found


def _beside(run: Expected) -> tuple[object, ...]:
    return run.note, run.shown, run.seen_as, run.answered_by, run.distinct


_SETTINGS: dict[str, Callable[[Scheme], object]] = {
    "strictness": lambda s: s.strictness,
    "total": lambda s: s.total,
    "extras": lambda s: s.extras,
    "charge for an extra": lambda s: s.charge,
    "most charged for extras": lambda s: s.charge_limit,
}


def _of_scheme(old: Scheme, new: Scheme) -> Said:
    for what, of in _SETTINGS.items():
        if of(old) != of(new):
            yield "scheme", _became(f"The {what}", of(old), of(new))
    if old.carry_forward != new.carry_forward:
        yield "scheme", f"Each mistake is charged {'once' if new.carry_forward else 'wherever it shows'}."
    if old.grades != new.grades:
        yield "scheme", "The grades were changed."
    if old.tasks is not None and new.tasks is not None:
        yield from _of_tasks(old.tasks, new.tasks)
    elif new.tasks is not None:
        yield "scheme", "The tasks are listed; before, they were worked out of the model answer."
    elif old.tasks is not None:
        yield "scheme", "The tasks are worked out of the model answer; before, they were listed."


def _of_tasks(old: tuple[Task, ...], new: tuple[Task, ...]) -> Said:
    before = _by_name([(t.title, c) for t in old for c in t.criteria], lambda of: _named(of[1]))
    after = _by_name([(t.title, c) for t in new for c in t.criteria], lambda of: _named(of[1]))
    for ident in _gone(before, after):
        yield "scheme", f"{ident} was removed, {_marks(before[ident][1])}."
    for ident, (task, criterion) in after.items():
        if ident not in before:
            yield "scheme", f"{ident} was added, {_marks(criterion)}."
            continue
        earlier, was = before[ident]
        if was.marks != criterion.marks:
            yield "scheme", f"{ident} has {_marks(criterion)}; before, {was.marks:g}."
        elif was != criterion:
            yield "scheme", f"{ident} asks for something else."
        if earlier != task:
            yield "scheme", f"{ident} belongs to {task}; before, to {earlier}."


def _named(criterion: Criterion) -> str:
    """Say what is asked of which device."""
    of = (criterion.key, criterion.device, criterion.operand, criterion.instance)
    return " ".join(part for part in (*of, "backup" * bool(criterion.behind)) if part)


def _marks(criterion: Criterion) -> str:
    return f"{criterion.marks:g} {'mark' if criterion.marks == 1 else 'marks'}"
