"""Slips of place: the right thing on the wrong port, end or device, values exchanged, sheets mixed up."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations, islice
from typing import TypeVar

from ...lab import Lab, Link
from ...sheet import AnyItem, Block, Configuration, Item, OnPort, Route, Statement
from ...sheet.operands import Masked
from ...sheet.statements import Access, Clocking, Dynamic, Entry, Leased, OneToOne, Open, Realm
from ..differences.edits import said
from .made import MadeSlip

S = TypeVar("S", bound=Statement)
_EXCHANGED: tuple[tuple[type[Statement], str], ...] = (
    (OnPort, "two-ports-swapped"), (Access, "two-ports-swapped"), (Realm, "realms-swapped"),
)  # fmt: skip


def slips_of_place(lab: Lab, added: dict[str, list[AnyItem]]) -> Iterator[MadeSlip]:
    """Yield slips of place; ``added`` is what the model answer adds, by device."""
    for device, items in added.items():
        yield from _swapped(device, items)
        yield from _on_another_port(lab, device, items)
        yield from _on_another_device(lab, device, items)
        yield from _duplicate(lab, device, items)
        yield from _other_end(lab, device, items)
        yield from _to_itself(lab, device, items)
        yield from _host_route(lab, device, items)
        yield from _turned(device, items)
        yield from _disordered(device, items)
        yield from _fixed_or_leased(lab, device, items)
    yield from _sheets(lab)


def _of(items: list[AnyItem], kind: type[S]) -> list[Item[S]]:
    return [i for i in items if isinstance(i.statement, kind)]  # type: ignore[misc]


def _swapped(device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """Two ports have each other's address, VLAN or realm."""
    for kind, slip in _EXCHANGED:
        own = [i for i in _of(items, kind) if _is_alone(i, items, kind)]
        for one, other in islice(combinations(own, 2), 3):
            if one.statement == other.statement:
                continue
            put = (
                (device, replace(one, statement=other.statement)),
                (device, replace(other, statement=one.statement)),
            )
            texts = (said(one), said(other))
            yield MadeSlip(
                f"{kind.__name__.lower()}: exchanged", device,
                frozenset({"; ".join(texts), "; ".join(reversed(texts))}), frozenset({slip}),
                ((device, one), (device, other)), put,
            )  # fmt: skip


def _is_alone(item: AnyItem, items: list[AnyItem], kind: type[Statement]) -> bool:
    return sum(isinstance(i.statement, kind) and i.block == item.block for i in items) == 1


