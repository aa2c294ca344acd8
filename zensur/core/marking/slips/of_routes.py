"""Slips in static routes."""

from collections.abc import Callable
from dataclasses import replace

from ...lab import Medium, counted_by
from ...sheet import Route
from ...sheet.statement import folded
from ...sheet.statements import Instance
from ...sim.packets import CIRCLES, Step
from .case import Case, Slip, adds, changes, is_said, removes
from .made_routes import (
    by_another_port,
    elsewhere,
    half_discarded,
    host_route,
    in_another_instance,
    narrower,
    routes_changed,
    routes_left_out,
    to_itself,
    wider_discard,
)


def _route(case: Case, test: Callable[[Route, Route], bool]) -> bool:
    found, wanted = case.found, case.wanted
    return isinstance(found, Route) and isinstance(wanted, Route) and test(found, wanted)


def _is_backup(c: Case) -> bool:
    """Whether the model answer prefers another route to the same destination."""
    counted = counted_by(c.device, c.edit.add[0], c.model)
    return counted is not None and counted.behind > 0


def _leads_right(c: Case) -> bool:
    """Whether the route does what the model's does, however it is written."""
    assert isinstance(c.wanted, Route)
    counted = counted_by(c.device, c.edit.add[0], c.model)
    if counted is None or c.edit.add[0] not in c.model.items:
        return False  # a route of the learner's own, led the right way
    return c.session.judge(replace(counted, marks=0.0), c.attempt).fraction == 1


def _only_preference(found: Route, wanted: Route) -> bool:
    return found != wanted and replace(found, preference=wanted.preference).plain() == wanted.plain()


def _hop_is_own(case: Case) -> bool:
    return _route(case, lambda f, w: f.dest == w.dest and f.next_hop in case.own_addresses(f.instance))


def _in_another_instance(found: Route, wanted: Route) -> bool:
    same = replace(found, instance=wanted.instance).plain() == wanted.plain()
    return same and folded(found.instance) != folded(wanted.instance)


def _which_instance(case: Case) -> str:
    found, wanted = case.found, case.wanted
    assert isinstance(found, Route)
    assert isinstance(wanted, Route)
    declared = {folded(i.statement.name) for i in case.learner.all(Instance)}
    if found.instance is not None and folded(found.instance) not in declared:
        return f"{is_said(case)} names the instance {found.instance}, which {case.device} does not have."
    return f"{is_said(case)} belongs to {f'the instance {wanted.instance}' if wanted.instance else 'no instance'}."


def _other_mask(found: Route, wanted: Route) -> bool:
    same = found.dest.network_address == wanted.dest.network_address
    return same or (wanted.dest.prefixlen > 0 and found.dest.overlaps(wanted.dest))


def _discard_too_wide(case: Case) -> bool:
    """Whether a discard holds for more than one of the model answer's."""
    found = case.found
    if not isinstance(found, Route) or not found.discard:
        return False
    return any(
        r.statement.discard
        and r.statement.dest.version == found.dest.version
        and r.statement.dest.prefixlen > found.dest.prefixlen
        and r.statement.dest.overlaps(found.dest)
        for r in case.model.all(Route)
    )


def _hides_a_wider_one(case: Case) -> bool:
    """Whether a route to one address takes it from a route for its network."""
    found = case.found
    if (
        not isinstance(found, Route)
        or case.wanted is not None
        or found.dest.prefixlen < found.dest.max_prefixlen
    ):
        return False
    return any(
        r.statement.dest.version == found.dest.version
        and r.statement.dest.prefixlen < found.dest.prefixlen
        and r.statement.dest.overlaps(found.dest)
        for c in (case.learner, case.model)
        for r in c.all(Route)
    )


def _for_what(case: Case) -> str:
    """Say for what a route with a wrong mask holds instead."""
    found, wanted = case.found, case.wanted
    assert isinstance(found, Route)
    assert isinstance(wanted, Route)
    if found.dest.prefixlen > wanted.dest.prefixlen:
        return "for a part of it only"
    return "for more than that" if wanted.dest.prefixlen > found.dest.prefixlen else "for other addresses"


def _dest(case: Case) -> str:
    """Name what a route is for."""
    route = case.wanted if isinstance(case.wanted, Route) else case.found
    if not isinstance(route, Route):
        return ""
    if route.dest.prefixlen:
        return str(route.dest)
    families = {r.statement.dest.version for r in case.model.all(Route)}
    return f"all other {f'IPv{route.dest.version} ' if len(families) > 1 else ''}networks"


def _no_way(case: Case) -> str:
    """Say that a route is missing, and which other one takes its packets instead."""
    if _is_default(case):
        return f"{case.device} has no {_default(case)}."
    other = _covering(case)
    if other is None:
        return f"{case.device} knows no way to {_dest(case)}."
    return f"{case.device} has no route to {_dest(case)}, whose packets {other} takes elsewhere."


