"""The marking scheme as it is used: the lab's own tasks, or those derived from the model answer."""

from collections.abc import Iterator
from dataclasses import replace

from ..lab import Criterion, Device, Lab, Task
from ..sheet import Block, Configuration, Gateway, OnPort, Route, Switched

MARKS = {"address": 2.0, "enabled": 1.0, "route": 2.0, "gateway": 1.0, "ping": 1.0, "check": 1.0}
"""Marks of a derived criterion."""


def tasks_of(lab: Lab) -> tuple[Task, ...]:
    """Return the tasks of the lab; derived, they count what the model answer has beyond what is given.

    One task per device for addresses and ports, one for routes, one for other settings, one for pings.
    """
    tasks = lab.scheme.tasks if lab.scheme.tasks is not None else _derived(lab)
    if lab.scheme.strictness == "effect":
        return tasks
    return tuple(Task(task.title, tuple(_strict(lab, c) for c in task.criteria)) for task in tasks)


def _strict(lab: Lab, criterion: Criterion) -> Criterion:
    """Ask a route for the model's own form, where the criterion does not say which."""
    if criterion.key != "route" or criterion.form is not None:
        return criterion
    own = (r.statement for r in lab.model[criterion.device].all(Route))
    mine = (r for r in own if (str(r.dest), r.instance or "") == (criterion.operand, criterion.instance))
    return replace(criterion, form=next((r.form for r in mine), None))


def _derived(lab: Lab) -> tuple[Task, ...]:
    tasks = [
        Task(f"Addresses and ports of {name}", tuple(_ports(lab, device)))
        for name, device in lab.devices.items()
    ]
    tasks.append(Task("Routes", tuple(c for device in lab.devices.values() for c in _routes(lab, device))))
    tasks.append(
        Task("Gateways", tuple(c for device in lab.devices.values() for c in _gateways(lab, device)))
    )
    tasks.append(Task("Pings", tuple(Criterion("ping", "", p.id, MARKS["ping"]) for p in lab.pings)))
    tasks.append(Task("Services", tuple(Criterion("check", "", s.id, MARKS["check"]) for s in lab.services)))
    return tuple(task for task in tasks if task.criteria)


def is_on(configuration: Configuration, block: Block, device: Device) -> bool:
    """Say whether a port, sub-port, loopback or VLAN is switched on in the sheet, or by default."""
    switched = configuration.one(Switched, block)
    if switched is not None:
        return switched.statement.on
    if block.is_made:
        return configuration.header(block) is not None
    return device.on_by_default


def _ports(lab: Lab, device: Device) -> Iterator[Criterion]:
    model, blank = lab.model[device.name], lab.base[device.name]
    for block in model.bearers():
        required, given = ({i.statement for i in c.all(OnPort, block)} for c in (model, blank))
        if required and required != given:
            yield Criterion("address", device.name, block.port_name, MARKS["address"])
        turned = is_on(model, block, device) and not is_on(blank, block, device)
        if turned and not block.is_made:
            yield Criterion("enabled", device.name, block.port_name, MARKS["enabled"])


def _routes(lab: Lab, device: Device) -> Iterator[Criterion]:
    given = {i.statement for i in lab.base[device.name].all(Route)}
    seen: set[tuple[str, str]] = set()
    for item in lab.model[device.name].all(Route):
        dest, instance = str(item.statement.dest), item.statement.instance or ""
        if item.statement not in given and (dest, instance) not in seen:
            seen.add((dest, instance))
            yield Criterion("route", device.name, dest, MARKS["route"], None, instance)


def _gateways(lab: Lab, device: Device) -> Iterator[Criterion]:
    model, blank = (c[device.name].all(Gateway) for c in (lab.model, lab.base))
    given = {i.statement for i in blank}
    for item in () if device.forwards else model:
        if item.statement not in given:
            family = "6" if item.statement.address.version == 6 else ""
            yield Criterion(
                "gateway", device.name, family, MARKS["gateway"], None, item.statement.instance or ""
            )
