"""Extras: statements that nobody asked for, apart from those that serve in the place of what was asked."""

from collections.abc import Iterator, Set

from ...lab import Device
from ...sheet import AnyItem, Block, Configuration, Switched
from ...sheet.statement import Statement
from ...sheet.statements import Open
from ...sim import Network
from ...sim.routes import ActiveRoute
from ..scheme import is_on
from ..session import Attempt, Session
from ..shapes import Extra
from .edits import plain_text
from .serving import serves

MOST_EXTRAS = 60
"""So many are looked at in a paper; a sheet of thousands of lines shall not keep everybody waiting."""
Place = tuple[Block | None, Statement]


def find_extras(session: Session, faulty: Set[tuple[str, Place]]) -> list[Extra]:
    """Find the extras of a paper. ``faulty`` are the statements that faults are about already, by device."""
    attempt = session.paper
    found: list[Extra] = []
    for device in session.lab.devices.values():
        for item in _candidates(session, attempt, device):
            if len(found) >= MOST_EXTRAS or session.is_cut_short:
                return found
            if (device.name, place(item)) in faulty:
                continue
            without = attempt.with_devices(
                {device.name: attempt.configurations[device.name].changed([item], [])}
            )
            if not serves(session, attempt, without, device.name):
                changes = not behave_alike(attempt.network, without.network)
                where = item.where
                found.append(
                    Extra(
                        device.name,
                        where.file if where else None,
                        where.line if where else None,
                        _text(item),
                        changes,
                    )
                )
    return found


def place(item: AnyItem) -> Place:
    """Return a statement with its block, by which it is known again."""
    return item.block, item.statement


def _text(item: AnyItem) -> str:
    return (
        plain_text(item)
        if item.block is None or isinstance(item.statement, Open)
        else f"{item.block.header()}, {plain_text(item)}"
    )


def _candidates(session: Session, attempt: Attempt, device: Device) -> Iterator[AnyItem]:
    """Yield what stands neither in the model answer nor in what learners begin with."""
    name = device.name
    learner, model, blank = attempt.configurations[name], session.lab.model[name], session.lab.blank[name]
    asked = {(i.block, i.statement.plain()) for c in (model, blank) for i in c.items}
    filled = {i.block for i in learner.items if not isinstance(i.statement, Open)}
    for item in learner.items:
        statement = item.statement
        if (item.block, statement.plain()) in asked or statement.SPEC.traits.only_describes:
            continue
        if (
            isinstance(statement, Switched)
            and item.block
            and _same_switch(learner, model, item.block, device)
        ):
            continue
        if isinstance(statement, Open) and item.block in filled:
            continue  # a block is there by what it holds
        yield item


def _same_switch(learner: Configuration, model: Configuration, block: Block, device: Device) -> bool:
    return is_on(learner, block, device) == is_on(model, block, device)


def behave_alike(one: Network, other: Network) -> bool:
    """Say whether two networks of a lab do the same.

    That is: addresses, routes in use, translations, leases, services, and who hears whom. What a node does by itself is
    compared only where it may differ.
    """
    return one.nodes.keys() == other.nodes.keys() and all(
        (one.shares_node(other, n) or _of_node(one, n) == _of_node(other, n))
        and _heard(one, n) == _heard(other, n)
        for n in one.nodes
    )


def _of_node(network: Network, number: int) -> tuple[object, ...]:
    """Return all that a node does by itself."""
    node, rules = network.nodes[number], network.rules(number)
    return (
        [(p.name, p.node) for p in network.up_ports(number)],
        list(network.own(number)),
        [(r.network, r.length, r.out.key if r.out else None, r.ask) for r in _winners(network, number)],
        rules
        and [(s.outside, s.mapping.inside, s.mapping.port, s.mapping.text) for s in rules.active_mappings],
        rules and [(r.who, r.port, r.shared, r.numbers, span) for r, span in rules.rules],
        node.forwards,
        (node.serving.services, node.serving.resolvers, node.serving.names, node.serving.ask),
    )


def _heard(network: Network, number: int) -> list[object]:
    """Return whom what a node sends out of each port reaches."""
    return [network.receivers(p) for p in network.up_ports(number) if p.key >= 0]


def _winners(network: Network, node: int) -> Iterator[ActiveRoute]:
    seen: set[tuple[int, int]] = set()
    for route in network.table(node).routes():
        if (route.network, route.length) not in seen:
            seen.add((route.network, route.length))
            yield route
