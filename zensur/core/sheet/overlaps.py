"""Finds addresses that no port may bear, that stand twice, or whose networks overlap."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..addresses import usable
from .concern import Concern, Held, warning


def find_overlaps(held: list[Held]) -> Iterator[Concern]:
    """Check the addresses of a device; two ports of one instance need two addresses in two networks."""
    for own in held:
        interface = own.interface
        if interface.ip not in usable(interface.network):
            network = interface.ip == interface.network.network_address
            yield warning(
                own.item, "address-is-network" if network else "address-is-broadcast",
                f"{interface} is the {'network' if network else 'broadcast'} address of {interface.network}: "
                f"no device bears it. The first usable one is {usable(interface.network).first}.",
                str(interface.ip),
            )  # fmt: skip
    yield from sorted(_pairs(held), key=lambda c: c.item.where.line if c.item.where else 0)


@dataclass(slots=True)
class _Around:
    """A network that spans what is looked at, and the nearest one around it of another port."""

    last: int
    held: Held
    other: "_Around | None"


def _pairs(held: list[Held]) -> Iterator[Concern]:
    """Sweep over the networks in order; each is compared with those around it."""
    order = {id(h): n for n, h in enumerate(held)}
    spans = [h for h in held if not h.interface.ip.is_link_local]
    spans.sort(
        key=lambda h: (
            h.instance or "", h.interface.version, int(h.interface.network.network_address),
            h.interface.network.prefixlen, order[id(h)],
        )
    )  # fmt: skip
    around: list[_Around] = []
    group: tuple[str | None, int] | None = None
    for own in spans:
        network = own.interface.network
        if group != (own.instance, own.interface.version):
            group, around = (own.instance, own.interface.version), []
        while around and around[-1].last < int(network.network_address):
            around.pop()
        top = around[-1] if around else None
        other = top if top is None or top.held.block != own.block else top.other
        if other is not None:
            yield _said(*sorted((other.held, own), key=lambda h: order[id(h)]))
        around.append(_Around(int(network.broadcast_address), own, other))


def _said(first: Held, second: Held) -> Concern:
    """Say of the second that it does not go with the first."""
    word = str(second.interface.ip)
    if first.interface.ip == second.interface.ip:
        return warning(
            second.item, "address-twice",
            f"{word} is the address of {first.block.port_name} already: each port needs its own.", word,
        )  # fmt: skip
    return warning(
        second.item, "networks-overlap",
        f"{second.block.port_name} and {first.block.port_name} lie in overlapping networks, "
        f"{second.interface.network} and {first.interface.network}: each port needs a network of its own.", word,
    )  # fmt: skip
