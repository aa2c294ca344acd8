"""Criteria about single statements that stand or do not: settings, names, descriptions, what has to be gone."""

from collections.abc import Iterator

from ...lab import Criterion, CriterionKey, Lab
from ...lab.criteria import device_with, in_words, model_words, with_operand
from ...lab.keys import Place, at_top, on_port
from ...lab.schema import OF
from ...lab.shapes import Found, Key, Text
from ...sheet import AnyItem, Block, Configuration, Item
from ...sheet.statement import folded
from ...sheet.statements import (
    About,
    Advertise,
    Advertised,
    Ask,
    Instance,
    Member,
    Name,
    Open,
    Proxy,
    Relay,
    Route,
    Service,
)
from ..reading.pairing import kept_under_another_name
from ..shapes import Judged
from .judging import Attempted, Judging, header_of, shown, texts_of
from .patterns import BadPattern, pattern_of


def same_statement(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare statements that stand or do not: realm, setting, service, instance."""
    learner = attempt.configurations[criterion.device]
    wanted = session.counted(criterion)
    by_slot = {i.slot: i for i in learner.items}
    there = [(by_slot[w.slot], w) for w in wanted if w.slot in by_slot]
    right = sum(f.statement.plain() == w.statement.plain() for f, w in there)
    found = [f for f, _ in there]
    block = wanted[0].block if wanted else None
    proof = shown(found) or header_of(learner, block)
    return Judged(right / len(wanted) if wanted else 1.0, texts_of(wanted), texts_of(found), proof)


def absent(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether what first words name is gone; what an earlier stage had, under whatever name."""
    device, learner = criterion.device, attempt.configurations[criterion.device]
    found = learner.named_by(criterion.operand)
    if not found and session.lab.before is not None:
        before = session.lab.before.model[device]
        gone = before.named_by(criterion.operand)
        found = kept_under_another_name(learner, before, session.lab.model[device], gone)
    text = found[0].text() if found else "gone"
    return Judged(float(not found), f"no {criterion.operand}", text, shown(found))


def name(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the device's own name."""
    wanted = session.lab.model[criterion.device].one(Name)
    found = attempt.configurations[criterion.device].one(Name)
    required = wanted.statement.name if wanted else criterion.device
    own = found.statement.name if found else ""
    return Judged(float(own.lower() == required.lower()), required, own or "no name", shown([found]))


def about(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare a description: the same, or like a pattern."""
    required, _ = _described(session.lab.model[criterion.device], criterion.operand)
    found, item = _described(attempt.configurations[criterion.device], criterion.operand)
    if criterion.like is not None:
        right, required = bool(found and pattern_of(criterion.like).search(found)), f"like {criterion.like}"
    else:
        right = found == required
    return Judged(float(right), required or "a description", found or "no description", shown([item]))


def _described(configuration: Configuration, what: str) -> tuple[str | None, AnyItem | None]:
    """Return the description of a port, or of a route, and the statement that holds it."""
    if what.startswith("route "):
        dest = what.removeprefix("route ")
        routes = [r for r in configuration.all(Route) if str(r.statement.dest) == dest]
        one = next((r for r in routes if r.statement.about), routes[0] if routes else None)
        return (one.statement.about, one) if one else (None, None)
    block = configuration.bearer(what)
    item = configuration.one(About, block) if block else None
    return (item.statement.words, item) if item else (None, None)


def vlan(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a switch declares a VLAN."""
    header = attempt.configurations[criterion.device].header(Block("vlan", criterion.operand))
    text = f"vlan {criterion.operand}"
    return Judged(float(header is not None), text, text if header else "not declared", shown([header]))


def instance(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a port belongs to its instance, which has to be declared."""
    judged = same_statement(session, criterion, attempt)
    learner = attempt.configurations[criterion.device]
    member = learner.one(Member, session.block(criterion))
    declared = {folded(i.statement.name) for i in learner.all(Instance)}
    if member is None or folded(member.statement.instance) in declared:
        return judged
    return Judged(0.0, judged.required, f"{judged.found}, which is not declared", judged.proof)


# --- reading, and what is counted ---------------------------------------------------------------------------------


def _setting(item: AnyItem, configuration: Configuration) -> Place:
    """Count a setting by its port and keyword, without its value."""
    word = "address auto" if isinstance(item.statement, Advertised) else item.statement.text().split()[0]
    port, own = (item.block.port_name, item.block.instance) if item.block else ("", None)
    return f"{port} {word}".strip(), own or ""


def _declared(item: AnyItem, configuration: Configuration) -> Place | None:
    """Count the header of a VLAN; that of anything else is there by what it holds."""
    return (item.block.name, "") if item.block is not None and item.block.kind == "vlan" else None


def _read_name(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read ``DEVICE``: one without a name in the model answer keeps the lab's."""
    asked = device_with(key, found, lab)
    if asked is not None:
        device, _, marks, own = asked
        yield Criterion(key.word, device.name, "", marks, None, own)


def _read_absent(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    for criterion in in_words(key, found, lab):
        if lab.model[criterion.device].named_by(criterion.operand):
            found.value[key.word].at.fail(f"The model answer of {criterion.device} has {criterion.operand}.")
        yield criterion


def _read_about(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    at = found.value[key.word].at
    for criterion in in_words(key, found, lab):
        described, _ = _described(lab.model[criterion.device], criterion.operand)
        if criterion.like is not None:
            try:
                pattern_of(criterion.like)
            except BadPattern as error:
                at.fail(f"like is no pattern: {error}.")
        elif described is None:
            at.fail(f"The model answer of {criterion.device} describes no {criterion.operand}.")
        yield criterion


def _names(criterion: Criterion, model: Configuration) -> list[AnyItem]:
    return [*model.all(Name)]


def _descriptions(criterion: Criterion, model: Configuration) -> list[AnyItem]:
    if criterion.operand.startswith("route "):
        dest = criterion.operand.removeprefix("route ")
        return [i for i in model.all(Route) if str(i.statement.dest) == dest]
    block = model.bearer(criterion.operand)
    return [*model.all(About, block)] if block else []


def name_of(device: str) -> AnyItem:
    """Return the statement that gives a device the lab's name."""
    return Item(None, Name(device))


STATEMENTS = (
    CriterionKey(
        word="absent", about="DEVICE and the first words of a statement or header that has to be gone", judge=absent,
        read=_read_absent, such_as="weir loopback lo0",
    ),
    CriterionKey(
        word="name", judge=name, read=_read_name, answers=_names,
        about="DEVICE: its own name; beside another key `strict`: a loopback, pool, list, lease block or instance "
        "is called as in the model answer",
    ),
    CriterionKey(
        word="about", about="DEVICE:PORT, or DEVICE route PREFIX: the description", judge=about, read=_read_about,
        such_as="weir:p1", answers=_descriptions,
        further={
            "like": Key(Text(), "a pattern (regular expression) that a description has to fit, instead of the model's")
        },
    ),
    CriterionKey(
        word="vlan", about="DEVICE N: the VLAN is declared", judge=vlan, read=model_words, such_as="sw1 10",
        counts=(Open,), place=_declared,
    ),
    CriterionKey(
        word="instance", about="DEVICE, with of: the instance that a port belongs to", judge=instance,
        read=with_operand("of"), counts=(Member,), place=on_port, further={"of": OF}, bears_name=True,
    ),
    CriterionKey(
        word="service", about="DEVICE, with port: a service that answers", judge=same_statement,
        read=with_operand("port"), counts=(Service,), place=at_top(lambda s: f"{s.protocol} {s.number}"),
        further={"port": Key(Text(), "`tcp N` or `udp N`")},
    ),
    CriterionKey(
        word="setting", about="DEVICE WORD, or DEVICE:PORT WORD: that one statement", judge=same_statement,
        read=model_words, such_as="weir:p1 proxy", counts=(Proxy, Relay, Advertise, Advertised, Ask),
        place=_setting,
    ),
)  # fmt: skip
