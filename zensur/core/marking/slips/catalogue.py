"""The catalogue of slips: keyword, title, how each is recognised, and what is said to the learner.

The first slip that fits an edit names it, so the most specific stand first.
"""

from collections.abc import Callable

from ...lab import Criterion
from ...sheet import Gateway, OnPort, Route, Switched
from ...sheet.statements import Leased
from .case import Case, Slip, adds, changes, is_said, needs, removes
from .statement_slips import STATEMENT_SLIPS


def _leads_right(c: Case) -> bool:
    """Whether the route does what the model's does, however it is written."""
    assert isinstance(c.wanted, Route)
    by_effect = Criterion("route", c.edit.device, str(c.wanted.dest), 0, None, c.wanted.instance or "")
    return c.judge.judge(by_effect, c.attempt).fraction == 1


def _address(case: Case, test: Callable[[OnPort, OnPort], bool]) -> bool:
    found, wanted = case.found, case.wanted
    return isinstance(found, OnPort) and isinstance(wanted, OnPort) and test(found, wanted)


def _route(case: Case, test: Callable[[Route, Route], bool]) -> bool:
    found, wanted = case.found, case.wanted
    return isinstance(found, Route) and isinstance(wanted, Route) and test(found, wanted)


def _gateway(case: Case, test: Callable[[Gateway], bool]) -> bool:
    return isinstance(case.found, Gateway) and isinstance(case.wanted, Gateway) and test(case.found)


def _hop_is_own(case: Case) -> bool:
    own = case.own_addresses()
    return _route(case, lambda f, w: f.dest == w.dest and f.next_hop in own)


def _outside(case: Case) -> bool:
    networks = case.networks()
    return _gateway(case, lambda g: not g.address.is_link_local and not any(g.address in n for n in networks))  # type: ignore[operator]


def _other_mask(found: Route, wanted: Route) -> bool:
    same = found.dest.network_address == wanted.dest.network_address
    return same or (wanted.dest.prefixlen > 0 and found.dest.overlaps(wanted.dest))


def _dest(case: Case) -> str:
    route = case.wanted if isinstance(case.wanted, Route) else case.found
    if not isinstance(route, Route):
        return ""
    return "any other network" if route.dest.prefixlen == 0 else str(route.dest)


def _duplicate(case: Case) -> str:
    holder = case.held_elsewhere(case.found.interface.ip) if isinstance(case.found, OnPort) else None
    return f"{is_said(case)} on {case.place} is the address of {holder}; no two devices can have one address."


