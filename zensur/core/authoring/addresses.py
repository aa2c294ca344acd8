"""Edits of addresses: one port's, all of a network, gateways; and of the names and prefixes of networks."""

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from ipaddress import ip_interface, ip_network
from typing import Literal

from ..addresses import (
    Address,
    BadValue,
    Interface,
    Prefix,
    mask_length,
    mask_of,
    parse_interface,
    parse_prefix,
    usable,
    wildcard_length,
    wildcard_of,
)
from ..lab import Kind, forwards
from ..lab.entries import rename
from ..lab.splice import put_all
from ..sheet import AnyItem, Block, Item, OnPort
from ..sheet.statements import Advertised, Gateway, Leased, Switched
from ..weave import Knot, Row
from .blocks import block_of, header_of, is_switch
from .draft import CannotEdit, Draft

Side = Literal["given", "answer"]
_TAKEN_IN = ("dhcp", "auto")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAddress:
    """Give a port an address as it is typed: a host part, a whole address with its mask, ``dhcp`` or ``auto``.

    An empty one takes the address away. ``prefixes`` are those of the network that a host part lies in.
    """

    do: Literal["set-address"] = "set-address"
    device: str
    port: str
    typed: str
    prefixes: tuple[str, ...] = ()
    side: Side = "answer"

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the address."""
        typed = " ".join(self.typed.split())
        if not typed:
            return take_address(draft, self.device, self.port)
        if typed.lower() in _TAKEN_IN:
            draft = take_address(draft, self.device, self.port)
            return _put(draft, self.device, self.port, f"address {typed.lower()}", self.side)
        prefixes = [_prefix(p) for p in self.prefixes]
        kept = _with_variable(draft, self.device, self.port, typed)
        return kept or put_address(draft, self.device, self.port, complete(typed, prefixes), self.side)


def complete(typed: str, prefixes: Iterable[Prefix]) -> str:
    """Return a typed address as an address with its length; a host part is one of the network's.

    ``20``, ``.20``, ``16.20`` and ``::20`` are host parts. Raises :class:`CannotEdit`.
    """
    nets: list[Prefix] = list(prefixes)
    digits = typed.strip().lstrip(".")
    try:
        if re.fullmatch(r"[0-9]+(\.[0-9]+){0,2}", digits):
            network: Prefix | None = next((n for n in nets if n.version == 4), None)
            if network is None:
                raise CannotEdit(
                    f"{typed} is a host part, and the network has no prefix yet: type a whole address."
                )
            own = str(network.network_address).split(".")
            said = digits.split(".")
            return _checked(
                ip_interface(f"{'.'.join([*own[: 4 - len(said)], *said])}/{network.prefixlen}"), network
            )
        if re.fullmatch(r"::[0-9a-fA-F:]*", typed):
            network = next((n for n in nets if n.version == 6), None)
            if network is not None:
                host = int(ip_interface(typed).ip)
                return _checked(
                    ip_interface((int(network.network_address) + host, network.prefixlen)), network
                )
        whole = typed.replace(" mask ", " ").replace(" ", "/")
        if "/" not in whole:
            version = 6 if ":" in whole else 4
            network = next((n for n in nets if n.version == version), None)
            if network is None:
                raise CannotEdit(f"{typed} has no mask: type {typed}/24, or the mask behind a blank.")
            whole = f"{whole}/{network.prefixlen}"
        return str(parse_interface(whole) if "." not in whole.partition("/")[2] else ip_interface(whole))
    except (BadValue, ValueError) as bad:
        if isinstance(bad, CannotEdit):
            raise
        raise CannotEdit(f"{typed[:60]} is no address: {bad}.".replace("..", ".")) from None


def _checked(interface: Interface, network: Prefix) -> str:
    if interface.ip not in network:
        raise CannotEdit(f"{interface.ip} does not lie in {network}.")
    return str(interface)


def put_address(draft: Draft, device: str, port: str, interface: str, side: str) -> Draft:
    """Write the address of a port in place of the one it has of the same family; a router's port is turned on."""
    own = draft.device(device)
    statement = OnPort.of(interface)
    old = _addresses(draft, device, port, statement.interface.version)
    if old:
        return draft.put_line(old[0], statement.text())
    for item in _leased(draft, device, port) if statement.interface.version == 4 else ():
        draft = draft.take(item)
    draft = _put(draft, device, port, statement.text(), side)
    block = block_of(draft.lab.model[own.name], draft.device(device), port)
    if own.kind is Kind.ROUTER and block and block.place in ("port", "sub-port"):
        physical = Block("port", block.sub_port_of[0]) if block.sub_port_of else block
        if not draft.lab.model[own.name].one(Switched, physical):
            draft = draft.put_statement(side, own.name, physical.header(), "on")
    return draft


