"""The marking scheme of a lab file: tasks and criteria, checked against the model answer.

What is particular to a key stands with its declaration; here is what reading them has in common.
"""

from collections.abc import Iterator
from dataclasses import replace

from ..sheet import Block, Configuration, Gateway, OnPort, Route
from .accepting import with_answer
from .keys import KEYS, CriterionKey, Read, counted_by
from .known import device_of, near
from .model import Criterion, Device, Lab, Scheme, Task
from .shapes import At, Found


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
        found.get("total"),
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


def _criterion(found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read a criterion, and what it asks for beyond the key's own question."""
    strict = found.get("name") == "strict" and any(KEYS[k].bears_name for k in found.value if k in KEYS)
    asked = Found({k: v for k, v in found.value.items() if not (strict and k == "name")}, found.at)
    for criterion in _of_its_key(asked, lab):
        more = replace(
            criterion,
            dotted="mask" in asked.value,
            preference=asked.get("preference"),
            own_name=strict,
            accept=tuple(text.value for text in asked.get("accept", [])),
        )
        for text in asked.get("accept", []) if not KEYS[criterion.key].of_paper else []:
            other, why = with_answer(lab, criterion, text.value)
            if other is None:
                text.at.fail(why)
        yield more


def _of_its_key(found: Found, lab: Lab) -> Iterator[Criterion]:
    keys = [key for word, key in KEYS.items() if word in found.value]
    if len(keys) != 1:
        found.at.fail(f"A criterion has one of {', '.join(KEYS)}.")
        return
    key = keys[0]
    for word in found.value:
        owners = [k.word for k in KEYS.values() if word in k.further]
        if owners and key.word not in owners:
            found.value[word].at.fail(f"{word} goes with {' and '.join(owners)} only.")
    yield from key.read(key, found, lab)


# --- ways of reading a key's value -------------------------------------------------------------------------------


def text_of(key: CriterionKey, found: Found) -> tuple[str, At, float]:
    """Return the value of a key, its place, and the marks."""
    entry = found.value[key.word]
    return entry.value, entry.at, found.get("marks", 1.0)


def of_port(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE:PORT``, whatever the model answer has there."""
    text, at, marks = text_of(key, found)
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
    if OnPort in key.counts and not model.all(OnPort, made or Block("port", canonical)):
        at.fail(f"The model answer gives {text} no address.")
    yield Criterion(key.word, device.name, canonical, marks)


def of_model_port(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE:PORT``, of which the model answer has something."""
    for criterion in of_port(key, found, lab):
        yield from in_the_model(criterion, found.value[key.word].at, lab)


def of_device(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE``, of which the model answer has something."""
    text, at, marks = text_of(key, found)
    device = device_of(lab.devices, text, at)
    if device is not None:
        criterion = Criterion(key.word, device.name, "", marks, None, found.get("in", ""))
        yield from in_the_model(criterion, at, lab)


def with_operand(word: str, ending: str = "") -> Read:
    """Read ``DEVICE``, and by another key which of several things of it is meant; an ``ending`` says nothing."""

    def read(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
        text, at, marks = text_of(key, found)
        device = device_of(lab.devices, text, at)
        if device is None:
            return
        entry = found.value.get(word)
        if entry is None:
            found.at.fail(f"A {key.word} criterion needs its {word}.")
            return
        operand = " ".join(entry.value.split()).removesuffix(ending)
        criterion = Criterion(key.word, device.name, operand, marks, None, found.get("in", ""))
        yield from in_the_model(criterion, entry.at, lab)

    return read


def in_words(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE WORDS`` or ``DEVICE:PORT WORDS``, whatever the model answer has there."""
    text, at, marks = text_of(key, found)
    first, _, words = text.strip().partition(" ")
    name, _, port = first.partition(":")
    device = device_of(lab.devices, name, at)
    if device is None:
        return
    operand = " ".join([*([port] if port else []), *words.split()])
    if not operand:
        at.fail(f"A {key.word} criterion says of what, such as {key.such_as}.")
        return
    yield Criterion(key.word, device.name, operand, marks, like=found.get("like"))


def model_words(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE WORDS`` or ``DEVICE:PORT WORDS``, which the model answer has."""
    for criterion in in_words(key, found, lab):
        yield from in_the_model(criterion, found.value[key.word].at, lab)


def in_the_model(criterion: Criterion, at: At, lab: Lab) -> Iterator[Criterion]:
    """Yield a criterion that the model answer has something for, written as the model answer writes it."""
    model = lab.model[criterion.device]
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


def device_with(key: CriterionKey, found: Found, lab: Lab) -> tuple[Device, At, float, str] | None:
    """Return the device that a key names, its place, the marks and the network instance; None: there is none."""
    text, at, marks = text_of(key, found)
    device = device_of(lab.devices, text, at)
    return None if device is None else (device, at, marks, found.get("in", ""))


# --- writing an entry ---------------------------------------------------------------------------------------------


def entry_of(criterion: Criterion, model: Configuration) -> dict[str, str]:
    """Write a criterion as an entry of the scheme that reads as the same; ``model`` is its device's model answer."""
    key = KEYS[criterion.key]
    entry = {key.word: _value_of(key, criterion)}
    named = next((word for word in _NAMING if word in key.further and word not in entry), None)
    if named is not None and key.word in _WITH_OPERAND:
        entry[named] = criterion.operand
    if criterion.key == "gateway" and len({g.statement.address.version for g in model.all(Gateway)}) > 1:
        entry["family"] = criterion.operand or "4"  # one that names none asks for both
    if criterion.instance:
        entry["in"] = criterion.instance
    if criterion.behind:
        routes = sorted(
            (i.statement.preference for i in model.all(Route) if str(i.statement.dest) == criterion.operand),
        )
        entry["preference"] = str(routes[criterion.behind])
    if criterion.marks != 1:
        entry["marks"] = f"{criterion.marks:g}"
    return entry


_NAMING = ("dest", "network", "record", "of", "port")
_WITH_OPERAND = ("route", "dhcp", "dns", "instance", "service", "translation")


def _value_of(key: CriterionKey, criterion: Criterion) -> str:
    """Write what a criterion is about: a device, ``DEVICE:PORT``, ``DEVICE WORDS``, or an id."""
    device, operand = criterion.device, criterion.operand
    if not device:
        return operand
    if key.word in _WITH_OPERAND or key.word == "gateway" or not operand:
        return device
    if key.word == "setting":
        port, _, word = operand.rpartition(" ")
        if operand.endswith("address auto"):
            port, word = operand.removesuffix("address auto").strip(), "address auto"
        return f"{device}:{port} {word}" if port else f"{device} {word}"
    if key.word in ("vlan", "absent"):
        return f"{device} {operand}"
    return f"{device}:{operand}"
