"""Criteria about translations: by effect, the same addresses come out as the same addresses, shared or not."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from ...lab import Criterion, CriterionKey
from ...lab.criteria import with_operand
from ...lab.keys import Place
from ...lab.schema import IN, OF
from ...sheet import AnyItem, Block, Configuration
from ...sheet.statement import Statement, folded
from ...sheet.statements import Dynamic, Entry, OneToOne, Pool, Published
from ...sheet.statements.translation import LIST
from ...sim import Network
from ...sim.numbers import ALL, last_of
from ...sim.translating import Mapped, Rule, Rules, Service, by
from ..shapes import Judged
from .judging import Attempted, Judging, shown

Outside = tuple[bool, bool, int, int, int] | None
"""As what a source is seen: whether it is reached from outside before it has sent anything, whether its address is
shared, the first and last address, and the number of a published service."""


def translation(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Judge a translation of the model answer, with the device's ports and realms as the learner or the model has
    them."""
    name, node = criterion.device, session.node(criterion)
    learner, model = attempt.configurations[name], session.lab.model[name]
    wanted = session.counted(criterion)
    first = wanted[0].statement
    fraction = 0.0
    for configuration in session.candidate_configurations(name, attempt):
        network = session.alone(name, configuration)
        rules = network.rules(node) if node in network.nodes else None
        fraction = max(fraction, _agreement(session.network, node, rules, [w.statement for w in wanted]))
        if fraction == 1:
            break
    by_slot = {i.slot: i for i in learner.items}
    same = [by_slot[w.slot] for w in wanted if w.slot in by_slot]
    found = same or [i for i in learner.items if type(i.statement) is type(first)]
    in_form = criterion.form != "form" or any(
        _form(f.statement, learner) == _form(w.statement, model) for f in found for w in wanted
    )
    if fraction == 1 and not in_form:
        fraction = 0.5  # the same effect, written otherwise
    text = "; ".join(i.statement.text() for i in found[:3]) or "no translation"
    return Judged(fraction, first.text(), text, shown(found))


def _form(statement: Statement, configuration: Configuration) -> tuple[object, ...]:
    """Return what a translation says, with the contents of its list and pool in the place of their names."""
    if not isinstance(statement, Dynamic):
        return (statement.text().lower(),)
    instance = folded(statement.instance)
    who: object = statement.who
    if isinstance(who, str):
        block = Block(LIST, who, statement.instance)
        who = [i.statement for i in configuration.all(Entry, block)]
    pools = (p.statement for p in configuration.all(Pool) if folded(p.statement.instance) == instance)
    where = next(
        (p.addresses for p in pools if p.name.lower() == statement.where.lower()), statement.where.lower()
    )
    way = folded(statement.port)
    return (who, where, statement.shared, statement.first, statement.last, way, instance)


def _agreement(model: Network, node: int, rules: Rules | None, wanted: Sequence[Statement]) -> float:
    """Return the share of the sources that come out as they do in the model answer: of several statements that are
    each for another way out, the mean."""
    ours = model.rules(node)
    if ours is None or rules is None:
        return 0.0
    said = [w for w in wanted if isinstance(w, OneToOne | Published | Dynamic)]
    named = {folded(s.port) for s in said} - {None}
    ways = sorted({p.name.lower() for p in model.up_ports(node) if p.external} | ways_named(ours, rules))
    shares = []
    for statement in said:
        own = folded(statement.port)
        here = [w for w in ways if w == own or w not in named] or [""]
        shares.append(_agreeing(_Sides(model, node, ours, rules, here), statement))
    return sum(shares) / len(shares)


@dataclass(frozen=True, slots=True)
class _Sides:
    """The translations of the model answer and the learner's, and the ways out by which they are compared."""

    model: Network
    node: int
    ours: Rules
    theirs: Rules
    ways: list[str]

    def agree(self, source: int) -> bool:
        """Whether a source comes out as the same."""
        return all(outside(self.theirs, source, way) == outside(self.ours, source, way) for way in self.ways)

    def publish_alike(self, service: Service) -> bool:
        """Whether a service is published as the same."""
        return all(
            _published(self.theirs, service, way) == _published(self.ours, service, way) for way in self.ways
        )


