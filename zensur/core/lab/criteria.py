"""The marking scheme of a lab file: tasks and criteria, checked against the model answer."""

import re
from collections.abc import Iterator
from dataclasses import replace

from ..addresses import BadValue, parse_prefix
from ..sheet import DEFAULT_V4, Block, Gateway, OnPort, Route
from ..sheet.statements import About
from .accepting import with_answer
from .counting import counted_by
from .known import device_of, near
from .model import Criterion, Device, Lab, Scheme, Task
from .shapes import At, Found

_OF_PORT = (
    "address", "enabled", "disabled", "up", "clocking", "access", "trunk", "lease", "realm",
)  # fmt: skip
_OF_DEVICE = ("name", "resolver", "forwarding", "rip")
_WITH = {"translation": "of", "dhcp": "network", "dns": "record", "service": "port", "instance": "of"}
"""Keys about one of several things of a device, and the key that says which."""
_WORDS = ("vlan", "setting", "absent", "about")
"""Keys whose value says in words what of the device is meant."""
_OF_ALL = {"pings": "ping", "services": "check"}
_IN_WORDS = ("manual", "value")
"""Keys about no device: what is marked by hand, and what learners answer."""
_KEYS = (*_OF_PORT, "route", "gateway", *_OF_DEVICE, *_WITH, *_WORDS, *_IN_WORDS, "ping", "check", *_OF_ALL)
_EXTRA = {
    "dest": ("route",),
    "form": ("route",),
    "family": ("gateway",),
    "like": ("about",),
    "mask": ("address",),
    "preference": ("route",),
    "is": ("value",),
    "in": ("route", "gateway", "translation", "dhcp", "dns", "service", "resolver", "rip"),
    "each": tuple(_OF_ALL),
} | {extra: tuple(k for k, e in _WITH.items() if e == extra) for extra in _WITH.values()}
"""Keys that say more, with those they go with."""


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
        _grades(found),
    )


def _grades(found: Found) -> dict[str, float]:
    """Read the bounds of grades: no two may have the same."""
    bounds: dict[float, str] = {}
    for grade, bound in found.get("grades", {}).items():
        if bound.value in bounds:
            bound.at.fail(f"{grade} begins where {bounds[bound.value]} does: one of them is never earned.")
        bounds[bound.value] = grade
    return {grade: bound.value for grade, bound in found.get("grades", {}).items()}


def _task(found: Found, lab: Lab) -> Task:
    criteria: list[Criterion] = []
    for entry in found.get("criteria", []):
        criteria += _criterion(entry, lab)
    return Task(found.get("title", ""), tuple(criteria))


_NAMED = ("address", "enabled", "disabled", "up", "translation", "dhcp", "instance")
"""Keys about what bears a name of the learner's own."""


