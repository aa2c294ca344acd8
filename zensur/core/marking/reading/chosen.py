"""What a learner has chosen where the lab leaves a host part or a subnet free.

The choice makes a variant of the lab, against which the paper is marked: pings, gateways and translations follow it.
What is no choice (outside its network, or somebody else's) stays as the model answer has it, and is a mistake.
"""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from ipaddress import ip_interface
from itertools import islice

from ...addresses import Address, Interface, Prefix, usable
from ...formats import Cabling
from ...lab import NOTHING_CHOSEN, FreeNetwork, Lab, OwnChoice, read_lab
from ...sheet import Block, Configuration, OnPort
from .cabled import PortChoice, chosen_ports, read_cables
from .pairing import with_model_names

MOST_TRIED = 4_096
"""So many subnets or addresses are looked through for one that is left."""


@dataclass(frozen=True, slots=True)
class _Borne:
    """An address of the model answer, with the port that bears it."""

    device: str
    block: Block
    interface: Interface

    @property
    def ip(self) -> Address:
        """The address."""
        return self.interface.ip


def chosen(lab: Lab, learner: Mapping[str, Configuration]) -> OwnChoice:
    """Work out what a paper's configurations choose; nothing where all is as in the model answer."""
    borne = list(_borne(lab))
    networks = _networks(lab, learner, borne)
    moved = OwnChoice((), networks)
    free = [b for b in borne if lab.leaves_free(b.device, b.block.port_name, b.ip)]
    taken = {moved.of(b.ip) for b in borne if b not in free}
    picked: dict[Address, Address] = {}

    def pick(one: _Borne, address: Address) -> None:
        picked[one.ip] = address
        taken.add(address)

    mine = {b: [i.statement.interface.ip for i in learner[b.device].all(OnPort, b.block)] for b in free}
    for one in free:  # who keeps the planned address keeps it from others
        if moved.of(one.ip) in mine[one]:
            pick(one, moved.of(one.ip))
    for one in free:
        if one.ip not in picked:
            fitting = (a for a in mine[one] if a not in taken and _may_be(a, lab, moved, one, borne))
            for address in islice(fitting, 1):
                pick(one, address)
    for one in free:  # where nothing was chosen it may not be what another has chosen
        if one.ip not in picked:
            hosts = _hosts(_network(moved, one)) if moved.of(one.ip) in taken else iter(())
            pick(one, next((a for a in hosts if a not in taken), moved.of(one.ip)))
    return OwnChoice(tuple((a, b) for a, b in picked.items() if b != moved.of(a)), networks)


def choice_of(lab: Lab, sheets: Mapping[str, Configuration], cabling: Cabling | None) -> OwnChoice:
    """Work out what a hand-in chooses: ports first, then addresses on them."""
    ports: PortChoice = ()
    if lab.asks_cabling and cabling:
        exact = [link for link in lab.links if f"link:{link}" in _asked(lab)]
        ports = chosen_ports(lab, read_cables(lab, cabling).links, exact, sheets)
    if not lab.free:
        return OwnChoice(ports=ports)
    cabled = _read(lab.text, lab.stage, lab.values, OwnChoice(ports=ports)) if ports else lab
    own = (
        {d: with_model_names(c, cabled.model[d]) for d, c in sheets.items() if d in cabled.devices}
        if cabled
        else {}
    )
    return replace(chosen(cabled, cabled.with_sheets(own)), ports=ports) if cabled else NOTHING_CHOSEN


def _asked(lab: Lab) -> set[str]:
    return {c.id for task in lab.scheme.tasks or () for c in task.criteria}


def _read(text: str, stage: str, values: Mapping[str, int], choice: OwnChoice) -> Lab | None:
    """Read a lab, and a stage of it, with what was chosen in it; None where it cannot be read so."""
    read = read_lab(text, values, choice).lab
    return next((s for s in read.stages if s.stage == stage), None) if read else None


def read_chosen(text: str, stage: str, values: Mapping[str, int], choice: OwnChoice) -> Lab | None:
    """Read a lab, and a stage of it, as a hand-in chooses it; None where it cannot be read so. Nothing is left free."""
    found = _read(text, stage, values, choice)
    return replace(found, free=()) if found else None


def as_handed_in(lab: Lab, sheets: Mapping[str, Configuration], cabling: Cabling | None) -> tuple[Lab, Lab]:
    """Return the lab as a hand-in chooses it, and the same with the devices joined as it joins them."""
    choice = choice_of(lab, sheets, cabling)
    own = (read_chosen(lab.text, lab.stage, lab.values, choice) if choice else None) or lab
    return own, replace(own, links=read_cables(own, cabling or ()).links) if own.asks_cabling else own


