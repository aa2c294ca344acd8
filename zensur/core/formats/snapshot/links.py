"""Ports, sub-ports, loopbacks, VLANs and their addresses, from what ``ip`` and ``bridge`` tell of a machine's links."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from ipaddress import IPv4Address, IPv6Address, ip_interface
from itertools import chain, islice
from typing import Any

from ...addresses import BadValue
from ...sheet import Block, Masked, OnPort, Open, Severity, Switched, Where
from ...sheet.statements import Access, Advertised, Leased, Proxy, Trunk
from ...sheet.vlans import LAST_VLAN, VlanSet
from ...sheet.words import check_name
from .kept import Kept
from .parts import Snapshot

_OWN_LOOPBACKS = (IPv4Address("127.0.0.1"), IPv6Address("::1"))
_BRIDGE_OF_VLAN = re.compile(r"vlan([0-9]{1,4})\Z", re.IGNORECASE)
_PASSED_OVER = (
    "docker",
    "virbr",
    "tun",
    "tap",
    "wg",
    "sit",
    "gre",
    "ip6tnl",
    "tunl",
    "ip_vti",
    "ip6_vti",
    "erspan",
)
_MOST_VLANS = 256
_KINDS = ("veth", "vlan", "dummy", "bridge", "macvlan", "ipvlan", "bond", "team", "")


Span = tuple[int, int]
"""The first and the last of VLANs."""


@dataclass(slots=True)
class Link:
    """A link of the machine: how the system calls it, the block that it is here, and what ``ip`` tells of it."""

    system: str
    block: Block
    told: dict[str, Any]
    addresses: list[dict[str, Any]] = field(default_factory=list)


def read_links(
    snapshot: Snapshot, kept: Kept, known: Sequence[str], forwards: bool | None
) -> Mapping[str, Link]:
    """Read all links; ``known`` are the ports that the device has, where that is known. By the system's names."""
    told = snapshot.entries("links")
    names = {str(link.get("ifname", "")): link for link in told}
    addresses = {str(a.get("ifname", "")): a for a in snapshot.entries("addresses")}
    if not names:
        names = addresses
    found: dict[str, Link] = {}
    passed: list[str] = []
    bridges = {name for name, link in names.items() if _kind(link) == "bridge"}
    for name, link in names.items():
        block = _block(link, names, known, snapshot, kept)
        if block is None:
            passed.append(name)
        elif name not in bridges:
            found[name] = Link(name, block, link, _addr_info(addresses.get(name)))
    empty = bridges - {str(link.told.get("master", "")) for link in found.values()}
    bridges -= {b for b in empty if not _BRIDGE_OF_VLAN.match(b)}
    left = sorted(name for name in {*passed, *(empty - bridges)} if name and name != "lo")
    if left:
        kept.say(
            Severity.NOTE, "not-a-port", snapshot.where("links").line,
            f"Passed over, for they are no ports of the device: {', '.join(left[:12])}.",
        )  # fmt: skip
    proxies = _silent(snapshot) if forwards else {}
    for own in found.values():
        if own.system != "lo" or any(True for _ in _held(own, True)):
            _keep(own, snapshot, kept, proxies)
    _switch(snapshot, kept, names, addresses, found, bridges)
    return found


def _kind(link: dict[str, Any]) -> str:
    info = link.get("linkinfo")
    return str(info.get("info_kind", "")) if isinstance(info, dict) else ""


def _info(link: dict[str, Any]) -> dict[str, Any]:
    info = link.get("linkinfo")
    data = info.get("info_data") if isinstance(info, dict) else None
    return data if isinstance(data, dict) else {}


def _addr_info(entry: dict[str, Any] | None) -> list[dict[str, Any]]:
    listed = (entry or {}).get("addr_info")
    return [a for a in listed if isinstance(a, dict)] if isinstance(listed, list) else []


def _name(link: dict[str, Any], known: Sequence[str]) -> str:
    """Return the name of a port: its alias where that is one of the device's ports, else the system's own.

    Where the ports are not known an alias counts that reads as a name.
    """
    own, alias = str(link.get("ifname", "")), str(link.get("ifalias", ""))
    ports = {port.lower() for port in known}
    if alias and (
        alias.partition(".")[0].lower() in ports if ports else " " not in alias and own.startswith("port")
    ):
        return alias
    return own


def _block(
    link: dict[str, Any],
    names: Mapping[str, dict[str, Any]],
    known: Sequence[str],
    snapshot: Snapshot,
    kept: Kept,
) -> Block | None:
    """Return what a link is: a port, a tagged sub-port, a loopback; None for what a device here does not have."""
    own, kind = str(link.get("ifname", "")), _kind(link)
    if own == "lo":
        return Block("loopback", "lo")
    name = _name(link, known)
    if kind == "vlan":
        parent, vlan = names.get(str(link.get("link", ""))), _info(link).get("id")
        base = _name(parent, known) if parent else str(link.get("link", "")) or name.partition(".")[0]
        if isinstance(vlan, int) and 1 <= vlan <= LAST_VLAN:
            name = f"{base}.{vlan}"
    ports = {port.lower() for port in known}
    is_known = name.partition(".")[0].lower() in ports
    if not is_known and (
        own.startswith(_PASSED_OVER) or kind not in _KINDS or (ports and kind not in ("dummy", "vlan"))
    ):
        return None if kind != "bridge" else Block("vlan", "1")
    try:
        check_name(name)
    except BadValue as bad:
        kept.say(Severity.ERROR, bad.code, snapshot.where("links", link).line, f"{own}: {bad}")
        return None
    return Block("loopback" if kind == "dummy" else "port", name)


