"""The state of every device after a run: ports, routes, neighbours, translations, leases, names.

Of a box with several network instances ``instances`` names all but the main one, and their rows say whose they are.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence

from ...sheet import Where
from ..device import CompiledDevice, Node, StaticRoute
from ..explaining.ending import why_inactive
from ..network import Network
from ..numbers import address_of, written
from ..ports import IpPort
from ..routes import ActiveRoute
from ..translating import ActiveMapping
from ..translation import Session
from .expectations import AnyRun, Runs
from .state_rows import (
    DeviceState,
    LeasedRow,
    LeaseRow,
    NameRow,
    NeighbourRow,
    PortRow,
    RouteRow,
    Row,
    TranslationRow,
    of_instance,
)


def state(network: Network, runs: Runs) -> dict[str, DeviceState]:
    """Return the state of every device after the pings and checks of a run on the network."""
    met = _neighbours(network, runs.values())
    return {device.name: _device(network, device, runs, met) for device in network.devices}


def _device(
    network: Network, device: CompiledDevice, runs: Runs, met: dict[int, list[NeighbourRow]]
) -> DeviceState:
    def of_each(rows: Callable[[Node], Sequence[Row]]) -> tuple[Row, ...]:
        """Collect rows of every instance, those of others than the main one with its name."""
        return tuple(row for node in device.nodes for row in of_instance(rows(node), node.instance))

    return DeviceState(
        ports=tuple(_port(network, port) for port in device.ports),
        routes=of_each(lambda node: _routes(network, node)),
        neighbours=of_each(lambda node: met.get(node.number, [])),
        names=of_each(_names),
        translations=of_each(lambda node: list(_translations(network, node, runs))),
        leases=of_each(lambda node: _leases(network, node)),
        leased=of_each(lambda node: _leased(network, node)),
        instances=tuple(node.instance for node in device.nodes if node.instance),
    )


def _file(where: Where | None) -> str | None:
    return where.file if where else None


def _line(where: Where | None) -> int | None:
    return where.line if where else None


def _port(network: Network, port: IpPort) -> PortRow:
    wiring = network.wiring
    peer = wiring.peer[port.port] if port.port >= 0 else -1
    node = network.nodes[port.node]
    return PortRow(
        name=port.name,
        kind=port.kind,
        on=port.on,
        up=network.is_up(port),
        why=network.why_down(port),
        far_end=f"{wiring.names[wiring.port_device[peer]]}:{wiring.port_name[peer]}" if peer >= 0 else None,
        addresses=tuple(a.text for a in port.addresses),
        vlan=port.vlan or None,
        realm=None if port.external is None else "external" if port.external else "internal",
        instance=node.instance or None,
        file=_file(port.where),
        line=_line(port.where),
    )


def _routes(network: Network, node: Node) -> list[RouteRow]:
    """List own addresses, then active routes by length, then those that are not active, with why."""
    rows = [
        RouteRow(
            prefix=f"{written(address)}/{address_of(address).max_prefixlen}", origin="own", preference=0,
            next_hop=None, port=port.name, active=True, why=None, file=_file(own.where), line=_line(own.where),
        )
        for address, (port, own) in network.own(node.number).items()
    ]  # fmt: skip
    table = network.table(node.number)
    active = list(table.routes())
    best: dict[tuple[int, int], ActiveRoute] = {}
    for route in active:
        winner = best.setdefault((route.network, route.length), route)
        rows.append(_active(route, winner))
    known = {r.static for r in active}
    rows += [_inactive(network, node, static) for static in node.statics if static not in known]
    return rows


def _active(route: ActiveRoute, winner: ActiveRoute) -> RouteRow:
    static = route.static
    why = None
    if route is not winner:
        equal = route.preference == winner.preference
        why = f"{winner.text} {'stands first' if equal else 'has a lower preference'}"
    return RouteRow(
        prefix=f"{written(route.network)}/{route.length}",
        origin=route.origin,
        preference=route.preference,
        next_hop=written(static.next_hop) if static and static.next_hop is not None else None,
        port=route.out.name if route.out else None,
        active=route is winner,
        why=why,
        file=_file(route.where),
        line=_line(route.where),
    )


def _inactive(network: Network, node: Node, static: StaticRoute) -> RouteRow:
    return RouteRow(
        prefix=f"{written(static.network)}/{static.length}",
        origin=static.origin,
        preference=static.preference,
        next_hop=written(static.next_hop) if static.next_hop is not None else None,
        port=static.port,
        active=False,
        why=why_inactive(network, node.number, static),
        file=_file(static.where),
        line=_line(static.where),
    )


def _neighbours(network: Network, runs: Iterable[AnyRun]) -> dict[int, list[NeighbourRow]]:
    """Collect whom each node asked for on the way of the runs, in their order, each once."""
    found: dict[int, dict[tuple[str, int], NeighbourRow]] = {}
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
            found.setdefault(step.node, {}).setdefault(
                (out.name, decision.ask),
                NeighbourRow(
                    address=written(decision.ask), port=out.name, device=network.name(neighbour.node),
                    device_port=network.port(neighbour.key).name, proxy=bool(neighbour.answers_for),
                ),
            )  # fmt: skip
    return {node: list(met.values()) for node, met in found.items()}


def _names(node: Node) -> list[NameRow]:
    names = node.serving.names or {}
    return [NameRow(name=name, address=written(a)) for name, addresses in names.items() for a in addresses]


def _translations(network: Network, node: Node, runs: Runs) -> Iterator[TranslationRow]:
    """Yield the mappings in effect, then what the run added to the table."""
    rules = network.rules(node.number)
    for active in rules.active_mappings if rules else ():
        yield _active_mapping(active)
    table = runs.sessions.tables.get(node.number) if runs.sessions else None
    if table is None:
        return
    for session in table.sessions:
        yield _session(session, table.remotes(session))


def _active_mapping(active: ActiveMapping) -> TranslationRow:
    mapping = active.mapping
    published = mapping.protocol is not None
    return TranslationRow(
        kind="published" if published else "one-to-one",
        protocol=mapping.protocol,
        internal=_end(mapping.inside, mapping.inside_number if published else None),
        external=_end(active.outside, mapping.outside_number if published else None),
        remote=None,
        standing=True,
        file=_file(mapping.where),
        line=_line(mapping.where),
    )


def _session(session: Session, remotes: tuple[int, ...]) -> TranslationRow:
    shared = session.protocol is not None
    return TranslationRow(
        kind="shared" if shared else "pool",
        protocol=session.protocol,
        internal=_end(session.internal, session.internal_number if shared else None),
        external=_end(session.external, session.external_number if shared else None),
        remote=", ".join(written(r) for r in remotes) or None,
        standing=False,
        file=_file(session.rule.where),
        line=_line(session.rule.where),
    )


def _end(address: int, number: int | None) -> str:
    return written(address) if number is None else f"{written(address)}:{number}"


def _leases(network: Network, node: Node) -> list[LeaseRow]:
    return [
        LeaseRow(pool=lease.block.name, address=written(lease.address), client=_client(network, lease.port))
        for lease in network.leases
        if lease.server == node.number
    ]


def _leased(network: Network, node: Node) -> list[LeasedRow]:
    return [
        LeasedRow(
            port=network.port(lease.port).name,
            address=f"{written(lease.address)}/{lease.block.length}",
            server=network.name(lease.server),
        )
        for lease in network.leases
        if network.port(lease.port).node == node.number
    ]


def _client(network: Network, key: int) -> str:
    port = network.port(key)
    return f"{network.name(port.node)}:{port.name}"
