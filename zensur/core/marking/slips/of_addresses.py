"""Slips in addresses and gateways."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from ipaddress import ip_interface
from itertools import islice

from ...sheet import AnyItem, Block, Gateway, OnPort, Route
from ...sheet.operands import Masked
from ...sheet.statements import Leased, Open
from ..differences.edits import Of, plain_text
from ..reading.pairing import kept_under_another_name
from .case import Case, Slip, adds, changes, is_said, mends, needs, removes
from .made import Made, MadeSlip, Making, left_out


def _address(case: Case, test: Callable[[OnPort, OnPort], bool]) -> bool:
    found, wanted = case.found, case.wanted
    return isinstance(found, OnPort) and isinstance(wanted, OnPort) and test(found, wanted)


def _moved(case: Case) -> bool:
    return _address(case, lambda f, w: case.edit.remove[0].block != case.edit.add[0].block)


def _duplicate(case: Case) -> str:
    holder = case.held_elsewhere(case.found.interface.ip) if isinstance(case.found, OnPort) else None
    return f"{is_said(case)} on {case.place} is the address of {holder}; no two devices can have one address."


def _from(case: Case) -> str:
    block = case.edit.remove[0].block
    return block.port_name if block else ""


def _gateway(case: Case, test: Callable[[Gateway, Gateway], bool]) -> bool:
    found, wanted = case.found, case.wanted
    return isinstance(found, Gateway) and isinstance(wanted, Gateway) and test(found, wanted)


def _local_without_port(case: Case) -> bool:
    """Whether a link-local gateway or next hop is right, but for the port that has to be named with it."""
    found, wanted = case.found, case.wanted
    if isinstance(found, Route) and isinstance(wanted, Route):
        same = found.dest == wanted.dest and found.next_hop == wanted.next_hop
        local = found.next_hop is not None and found.next_hop.is_link_local
        return same and local and found.port is None and wanted.port is not None
    return _gateway(case, lambda g, w: g.address == w.address and g.port is None and w.port is not None)


def _outside(case: Case) -> bool:
    networks = case.networks()
    return _gateway(
        case, lambda g, _: not g.address.is_link_local and not any(g.address in n for n in networks)  # type: ignore[operator]
    )  # fmt: skip


def _other_family(case: Case) -> bool:
    found, wanted = case.found, case.wanted
    if isinstance(found, Gateway) and isinstance(wanted, Gateway):
        return found.address.version != wanted.address.version
    return _address(case, lambda f, w: f.interface.version != w.interface.version)


def _family(case: Case) -> str:
    wanted = case.wanted
    version = (
        wanted.address.version
        if isinstance(wanted, Gateway)
        else wanted.interface.version if isinstance(wanted, OnPort) else 4
    )  # fmt: skip
    return f"IPv{version}"


def _not_removed(case: Case) -> bool:
    """Whether a block, or what a learner began with, should be gone by now."""
    if case.wanted is not None or not case.edit.remove:
        return False
    there = [case.lab.blank[case.device]]
    if case.lab.before is not None:
        there.append(case.lab.before.model[case.device])
    gone = case.edit.remove[0]
    return _is_kept(case, gone) or any(
        (gone.block, gone.statement) in {(i.block, i.statement) for i in c.items} for c in there
    )


def _is_kept(case: Case, item: AnyItem) -> bool:
    """Whether something that the stage takes away stands there under another name."""
    before = case.lab.before.model[case.device] if case.lab.before is not None else case.model
    gone = [i for words in case.lab.removed.get(case.device, ()) for i in before.named_by(words)]
    return item in kept_under_another_name(case.learner, before, case.model, gone)


def _numbers(case: Case) -> tuple[object, object]:
    found, wanted = case.found, case.wanted
    assert isinstance(found, OnPort)
    assert isinstance(wanted, OnPort)
    return found.interface.network, wanted.interface.network


def _unusable(case: Case) -> bool:
    def is_edge(found: OnPort, wanted: OnPort) -> bool:
        network = found.interface.network
        wide = network.version == 4 and network.prefixlen < 31
        return wide and found.interface.ip in (network.network_address, network.broadcast_address)

    return _address(case, is_edge)


def _edges(statement: OnPort) -> Iterator[OnPort]:
    network = statement.interface.network
    if network.version == 4 and network.prefixlen < 30:
        for address in (network.network_address, network.broadcast_address):
            yield replace(statement, masked=Masked(ip_interface((address, network.prefixlen))))


def _make_address(change: Callable[[OnPort], Iterator[OnPort]], what: str) -> Made:
    """Put another address in the place of one of the model answer's."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.of(OnPort):
            for other in change(item.statement):
                yield making.instead(what, item, other)

    return made


def _other_masks(statement: OnPort) -> Iterator[OnPort]:
    interface = statement.interface
    length, most = interface.network.prefixlen, interface.max_prefixlen
    for other in (length - 1, length + 1):
        if other < most - 1:
            yield replace(statement, masked=Masked(ip_interface((interface.ip, other))))