def _held(link: Link, loopback: bool) -> Iterator[tuple[Masked, dict[str, Any]]]:
    """Yield the addresses that a configuration says; those of leases and advertisements are not among them."""
    for told in link.addresses:
        try:
            held = ip_interface(f"{told.get('local', '')}/{told.get('prefixlen', '')}")
        except ValueError:
            continue
        if loopback and (held.ip in _OWN_LOOPBACKS or held.ip.is_loopback):
            continue
        yield Masked(held), told


def _keep(link: Link, snapshot: Snapshot, kept: Kept, proxies: Mapping[str, Where]) -> None:
    where = snapshot.where("links", link.told)
    kept.keep(link.block, Open(), where)
    flags = link.told.get("flags")
    up = isinstance(flags, list) and "UP" in flags
    kept.keep(link.block, Switched(up), where)
    at = snapshot.where("addresses")
    for masked, told in _held(link, link.block.kind == "loopback"):
        _keep_address(link.block, masked, told, kept, at)
    if link.system in proxies and link.block.kind == "port":
        kept.keep(link.block, Proxy(False), proxies[link.system])


def _keep_address(block: Block, masked: Masked, told: dict[str, Any], kept: Kept, where: Where) -> None:
    """Keep an address, or where it came from."""
    if told.get("dynamic") and masked.interface.version == 4:
        kept.keep(block, Leased(), where)
    elif told.get("dynamic") or told.get("mngtmpaddr") or told.get("protocol") == "kernel_ra":
        kept.keep(block, Advertised(), where)
    else:
        if told.get("address"):
            kept.say(
                Severity.NOTE, "peer-address", where.line,
                f"{masked} on {block.port_name} names a peer, which is not read.",
            )  # fmt: skip
        kept.keep(block, OnPort(masked), where)


def _silent(snapshot: Snapshot) -> dict[str, Where]:
    """Return the ports that do not answer for others, which those of a router do by default (RFC 1027); what is said of
    all holds for each."""
    settings = list(kept_settings(snapshot))
    if any((key, value) == ("net.ipv4.conf.all.proxy_arp", "1") for key, value, _ in settings):
        return {}
    return {
        named[1].replace("/", "."): where
        for key, value, where in settings
        if value == "0" and (named := re.match(r"net\.ipv4\.conf\.(.+)\.proxy_arp\Z", key))
    }


def kept_settings(snapshot: Snapshot) -> Iterator[tuple[str, str, Where]]:
    """Yield the settings of the kernel: key, value, place."""
    part = snapshot.text("sysctl")
    for number, line in enumerate(part.text.split("\n")):
        key, equals, value = line.partition("=")
        if equals:
            yield key.strip(), value.strip(), Where(snapshot.file, part.line + number)


# --- a machine that is a switch ----------------------------------------------------------------------


def _switch(
    snapshot: Snapshot,
    kept: Kept,
    names: Mapping[str, dict[str, Any]],
    addresses: Mapping[str, dict[str, Any]],
    found: Mapping[str, Link],
    bridges: set[str],
) -> None:
    """Read bridges as VLANs: what ``bridge vlan`` tells of their ports, else one VLAN for each bridge."""
    filtered = {str(e.get("ifname", "")): e for e in snapshot.entries("vlans")}
    filtering = {b for b in bridges if _info(names[b]).get("vlan_filtering") == 1}
    plain = sorted(bridges - filtering)
    of_bridge = {b: _vlan_of(b, plain) for b in plain}
    _declare(
        snapshot,
        kept,
        [filtered.get(n, {}) for n, link in found.items() if link.told.get("master") in filtering],
    )
    for name, link in found.items():
        master = str(link.told.get("master", ""))
        if master in of_bridge:
            kept.keep(link.block, Access(of_bridge[master]), snapshot.where("links", link.told))
        elif master in filtering:
            carried = _carried(filtered.get(name, {}))
            statement = _carrying(*carried)
            if statement is not None:
                kept.keep(link.block, statement, snapshot.where("vlans", filtered.get(name)))
    for bridge in sorted(bridges):
        untagged = _carried(filtered.get(bridge, {}))[1]
        vlans = [of_bridge[bridge]] if bridge in of_bridge else [first for first, _ in untagged]
        held = _addr_info(addresses.get(bridge))
        for vlan in vlans:
            block, where = Block("vlan", str(vlan)), snapshot.where("links", names[bridge])
            if vlan != 1 or held:
                kept.keep(block, Open(), where)
        own = Block("vlan", str(vlans[0])) if vlans else None
        for masked, told in _held(Link(bridge, Block("vlan", "1"), {}, held), False):
            if own is not None and not masked.interface.ip.is_link_local:
                _keep_address(own, masked, told, kept, snapshot.where("addresses"))


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


def _vlan_of(bridge: str, plain: Sequence[str]) -> int:
    """Return the VLAN that a bridge without filtering is: by its name, else its place among them."""
    named = _BRIDGE_OF_VLAN.match(bridge)
    if named and 1 <= int(named[1]) <= LAST_VLAN:
        return int(named[1])
    return 1 + [b for b in plain if not _BRIDGE_OF_VLAN.match(b)].index(bridge)


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
