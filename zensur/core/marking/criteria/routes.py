"""Criteria about routes and gateways: by effect, and where it is asked for by form."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from ipaddress import ip_network

from ...addresses import BadValue, Prefix, parse_prefix
from ...lab import Criterion, CriterionKey, Device, Lab
from ...lab.criteria import device_with
from ...lab.keys import at_top
from ...lab.schema import IN
from ...lab.shapes import Choice, Found, Key, Number, Text
from ...sheet import DEFAULT_V4, AnyItem, Configuration, Gateway, Item, Route, write_destination
from ...sheet.statement import folded
from ...sheet.statements.routing import RIP
from ...sim import Network
from ...sim.device import LEARNED_PREFERENCE
from ...sim.numbers import number_of
from ..shapes import Judged
from .effects import gateway_is_right
from .judging import Attempted, Judging, in_instance, shown


def route(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare where packets to a destination go, as :meth:`RouteClasses.earned` says; half for another form."""
    name, classes = criterion.device, session.classes(criterion)
    learner, dest = attempt.configurations[name], ip_network(criterion.operand)
    ranked = _ranked(session.lab.model[name], criterion)
    wanted = ranked[criterion.behind].statement
    concerned = [i for i in _own(learner, criterion) if classes.reaches(i.statement)]
    exact = [i for i in concerned if i.statement.dest == dest]
    covering = [i for i in concerned if i.statement.dest.prefixlen < dest.prefixlen]
    fraction = _by_effect(session, criterion, attempt, ranked)
    if fraction is None:  # the model never uses this route: there is nothing but its text to compare
        fraction = float(any(_same_way(i.statement, wanted, session.network, classes.node) for i in exact))
    in_form = criterion.form is None or any(_in_form(i.statement, wanted, criterion.form) for i in exact)
    preferred = criterion.preference is None or any(
        i.statement.preference == criterion.preference for i in exact
    )
    if not in_form or not preferred:
        fraction = min(fraction, 0.5)  # the right neighbour in another form, or with another preference
    proof = exact or covering or ([] if fraction == 1 else concerned)
    found = "; ".join(i.statement.plain().text() for i in proof[:3]) or _no_route(dest)
    required = wanted.plain().text()
    if not in_form and criterion.form is not None:
        required = f"{required}, {_FORMS[criterion.form]}"
    return Judged(fraction, required, found, shown(proof))


_FORMS = {
    "via": "by its next hop",
    "out": "by its out-port",
    "both": "by next hop and out-port",
    "discard": "as a discard",
    "any": "by the model's own next hop or port",
}


def _own(configuration: Configuration, criterion: Criterion) -> list[Item[Route]]:
    """Return the routes of the criterion's network instance."""
    return [i for i in configuration.all(Route) if in_instance(i.statement.instance, criterion)]


def _ranked(configuration: Configuration, criterion: Criterion) -> list[Item[Route]]:
    """Return the routes to the criterion's destination, those that are preferred first."""
    routes = [i for i in _own(configuration, criterion) if str(i.statement.dest) == criterion.operand]
    return sorted(routes, key=lambda i: i.statement.preference)


def _by_effect(
    session: Judging, criterion: Criterion, attempt: Attempted, ranked: list[Item[Route]]
) -> float | None:
    """Return what is earned, in whichever candidate is best; None where the model answer never uses the route.

    Half, too, where it is as it should be but for longer routes that hide a part of it; those that are a mistake of
    another criterion do not count. What is preferred to the route stands on neither side.
    """
    name, node, classes = criterion.device, session.node(criterion), session.classes(criterion)
    answer, wanted = session.lab.model[name], ranked[criterion.behind]
    behind_learned = wanted.statement.preference > LEARNED_PREFERENCE and bool(answer.blocks(RIP))
    model = session.alone(name, _without(answer, ranked[: criterion.behind], behind_learned))
    best: float | None = None
    for own in session.candidate_configurations(name, attempt, classes.reaches):
        preferred, meant = _meant_as(own, criterion, wanted, session.network, node)
        configuration = _without(own, preferred, behind_learned)
        # what stands in front of learned routes, where the model's stands behind them, has another preference
        in_front = behind_learned and meant is not None and meant.statement.preference <= LEARNED_PREFERENCE
        longer = [i for i in _own(configuration, criterion) if classes.holds(i.statement)]
        charged = [
            i for i in longer if criterion.behind or _is_charged(i, session, criterion, configuration)
        ]  # what hides a backup route hides the one before it, too
        for most, dropped in ((1.0, []), (1.0, charged), (0.5, longer)):
            if (dropped or most == 1) and best != 1:
                network = attempt.beside(name, _without(configuration, dropped))
                there = network.find_node(criterion.node) == node
                found = classes.earned(model, network, attempt.by_owner) if there else 0.0
                if found is None:
                    return None
                best = max(best or 0.0, min(most, found, 0.5 if in_front else 1.0))
            if best is not None and best >= most:
                break
        if best == 1:
            break
    return best