def _criterion(found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read a criterion, and what it asks for beyond the key's own question."""
    strict = found.get("name") == "strict" and any(k in found.value for k in _NAMED)
    asked = Found({k: v for k, v in found.value.items() if not (strict and k == "name")}, found.at)
    for criterion in _about_one_thing(asked, lab):
        more = replace(
            criterion,
            dotted="mask" in asked.value,
            preference=asked.get("preference"),
            own_name=strict,
            accept=tuple(text.value for text in asked.get("accept", [])),
        )
        for text in asked.get("accept", []) if criterion.key != "value" else []:
            other, why = with_answer(lab, criterion, text.value)
            if other is None:
                text.at.fail(why)
        yield more


def _about_one_thing(found: Found, lab: Lab) -> Iterator[Criterion]:
    keys = [k for k in _KEYS if k in found.value]
    if len(keys) != 1:
        found.at.fail(f"A criterion has one of {', '.join(_KEYS)}.")
        return
    key, text, at = keys[0], found.get(keys[0]), found.value[keys[0]].at
    for extra, owners in _EXTRA.items():
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
    elif key in _IN_WORDS:
        yield from _in_words(key, text, found, marks)
    elif key in _OF_PORT:
        yield from _port_criterion(key, text, marks, at, lab)
    elif key in _WORDS:
        yield from _words_criterion(key, found, marks, lab)
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
        elif key in _WITH:
            yield from _with_criterion(key, found, device, marks, lab)
        elif key in _OF_DEVICE:
            yield from _in_the_model(Criterion(key, device.name, "", marks, None, instance), at, lab)
        elif (dest := _dest(found, device, lab, instance)) is not None:
            yield Criterion(key, device.name, dest, marks, found.get("form"), instance)


def _in_words(key: str, text: str, found: Found, marks: float) -> Iterator[Criterion]:
    """Read what is marked by hand, or a question with its answer."""
    if not text.strip():
        found.value[key].at.fail(f"A {key} criterion says what is meant.")
    if key == "value" and not found.get("is", "").strip():
        found.at.fail("A value criterion needs its answer, such as is: 255.255.255.192.")
    yield Criterion(key, "", " ".join(text.split()), marks, answer=found.get("is", ""))


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
    criterion = Criterion(key, device.name, canonical, marks)
    if key in ("address", "enabled", "disabled", "up"):
        yield criterion
    else:
        yield from _in_the_model(criterion, at, lab)


def _in_the_model(criterion: Criterion, at: At, lab: Lab) -> Iterator[Criterion]:
    """Yield a criterion that the model answer has something for, written as the model answer writes it."""
    model = lab.model[criterion.device]
    if criterion.key == "name":  # a device without a name keeps the lab's
        yield criterion
        return
    known = [
        c for i in model.items if (c := counted_by(criterion.device, i, model)) and c.key == criterion.key
    ]
    same = next((c for c in known if c.id.lower() == criterion.id.lower()), None)
    if same is None:
        there = list(dict.fromkeys(c.operand for c in known if c.operand))
        what = f"{criterion.key} {criterion.operand}".strip()
        at.fail(f"The model answer gives {criterion.device} no {what}.{near(criterion.operand, there)}")
    else:
        yield replace(criterion, operand=same.operand, instance=same.instance)


def _with_criterion(key: str, found: Found, device: Device, marks: float, lab: Lab) -> Iterator[Criterion]:
    extra = _WITH[key]
    entry = found.value.get(extra)
    if entry is None:
        found.at.fail(f"A {key} criterion needs its {extra}.")
        return
    operand = " ".join(entry.value.split()).removesuffix("." if key == "dns" else " ")
    yield from _in_the_model(
        Criterion(key, device.name, operand, marks, None, found.get("in", "")), entry.at, lab
    )


def _words_criterion(key: str, found: Found, marks: float, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE WORDS`` or ``DEVICE:PORT WORDS``."""
    at = found.value[key].at
    first, _, words = found.get(key).strip().partition(" ")
    name, _, port = first.partition(":")
    device = device_of(lab.devices, name, at)
    if device is None:
        return
    operand = " ".join([*([port] if port else []), *words.split()])
    criterion = Criterion(key, device.name, operand, marks, like=found.get("like"))
    model = lab.model[device.name]
    if not operand:
        at.fail(f"A {key} criterion says of what, such as {_SUCH_AS[key]}.")
    elif key in ("vlan", "setting"):
        yield from _in_the_model(criterion, at, lab)
    elif key == "absent":
        if model.named_by(operand):
            at.fail(f"The model answer of {device.name} has {operand}.")
        yield criterion
    else:
        yield from _about_criterion(criterion, at, lab)


_SUCH_AS = {
    "vlan": "sw1 10", "setting": "weir:p1 proxy", "absent": "weir loopback lo0", "about": "weir:p1",
}  # fmt: skip


def _about_criterion(criterion: Criterion, at: At, lab: Lab) -> Iterator[Criterion]:
    model = lab.model[criterion.device]
    if criterion.like is not None:
        try:
            re.compile(criterion.like)
        except re.error as error:
            at.fail(f"like is no pattern: {error}.")
    if criterion.operand.startswith("route "):
        dest = criterion.operand.removeprefix("route ")
        described = any(str(r.statement.dest) == dest and r.statement.about for r in model.all(Route))
    else:
        block = model.bearer(criterion.operand)
        described = block is not None and model.one(About, block) is not None
    if not described and criterion.like is None:
        at.fail(f"The model answer of {criterion.device} describes no {criterion.operand}.")
    yield criterion


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
