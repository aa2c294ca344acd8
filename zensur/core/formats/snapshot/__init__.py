"""A snapshot of a Linux machine, read as a configuration: links, addresses, routes, nftables, settings, resolver."""

import re
from collections.abc import Mapping, Sequence, Set
from ipaddress import ip_address

from ...addresses import BadValue
from ...sheet import Configuration, Diagnostic, Forwarding, Name, Severity, Sheet, Where
from ...sheet.decoding import text_of
from ...sheet.statements import Clocking, Resolver
from ...sheet.words import check_name
from ..tree import MOST_BYTES
from .bridges import read_bridges
from .commands import commands
from .kept import Kept
from .links import Link, kept_settings, read_links
from .parts import HEAD, Snapshot
from .routes import read_routes
from .script import COLLECT, SCRIPT
from .translations import read_translations

CLOCK = 64_000
"""Bits a second of a clock that nothing tells of."""
_FORWARDS = {"net.ipv4.ip_forward": 4, "net.ipv6.conf.all.forwarding": 6}


def read_snapshot(
    source: str | bytes, file: str = "", ports: Sequence[str] = (), serial: Set[str] = frozenset()
) -> Sheet:
    """Read a snapshot as a configuration; ``ports`` are those that the device has, where they are known, and ``serial``
    those of serial links, in small letters: a machine has no clocks, so that they are taken to be there.

    It never raises: what cannot be read is left out and reported; rules that are not understood are told, not guessed.
    """
    if len(source) > MOST_BYTES:
        message = f"This file is larger than {MOST_BYTES // 1024} KiB: it is not read."
        said = Diagnostic(Severity.ERROR, "too-large", 1, 1, 1, message)
        return Sheet(Configuration(), (said,), 0, "", form="snapshot")
    text = text_of(source)
    snapshot = Snapshot(text, file)
    kept = Kept(snapshot)
    _name(snapshot, kept)
    forwards = _forwarding(snapshot, kept)
    links = read_links(snapshot, kept, ports, forwards)
    _clocks(snapshot, kept, links.ports, serial)
    own = read_bridges(snapshot, kept, links)
    read_routes(snapshot, kept, {**links.ports, **own}, forwards)
    read_translations(snapshot, kept, links.ports)
    _resolvers(snapshot, kept)
    remarks = snapshot.remarks
    return Sheet(kept.configuration(), tuple(remarks.kept), remarks.more, text, form="snapshot")


def _name(snapshot: Snapshot, kept: Kept) -> None:
    part = snapshot.text("hostname")
    name = part.text.strip().partition("\n")[0]
    if not name:
        return
    try:
        kept.keep(None, Name(check_name(name)), Where(snapshot.file, part.line))
    except BadValue as bad:
        kept.say(Severity.NOTE, bad.code, part.line, str(bad))


def _forwarding(snapshot: Snapshot, kept: Kept) -> bool | None:
    """Keep whether the machine forwards: where the families differ, that of IPv4 counts, and a note says so."""
    said: dict[int, tuple[bool, Where]] = {}
    for key, value, where in kept_settings(snapshot):
        if key in _FORWARDS:
            said[_FORWARDS[key]] = (value != "0", where)
    if not said:
        return None
    on, where = said.get(4) or said[6]
    if len(said) == 2 and said[4][0] != said[6][0] and _speaks_six(snapshot):
        kept.note(
            "forwarding-by-family", where,
            "The families differ in whether the machine forwards; that of IPv4 is read for both.",
        )  # fmt: skip
    kept.keep(None, Forwarding(on), where)
    return on


def _speaks_six(snapshot: Snapshot) -> bool:
    """Whether the machine has IPv6 addresses that reach beyond a link."""
    for entry in snapshot.entries("addresses"):
        for told in entry.get("addr_info") or ():
            if isinstance(told, dict) and told.get("family") == "inet6" and told.get("scope") == "global":
                return True
    return False


def _clocks(snapshot: Snapshot, kept: Kept, links: Mapping[str, Link], serial: Set[str]) -> None:
    for link in links.values():
        if link.block.kind == "port" and link.block.name.lower() in serial:
            where = snapshot.where("links", link.told)
            kept.keep(link.block, Clocking(CLOCK), where)
            kept.note(
                "no-clock", where,
                f"{link.block.name} is serial in the lab, and a machine gives no clock: one is taken to be there.",
            )  # fmt: skip


def _resolvers(snapshot: Snapshot, kept: Kept) -> None:
    part = snapshot.text("resolver")
    for number, line in enumerate(part.text.split("\n")):
        named = re.match(r"\s*nameserver\s+(\S+)", line)
        if not named:
            continue
        where = Where(snapshot.file, part.line + number)
        try:
            address = ip_address(named[1].partition("%")[0])
        except ValueError:
            kept.note("bad-address", where, f"{named[1][:40]} is no address of a name server.")
            continue
        if address.is_loopback:
            kept.note(
                "own-resolver",
                where,
                f"{address} is the machine itself; whom that asks is not in the snapshot.",
            )
        else:
            kept.keep(None, Resolver(address), where)


__all__ = ["COLLECT", "HEAD", "SCRIPT", "commands", "read_snapshot"]