def _other_octet(statement: OnPort) -> Iterator[OnPort]:
    interface = statement.interface
    if not (interface.version == 6 and interface.ip.is_link_local):
        far = interface.ip + (25600 if interface.version == 4 else 100 << 64)
        yield replace(statement, masked=Masked(ip_interface((far, interface.network.prefixlen))))


def _on_another_port(making: Making) -> Iterator[MadeSlip]:
    ports = [Block("port", p.name) for p in making.lab.devices[making.device].ports]
    for item in making.of(OnPort):
        other = next((b for b in ports if not making.has(replace(item, block=b))), None)
        if other is not None and item.block is not None and item.block.kind == "port":
            yield making.change("on another port", [item], [replace(item, block=other)])


def _of_another_device(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(OnPort):
        interface = item.statement.interface
        held = (
            i.statement.interface.ip
            for name, model in making.lab.model.items()
            if name != making.device
            for i in model.everywhere(OnPort)
            if i.statement.interface.network == interface.network
        )
        other = next(held, None)
        if other is not None and interface.version == other.version:
            masked = Masked(type(interface)((other, interface.network.prefixlen)))
            yield making.instead("another device's", item, OnPort(masked))


def _leased(making: Making) -> Iterator[MadeSlip]:
    for item in making.of(OnPort):
        alone = making.is_alone(item, OnPort) and item.block is not None and item.block.kind == "port"
        if alone and item.statement.interface.version == 4 and not making.lab.devices[making.device].forwards:
            yield making.instead("leased", item, Leased())


def _make_gateway(change: Callable[[Gateway], Gateway | None], what: str, *also: str) -> Made:
    """Put another gateway in the place of one of the model answer's."""

    def made(making: Making) -> Iterator[MadeSlip]:
        for item in making.of(Gateway):
            other = change(item.statement)
            if other is not None:
                yield making.instead(what, item, other, *also)

    return made


def _itself(making: Making) -> Iterator[MadeSlip]:
    """Give a host its own address as its gateway."""
    own = making.model.everywhere(OnPort)
    for item in making.of(Gateway):
        mine = (
            i.statement.interface.ip for i in own if item.statement.address in i.statement.interface.network
        )
        for address in islice(mine, 1):
            yield making.instead("its own address", item, replace(item.statement, address=address))


def _still_there(making: Making) -> Iterator[MadeSlip]:
    """Leave what a stage takes away where it was."""
    lab, device = making.lab, making.device
    if lab.before is None:
        return
    before = lab.before.model[device]
    for words in lab.removed.get(device, ()):
        (named,) = before.named_by(words)
        block = named.block if isinstance(named.statement, Open) else None
        left = [i for i in before.items if i is named or (block and i.block == block)]
        if not any(making.has(i) for i in left):
            yield MadeSlip(
                f"{'block' if block else type(named.statement).__name__.lower()}: still there",
                device,
                frozenset({f"without {block.header() if block else plain_text(named)}"}),
                put=tuple((device, i) for i in left),
            )


def _without_gateway(case: Case) -> str:
    wanted = case.wanted
    assert isinstance(wanted, Gateway)
    families = {g.statement.address.version for g in case.model.all(Gateway)}
    of_family = f"IPv{wanted.address.version} " if len(families) > 1 else ""
    over = f" over {of_family.strip()}" if of_family else ""
    word = "an" if of_family else "a"
    return f"Without {word} {of_family}gateway {case.device} reaches its own network and nothing else{over}."


def _not_the_gateway(case: Case) -> str:
    found = case.found
    assert isinstance(found, Gateway)
    holder = case.held_elsewhere(found.address)
    if holder is None:
        return f"{is_said(case)} is no router's address."
    forwards = case.lab.devices[holder].forwards
    return f"{is_said(case)} is the address of {holder}, which is {'another' if forwards else 'no'} router."


def _far_gateway(statement: Gateway) -> Gateway | None:
    if statement.address.version == 6 and statement.address.is_link_local:
        return None
    return replace(
        statement, address=statement.address + (1 << (22 if statement.address.version == 4 else 80))
    )


OF_ADDRESSES: tuple[Slip, ...] = (
    Slip(
        "network-misnumbered",
        "Network misnumbered",
        mends(Of.NETWORK),
        lambda c: f"All devices of a network agree on {_numbers(c)[0]}, and {_numbers(c)[1]} is planned.",
        "All devices of the network agree, on another prefix than planned.",
    ),
    Slip(
        "loopback-or-route-not-removed",
        "Loopback or route not removed",
        _not_removed,
        lambda c: f"{_what(c)} on {c.device} should be gone by now.",
        "What an earlier stage, or the sheet to begin with, had there was not taken away.",
        _still_there,
    ),
    Slip(
        "lease-instead-of-fixed-address",
        "Lease instead of fixed address",
        lambda c: isinstance(c.wanted, OnPort) and isinstance(c.found, Leased),
        lambda c: f"{c.place} asks for a lease; its address is fixed.",
        "The port takes a lease where a fixed address is planned.",
        _leased,
    ),
    Slip(
        "address-missing",
        "Address missing",
        adds(OnPort),
        lambda c: f"{c.place} {'lacks one of its addresses' if c.has(OnPort) else 'has no address'}.",
        "The address was not entered.",
        left_out(OnPort),
    ),
    Slip(
        "mask-not-written-out",
        "Mask not written out",
        lambda c: _address(c, lambda f, w: f == w and f.is_short and c.edit.add == c.edit.remove),
        lambda c: f"The address of {c.place} is right; its mask is asked for written out, not as a length.",
        "The address is right; the mask stands there as a length, where it was to be written out.",
    ),
    Slip(
        "address-on-the-wrong-port",
        "Address on the wrong port",
        _moved,
        lambda c: f"{needs(c)} belongs on {c.device} {_to(c)}, and stands on {_from(c)}.",
        "The right address was entered on another port of the device.",
        _on_another_port,
    ),
    Slip(
        "wrong-family",
        "Wrong family",
        _other_family,
        lambda c: f"{is_said(c)} on {c.place} is of the other family: an {_family(c)} address is wanted.",
        "An address of the other family was entered.",
    ),
    Slip(
        "wrong-mask",
        "Wrong mask",
        lambda c: _address(c, lambda f, w: f.interface.ip == w.interface.ip),
        lambda c: f"The address of {c.place} is right, its mask is not.",
        "The address is right; with this mask it lies in another network than its neighbours'.",
        _make_address(_other_masks, "other mask"),
    ),
    Slip(
        "duplicate-address",
        "Duplicate address",
        lambda c: _address(c, lambda f, w: c.held_elsewhere(f.interface.ip) is not None),
        _duplicate,
        "The address belongs to another device.",
        _of_another_device,
    ),
    Slip(
        "network-or-broadcast-address",
        "Network or broadcast address used",
        _unusable,
        lambda c: (
            f"{is_said(c)} on {c.place}: the first and the last address of a network belong to no device."
        ),
        "The address is the network's own or its broadcast address.",
        _make_address(_edges, "network or broadcast address"),
    ),
    Slip(
        "wrong-address",
        "Wrong address",
        changes(OnPort),
        lambda c: f"{c.place} has another address than planned.",
        "The address is not the one in the plan, often by one octet.",
        _make_address(_other_octet, "other octet"),
    ),
    Slip(
        "address-where-none-should-be",
        "Address where none should be",
        lambda c: removes(OnPort)(c) or c.edit.of is Of.BLOCK,
        lambda c: f"{_what(c)} on {c.device} is in nobody's plan and gets in the way.",
        "An address that nobody asked for gets in the way of others.",
    ),
    Slip(
        "gateway-missing",
        "Gateway missing",
        adds(Gateway),
        _without_gateway,
        "The host has no gateway, so that it reaches its own network only.",
        left_out(Gateway),
    ),
    Slip(
        "link-local-gateway-without-its-port",
        "Link-local gateway without its port",
        _local_without_port,
        lambda c: (
            f"{is_said(c)}: a link-local address holds on one link only, so {c.device} has to be told by which port "
            "(out PORT)."
        ),
        "The gateway or next hop is link-local, and the port was not named with it.",
        _make_gateway(lambda g: replace(g, port=None) if g.port else None, "without its port"),
    ),
    Slip(
        "gateway-is-the-device-itself",
        "Gateway is the device itself",
        lambda c: _gateway(c, lambda g, _: g.address in c.own_addresses()),
        lambda c: f"{is_said(c)} is {c.device}'s own address; the gateway is the router on its network.",
        "The host was given its own address as its gateway.",
        _itself,
    ),
    Slip(
        "gateway-outside-the-network",
        "Gateway outside the network",
        _outside,
        lambda c: f"{is_said(c)} lies in none of {c.device}'s networks, so it cannot be reached.",
        "The gateway lies in none of the host's own networks.",
        _make_gateway(_far_gateway, "gateway elsewhere"),
    ),
    Slip(
        "gateway-wrong",
        "Gateway wrong",
        changes(Gateway),
        _not_the_gateway,
        "The gateway lies in the right network, but is not its router.",
        _make_gateway(
            lambda g: replace(g, address=g.address + 1), "other gateway", "gateway-is-the-device-itself"
        ),
    ),
    Slip(
        "gateway-where-none-should-be",
        "Gateway where none should be",
        removes(Gateway),
        lambda c: f"{is_said(c)} is not wanted on {c.device}.",
        "A gateway that nobody asked for gets in the way.",
    ),
)


def _to(case: Case) -> str:
    block = case.edit.add[0].block
    return block.port_name if block else ""


def _what(case: Case) -> str:
    block = case.edit.block
    if case.edit.of is Of.BLOCK and block is not None:
        return block.header()
    if block is not None and block.name:
        return f"{is_said(case)} on {block.port_name}" if isinstance(case.found, OnPort) else is_said(case)
    return is_said(case)