def _agreeing(sides: _Sides, statement: OneToOne | Published | Dynamic) -> float:
    if isinstance(statement, Published):
        inside = statement.inside
        return float(sides.publish_alike((statement.protocol, int(inside.holder), inside.number)))
    if isinstance(statement, OneToOne):
        return float(sides.agree(int(statement.inside)))
    model, ours = sides.model, sides.ours
    own = next((r for r, _ in ours.rules if r.text == statement.text()), None)
    if own is None:
        return 0.0  # the model answer's own line has no effect, which the lab check says
    classes: dict[object, bool] = {}
    lab = {a for other in model.nodes if other != sides.node for a in model.own(other)}
    for low, high in pairwise(_cuts(ours, sides.theirs, own, lab)):
        lines = [_by(ours, low, way) for way in sides.ways]
        if own in lines or (set(lines) == {None} and own.line_for(low)):
            key = low if low in lab and high == low + 1 else "others"
            classes[key] = classes.get(key, True) and sides.agree(low)
    return sum(classes.values()) / len(classes) if classes else 0.0


def ways_named(*every: Rules) -> set[str]:
    """Return the ports that translations are for, in small letters."""
    lines: list[Mapped | Rule] = [a.mapping for rules in every for a in rules.active_mappings]
    lines += [rule for rules in every for rule, _ in rules.rules]
    return {line.port for line in lines if line.port}


def _published(rules: Rules, service: Service, way: str) -> Outside:
    found = by(rules.published_inside.get(service), way)
    return (True, False, found.outside, found.outside, found.mapping.outside_number) if found else None


def _by(rules: Rules, source: int, way: str) -> Mapped | Rule | None:
    """Return the line that translates a source where it leaves by a port."""
    active = by(rules.one_to_one_inside.get(source), way)
    if active is not None:
        return active.mapping
    return next((rule for rule, _ in rules.rules if rule.permits(source, way)), None)


def outside(rules: Rules, source: int, way: str) -> Outside:
    """Say as what a source comes out by a port."""
    active = by(rules.one_to_one_inside.get(source), way)
    if active is not None:
        return True, False, active.outside, active.outside, 0
    for rule, (first, last) in rules.rules:
        if rule.permits(source, way):
            return False, rule.shared, first, last, 0
    return None


def _cuts(ours: Rules, theirs: Rules, rule: Rule, lab: set[int]) -> list[int]:
    """Cut the addresses that a rule may permit so that no line of either sheet begins or ends inside a piece."""
    cuts = {0, ALL + 1}
    for line in (line for rules in (ours, theirs) for own, _ in rules.rules for line in own.who):
        if line.network <= ALL:
            cuts |= {line.network, last_of(line.network, line.length) + 1}
    single = lab | set(ours.one_to_one_inside) | set(theirs.one_to_one_inside)
    permitted = [
        (line.network, last_of(line.network, line.length))
        for line in rule.who
        if line.permits and line.network <= ALL
    ]
    for address in single:
        if any(low <= address <= high for low, high in permitted):
            cuts |= {address, address + 1}
    return sorted(cuts)


def _of_what(item: AnyItem, configuration: Configuration) -> Place:
    """Count a translation by its first operand."""
    statement = item.statement
    own = getattr(statement, "instance", None) or ""
    if isinstance(statement, OneToOne):
        return str(statement.inside), own
    if isinstance(statement, Published):
        return f"{statement.protocol} {statement.inside}", own
    assert isinstance(statement, Dynamic)
    return str(statement.who), own


TRANSLATIONS = (
    CriterionKey(
        word="translation", about="DEVICE, with of: the same addresses come out as the same addresses",
        judge=translation, read=with_operand("of"), counts=(OneToOne, Published, Dynamic), place=_of_what,
        marks=3.0, task="Translation",
        by_share=True, bears_name=True, further={"of": OF, "in": IN},
    ),
)  # fmt: skip
