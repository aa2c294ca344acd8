"""What a sheet says that its device, or this lab, cannot have: the remarks on a sheet in its lab."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from difflib import get_close_matches
from ipaddress import ip_interface
from itertools import chain, islice

from ..addresses import BadValue, Prefix, parse_address
from ..sheet import AnyItem, Block, Configuration, Diagnostic, Gateway, Mend, OnPort, Route, Severity, Sheet
from ..sheet.concern import Concern, error
from ..sheet.concerns import MOST_CONCERNS, concerns, remarks_on
from ..sheet.statement import On
from ..sheet.statements import Access, Trunk
from .model import Device, Kind, Lab, Medium, forwards


def review_sheet(
    sheet: Sheet, lab: Lab, name: str, own: bool = True, under: Configuration | None = None
) -> tuple[Diagnostic, ...]:
    """Return all remarks on a sheet of a device: the reader's, and those that need its lab.

    ``own`` says that the sheet is laid over what is given, as a hand-in is, or over ``under``; what is
    given itself is looked at within the model answer, which completes it.
    """
    device = lab.devices[name]
    lies_under = lab.under[name] if under is None else under
    configuration = sheet.configuration.over(lies_under) if own else lab.model[name]
    said = {id(item) for item in sheet.configuration.items}
    found = chain(
        concerns(configuration, [p.name for p in device.ports]),
        islice(_against_topology(configuration, device), MOST_CONCERNS),
    )
    about = remarks_on(sheet, (c for c in found if id(c.item) in said))
    about += _another_devices(sheet, lab, name) if own else []
    remarks = list(sheet.diagnostics)
    if sheet.form == "sheet":
        remarks = [_with_port(_with_length(d, sheet, lab), sheet, device) for d in remarks]
    return tuple(sorted((*remarks, *about), key=lambda d: d.line))


def _against_topology(configuration: Configuration, device: Device) -> Iterator[Concern]:
    inside: dict[Block, list[AnyItem]] = defaultdict(list)
    for item in configuration.items:
        if item.block is not None:
            inside[item.block].append(item)
    for block in configuration.blocks("port"):
        header = configuration.header(block)
        if header is not None:
            yield from _port(inside[block], block, header, device)
    loopbacks = configuration.blocks("loopback")
    for block in loopbacks:
        header = configuration.header(block)
        if header is not None and device.port(block.name) is not None:
            yield error(
                header, "name-twice", f"{block.name} is a port: a loopback needs another name.", block.name
            )
    yield from _vlans_declared(configuration, device)
    yield from _vlans_undeclared(configuration, device)
    ports = sum(1 for b in configuration.blocks("port") if b.sub_port_of) + len(device.ports)
    yield from _links_local(configuration, ports)
    if forwards(device, configuration):
        for gateway in configuration.all(Gateway):
            yield Concern(
                gateway, Severity.NOTE, "gateway-ignored",
                f"{device.name} forwards: it has routes, and this gateway is ignored.",
            )  # fmt: skip
        return
    for item in configuration.items:
        does = item.statement.SPEC.traits.needs_forwarding
        if does:
            yield Concern(
                item, Severity.NOTE, "forwarding-off",
                f"{device.name} does not forward packets, and without that it {does} nothing.",
            )  # fmt: skip


def _vlans_declared(configuration: Configuration, device: Device) -> Iterator[Concern]:
    """Only a switch declares VLANs."""
    for block in configuration.blocks("vlan"):
        header = configuration.header(block)
        if header is not None and device.kind is not Kind.SWITCH:
            yield error(
                header, "not-on-this-kind",
                f"{device.name} is a {device.kind}, and only a switch declares VLANs; a {device.kind} takes "
                f"VLAN {block.name} on a sub-port, such as port p1.{block.name}.",
            )  # fmt: skip


def _port(inside: list[AnyItem], block: Block, header: AnyItem, device: Device) -> Iterator[Concern]:
    """Check one port or sub-port against what the topology gives the device."""
    parent = block.sub_port_of
    name = parent[0] if parent else block.name
    port = device.port(name)
    if port is None:
        known = [p.name for p in device.ports]
        near = get_close_matches(name.lower(), [k.lower() for k in known], 1, 0.5)
        ours = next((k for k in known if k.lower() in near), None)
        yield error(
            header, "unknown-port", f"{device.name} has no port {name}; its ports: {', '.join(known) or 'none'}.",
            name, ours,
        )  # fmt: skip
        return
    if parent and device.kind is Kind.SWITCH:
        yield error(
            header, "sub-port-of-switch-port",
            f"{name} is a switch port: it carries VLANs with access or trunk, and has no sub-ports.", block.name,
        )  # fmt: skip
        return
    if parent and port.medium is Medium.SERIAL:
        yield error(
            header, "sub-port-of-serial", f"{name} is serial, and only ethernet carries VLANs.", block.name
        )
    for item in inside:
        yield from _in_port(item, name, port.medium, device)


def _in_port(item: AnyItem, name: str, medium: Medium, device: Device) -> Iterator[Concern]:
    """Check one statement of a port against the kind of its device and the port's medium."""
    statement = item.statement
    ports = statement.SPEC.traits.ports
    if device.kind is Kind.SWITCH and ports is On.ROUTED:
        yield error(
            item, "address-on-switch-port" if isinstance(statement, OnPort) else "not-on-this-kind",
            f"{name} only carries frames: a switch has its address in a VLAN, under a header such as vlan 1.",
        )  # fmt: skip
    elif device.kind is not Kind.SWITCH and ports is On.SWITCH:
        yield error(
            item, "not-on-this-kind",
            f"{device.name} is a {device.kind}, and only a switch's port has access or trunk; a {device.kind} takes "
            f"a VLAN on a sub-port, such as port {name}.10.",
        )  # fmt: skip
    elif ports is On.SERIAL and medium is not Medium.SERIAL:
        yield error(item, "clocking-on-ethernet", f"{name} is ethernet, and only a serial link has a clock.")


