"""Network instances (RFC 8529): the routing, lists, translations and servers of each are mounted under its root."""

from ...sheet import Configuration
from ...sheet.statement import folded
from ...sheet.statements import Instance, Member
from ..tree import Members
from .modules import INSTANCES, OWN
from .node import Node
from .reading import Reading

_UNDECLARED = f"{OWN}:undeclared"


def read_instances(root: Node, reading: Reading) -> list[tuple[str, Node]]:
    """Read the names of instances; returns each with what is mounted under it."""
    found = []
    for entry in root.child(f"{INSTANCES}:network-instances").children("network-instance"):
        name = entry.name("name")
        if name is None:
            continue
        if not entry.empty(_UNDECLARED):
            reading.keep(None, Instance(name), entry.where("name"), entry)
        found.append((name, entry.child("vrf-root")))
    return found


def instance_names(configuration: Configuration) -> dict[str, str]:
    """Return the instances that a configuration declares or names, by the names as they are compared."""
    declared = [i.statement.name for i in configuration.all(Instance)]
    named = [i.statement.instance for i in configuration.everywhere(Member)]
    named += [getattr(i.statement, "instance", None) or "" for i in configuration.items]
    named += [i.block.instance or "" for i in configuration.items if i.block]
    return {name.lower(): name for name in reversed([*declared, *named]) if name}


def write_instances(configuration: Configuration, mounted: dict[str, Members]) -> Members:
    """Return the network instances, with what is ``mounted`` under each."""
    declared = {folded(i.statement.name) for i in configuration.all(Instance)}
    entries = []
    for name, members in mounted.items():
        entry: Members = {"name": name}
        if folded(name) not in declared:
            entry[_UNDECLARED] = [None]
        entries.append(entry | {"vrf-root": members})
    return {f"{INSTANCES}:network-instances": {"network-instance": entries}} if entries else {}
