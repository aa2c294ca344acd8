"""The state of every device: ports and why one is down, routes and why one is not active, neighbours, names.

The shape is that of ``state --json``. What is not simulated yet is there and empty.
"""

from collections.abc import Iterable, Mapping
from typing import Any

from ..lab import Expected
from ..sheet import Block, Configuration, Where
from ..sheet.statements import Realm
from .device import IpPort, StaticRoute, dotted
from .ending import why_inactive
from .expectations import AnyRun, group_of, run_any
from .network import Network
from .routes import ActiveRoute

_NOT_SIMULATED = ("translations", "leases", "leased", "instances")


def state(
    network: Network, model: Network, configurations: Mapping[str, Configuration], asked: Iterable[Expected]
) -> dict[str, dict[str, Any]]:
    """Return the state of every device after the pings and checks asked for have been run in their order."""
    listed = list(asked)
    runs = [run_any(network, model, one, group_of(one, listed)) for one in listed]
    met = _neighbours(network, runs)
    return {
        name: {
            "ports": [_port(network, number, p, configurations[name]) for p in network.devices[number].ports],
            "routes": _routes(network, number),
            "neighbours": met.get(number, []),
            "names": _names(network, number),
            **{key: [] for key in _NOT_SIMULATED},
        }
        for number, name in enumerate(network.wiring.names)
    }


def _placed(where: Where | None) -> dict[str, Any]:
    return {"file": where.file if where else None, "line": where.line if where else None}


def _port(network: Network, device: int, port: IpPort, configuration: Configuration) -> dict[str, Any]:
    wiring = network.wiring
    peer = wiring.peer[port.port] if port.port >= 0 else -1
    realm = configuration.one(Realm, Block("port", port.name)) if port.port >= 0 else None
    return {
        "name": port.name,
        "kind": port.kind,
        "on": port.on,
        "up": network.is_up(port),
        "why": network.why_down(port),
        "far_end": f"{wiring.names[wiring.port_device[peer]]}:{wiring.port_name[peer]}"
        if peer >= 0
        else None,
        "addresses": [f"{dotted(a.address)}/{a.length}" for a in port.addresses],
        "vlan": port.vlan or None,
        "realm": ("external" if realm.statement.external else "internal") if realm else None,
        **_placed(port.where),
    }


def _routes(network: Network, device: int) -> list[dict[str, Any]]:
    """List own addresses, then active routes by length, then those that are not active, with why."""
    rows = [
        {
            "prefix": f"{dotted(address)}/32", "origin": "own", "preference": 0, "next_hop": None, "port": port.name,
            "active": True, "why": None, **_placed(own.where),
        }
        for address, (port, own) in network.own(device).items()
    ]  # fmt: skip
    table = network.table(device)
    active = list(table.routes())
    best: dict[tuple[int, int], ActiveRoute] = {}
    for route in active:
        winner = best.setdefault((route.network, route.length), route)
        rows.append(_active(route, winner))
    known = {id(r.static) for r in active if r.static is not None}
    rows += [
        _inactive(network, device, static)
        for static in network.devices[device].statics
        if id(static) not in known
    ]
    return rows


def _active(route: ActiveRoute, winner: ActiveRoute) -> dict[str, Any]:
    static = route.static
    why = None
    if route is not winner:
        equal = route.preference == winner.preference
        why = f"{winner.text} {'stands first' if equal else 'has a lower preference'}"
    return {
        "prefix": f"{dotted(route.network)}/{route.length}",
        "origin": route.origin,
        "preference": route.preference,
        "next_hop": dotted(static.next_hop) if static and static.next_hop is not None else None,
        "port": route.out.name if route.out else None,
        "active": route is winner,
        "why": why,
        **_placed(route.where),
    }


def _inactive(network: Network, device: int, static: StaticRoute) -> dict[str, Any]:
    return {
        "prefix": f"{dotted(static.network)}/{static.length}",
        "origin": static.origin,
        "preference": static.preference,
        "next_hop": dotted(static.next_hop) if static.next_hop is not None else None,
        "port": static.port,
        "active": False,
        "why": why_inactive(network, device, static),
        **_placed(static.where),
    }


def _neighbours(network: Network, runs: Iterable[AnyRun]) -> dict[int, list[dict[str, Any]]]:
    """Collect whom each device asked for on the way of the runs, in their order, each once."""
    names = network.wiring.names
    found: dict[int, dict[tuple[str, int], dict[str, Any]]] = {}
    for step in (step for ran in runs for step in ran.result.steps):
        decision = step.decision
        if (
            decision.neighbour is None
            or decision.ask is None
            or decision.route is None
            or decision.route.out is None
        ):
            continue
        out, neighbour = decision.route.out, decision.neighbour
        if not out.serial:
            found.setdefault(step.device, {}).setdefault(
                (out.name, decision.ask),
                {
                    "address": dotted(decision.ask), "port": out.name, "device": names[neighbour.device],
                    "device_port": network.devices[neighbour.device].by_key[neighbour.key].name, "proxy": neighbour.proxy,
                },
            )  # fmt: skip
    return {device: list(met.values()) for device, met in found.items()}


def _names(network: Network, device: int) -> list[dict[str, Any]]:
    names = network.devices[device].serving.names or {}
    return [{"name": name, "address": dotted(a)} for name, addresses in names.items() for a in addresses]