def _on_another_port(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """An address stands on another port that the device has."""
    ports = [Block("port", p.name) for p in lab.devices[device].ports]
    for item in _of(items, OnPort):
        held = {i.slot for i in lab.model[device].items}
        other = next((b for b in ports if (b, *item.statement.slot) not in held), None)
        if other is not None and item.block is not None and item.block.kind == "port":
            yield MadeSlip(
                "address: on another port", device, frozenset({said(item)}), frozenset({"address-on-the-wrong-port"}),
                ((device, item),), ((device, replace(item, block=other)),),
            )  # fmt: skip


def _neighbours(lab: Lab, device: str) -> Iterator[tuple[Link, str, str]]:
    """Yield the links of a device with the device and port at the other end."""
    for link in lab.links:
        for near, far in ((link.a, link.b), (link.b, link.a)):
            if near.device == device and far.device != device:
                yield link, near.port, f"{far.device}:{far.port}"


def _on_another_device(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """A route stands on a neighbour."""
    for item in _of(items, Route):
        for _, _, far in _neighbours(lab, device):
            other = far.partition(":")[0]
            hop = item.statement.next_hop
            fits = hop is not None and hop not in _addresses(lab.model[other])
            if (
                fits
                and lab.devices[other].forwards
                and item.slot not in {i.slot for i in lab.model[other].items}
            ):
                yield MadeSlip(
                    "route: on another device", device, frozenset({said(item)}),
                    frozenset({"statement-on-the-wrong-device"}), ((device, item),), ((other, item),),
                )  # fmt: skip
                break


def _addresses(configuration: Configuration) -> set[object]:
    return {i.statement.interface.ip for i in configuration.everywhere(OnPort)}


def _duplicate(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """An address of another device in the same network is entered."""
    for item in _of(items, OnPort):
        interface = item.statement.interface
        held = (
            i.statement.interface.ip
            for name, model in lab.model.items()
            if name != device
            for i in model.everywhere(OnPort)
            if i.statement.interface.network == interface.network
        )
        other = next(held, None)
        if other is not None and interface.version == other.version:
            masked = Masked(type(interface)((other, interface.network.prefixlen)))
            yield MadeSlip(
                "address: another device's", device, frozenset({said(item)}), frozenset({"duplicate-address"}),
                ((device, item),), ((device, replace(item, statement=OnPort(masked))),),
            )  # fmt: skip


def _other_end(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """The other end of a serial link gives the clock."""
    for item in _of(items, Clocking):
        for _, port, far in _neighbours(lab, device):
            if item.block and port.lower() == item.block.name.lower():
                other, _, far_port = far.partition(":")
                put = replace(item, block=Block("port", far_port))
                yield MadeSlip(
                    "clocking: at the other end", device, frozenset({said(item)}), frozenset({"clock-on-the-wrong-end"}),
                    ((device, item),), ((other, put),),
                )  # fmt: skip


def _to_itself(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """A route points at the device's own address on the link in place of the neighbour's."""
    own = lab.model[device].everywhere(OnPort)
    for item in _of(items, Route):
        hop = item.statement.next_hop
        near = next(
            (i.statement.interface.ip for i in own if hop and hop in i.statement.interface.network), None
        )
        if hop is not None and near is not None:
            yield MadeSlip(
                "route: own address as next hop", device, frozenset({said(item)}),
                frozenset({"next-hop-is-the-device-itself"}),
                ((device, item),), ((device, replace(item, statement=replace(item.statement, next_hop=near))),),
            )  # fmt: skip


def _host_route(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """One address of a network is dropped by a route of its own."""
    held = {i.statement.interface.ip for m in lab.model.values() for i in m.everywhere(OnPort)}
    for item in _of(items, Route):
        dest = item.statement.dest
        inside = sorted(a for a in held if a in dest)
        if inside and 0 < dest.prefixlen < dest.max_prefixlen and not item.statement.discard:
            host = Route(type(dest)((inside[-1], dest.max_prefixlen)), instance=item.statement.instance)
            put = Item(None, host)
            if put.slot not in {i.slot for i in lab.model[device].items}:
                yield MadeSlip(
                    "route: a host route beside it", device, frozenset({f"without {said(put)}"}),
                    frozenset({"host-route-hides-a-wider-one"}), (), ((device, put),),
                )  # fmt: skip


def _turned(device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """Internal and external address of a mapping stand in each other's place."""
    for item in _of(items, OneToOne):
        inside, outside = item.statement.inside, item.statement.outside
        if not isinstance(outside, str):
            turned = replace(item, statement=replace(item.statement, inside=outside, outside=inside))
            yield MadeSlip(
                "one-to-one: turned round", device, frozenset({said(item)}), frozenset({"translated-addresses-swapped"}),
                ((device, item),), ((device, turned),),
            )  # fmt: skip


def _disordered(device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """The lines of a list, or the translations, stand in another order."""
    for kind in (Entry, Dynamic):
        for block in dict.fromkeys(i.block for i in _of(items, kind)):
            own = [i for i in _of(items, kind) if i.block == block]
            if len(own) > 1:
                repair = "; ".join(said(i) for i in own)
                yield MadeSlip(
                    f"{kind.__name__.lower()}: in another order", device, frozenset({repair}),
                    frozenset({"lines-in-the-wrong-order"}),
                    tuple((device, i) for i in own), tuple((device, i) for i in reversed(own)),
                )  # fmt: skip


def _fixed_or_leased(lab: Lab, device: str, items: list[AnyItem]) -> Iterator[MadeSlip]:
    """A lease in the place of a fixed address, or the other way round."""
    for item in _of(items, OnPort):
        alone = _is_alone(item, items, OnPort) and item.block is not None and item.block.kind == "port"
        if alone and item.statement.interface.version == 4 and not lab.devices[device].forwards:
            yield MadeSlip(
                "address: leased", device, frozenset({said(item)}), frozenset({"lease-instead-of-fixed-address"}),
                ((device, item),), ((device, Item(item.block, Leased())),),
            )  # fmt: skip
    for leased in _of(items, Leased):
        fixed = Item(leased.block, OnPort.of("192.0.2.77/24"))
        yield MadeSlip(
            "lease: fixed", device, frozenset({said(leased)}), frozenset({"fixed-address-instead-of-lease"}),
            ((device, leased),), ((device, fixed),),
        )  # fmt: skip


def _sheets(lab: Lab) -> Iterator[MadeSlip]:
    """Two sheets are exchanged, one is handed in for another device, one is missing."""
    full = {
        d: sum(not isinstance(i.statement, Open) for i in s.configuration.items)
        for d, s in lab.full_paper.items()
    }
    large = [d for d, count in full.items() if count > 4]
    for one, other in combinations(large, 2):
        first, second = sorted((one, other), key=list(lab.devices).index)
        both = f"hand in the sheets of {first} and {second} each under its own name"
        yield MadeSlip(
            "sheets: exchanged",
            first,
            frozenset({both}),
            frozenset({"two-sheets-exchanged"}),
            sheets={one: other, other: one},
        )
        yield MadeSlip(
            "sheet: another device's", one, frozenset({f"hand in the sheet of {one}"}),
            frozenset({"sheet-handed-in-for-the-wrong-device"}), sheets={one: other},
        )  # fmt: skip
    for device in (d for d in large if d not in lab.start):
        yield MadeSlip(
            "sheet: missing", device, frozenset({f"hand in the sheet of {device}"}), frozenset({"sheet-missing"}),
            sheets={device: None},
        )  # fmt: skip
