"""Finds names of ports, pools, lists and instances that are not there."""

from collections.abc import Iterable, Iterator
from difflib import get_close_matches

from .concern import Concern, error
from .configuration import AnyItem, Configuration
from .statement import folded
from .statements import BLOCKS, Dynamic, Gateway, Instance, OneToOne, Pool, Published, Route
from .statements.routing import Passive, Run
from .statements.translation import LIST

MOST_COMPARED = 64
Names = dict[str, str]
"""Names as they are written, by the names as they are compared."""


def find_undefined(configuration: Configuration, physical: Iterable[str] | None) -> Iterator[Concern]:
    """Check every name; ``physical`` are the ports that the topology gives, None where they are not known."""
    ports = _names(b.port_name for kind in ("port", "loopback", "vlan") for b in configuration.blocks(kind))
    if physical is not None:
        ports = _names(physical) | ports
        for item, word in _ports_named(configuration):
            yield from _undefined(item, word, "port", ports)
    yield from _translations(configuration, ports, physical is not None)
    declared = _names(i.statement.name for i in configuration.all(Instance))
    for item in configuration.items:
        instance = getattr(item.statement, "instance", None)
        if isinstance(instance, str):
            yield from _undefined(item, instance, "instance", declared, "instance {}")
    for kind in BLOCKS:
        for block in configuration.blocks(kind.word) if kind.in_instance else ():
            header = configuration.header(block)
            if header is not None and block.instance is not None:
                yield from _undefined(header, block.instance, "instance", declared, "instance {}")


def _names(names: Iterable[str]) -> Names:
    return {name.lower(): name for name in names}


def _translations(configuration: Configuration, ports: Names, all_ports: bool) -> Iterator[Concern]:
    """Check the lists and pools that translations name, each in its own instance.

    ``all_ports`` says that ``ports`` are all there are; a sheet alone need not name every port.
    """
    pools: dict[str | None, Names] = {}
    for pool in configuration.all(Pool):
        said = pool.statement
        pools.setdefault(folded(said.instance), {})[said.name.lower()] = said.name
        if said.name.lower() in ports:
            yield error(
                pool, "pool-named-like-port", f"{said.name} is a port of this device: a pool needs another name.",
                said.name,
            )  # fmt: skip
    lists: dict[str | None, Names] = {}
    for block in configuration.blocks(LIST):
        lists.setdefault(folded(block.instance), {})[block.name.lower()] = block.name
    for dynamic in configuration.all(Dynamic):
        who, where, instance = (
            dynamic.statement.who,
            dynamic.statement.where,
            folded(dynamic.statement.instance),
        )
        if isinstance(who, str):
            yield from _undefined(dynamic, who, "list", lists.get(instance, {}), "addresses {}")
        own = pools.get(instance, {})
        if all_ports or get_close_matches(
            where, own.values(), 1, 0.6
        ):  # else it may be a port of the topology
            yield from _undefined(dynamic, where, "pool or port", own | ports, "pool {} ADDRESS to ADDRESS")


def _ports_named(configuration: Configuration) -> Iterator[tuple[AnyItem, str]]:
    """Yield every statement that names a port, with that name."""
    named: list[tuple[AnyItem, str | None]] = []
    named += [(i, i.statement.port) for i in configuration.all(Route)]
    named += [(i, i.statement.port) for i in configuration.all(Gateway)]
    named += [(i, i.statement.port) for i in configuration.all(OneToOne)]
    named += [(i, i.statement.port) for i in configuration.all(Published)]
    named += [(i, i.statement.port) for i in configuration.all(Dynamic)]
    named += [
        (i, i.statement.outside) for i in configuration.all(OneToOne) if isinstance(i.statement.outside, str)
    ]
    named += [
        (i, i.statement.outside.holder)
        for i in configuration.all(Published)
        if isinstance(i.statement.outside.holder, str)
    ]
    named += [(i, i.statement.port) for i in configuration.everywhere(Run)]
    named += [(i, i.statement.port) for i in configuration.everywhere(Passive)]
    return ((item, name) for item, name in named if name is not None)


def _undefined(item: AnyItem, name: str, what: str, known: Names, declare: str = "") -> Iterator[Concern]:
    if name.lower() in known:
        return
    there = list(known.values())[:MOST_COMPARED]
    near = get_close_matches(name, there, 1, 0.5)
    if near:
        hint = f" Did you mean {near[0]}?"
    elif declare:
        hint = f" It is declared by a line {declare.format(name)}."
    else:
        hint = f" There are {', '.join(there[:8])}." if there else ""
    yield error(
        item, "undefined-name",
        f"There is no {what} {name}, so this line has no effect.{hint}", name, near[0] if near else None,
    )  # fmt: skip
