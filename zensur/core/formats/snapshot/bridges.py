"""A machine that is a switch: its bridges read as VLANs, the links in them as ports that carry VLANs."""

from collections.abc import Iterable, Mapping, Sequence
from itertools import chain, islice
from typing import Any

from ...sheet import Block, Open
from ...sheet.statements import Access, Trunk
from ...sheet.vlans import LAST_VLAN, VlanSet
from .kept import Kept
from .links import BRIDGE_OF_VLAN, Link, Links, held, keep_address, link_info
from .parts import Snapshot

_MOST_VLANS = 256
Span = tuple[int, int]
"""The first and the last of VLANs."""


def read_bridges(snapshot: Snapshot, kept: Kept, links: Links) -> dict[str, Link]:
    """Read bridges as VLANs: what ``bridge vlan`` tells of their ports, else one VLAN for each bridge.

    Returns the bridges as the links that the machine itself has to their VLANs.
    """
    told = {str(e.get("ifname", "")): e for e in snapshot.entries("vlans")}
    filtering = {b for b in links.bridges if link_info(links.told[b]).get("vlan_filtering") == 1}
    of_bridge = _vlans_of(sorted(links.bridges - filtering), links.ports.values())
    filtered = {name: link for name, link in links.ports.items() if link.master in filtering}
    _declare(snapshot, kept, [told.get(name, {}) for name in filtered])
    _members([link for link in links.ports.values() if link.master in of_bridge], of_bridge, snapshot, kept)
    for name, link in filtered.items():
        statement = _carrying(*_carried(told.get(name, {})))
        if statement is not None:
            kept.keep(link.block, statement, snapshot.where("vlans", told.get(name)))
    found: dict[str, Link] = {}
    for bridge in sorted(links.bridges):
        untagged = _carried(told.get(bridge, {}))[1]
        vlans = [of_bridge[bridge]] if bridge in of_bridge else [first for first, _ in untagged]
        if vlans:
            own = Link(bridge, Block("vlan", str(vlans[0])), links.told[bridge], links.addresses(bridge))
            found[bridge] = own
            _keep(own, vlans, snapshot, kept)
    return found


def _keep(bridge: Link, vlans: Sequence[int], snapshot: Snapshot, kept: Kept) -> None:
    """Declare the VLANs of a bridge, and give the addresses of the machine in it to the first."""
    for vlan in vlans:
        if vlan != 1 or bridge.addresses:
            kept.keep(Block("vlan", str(vlan)), Open(), snapshot.where("links", bridge.told))
    for masked, told in held(bridge, False):
        if not masked.interface.ip.is_link_local:
            keep_address(bridge.block, masked, told, kept, snapshot.where("addresses"))


def _declare(snapshot: Snapshot, kept: Kept, entries: Sequence[dict[str, Any]]) -> None:
    """Declare the VLANs that ports of filtering bridges carry: a machine needs no declaration."""
    carried = VlanSet.of(span for entry in entries for spans in _carried(entry) for span in spans)
    count = sum(high - low + 1 for low, high in carried.spans)
    if count > _MOST_VLANS:
        kept.note(
            "many-vlans", snapshot.where("vlans"),
            f"The ports carry {count} VLANs; the first {_MOST_VLANS} are read as declared.",
        )  # fmt: skip
    for vlan in islice(chain.from_iterable(range(low, high + 1) for low, high in carried.spans), _MOST_VLANS):
        kept.keep(Block("vlan", str(vlan)), Open(), snapshot.where("vlans"))


def _members(links: Sequence[Link], of_bridge: Mapping[str, int], snapshot: Snapshot, kept: Kept) -> None:
    """Read the links in bridges without filtering: a port is of one VLAN, or carries those of its tagged links."""
    ports: dict[Block, list[Link]] = {}
    for link in links:
        ports.setdefault(link.block, []).append(link)
        if link.tag is not None and link.tag != of_bridge[link.master]:
            kept.note(
                "other-tag", snapshot.where("links", link.told),
                f"{link.system} is in the bridge {link.master}, of VLAN {of_bridge[link.master]}: a tag that is of "
                f"another VLAN is not read; {link.block.name} is taken to carry VLAN {link.tag}.",
            )  # fmt: skip
    for block, own in ports.items():
        tags = [(link.tag, link.tag) for link in own if link.tag is not None]
        untagged = [(v, v) for v in (of_bridge[link.master] for link in own if link.tag is None)]
        carrying = _carrying(tags, untagged)
        if carrying is not None:
            kept.keep(block, carrying, snapshot.where("links", own[0].told))


def _vlans_of(plain: Sequence[str], links: Iterable[Link]) -> dict[str, int]:
    """Return the VLANs that bridges without filtering are: by their names, the one tag in them, or their places."""
    tags: dict[str, set[int]] = {bridge: set() for bridge in plain}
    for link in links:
        if link.tag is not None and link.master in tags:
            tags[link.master].add(link.tag)
    found: dict[str, int] = {}
    for bridge in plain:
        named = BRIDGE_OF_VLAN.match(bridge)
        if named and 1 <= int(named[1]) <= LAST_VLAN:
            found[bridge] = int(named[1])
        elif len(tags[bridge]) == 1:
            (found[bridge],) = tags[bridge]
    taken = set(found.values())
    free = (vlan for vlan in range(1, LAST_VLAN + 1) if vlan not in taken)
    return found | {bridge: next(free, LAST_VLAN) for bridge in plain if bridge not in found}


def _carried(entry: dict[str, Any]) -> tuple[list[Span], list[Span]]:
    """Return the VLANs that a port of a filtering bridge carries tagged, and those untagged."""
    tagged: list[Span] = []
    untagged: list[Span] = []
    listed = entry.get("vlans")
    for told in listed if isinstance(listed, list) else []:
        first = told.get("vlan") if isinstance(told, dict) else None
        last = told.get("vlanEnd", first) if isinstance(told, dict) else None
        if not isinstance(first, int) or not isinstance(last, int) or not 1 <= first <= last <= LAST_VLAN:
            continue
        flags = told.get("flags") or []
        (untagged if "PVID" in flags else tagged).append((first, last))
    return tagged, untagged


def _carrying(tagged: list[Span], untagged: list[Span]) -> Access | Trunk | None:
    if not tagged:
        return Access(untagged[0][0]) if untagged else None
    return Trunk(VlanSet.of(tagged), untagged[0][0] if untagged else None)
