"""Lists of addresses: ietf-access-control-list (RFC 8519), as far as it tells sources by their prefix."""

from ...sheet import Block, Configuration, Open
from ...sheet.statement import folded
from ...sheet.statements import Entry
from ...sheet.statements.translation import LIST
from ..tree import Members
from .modules import LISTS, is_identity
from .node import Node
from .reading import Reading

_TYPES = {
    frozenset((4,)): "ipv4-acl-type",
    frozenset((6,)): "ipv6-acl-type",
    frozenset((4, 6)): "mixed-eth-ipv4-ipv6-acl-type",
}


def read_lists(root: Node, reading: Reading, instance: str | None) -> None:
    """Read the lists of the device, or of a network instance."""
    for acl in root.child(f"{LISTS}:acls").children("acl"):
        name = acl.name("name")
        if name is None:
            continue
        block = Block(LIST, name, instance)
        reading.keep(block, Open(), acl.where("name"))
        for ace in acl.child("aces").children("ace"):
            _read_entry(ace, reading, block)


def _read_entry(ace: Node, reading: Reading, block: Block) -> None:
    matches = ace.child("matches")
    found = None
    leaf, family = "", matches
    for version in (4, 6):
        family = matches.child(f"ipv{version}")
        leaf = f"source-ipv{version}-network"
        if family.has(leaf):
            found = family.prefix(leaf)
            break
    others = [key for key in (*matches.data, *family.data) if key not in (leaf, "ipv4", "ipv6")]
    if found is None or others:
        ace.warn(
            "not-read",
            "Only a source by its prefix is read of an entry; this one asks for something else, and was left out.",
            "name",
        )
        return
    forwarding = ace.child("actions").word("forwarding") or ""
    action = next((a for a in ("accept", "drop", "reject") if is_identity(forwarding, a)), None)
    if action is None:
        ace.fail("no-action", "The entry has to accept, drop or reject; it was left out.", "actions")
        return
    reading.keep(block, Entry(action == "accept", found), family.where(leaf), ace)


def write_lists(configuration: Configuration, instance: str | None) -> Members:
    """Return the lists of the device, or of a network instance."""
    own = folded(instance)
    acls = [
        _written(configuration, block)
        for block in configuration.blocks(LIST)
        if folded(block.instance) == own
    ]
    return {f"{LISTS}:acls": {"acl": acls}} if acls else {}


def _written(configuration: Configuration, block: Block) -> Members:
    entries = [i.statement for i in configuration.all(Entry, block)]
    kind = _TYPES[frozenset(e.prefix.version for e in entries) or frozenset((4,))]
    aces = [
        {
            "name": str(number),
            "matches": {f"ipv{e.prefix.version}": {f"source-ipv{e.prefix.version}-network": str(e.prefix)}},
            "actions": {"forwarding": f"{LISTS}:{'accept' if e.permit else 'drop'}"},
        }
        for number, e in enumerate(entries, 1)
    ]
    return {"name": block.name, "type": f"{LISTS}:{kind}"} | ({"aces": {"ace": aces}} if aces else {})
