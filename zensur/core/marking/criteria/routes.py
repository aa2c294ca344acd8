"""Criteria about routes and gateways: by effect, and where it is asked for by form."""

from collections.abc import Iterator
from ipaddress import ip_network

from ...addresses import BadValue, Prefix, parse_prefix
from ...lab import Criterion, CriterionKey, Device, Lab
from ...lab.criteria import device_with
from ...lab.keys import at_top
from ...lab.schema import IN
from ...lab.shapes import Choice, Found, Key, Number, Text
from ...sheet import DEFAULT_V4, AnyItem, Configuration, Gateway, Item, Route, write_destination
from ...sheet.statement import folded
from ..shapes import Judged
from .effects import gateway_is_right
from .judging import Attempted, Judging, in_instance, shown


def route(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare where packets to a destination go; half for another form, or the right way for too much."""
    name, classes = criterion.device, session.classes(criterion)
    dest = ip_network(criterion.operand)
    wanted = [i for i in _own(session.lab.model[name], criterion) if i.statement.dest == dest]
    concerned = [i for i in _own(attempt.configurations[name], criterion) if classes.reaches(i.statement)]
    exact = [i for i in concerned if i.statement.dest == dest]
    covering = [i for i in concerned if i.statement.dest.prefixlen < dest.prefixlen]
    wrong = _wrong_classes(session, criterion, attempt)
    if wrong is None:  # the model never uses this route: there is nothing but its text to compare
        wrong = not any(_same_way(i.statement, w.statement) for i in exact for w in wanted)
    fraction = 0.0 if wrong else 1.0
    if wrong and any(_same_way(i.statement, w.statement) for i in covering for w in wanted):
        fraction = 0.5  # the right way for too many addresses, hidden by another route for some
    in_form = criterion.form is None or any(
        _in_form(i.statement, w.statement, criterion.form) for i in exact for w in wanted
    )
    preferred = criterion.preference is None or any(
        i.statement.preference == criterion.preference for i in exact
    )
    if not in_form or not preferred:
        fraction = min(fraction, 0.5)  # the right neighbour in another form, or with another preference
    proof = exact or covering or ([] if not wrong else concerned)
    found = "; ".join(i.statement.plain().text() for i in proof[:3]) or _no_route(dest)
    return Judged(fraction, wanted[0].statement.plain().text(), found, shown(proof))


def _own(configuration: Configuration, criterion: Criterion) -> list[Item[Route]]:
    """Return the routes of the criterion's network instance."""
    return [i for i in configuration.all(Route) if in_instance(i.statement.instance, criterion)]


def _wrong_classes(session: Judging, criterion: Criterion, attempt: Attempted) -> int | None:
    """Count the classes of addresses that go elsewhere than in the model answer; None where there is no class."""
    node, classes = session.node(criterion), session.classes(criterion)
    wrong: int | None = None
    for configuration in session.candidate_configurations(criterion.device, attempt, classes.reaches):
        network = session.alone(criterion.device, configuration)
        wrong = classes.wrong(session.network, network) if network.find_node(criterion.node) == node else 1
        if not wrong:
            break
    return wrong


def gateway(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether the gateway is any address of the model's gateway on that link, however it is written."""
    name, node, six = criterion.device, session.node(criterion), criterion.operand == "6"
    learner, model = attempt.configurations[name], session.lab.model[name]
    candidates = (session.alone(name, c) for c in session.candidate_configurations(name, attempt))
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


def _same_way(a: Route, b: Route) -> bool:
    return (a.next_hop, a.port) == (b.next_hop, b.port)


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
    if dest not in [r.statement.dest for r in _own(lab.model[device.name], criterion)]:
        entry.at.fail(f"The model answer of {device.name} has no route to {entry.value}.")
        return
    yield criterion


def _read_gateway(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    asked = device_with(key, found, lab)
    if asked is None:
        return
    device, at, marks, own = asked
    gateways = [g.statement for g in lab.model[device.name].all(Gateway)]
    families = [g.address.version for g in gateways if (g.instance or "").lower() == own.lower()]
    family = int(found.get("family")) if "family" in found.value else min(families, default=4)
    if family not in families:
        what = f"IPv{family} gateway" if "family" in found.value else "gateway"
        at.fail(f"The model answer gives {device.name} no {what}.")
    yield Criterion(key.word, device.name, "6" if family == 6 else "", marks, None, own)


def _ignored(item: AnyItem, device: Device) -> bool:
    """Whether a gateway stands on a device that forwards, which ignores it."""
    return device.forwards


ROUTES = (
    CriterionKey(
        word="route", about="DEVICE, with dest: packets to it leave towards the same neighbour", judge=route,
        read=_read_route, counts=(Route,), place=at_top(lambda s: str(s.dest)), marks=2.0, task="Routes",
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
        place=at_top(lambda s: "6" if s.address.version == 6 else ""), task="Gateways", needless=_ignored,
        further={"family": Key(Choice("4", "6"), "the family of a gateway, where there is one for each"), "in": IN},
    ),
)  # fmt: skip
