"""Criteria about translations: by effect, the same addresses come out as the same addresses, shared or not."""

from itertools import pairwise

from ...lab import Criterion
from ...sheet import Block, Configuration
from ...sheet.statement import Statement, folded
from ...sheet.statements import Dynamic, Entry, Pool, Published
from ...sheet.statements.translation import LIST
from ...sim import Network
from ...sim.numbers import ALL, last_of
from ...sim.translating import Mapped, Rule, Rules
from ..result import Judged
from .attempt import Attempt
from .judge import Judge

Outside = tuple[bool, int, int, int] | None
"""As what a source is seen: shared or not, the first and last address, and the number of a published service."""


def translation(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Judge a translation of the model answer, with the device's ports and realms as the learner or the model has them."""
    node = judge.node(criterion)
    learner = attempt.configurations[criterion.device]
    wanted = judge.counted(criterion)
    fraction = 0.0
    for configuration in judge.arranged(criterion.device, attempt):
        network = judge.alone(criterion.device, configuration)
        rules = network.rules(node) if node in network.nodes else None
        fraction = max(fraction, _agreeing(judge.model.network, node, rules, wanted[0].statement, criterion))
        if fraction == 1:
            break
    said = {i.slot: i for i in learner.items}
    same = [said[w.slot] for w in wanted if w.slot in said]
    found = same or [i for i in learner.items if type(i.statement) is type(wanted[0].statement)]
    model = judge.lab.model[criterion.device]
    if (
        fraction == 1
        and criterion.form == "form"
        and not any(_form(f.statement, learner) == _form(w.statement, model) for f in found for w in wanted)
    ):
        fraction = 0.5  # the same effect, said otherwise
    return Judged(
        fraction,
        wanted[0].statement.text(),
        "; ".join(i.statement.text() for i in found[:3]) or "no translation",
        tuple(i.where for i in found if i.where is not None),
    )


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
    return (who, where, statement.shared, statement.first, statement.last, instance)


def _agreeing(
    model: Network, node: int, rules: Rules | None, statement: object, criterion: Criterion
) -> float:
    """Return the share of the sources that come out as they do in the model answer."""
    ours = model.rules(node)
    if ours is None or rules is None:
        return 0.0
    if isinstance(statement, Published):
        key = (statement.protocol, int(statement.inside.holder), statement.inside.number)
        return float(_published(rules, *key) == _published(ours, *key))
    own = [r for r, _ in ours.rules if r.text == statement.text()]  # type: ignore[attr-defined]
    if isinstance(statement, Dynamic):
        if not own:
            return 0.0  # the model answer's own line has no effect, which the lab check says
    else:
        inside = int(statement.inside)  # type: ignore[attr-defined]
        return float(outside(rules, inside) == outside(ours, inside))
    classes: dict[object, bool] = {}
    lab = {a for other in model.nodes if other != node for a in model.own(other)}
    for low, high in pairwise(_cuts(ours, rules, own[0], lab)):
        line = _by(ours, low)
        if line is own[0] or (line is None and own[0].names(low)):
            key_ = low if low in lab and high == low + 1 else "others"
            classes[key_] = classes.get(key_, True) and outside(rules, low) == outside(ours, low)
    return sum(classes.values()) / len(classes) if classes else 0.0


def _published(rules: Rules, protocol: str, inside: int, number: int) -> Outside:
    found = rules.published_inside.get((protocol, inside, number))
    return (False, found.outside, found.outside, found.mapping.outside_number) if found else None


def _by(rules: Rules, source: int) -> Mapped | Rule | None:
    """Return the line that translates a source."""
    standing = rules.one_to_one_inside.get(source)
    if standing is not None:
        return standing.mapping
    return next((rule for rule, _ in rules.rules if rule.permits(source)), None)


def outside(rules: Rules, source: int) -> Outside:
    """Say as what a source comes out."""
    standing = rules.one_to_one_inside.get(source)
    if standing is not None:
        return False, standing.outside, standing.outside, 0
    for rule, (first, last) in rules.rules:
        if rule.permits(source):
            return rule.shared, first, last, 0
    return None


def _cuts(ours: Rules, theirs: Rules, rule: Rule, lab: set[int]) -> list[int]:
    """Cut the addresses that a rule may permit so that no line of either sheet begins or ends inside a piece."""
    cuts = {0, ALL + 1}
    for network, length in ((n, k) for r in (ours, theirs) for own, _ in r.rules for _, n, k in own.who):
        if network <= ALL:
            cuts |= {network, last_of(network, length) + 1}
    single = lab | set(ours.one_to_one_inside) | set(theirs.one_to_one_inside)
    permitted = [(n, last_of(n, k)) for permit, n, k in rule.who if permit and n <= ALL]
    for address in single:
        if any(low <= address <= high for low, high in permitted):
            cuts |= {address, address + 1}
    return sorted(cuts)
