"""The marking scheme as it is used: the lab's own tasks, or those derived from the model answer."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from ..lab import Criterion, Device, Lab, Task, answers_of, counted_by
from ..sheet import AnyItem, Block, Configuration, Route, Switched
from ..sheet.statements import Access


def tasks_of(lab: Lab) -> tuple[Task, ...]:
    """Return the tasks of the lab; derived, they count what the model answer has beyond what is given.

    One task per device for addresses and ports, one for routes, one for translation, one for other
    settings, one for what the stage takes away, one for pings and services.
    """
    tasks = lab.scheme.tasks if lab.scheme.tasks is not None else _derived(lab)
    if lab.scheme.strictness == "effect":
        return tasks
    return tuple(Task(task.title, tuple(_strict(lab, c) for c in task.criteria)) for task in tasks)


def _strict(lab: Lab, criterion: Criterion) -> Criterion:
    """Ask a route or translation for the model's own form, where the criterion does not say which."""
    if criterion.key in ("translation", "trunk"):
        return replace(criterion, form="form")
    if criterion.key != "route" or criterion.form is not None:
        return criterion
    routes = (i.statement for i in answers_of(criterion, lab.model[criterion.device]))
    return replace(criterion, form=next((r.form for r in routes if isinstance(r, Route)), None))


_OF_PORTS = ("address", "enabled", "disabled")
_OF_ROUTES = ("route", "gateway")
_OF_TRANSLATION = ("translation", "realm")


def _derived(lab: Lab) -> tuple[Task, ...]:
    """Count what the model answer has beyond what is given: a criterion once, however many statements it counts."""
    of_device = {name: list(_counted(lab, device)) for name, device in lab.devices.items()}
    tasks = [
        Task(f"Addresses and ports of {name}", tuple(c for c in criteria if c.key in _OF_PORTS))
        for name, criteria in of_device.items()
    ]
    every = [c for criteria in of_device.values() for c in criteria if c.key not in _OF_PORTS]
    tasks.append(Task("Routes", tuple(c for c in every if c.key == "route")))
    tasks.append(Task("Gateways", tuple(c for c in every if c.key == "gateway")))
    tasks.append(Task("Translation", tuple(c for c in every if c.key in _OF_TRANSLATION)))
    others = (*_OF_ROUTES, *_OF_TRANSLATION)
    tasks.append(Task("Other settings", tuple(c for c in every if c.key not in others)))
    tasks.insert(0, Task("Cabling", tuple(_joins(lab))))
    gone = [Criterion("absent", name, words, 1.0) for name, all_of in lab.removed.items() for words in all_of]
    tasks.append(Task("Taken away", tuple(gone)))
    tasks.append(Task("Pings", tuple(Criterion("ping", "", p.id, 1.0) for p in lab.pings)))
    tasks.append(Task("Services", tuple(Criterion("check", "", s.id, 1.0) for s in lab.services)))
    return tuple(task for task in tasks if task.criteria)


def _joins(lab: Lab) -> Iterator[Criterion]:
    """Ask which devices are joined, where learners cable: once in all, in the first stage."""
    pairs = {link.devices: link for link in reversed(lab.links)}
    for link in reversed(pairs.values()) if lab.asks_cabling and lab.before is None else ():
        yield Criterion("joins", "", f"{link.a.device} {link.b.device}", 1.0)


def _counted(lab: Lab, device: Device) -> Iterator[Criterion]:
    """Yield the criteria of a device's statements that are not given, each once, ports first as they stand."""
    model, base = lab.model[device.name], lab.base[device.name]
    there = {(i.block, i.statement) for i in base.items}
    seen: set[str] = set()
    for block in model.bearers():
        turned = is_on(model, block, device) and not is_on(base, block, device)
        if turned and not block.is_made:
            seen.add(f"enabled:{device.name}:{block.port_name}")
    for item in model.items:
        by = counted_by(device.name, item, model)
        if by is None or (item.block, item.statement) in there or _goes_without_saying(item, by, device):
            continue
        if by.key == "enabled" and by.id not in seen:
            continue  # on by default
        if by.id not in seen or by.key == "enabled":
            seen.add(by.id)
            yield by


def _goes_without_saying(item: AnyItem, by: Criterion, device: Device) -> bool:
    """Whether a statement is a default, or without effect on this device."""
    if by.key == "gateway":
        return device.forwards
    return by.key == "access" and isinstance(item.statement, Access) and item.statement.vlan == 1


def is_on(configuration: Configuration, block: Block, device: Device) -> bool:
    """Say whether a port, sub-port, loopback or VLAN is switched on in the sheet, or by default."""
    switched = configuration.one(Switched, block)
    if switched is not None:
        return switched.statement.on
    if block.is_made:
        return configuration.header(block) is not None
    return device.on_by_default


Numbered = tuple[str, str, Criterion]
"""A criterion with its id in the results and the title of its task."""


def numbered(tasks: Iterable[Task]) -> list[Numbered]:
    """Give every criterion its id; repeated ones get #2 and so on."""
    seen: dict[str, int] = {}
    found = []
    for task in tasks:
        for criterion in task.criteria:
            seen[criterion.id] = seen.get(criterion.id, 0) + 1
            again = f"#{seen[criterion.id]}" if seen[criterion.id] > 1 else ""
            found.append((criterion.id + again, task.title, criterion))
    return found