def _vlans_undeclared(configuration: Configuration, device: Device) -> Iterator[Concern]:
    if device.kind is not Kind.SWITCH:
        return
    declared = {1} | {int(b.name) for b in configuration.blocks("vlan")}
    named: list[tuple[AnyItem, int]] = [(i, i.statement.vlan) for i in configuration.everywhere(Access)]
    for trunk in configuration.everywhere(Trunk):
        said = trunk.statement
        vlans = [] if said.vlans.all else [v for low, high in said.vlans.spans for v in range(low, high + 1)]
        named += [(trunk, v) for v in [*vlans, *([said.native] if said.native else [])]]
    for item, vlan in named:
        if vlan not in declared:
            declared.add(vlan)
            yield Concern(
                item, Severity.WARNING, "vlan-not-declared",
                f"{device.name} drops frames of VLAN {vlan} until a line vlan {vlan} declares it.", str(vlan),
            )  # fmt: skip


def _links_local(configuration: Configuration, ports: int) -> Iterator[Concern]:
    """Find link-local next hops and gateways that do not say which port they are on (RFC 4007)."""
    if ports < 2:
        return
    hops: list[tuple[AnyItem, object]] = [
        (r, r.statement.next_hop) for r in configuration.all(Route) if not r.statement.port
    ]
    hops += [(g, g.statement.address) for g in configuration.all(Gateway) if not g.statement.port]
    for item, hop in hops:
        if getattr(hop, "version", 4) == 6 and getattr(hop, "is_link_local", False):
            yield error(
                item, "link-local-without-port",
                f"{hop} is a link-local address, which stands on every port: say which with out PORT. Without it "
                "this line has no effect.", str(hop),
            )  # fmt: skip


def _another_devices(sheet: Sheet, lab: Lab, name: str) -> Iterator[Diagnostic]:
    """Notice a sheet whose addresses are those of another device in the model answer."""
    said = {i.statement.interface.ip for i in sheet.configuration.everywhere(OnPort)}
    if not said:
        return
    fits = {
        other: len(said & {i.statement.interface.ip for i in model.everywhere(OnPort)})
        for other, model in lab.model.items()
    }
    best = max(fits, key=lambda other: (fits[other], other == name))
    if best != name and fits[best] * 2 > len(said) and fits[name] == 0:
        first = next((i.where.line for i in sheet.configuration.items if i.where), 1)
        yield Diagnostic(
            Severity.WARNING, "another-devices-sheet", first, 1, 1,
            f"This looks like the sheet of {best}: its addresses are that device's.",
        )  # fmt: skip


def _with_port(remark: Diagnostic, sheet: Sheet, device: Device) -> Diagnostic:
    """Suggest the word port before the name of one of the device's ports."""
    if remark.code != "unknown-word" or remark.column != 1:
        return remark
    word = sheet.text.split("\n")[remark.line - 1][: remark.end]
    port = device.port(word.rstrip(":"))
    if port is None:
        return remark
    whole = f"port {port.name}"
    return replace(
        remark,
        message=f"A port's block begins with the word port: {whole}.",
        suggestion=whole,
        mend=Mend(remark.line, remark.column, remark.end, whole),
    )


def _with_length(remark: Diagnostic, sheet: Sheet, lab: Lab) -> Diagnostic:
    """Suggest the length of the lab's network for an address that was written without one."""
    if remark.code != "length-missing" or remark.suggestion:
        return remark
    word = sheet.text.split("\n")[remark.line - 1][remark.column - 1 : remark.end]
    try:
        address = parse_address(word)
    except BadValue:
        return remark
    plan: list[Prefix] = [prefix for network in lab.networks for prefix in network.prefixes]
    prefix = next((p for p in plan if p.version == address.version and address in p), None)
    if prefix is None:
        return remark
    whole = str(ip_interface((address, prefix.prefixlen)))
    mend = Mend(remark.line, remark.column, remark.end, whole)
    return replace(
        remark,
        message=f"{word} needs its length; in this network it is {whole}.",
        suggestion=whole,
        mend=mend,
    )
