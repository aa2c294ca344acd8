"""Ports, sub-ports, loopbacks and their addresses, from what ``ip`` tells of a machine's links."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass, field
from ipaddress import ip_interface
from typing import Any

from ...addresses import BadValue
from ...sheet import Block, Masked, OnPort, Open, Severity, Switched, Where
from ...sheet.statements import Advertised, Leased, Proxy
from ...sheet.vlans import LAST_VLAN
from ...sheet.words import check_name
from .kept import Kept
from .parts import Snapshot

BRIDGE_OF_VLAN = re.compile(r"vlan([0-9]{1,4})\Z", re.IGNORECASE)
_PASSED_OVER = (
    "docker", "virbr", "tun", "tap", "wg", "sit", "gre", "ip6tnl", "tunl", "ip_vti", "ip6_vti", "erspan",
)  # fmt: skip
_KINDS = ("veth", "vlan", "dummy", "bridge", "macvlan", "ipvlan", "bond", "team", "")


@dataclass(slots=True)
class Link:
    """A link of the machine: how the system calls it, the block that it is here, and what ``ip`` tells of it.

    ``tag`` is that of a tagged link in a bridge: it is its port, as far as a VLAN goes.
    """

    system: str
    block: Block
    told: dict[str, Any]
    addresses: list[dict[str, Any]] = field(default_factory=list)
    tag: int | None = None

    @property
    def master(self) -> str:
        """The bridge that it is in; empty where it is in none."""
        return str(self.told.get("master", ""))


@dataclass(frozen=True, slots=True)
class Links:
    """The links of a machine by the system's names: all that is told of them, those that are ports or loopbacks, and
    those that are bridges."""

    told: Mapping[str, dict[str, Any]]
    addressed: Mapping[str, dict[str, Any]]
    ports: Mapping[str, Link]
    bridges: Set[str]

    def addresses(self, name: str) -> list[dict[str, Any]]:
        """Return what is told of the addresses of a link."""
        return _addr_info(self.addressed.get(name))


def read_links(snapshot: Snapshot, kept: Kept, known: Sequence[str], forwards: bool | None) -> Links:
    """Read all links; ``known`` are the ports that the device has, where that is known."""
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
    _tagged(found.values(), bridges)
    members = {link.master for link in found.values()}
    empty = {name for name in bridges - members if not BRIDGE_OF_VLAN.match(name)}
    left = sorted(name for name in {*passed, *empty} if name and name != "lo")
    if left:
        kept.say(
            Severity.NOTE, "not-a-port", snapshot.where("links").line,
            f"Passed over, for they are no ports of the device: {', '.join(left[:12])}.",
        )  # fmt: skip
    proxies = _silent(snapshot) if forwards else {}
    for own in sorted(found.values(), key=lambda link: link.tag is not None):
        if own.system != "lo" or any(True for _ in held(own, True)):
            _keep(own, snapshot, kept, proxies)
    return Links(names, addresses, found, bridges - empty)


def _tagged(links: Iterable[Link], bridges: Set[str]) -> None:
    """Take tagged links that are in bridges as VLANs of their ports."""
    for link in links:
        sub_port = link.block.sub_port_of
        if sub_port and link.master in bridges:
            link.block, link.tag = Block("port", sub_port[0]), sub_port[1]


def _kind(link: dict[str, Any]) -> str:
    info = link.get("linkinfo")
    return str(info.get("info_kind", "")) if isinstance(info, dict) else ""


def link_info(link: dict[str, Any]) -> dict[str, Any]:
    """Return what is told of a link as one of its kind."""
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
        parent, vlan = names.get(str(link.get("link", ""))), link_info(link).get("id")
        if parent and _kind(parent) == "bridge" and isinstance(vlan, int) and 1 <= vlan <= LAST_VLAN:
            return Block("vlan", str(vlan))  # the machine itself in a VLAN of its bridge
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


def held(link: Link, loopback: bool) -> Iterator[tuple[Masked, dict[str, Any]]]:
    """Yield the addresses that a configuration says; those of leases and advertisements are not among them."""
    for told in link.addresses:
        try:
            masked = Masked(ip_interface(f"{told.get('local', '')}/{told.get('prefixlen', '')}"))
        except ValueError:
            continue
        if loopback and masked.interface.ip.is_loopback:
            continue
        yield masked, told


def _keep(link: Link, snapshot: Snapshot, kept: Kept, proxies: Mapping[str, Where]) -> None:
    where = snapshot.where("links", link.told)
    kept.keep(link.block, Open(), where)
    flags = link.told.get("flags")
    up = isinstance(flags, list) and "UP" in flags
    kept.keep(link.block, Switched(up), where)
    at = snapshot.where("addresses")
    for masked, told in held(link, link.block.kind == "loopback"):
        keep_address(link.block, masked, told, kept, at)
    if link.system in proxies and link.block.kind == "port":
        kept.keep(link.block, Proxy(False), proxies[link.system])


def keep_address(block: Block, masked: Masked, told: dict[str, Any], kept: Kept, where: Where) -> None:
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