def take_address(draft: Draft, device: str, port: str) -> Draft:
    """Take away the first address of a port, or that it asks for one; a port that is left with ``on`` alone goes."""
    items = [
        *_addresses(draft, device, port, 4),
        *_leased(draft, device, port),
        *_addresses(draft, device, port, 6),
    ]
    if not items:
        raise CannotEdit(f"{device}:{port} has no address.")
    draft = draft.take(items[0])
    own = draft.device(device)
    model = draft.lab.model[own.name]
    block = block_of(model, own, port)
    left = [i for i in model.items if i.block == block and i.text() != (block.header() if block else "")]
    if len(left) == 1 and isinstance(left[0].statement, Switched):
        return draft.take(left[0])
    return draft


def _put(draft: Draft, device: str, port: str, statement: str, side: str) -> Draft:
    own = draft.device(device)
    if is_switch(own) and own.port(port):
        raise CannotEdit(f"{own.name} is a switch: its ports bear no addresses, a VLAN of it may.")
    return draft.put_statement(side, own.name, header_of(draft.lab, own, port), statement)


def _addresses(draft: Draft, device: str, port: str, version: int) -> list[Item[OnPort]]:
    own = draft.device(device)
    model = draft.lab.model[own.name]
    block = block_of(model, own, port)
    return [i for i in model.all(OnPort, block) if i.statement.interface.version == version] if block else []


def _leased(draft: Draft, device: str, port: str) -> list[AnyItem]:
    own = draft.device(device)
    model = draft.lab.model[own.name]
    block = block_of(model, own, port)
    return [*model.all(Leased, block), *model.all(Advertised, block)] if block else []


_HOST = re.compile(r"\.[0-9]+(?=(/[0-9]+)?\s*$)")


def _with_variable(draft: Draft, device: str, port: str, typed: str) -> Draft | None:
    """Change the last octet of an address that is written with a variable; None where it is not, or is typed whole."""
    items = _addresses(draft, device, port, 4)
    if not items or not re.fullmatch(r"\.?[0-9]+", typed):
        return None
    place, number = draft.place_of(items[0])
    lines = draft.typed[place].split("\n")
    line = lines[number - 1]
    if "${" not in line or not _HOST.search(line):
        return None
    lines[number - 1] = _HOST.sub(f".{typed.lstrip('.')}", line)
    return draft.put_sheet(place, "\n".join(lines))


def next_host(draft: Draft, prefix: str, taken: Iterable[Address] = ()) -> Interface | None:
    """Return the first address of a network that nobody has, with its length; None where all are taken."""
    network = ip_network(prefix)
    used = {i.statement.interface.ip for m in draft.lab.model.values() for i in m.everywhere(OnPort)} | set(
        taken
    )
    hosts = usable(network)
    for n in range(min(hosts.size, len(used) + 1)):
        if hosts.first + n not in used:
            return ip_interface(f"{hosts.first + n}/{network.prefixlen}")
    return None


# --- a network at a time ------------------------------------------------------------------------------------------


def knots_of(draft: Draft, row: int) -> list[tuple[str, Knot]]:
    """Return the devices of a network with their knots: routers first, then hosts; switches only carry."""
    if not 0 <= row < len(draft.chart.rows):
        raise CannotEdit("There is no such network.")
    named = [(draft.chart.columns[k.column].device, k) for k in draft.chart.knots if k.row == row]
    order = {name: n for n, name in enumerate(draft.lab.devices)}
    bearing = [
        (d, k) for d, k in named if not is_switch(draft.device(d)) or not draft.device(d).port(k.ports[0])
    ]
    return sorted(bearing, key=lambda one: (not _forwards(draft, one[0]), order[one[0]]))