def _no_way_back(case: Case) -> str:
    """Say the same of the way back, where packets arrive."""
    if _is_default(case):
        return (
            f"Packets arrive, but {case.device} has no {_default(case)} by which their answers could go back."
        )
    other = _covering(case)
    if other is None:
        return f"Packets arrive, but {case.device} knows no way back to {_dest(case)}."
    return f"Packets arrive, but {case.device} has no route back to {_dest(case)}: {other} takes the answers elsewhere."


def _default(case: Case) -> str:
    """Name a default route, with its family where there are two."""
    families = {r.statement.dest.version for r in case.model.all(Route)}
    assert isinstance(case.wanted, Route)
    return f"IPv{case.wanted.dest.version} default route" if len(families) > 1 else "default route"


def _is_default(case: Case) -> bool:
    return isinstance(case.wanted, Route) and case.wanted.dest.prefixlen == 0


def _covering(case: Case) -> str | None:
    """Return the learner's longest route that holds for a missing one's addresses, as it is written."""
    wanted = case.wanted
    assert isinstance(wanted, Route)
    covering = [
        r.statement
        for r in case.learner.all(Route)
        if r.statement.dest.version == wanted.dest.version
        and folded(r.statement.instance) == folded(wanted.instance)
        and r.statement.dest.prefixlen < wanted.dest.prefixlen
        and r.statement.dest.overlaps(wanted.dest)
    ]
    return max(covering, key=lambda r: r.dest.prefixlen).plain().text() if covering else None


def _goes_wrong(case: Case) -> str:
    """Say what becomes of packets whose route leads the wrong way."""
    found = case.found
    assert isinstance(found, Route)
    to, text = _dest(case), found.plain().text()
    if found.discard:
        return f"{text} drops packets for {to} at {case.device}."
    if found.next_hop is None:
        return f"{text} sends packets for {to} out of {found.port}, where the neighbour is not the one that is wanted."
    node = case.attempt.network.find_node(
        f"{case.device}/{found.instance}" if found.instance else case.device
    )
    active = case.attempt.network.table(node).routes() if node is not None else ()
    if not any(r.static is not None and r.static.source == found for r in active):
        return f"{text} is not in use: {case.device} has no port by which it reaches {found.next_hop}."
    if round_it := _round(case):
        return f"{text} sends packets for {to} back to where they come from: they go round {' and '.join(round_it)}."
    return f"{text} sends packets for {to} to the wrong neighbour."


def _out_port(case: Case) -> str:
    return case.found.port or "" if isinstance(case.found, Route) else ""


def _asks_on_ethernet(case: Case) -> bool:
    """Whether a route by out-port alone leads to the right port, where each address has to be answered for."""
    found, wanted = case.found, case.wanted
    if not isinstance(found, Route) or not isinstance(wanted, Route) or found.dest != wanted.dest:
        return False
    port = case.lab.devices[case.device].port((found.port or "").partition(".")[0])
    ethernet = port is not None and port.medium is Medium.ETHERNET
    return found.form == "out" and ethernet and _leads_out_of(case, wanted) == folded(found.port)


def _leads_out_of(case: Case, route: Route) -> str | None:
    """Return the port by which a route leaves in the model answer."""
    network = case.session.network
    node = network.find_node(f"{case.device}/{route.instance}" if route.instance else case.device)
    routes = network.table(node).routes() if node is not None else ()
    used = (r for r in routes if r.static is not None and r.static.source == route)
    return next((folded(r.out.name) for r in used if r.out is not None), folded(route.port))


def _round(case: Case) -> list[str]:
    """Return the devices round which a route sends packets in a circle; none where it does not."""
    found, session = case.found, case.session
    if not isinstance(found, Route) or found.discard:
        return []
    device = session.wiring.device[case.device.lower()]

    def uses(step: Step) -> bool:
        static = step.decision.route.static if step.decision.route else None
        here = session.wiring.device_of_node(step.node) == device
        return here and static is not None and static.source == found

    for ident in case.lab.expected:
        result = session.paper.runs[ident].result
        for carried in (result.request, result.answer):
            if carried is not None and carried.reason in CIRCLES and any(map(uses, carried.steps)):
                return [session.paper.network.name(node) for node in carried.circle]
    return []