def _meant_as(
    learner: Configuration, criterion: Criterion, wanted: Item[Route], model: Network, node: int
) -> tuple[list[Item[Route]], Item[Route] | None]:
    """Return the learner's route that was meant as one of the model answer's, behind those that are preferred to it."""
    ranked = _ranked(learner, criterion)
    same = [i for i in ranked if _same_way(i.statement, wanted.statement, model, node)]
    meant = next(iter(same), ranked[criterion.behind] if len(ranked) > criterion.behind else None)
    if not criterion.behind:
        return [], meant
    return (ranked[: ranked.index(meant)] if meant is not None else ranked), meant


def _without(configuration: Configuration, routes: Sequence[AnyItem], learned: bool = False) -> Configuration:
    """Return a device's configuration without some routes, and perhaps without those that it learns."""
    gone = [*routes]
    if learned:
        gone += [i for i in configuration.items if i.block is not None and i.block.kind == RIP]
    return configuration.changed(gone, []) if gone else configuration


def _is_charged(
    item: Item[Route], session: Judging, criterion: Criterion, configuration: Configuration
) -> bool:
    """Say whether a route is what the learner has in the place of another of the model answer."""
    network, node = session.network, session.node(criterion)
    there = _own(configuration, criterion)
    return any(
        wanted.statement.dest != item.statement.dest
        and str(wanted.statement.dest) != criterion.operand
        and _same_way(item.statement, wanted.statement, network, node)
        and not any(
            i.statement.dest == wanted.statement.dest
            and _same_way(i.statement, wanted.statement, network, node)
            for i in there
        )
        for wanted in _own(session.lab.model[criterion.device], criterion)
    )