def _forwards(draft: Draft, device: str) -> bool:
    return forwards(draft.device(device), draft.lab.model[draft.device(device).name])


@dataclass(frozen=True, slots=True, kw_only=True)
class FillNetwork:
    """Give every port of a network an address of its prefix: the first ones to routers, the next ones to hosts.

    Addresses that lie in the prefix already stay. ``prefix`` may be left out where the network has one.
    """

    do: Literal["fill-network"] = "fill-network"
    row: int
    prefix: str = ""
    name: str = ""
    side: Side = "answer"

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the addresses."""
        knots = knots_of(draft, self.row)
        row = draft.chart.rows[self.row]
        prefix = _prefix(self.prefix or row.prefix.partition(",")[0])
        if not knots:
            raise CannotEdit("There is no port in this network yet.")
        if usable(prefix).size < len(knots):
            raise CannotEdit(f"{prefix} has {usable(prefix).size} addresses for {len(knots)} ports.")
        for device, knot in knots:
            port = knot.ports[0]
            held = [i.statement.interface for i in _addresses(draft, device, port, prefix.version)]
            if any(h.ip in prefix and h.network == prefix for h in held):
                continue
            host = next_host(draft, str(prefix))
            if host is None:
                raise CannotEdit(f"{prefix} has no free address left.")
            draft = put_address(draft, device, port, str(host), self.side)
        return name_network(draft, self.name, prefix) if self.name else draft


@dataclass(frozen=True, slots=True, kw_only=True)
class SetGateways:
    """Give every host of a network its first router as the gateway."""

    do: Literal["set-gateways"] = "set-gateways"
    row: int
    side: Side = "answer"

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the gateways."""
        knots = knots_of(draft, self.row)
        routers = [(d, k) for d, k in knots if _forwards(draft, d)]
        hosts = [(d, k) for d, k in knots if not _forwards(draft, d)]
        done = 0
        for version in (4, 6):
            way = next((a for d, k in routers for a in _global(draft, d, k, version)), None)
            for device, knot in hosts if way is not None else ():
                own = _addresses(draft, device, knot.ports[0], version)
                if not own:
                    continue
                done += 1
                there = [
                    g
                    for g in draft.lab.model[draft.device(device).name].all(Gateway)
                    if g.statement.address.version == version
                ]
                if there:
                    draft = draft.put_line(there[0], f"gateway {way}")
                else:
                    side = "given" if "given." in draft.place_of(own[0])[0] else self.side
                    draft = draft.put_statement(side, device, "", f"gateway {way}")
        if not done:
            raise CannotEdit(
                "No router has an address in this network yet."
                if hosts
                else "There is no host in this network."
            )
        return draft


def _global(draft: Draft, device: str, knot: Knot, version: int) -> Iterator[Address]:
    for item in _addresses(draft, device, knot.ports[0], version):
        address = item.statement.interface.ip
        if not address.is_link_local:
            yield address


@dataclass(frozen=True, slots=True, kw_only=True)
class AddNetwork:
    """Plan a network: a name and its prefix, before any port is in it."""

    do: Literal["add-network"] = "add-network"
    name: str
    prefix: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the network."""
        prefix = _prefix(self.prefix)
        if any(n.name == self.name for n in draft.lab.networks):
            raise CannotEdit(f"There is a network {self.name} already.")
        return name_network(draft, self.name, prefix)


@dataclass(frozen=True, slots=True, kw_only=True)
class NameNetwork:
    """Give a network, by the number of its row, another name; an empty one takes the name away."""

    do: Literal["name-network"] = "name-network"
    row: int
    name: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the name."""
        row = _row(draft, self.row)
        prefix = row.prefix.partition(",")[0]
        if not prefix:
            raise CannotEdit("Give the network its addresses first: names belong to prefixes.")
        return name_network(draft, self.name.strip(), ip_network(prefix))