OF_ROUTES: tuple[Slip, ...] = (
    Slip(
        "discard-missing",
        "Discard missing",
        lambda c: isinstance(c.wanted, Route) and c.wanted.discard and c.found is None,
        lambda c: f"Packets to {_dest(c)} have to be dropped at {c.device}, and are not.",
        "The discard was not entered: packets for the unused rest of a summary wander on.",
        routes_left_out(True),
    ),
    Slip(
        "backup-route-missing",
        "Backup route missing",
        lambda c: adds(Route)(c) and _is_backup(c),
        lambda c: f"{c.device} has no second way to {_dest(c)} for when the first is down.",
        "The route that stands in when the first is down was not entered.",
    ),
    Slip(
        "return-route-missing",
        "Return route missing",
        lambda c: adds(Route)(c) and c.only_back,
        _no_way_back,
        "The way there is complete, the way back was forgotten.",
    ),
    Slip(
        "route-missing",
        "Route missing",
        adds(Route),
        _no_way,
        "The route was not entered.",
        routes_left_out(False, "return-route-missing", "backup-route-missing"),
    ),
    Slip(
        "preference-wrong",
        "Preference wrong",
        lambda c: _route(c, _only_preference),
        lambda c: f"The route of {c.device} to {_dest(c)} is right but for its preference.",
        "The route is right, with another preference than planned.",
    ),
    Slip(
        "route-in-the-wrong-instance",
        "Route in the wrong instance",
        lambda c: _route(c, _in_another_instance),
        _which_instance,
        "The route is right, and stands in another network instance than planned.",
        in_another_instance,
    ),
    Slip(
        "next-hop-is-the-device-itself",
        "Next hop is the device itself",
        _hop_is_own,
        lambda c: f"{is_said(c)}: the next hop is an address of {c.device} itself, not of its neighbour.",
        "The route points at the device's own address in place of its neighbour's.",
        to_itself,
    ),
    Slip(
        "route-in-another-form",
        "Route in another form",
        lambda c: _route(c, lambda f, w: f.dest == w.dest and f.form != w.form) and _leads_right(c),
        lambda c: f"The route to {_dest(c)} leads to the right neighbour, and is asked for in another form.",
        "The route works; the scheme asks for another form (next hop, out-port, or both).",
    ),
    Slip(
        "works-only-where-a-neighbour-answers",
        "Works only where a neighbour answers for others",
        _asks_on_ethernet,
        lambda c: (
            f"{is_said(c)} names no next hop, so that {c.device} asks on {_out_port(c)} for each address itself: that "
            "works only where a neighbour answers for others."
        ),
        "The route names the port and no next hop; on ethernet it works only where a neighbour answers for others.",
    ),
    Slip(
        "discard-too-wide",
        "Discard too wide",
        _discard_too_wide,
        lambda c: f"{is_said(c)} also drops packets that {c.device} has to pass on.",
        "The discard holds for more addresses than planned, and drops what should be passed on.",
        routes_changed(wider_discard, "wider discard"),
    ),
    Slip(
        "wrong-out-port",
        "Wrong out-port",
        lambda c: _route(c, lambda f, w: f.dest == w.dest and f.next_hop == w.next_hop and f.port != w.port),
        lambda c: f"Packets to {_dest(c)} leave {c.device} by the wrong port.",
        "The route leaves by another port than planned.",
        by_another_port,
    ),
    Slip(
        "wrong-next-hop",
        "Wrong next hop",
        lambda c: _route(c, lambda f, w: f.dest == w.dest),
        _goes_wrong,
        "The destination is right, the next hop is not.",
        routes_changed(
            lambda r: replace(r, next_hop=r.next_hop + 1) if r.next_hop else None,
            "other hop",
            "next-hop-is-the-device-itself",
        ),
    ),
    Slip(
        "route-with-the-wrong-mask",
        "Route with the wrong mask",
        lambda c: _route(c, _other_mask),
        lambda c: f"The route of {c.device} has to hold for {_dest(c)}, and holds {_for_what(c)}.",
        "The destination begins right, but its mask takes in too much or too little.",
        routes_changed(narrower, "narrower"),
    ),
    Slip(
        "route-to-the-wrong-network",
        "Route to the wrong network",
        changes(Route),
        lambda c: f"The way is right, but the network that {c.device} has to reach is {_dest(c)}.",
        "The next hop is right, the destination is another network.",
        routes_changed(elsewhere, "other network"),
    ),
    Slip(
        "host-route-hides-a-wider-one",
        "Host route hides a wider one",
        _hides_a_wider_one,
        lambda c: f"{is_said(c)} takes this one address of {c.device}'s network route elsewhere.",
        "A route to a single address is more specific than the right one, and leads elsewhere.",
        host_route,
    ),
    Slip(
        "circle",
        "Circle",
        lambda c: c.wanted is None and bool(_round(c)),
        lambda c: (
            f"{is_said(c)} sends packets back to where they come from: they go round {' and '.join(_round(c))}."
        ),
        "A route sends packets back to where they come from, and they go round until their TTL is used up.",
    ),
    Slip(
        "route-where-none-should-be",
        "Route where none should be",
        removes(Route),
        lambda c: f"{is_said(c)} on {c.device} leads packets astray.",
        "A route that nobody asked for leads packets astray.",
        half_discarded,
    ),
)