SLIPS: tuple[Slip, ...] = (
    Slip(
        "sheet-of-another-device",
        "Sheet of another device",
        lambda c: (
            c.edit.whole and c.attempt.configurations[c.edit.device] != c.judge.lab.blank[c.edit.device]
        ),
        lambda c: f"What was handed in as the sheet of {c.edit.device} is that of another device.",
    ),
    Slip(
        "sheet-missing",
        "Sheet missing",
        lambda c: c.edit.whole,
        lambda c: f"There is no sheet for {c.edit.device}, or nothing in it could be read.",
    ),
    Slip(
        "two-ports-swapped",
        "Two ports swapped",
        lambda c: isinstance(c.wanted, OnPort) and len(c.edit.remove) > 1 and len(c.edit.add) > 1,
        lambda c: (
            f"{c.edit.remove[0].block.port_name if c.edit.remove[0].block else ''} and "
            f"{c.edit.remove[1].block.port_name if c.edit.remove[1].block else ''} of {c.edit.device} have each "
            "other's address."
        ),
    ),
    Slip(
        "port-left-off",
        "Port left off",
        lambda c: isinstance(c.wanted, Switched) and c.wanted.on,
        lambda c: f"{c.place} is never turned on, so nothing passes it.",
    ),
    Slip(
        "port-not-switched-off",
        "Port not switched off",
        lambda c: isinstance(c.wanted, Switched) and not c.wanted.on,
        lambda c: f"{c.place} has to be off.",
    ),
    Slip(
        "lease-instead-of-fixed-address",
        "Lease instead of a fixed address",
        lambda c: adds(OnPort)(c) and c.has(Leased),
        lambda c: f"{c.place} asks for a lease; its address is fixed.",
    ),
    Slip(
        "address-missing",
        "Address missing",
        adds(OnPort),
        lambda c: f"{c.place} has no address, or lacks one.",
    ),
    Slip(
        "address-on-the-wrong-port",
        "Address on the wrong port",
        lambda c: _address(c, lambda f, w: c.edit.remove[0].block != c.edit.add[0].block),
        lambda c: (
            f"{needs(c)} belongs on {c.place}, and stands on "
            f"{c.edit.remove[0].block.port_name if c.edit.remove[0].block else ''}."
        ),
    ),
    Slip(
        "wrong-mask",
        "Wrong mask",
        lambda c: _address(c, lambda f, w: f.interface.ip == w.interface.ip),
        lambda c: f"The address of {c.place} is right, its mask is not.",
    ),
    Slip(
        "duplicate-address",
        "Duplicate address",
        lambda c: _address(c, lambda f, w: c.held_elsewhere(f.interface.ip) is not None),
        _duplicate,
    ),
    Slip(
        "wrong-address",
        "Wrong address",
        changes(OnPort),
        lambda c: f"{c.place} has another address than planned.",
    ),
    Slip(
        "address-where-none-should-be",
        "Address where none should be",
        removes(OnPort),
        lambda c: f"{is_said(c)} on {c.place} is in nobody's plan and gets in the way.",
    ),
    Slip(
        "gateway-missing",
        "Gateway missing",
        adds(Gateway),
        lambda c: f"Without a gateway {c.edit.device} reaches its own network and nothing else.",
    ),
    Slip(
        "gateway-is-the-device-itself",
        "Gateway is the device itself",
        lambda c: _gateway(c, lambda g: g.address in c.own_addresses()),
        lambda c: f"{is_said(c)} is {c.edit.device}'s own address; the gateway is the router on its network.",
    ),
    Slip(
        "gateway-outside-the-network",
        "Gateway outside the network",
        _outside,
        lambda c: f"{is_said(c)} lies in none of {c.edit.device}'s networks, so it cannot be reached.",
    ),
    Slip(
        "gateway-wrong",
        "Gateway wrong",
        changes(Gateway),
        lambda c: f"{is_said(c)} is not the router of {c.edit.device}'s network.",
    ),
    Slip(
        "discard-missing",
        "Discard missing",
        lambda c: isinstance(c.wanted, Route) and c.wanted.discard and c.found is None,
        lambda c: f"Packets to {_dest(c)} have to be dropped at {c.edit.device}, and are not.",
    ),
    Slip(
        "return-route-missing",
        "Return route missing",
        lambda c: adds(Route)(c) and c.only_back,
        lambda c: f"Packets arrive, but {c.edit.device} knows no way back to {_dest(c)}.",
    ),
    Slip(
        "route-missing",
        "Route missing",
        adds(Route),
        lambda c: f"{c.edit.device} knows no way to {_dest(c)}.",
    ),
    Slip(
        "next-hop-is-the-device-itself",
        "Next hop is the device itself",
        _hop_is_own,
        lambda c: (
            f"{is_said(c)}: the next hop is an address of {c.edit.device} itself, not of its neighbour."
        ),
    ),
    Slip(
        "route-in-another-form",
        "Route in another form",
        lambda c: _route(c, lambda f, w: f.dest == w.dest and f.form != w.form) and _leads_right(c),
        lambda c: f"The route to {_dest(c)} leads to the right neighbour, and is asked for in another form.",
    ),
    Slip(
        "wrong-out-port",
        "Wrong out-port",
        lambda c: _route(c, lambda f, w: f.dest == w.dest and f.next_hop == w.next_hop and f.port != w.port),
        lambda c: f"Packets to {_dest(c)} leave {c.edit.device} by the wrong port.",
    ),
    Slip(
        "wrong-next-hop",
        "Wrong next hop",
        lambda c: _route(c, lambda f, w: f.dest == w.dest),
        lambda c: f"Packets to {_dest(c)} are sent to the wrong neighbour.",
    ),
    Slip(
        "route-with-the-wrong-mask",
        "Route with the wrong mask",
        lambda c: _route(c, _other_mask),
        lambda c: f"The route of {c.edit.device} has to hold for {_dest(c)}, and holds for other addresses.",
    ),
    Slip(
        "route-to-the-wrong-network",
        "Route to the wrong network",
        changes(Route),
        lambda c: f"The way is right, but the network that {c.edit.device} has to reach is {_dest(c)}.",
    ),
    Slip(
        "route-where-none-should-be",
        "Route where none should be",
        removes(Route),
        lambda c: f"{is_said(c)} leads packets astray.",
    ),
    *STATEMENT_SLIPS,
    Slip(
        "gateway-where-none-should-be",
        "Gateway where none should be",
        removes(Gateway),
        lambda c: f"{is_said(c)} is not wanted on {c.edit.device}.",
    ),
    Slip(
        "statement-where-none-should-be",
        "Statement where none should be",
        lambda c: True,
        lambda c: f"{is_said(c)} on {c.place} gets in the way.",
    ),
)


def name_slip(case: Case) -> Slip:
    """Return the first slip of the catalogue that fits."""
    return next(slip for slip in SLIPS if slip.fits(case))