def another_choice(lab: Lab) -> OwnChoice:
    """Make a choice that is as far from the model answer's as can be, to try whether a lab holds with it."""
    borne = list(_borne(lab))
    free = [f for f in lab.free if isinstance(f, FreeNetwork)]
    taken = [b.interface.network for b in borne if not any(_within(b.ip, f.planned) for f in free)]
    networks = []
    for one in free:
        left = (n for n in _subnets(one, last_first=True) if _is_choice(n, one, taken))
        networks.append((one.planned, next(left, one.planned)))
        taken.append(networks[-1][1])
    moved = OwnChoice((), tuple(networks))
    used = {moved.of(b.ip) for b in borne}
    addresses = []
    for own in (b for b in borne if lab.leaves_free(b.device, b.block.port_name, b.ip)):
        hosts = _hosts(_network(moved, own), last_first=True)
        addresses.append((own.ip, next((a for a in hosts if a not in used), moved.of(own.ip))))
        used.add(addresses[-1][1])
    return OwnChoice(tuple(addresses), moved.networks)


def said(choice: OwnChoice, lab: Lab, sheets: Mapping[str, Configuration]) -> str:
    """Say in a remark what a paper has chosen of a lab."""
    there = {i.statement.interface.ip for c in sheets.values() for i in c.everywhere(OnPort)}
    pairs: list[tuple[object, object]] = [*choice.networks, *(p for p in choice.addresses if p[1] in there)]
    used = {(end.device, end.port) for link in lab.links for end in link.ends}
    pairs += [(old, f"{device} {other}") for device, old, other in choice.ports if (device, old) in used]
    told = ", ".join(f"{mine} (model answer: {planned})" for planned, mine in pairs)
    return f"Chosen by the learner, as the lab allows: {told}."


def _borne(lab: Lab) -> Iterator[_Borne]:
    for device, model in lab.model.items():
        for block in model.bearers():
            for item in model.all(OnPort, block):
                interface = item.statement.interface
                if not interface.ip.is_link_local:
                    yield _Borne(device, block, interface)


def _within(address: Address, network: Prefix) -> bool:
    return address.version == network.version and address in network


def _network(moved: OwnChoice, one: _Borne) -> Prefix:
    """Return the network of an address, where its subnet was chosen that one."""
    network: Prefix = ip_interface((moved.of(one.ip), one.interface.network.prefixlen)).network
    return network


def _may_be(ip: Address, lab: Lab, moved: OwnChoice, one: _Borne, borne: list[_Borne]) -> bool:
    """Whether an address may be chosen in the place of one: usable, and of the same network.

    The network of a loopback with a single address is the named one that holds it; without one it may have any address
    that lies in no other network.
    """
    network = _network(moved, one)
    if network.prefixlen == network.max_prefixlen:
        named = [
            p
            for n in lab.networks
            for p in n.prefixes
            if _within(one.ip, p) and p.prefixlen < p.max_prefixlen
        ]
        if not named:
            others = (_network(moved, b) for b in borne if b is not one)
            special = ip.is_multicast or ip.is_unspecified or ip.is_loopback or ip.is_link_local
            return ip.version == one.ip.version and not special and not any(_within(ip, n) for n in others)
        network = max(named, key=lambda p: p.prefixlen)
    return ip in usable(network)


def _networks(
    lab: Lab, learner: Mapping[str, Configuration], borne: list[_Borne]
) -> tuple[tuple[Prefix, Prefix], ...]:
    """Return the subnets that are chosen, by those that they stand for: what most of a network's ports have."""
    free = [f for f in lab.free if isinstance(f, FreeNetwork)]
    taken = [b.interface.network for b in borne if not any(_within(b.ip, f.planned) for f in free)]
    found: dict[Prefix, Prefix] = {}
    for one in free:
        votes: Counter[Prefix] = Counter()
        for b in borne:
            if _within(b.ip, one.planned):
                networks = (i.statement.interface.network for i in learner[b.device].all(OnPort, b.block))
                votes.update(n for n in networks if _is_choice(n, one, taken))
        if votes:
            found[one.planned] = max(votes, key=lambda n: (votes[n], n == one.planned))
            taken.append(found[one.planned])
    for one in free:
        if one.planned not in found:  # nothing was chosen: it may not be what another network has
            planned = [one.planned] if _is_choice(one.planned, one, taken) else []
            left = (n for n in (*planned, *_subnets(one)) if _is_choice(n, one, taken))
            found[one.planned] = next(left, one.planned)
            taken.append(found[one.planned])
    return tuple((planned, mine) for planned, mine in found.items() if planned != mine)


def _subnets(free: FreeNetwork, last_first: bool = False) -> Iterator[Prefix]:
    """Yield the subnets that may be chosen, up to so many."""
    size = free.planned.num_addresses
    count = free.within.num_addresses // size
    for n in range(min(count, MOST_TRIED)):
        at = int(free.within.network_address) + size * (count - 1 - n if last_first else n)
        yield type(free.planned)((at, free.planned.prefixlen))


def _hosts(network: Prefix, last_first: bool = False) -> Iterator[Address]:
    """Yield the usable addresses of a network, up to so many."""
    held = usable(network)
    for n in range(min(held.size, MOST_TRIED)):
        yield held.last - n if last_first else held.first + n


def _is_choice(network: Prefix, free: FreeNetwork, taken: list[Prefix]) -> bool:
    """Whether a subnet may be chosen: of the length asked for, within the prefix, and nobody else's."""
    if network.version != free.within.version or network.prefixlen != free.planned.prefixlen:
        return False
    inside = _within(network.network_address, free.within)
    return inside and not any(network.version == t.version and network.overlaps(t) for t in taken)