def gateway(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether the gateway is any address of the model's gateway on that link, however it is written."""
    name, node, six = criterion.device, session.node(criterion), criterion.operand == "6"
    learner, model = attempt.configurations[name], session.lab.model[name]
    candidates = (attempt.beside(name, c) for c in session.candidate_configurations(name, attempt))
    right = any(
        network.find_node(criterion.node) == node and gateway_is_right(network, session.network, node, six)
        for network in candidates
    )
    wanted, items = _gateways(model, criterion, six), _gateways(learner, criterion, six)
    required, found = ([i.statement.address for i in own] for own in (wanted, items))
    if not right and required and required == found:
        right = True  # the model's own gateway does not answer: there is nothing but its text to compare
    defaults = [
        r for r in learner.all(Route)
        if r.statement.dest.prefixlen == 0 and (r.statement.dest.version == 6) is six
    ]  # fmt: skip
    proof: tuple[AnyItem, ...] = shown(items) or shown(defaults)
    text = ", ".join(map(str, found)) or ("a default route" if proof else "no gateway")
    return Judged(float(right), ", ".join(map(str, required)), text, proof)


def _gateways(configuration: Configuration, criterion: Criterion, six: bool) -> list[Item[Gateway]]:
    return [
        i
        for i in configuration.all(Gateway)
        if (i.statement.address.version == 6) is six and in_instance(i.statement.instance, criterion)
    ]


def _no_route(dest: Prefix) -> str:
    return "no default route" if dest.prefixlen == 0 else f"no route to {write_destination(dest)}"


def _same_way(one: Route, other: Route, model: Network, node: int) -> bool:
    """Say whether two routes lead the same way: a port is the way to a neighbour on it."""
    if one.discard or other.discard:
        return one.discard and other.discard
    same_hop = None in (one.next_hop, other.next_hop) or one.next_hop == other.next_hop
    return same_hop and _out(one, model, node) == _out(other, model, node)


def _out(route: Route, model: Network, node: int) -> str | None:
    """Return the port by which a route leaves in the model answer; its text where that cannot be told."""
    if route.port is not None:
        return folded(route.port)
    found = model.table(node).find(number_of(route.next_hop)) if route.next_hop is not None else None
    return folded(found.out.name) if found is not None and found.out is not None else str(route.next_hop)


def _in_form(found: Route, wanted: Route, form: str) -> bool:
    """Say whether a route to the same destination has the form asked for, with the model's next hop or port."""
    same_hop, same_port = found.next_hop == wanted.next_hop, folded(found.port) == folded(wanted.port)
    if form == "any":
        return (
            (found.next_hop is not None and same_hop)
            or (found.port is not None and same_port)
            or (found.discard and wanted.discard)
        )
    return found.form == form and (same_hop or form == "out") and (same_port or form == "via")


def _read_route(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    asked = device_with(key, found, lab)
    if asked is None:
        return
    device, _, marks, own = asked
    entry = found.value.get("dest")
    if entry is None:
        found.at.fail("A route criterion needs its dest, such as dest: 10.64.40.0/24 or dest: default.")
        return
    try:
        dest = DEFAULT_V4 if entry.value == "default" else parse_prefix(entry.value)
    except BadValue as bad:
        entry.at.fail(str(bad))
        return
    criterion = Criterion(key.word, device.name, str(dest), marks, found.get("form"), own)
    routes = [r.statement for r in _ranked(lab.model[device.name], criterion)]
    if not routes:
        entry.at.fail(f"The model answer of {device.name} has no route to {entry.value}.")
        return
    preferences = [r.preference for r in routes]
    asked_for = found.get("preference")
    yield replace(criterion, behind=preferences.index(asked_for) if asked_for in preferences else 0)


def _read_gateway(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    asked = device_with(key, found, lab)
    if asked is None:
        return
    device, at, marks, own = asked
    gateways = [g.statement for g in lab.model[device.name].all(Gateway)]
    there = sorted({g.address.version for g in gateways if (g.instance or "").lower() == own.lower()})
    families = [int(found.get("family"))] if "family" in found.value else there
    if not families or not set(families) <= set(there):
        what = f"IPv{families[0]} gateway" if families else "gateway"
        at.fail(f"The model answer gives {device.name} no {what}.")
    for family in families:  # where none is named, they share the marks
        operand = "6" if family == 6 else ""
        yield Criterion(key.word, device.name, operand, marks / len(families), None, own)


def _behind(item: AnyItem, configuration: Configuration) -> int:
    """Count the routes to the same destination that are preferred to one."""
    assert isinstance(item.statement, Route)
    route = item.statement
    same = [
        i
        for i in configuration.all(Route)
        if i.statement.dest == route.dest and folded(i.statement.instance) == folded(route.instance)
    ]
    ranked = sorted(same, key=lambda i: i.statement.preference)
    return next((n for n, i in enumerate(ranked) if i is item), 0)


def _ignored(item: AnyItem, device: Device) -> bool:
    """Whether a gateway stands on a device that forwards, which ignores it."""
    return device.forwards


ROUTES = (
    CriterionKey(
        word="route", about="DEVICE, with dest: packets to it leave towards the same neighbour", judge=route,
        read=_read_route, counts=(Route,), place=at_top(lambda s: str(s.dest)), behind=_behind, beside=True,
        marks=2.0, task="Routes",
        further={
            "dest": Key(Text(), "the prefix of a route, or default"),
            "form": Key(
                Choice("via", "out", "both", "discard", "any"),
                "the form that a route has to have, with the model's next hop or port",
            ),
            "preference": Key(Number(1, 255, whole=True), "the preference that a route has to have"),
            "in": IN,
        },
    ),
    CriterionKey(
        word="gateway", about="DEVICE: its default gateway", judge=gateway, read=_read_gateway, counts=(Gateway,),
        beside=True, place=at_top(lambda s: "6" if s.address.version == 6 else ""), task="Gateways", needless=_ignored,
        further={"family": Key(Choice("4", "6"), "the family of a gateway, where there is one for each"), "in": IN},
    ),
)  # fmt: skip
