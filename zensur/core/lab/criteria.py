"""The marking scheme of a lab file: tasks and criteria, checked against the model answer."""

from collections.abc import Iterator

from ..addresses import BadValue, parse_prefix
from ..sheet import DEFAULT_V4, Block, Gateway, OnPort, Route
from .known import device_of, near
from .model import Criterion, Device, Lab, Scheme, Task
from .shapes import At, Found

_KEYS = ("address", "enabled", "route", "gateway", "ping", "check", "pings", "services")
_OF_ALL = {"pings": "ping", "services": "check"}


def read_scheme(found: Found, lab: Lab) -> Scheme:
    """Read the scheme of a lab or stage whose model answer is known."""
    tasks = found.get("tasks", "auto")
    for key in ("charge", "charge_limit"):
        if key in found.value and found.get("extras") != "charge":
            found.value[key].at.fail(f"{key} goes with extras: charge only.")
    return Scheme(
        None if tasks == "auto" else tuple(_task(task, lab) for task in tasks),
        found.get("carry_forward", True),
        found.get("strictness", "effect"),
        found.get("extras", "report"),
        found.get("charge", 1.0),
        found.get("charge_limit"),
    )


def _task(found: Found, lab: Lab) -> Task:
    criteria: list[Criterion] = []
    for entry in found.get("criteria", []):
        criteria += _criterion(entry, lab)
    return Task(found.get("title", ""), tuple(criteria))


def _criterion(found: Found, lab: Lab) -> Iterator[Criterion]:
    keys = [k for k in _KEYS if k in found.value]
    if len(keys) != 1:
        found.at.fail(f"A criterion has one of {', '.join(_KEYS)}.")
        return
    key, text, at = keys[0], found.get(keys[0]), found.value[keys[0]].at
    for extra, owners in (
        ("dest", ("route",)),
        ("form", ("route",)),
        ("family", ("gateway",)),
        ("in", ("route", "gateway")),
        ("each", tuple(_OF_ALL)),
    ):
        if extra in found.value and key not in owners:
            found.value[extra].at.fail(f"{extra} goes with {' and '.join(owners)} only.")
    marks = found.get("each" if key in _OF_ALL else "marks", 1.0)
    listed = {"ping": [p.id for p in lab.pings], "check": [s.id for s in lab.services]}
    if key in _OF_ALL:
        yield from (Criterion(_OF_ALL[key], "", ident, marks) for ident in listed[_OF_ALL[key]])
    elif key in listed:
        if text not in listed[key]:
            at.fail(f"There is no {key} {text[:40]}.{near(text, listed[key])}")
        yield Criterion(key, "", text, marks)
    elif key in ("address", "enabled"):
        yield from _port_criterion(key, text, marks, at, lab)
    else:
        device = device_of(lab.devices, text, at)
        if device is None:
            return
        instance = found.get("in", "")
        if key == "gateway":
            own = [g.statement for g in lab.model[device.name].all(Gateway)]
            families = [g.address.version for g in own if (g.instance or "").lower() == instance.lower()]
            family = int(found.get("family")) if "family" in found.value else min(families, default=4)
            if family not in families:
                of_family = f"IPv{family} gateway" if "family" in found.value else "gateway"
                at.fail(f"The model answer gives {device.name} no {of_family}.")
            yield Criterion(key, device.name, "6" if family == 6 else "", marks, None, instance)
        elif (dest := _dest(found, device, lab, instance)) is not None:
            yield Criterion(key, device.name, dest, marks, found.get("form"), instance)


def _port_criterion(key: str, text: str, marks: float, at: At, lab: Lab) -> Iterator[Criterion]:
    name, _, port = text.partition(":")
    device = device_of(lab.devices, name, at)
    if device is None:
        return
    model = lab.model[device.name]
    physical, made = device.port(port), model.bearer(port)
    canonical = physical.name if physical else made.port_name if made else None
    if canonical is None:
        at.fail(f"{device.name} has no port, loopback or VLAN interface {port[:40] or 'without a name'}.")
        return
    block = made or Block("port", canonical)
    if key == "address" and not model.all(OnPort, block):
        at.fail(f"The model answer gives {text} no address.")
    yield Criterion(key, device.name, canonical, marks)


def _dest(found: Found, device: Device, lab: Lab, instance: str) -> str | None:
    entry = found.value.get("dest")
    if entry is None:
        found.at.fail("A route criterion needs its dest, such as dest: 10.64.40.0/24 or dest: default.")
        return None
    try:
        dest = DEFAULT_V4 if entry.value == "default" else parse_prefix(entry.value)
    except BadValue as bad:
        entry.at.fail(str(bad))
        return None
    routes = [r.statement for r in lab.model[device.name].all(Route)]
    if dest not in [r.dest for r in routes if (r.instance or "").lower() == instance.lower()]:
        entry.at.fail(f"The model answer of {device.name} has no route to {entry.value}.")
        return None
    return str(dest)