def name_network(draft: Draft, name: str, prefix: Prefix) -> Draft:
    """Name a prefix, or give its name up."""
    there = next((n for n in draft.lab.networks if prefix in n.prefixes), None)
    if name and any(n.name == name and n is not there for n in draft.lab.networks):
        raise CannotEdit(f"There is a network {name} already.")
    if there is None:
        return draft.add(f"networks.{name}", {"prefix": str(prefix)}) if name else draft
    if not name:
        return draft.remove(f"networks.{there.name}")
    free = {
        p: name
        for p, v in draft.typed.items()
        if re.fullmatch(r"free\[\d+\]\.network", p) and v == there.name
    }
    return draft.with_text(rename(put_all(draft.text, free), f"networks.{there.name}", name))


@dataclass(frozen=True, slots=True, kw_only=True)
class Renumber:
    """Give a network another prefix: addresses keep their host parts, routes, gateways, pings and scheme follow."""

    do: Literal["renumber"] = "renumber"
    row: int
    prefix: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the other prefix everywhere."""
        new = _prefix(self.prefix)
        held = [ip_network(p) for p in _row(draft, self.row).prefix.split(", ") if p]
        old = next((p for p in held if p.version == new.version), None)
        if old is None:
            return FillNetwork(row=self.row, prefix=self.prefix).apply(draft)
        if old == new:
            return draft
        moved = {p: _moved(v, old, new) for p, v in draft.typed.items() if _may_hold_addresses(p)}
        after = draft.with_text(put_all(draft.text, {p: v for p, v in moved.items() if v != draft.typed[p]}))
        for device, model in after.lab.model.items() if not old.overlaps(new) else ():
            for item in model.everywhere(OnPort):
                if item.statement.interface.network == old:
                    raise CannotEdit(
                        f"{device} has {item.statement.interface.ip} by a variable: change it in the text, "
                        "and the others with it."
                    )
        return after


_ADDRESS = re.compile(
    r"(?<![\w.:-])((?:[0-9]{1,3}\.){3}[0-9]{1,3}|[0-9a-fA-F]*:[0-9a-fA-F:]+)"
    r"(?:(/|\s+mask\s+|\s+wildcard\s+)([0-9.]+))?(?![\w.-])",
    re.IGNORECASE,
)
_LENGTHS: dict[str, tuple[Callable[[str], int], Callable[[int], str]]] = {
    "/": (int, str),
    "mask": (mask_length, mask_of),
    "wildcard": (wildcard_length, wildcard_of),
}
"""How the length of a prefix is read and written, by what stands between it and the address."""
_NO_ADDRESS = ("id", "title", "brief", "about", "note", "level")


def _may_hold_addresses(place: str) -> bool:
    return place.rpartition(".")[2] not in _NO_ADDRESS and not place.startswith(
        ("devices", "links", "variables")
    )


def _moved(text: str, old: Prefix, new: Prefix) -> str:
    """Write the addresses of one network as those of another; a length goes along where it was the network's."""

    def other(found: re.Match[str]) -> str:
        address, between, said = found[1], found[2] or "", found[3] or ""
        read, write = _LENGTHS.get(between.strip().lower(), (None, None))
        try:
            own = ip_interface(address).ip
            length = read(said) if read else None
        except ValueError:
            return found[0]
        if own.version != old.version or own not in old or (length is not None and length < old.prefixlen):
            return found[0]
        host = int(own) - int(old.network_address)
        if host >= new.num_addresses:
            raise CannotEdit(f"{own} has no place in {new}: it is too small.")
        if write and length == old.prefixlen:
            said = write(new.prefixlen)
        return f"{new.network_address + host}{between}{said}"

    return _ADDRESS.sub(other, text)


def _row(draft: Draft, row: int) -> Row:
    if not 0 <= row < len(draft.chart.rows):
        raise CannotEdit("There is no such network.")
    return draft.chart.rows[row]


def _prefix(text: str) -> Prefix:
    if not text:
        raise CannotEdit("Type the prefix of the network, such as 10.64.8.0/24.")
    try:
        return parse_prefix(text.strip())
    except BadValue as bad:
        raise CannotEdit(str(bad)) from None


ADDRESS_EDITS = SetAddress | FillNetwork | SetGateways | AddNetwork | NameNetwork | Renumber
