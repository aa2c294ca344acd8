"""The rules of the lab check that look at a lab without running it: sheets, addresses, links, what counts."""

from collections.abc import Iterator
from dataclasses import dataclass

from ...lab import Lab, counted_by, review_sheet
from ...sheet import AnyItem, Severity
from ...sheet.concern import held_addresses
from ...sheet.statements import (
    Open,
)
from ...sim import Network, domains
from ...sim.numbers import same_network
from ..scheme import tasks_of
from .findings import Findings


def check_sheets(findings: Findings) -> None:
    """Report what is said of the lab's own sheets. What learners begin with may well be wrong."""
    lab = findings.lab
    sections = [("given", lab.given, False), ("answer", lab.answer, True)]
    if lab.before is None:
        sections.append(("start", lab.start, True))
    for key, sheets, own in sections:
        for name, sheet in sheets.items():
            file = next((i.where.file for i in sheet.configuration.items if i.where), None)
            place = file.replace("/", ".", 1) if file else f"{findings.prefix}{key}.{name}"
            under = lab.base[name] if key == "answer" and lab.before is not None else None
            for remark in review_sheet(sheet, lab, name, own, under):
                severity = remark.severity
                if key == "start" or (severity is Severity.WARNING and remark.code != "empty-sheet"):
                    severity = Severity.NOTE
                findings.in_sheet(severity, place, remark)


@dataclass(frozen=True, slots=True, order=True)
class _Held:
    """An address in use: its network and length, the segment it lies in, and who bears it."""

    network: int
    length: int
    segment: int
    place: str
    device: str


def check_addresses(findings: Findings, network: Network) -> None:
    """Report addresses that stand twice, and prefixes that overlap, in the model answer."""
    held: list[_Held] = []
    holders: dict[tuple[int, int], str] = {}
    domain = {own.key: n for n, d in enumerate(domains(network)) for _, own in d.interfaces}
    for number, node in enumerate(network.nodes.values()):
        device = network.devices[node.device]
        for port in network.up_ports(node.number):
            segment = domain.get(port.key, -1 - number)
            for address in (*port.four, *port.six):
                place = f"{device.name}:{port.name}"
                before = holders.setdefault((segment, address.address), place)
                if before != place:
                    findings.error(
                        "duplicate-address", f"answer.{device.name}",
                        f"{before} and {place} have the same address in one network.",
                        "Give one of them another address.",
                    )  # fmt: skip
                held.append(_Held(address.network, address.length, segment, place, device.name))
    _check_overlaps(findings, sorted(held))


def _check_overlaps(findings: Findings, held: list[_Held]) -> None:
    """Compare each network with those that begin inside it; each port is told of once."""
    told: set[str] = set()
    for n, wide in enumerate(held):
        for inner in held[n + 1 :]:
            if not same_network(inner.network, wide.network, wide.length):
                break
            together = wide.segment == inner.segment
            same = (wide.network, wide.length) == (inner.network, inner.length)
            if inner.place in told or (together and (same or wide.segment < 0)):
                continue
            told.add(inner.place)
            if together:
                findings.error(
                    "overlapping-networks", f"answer.{inner.device}",
                    f"{wide.place} has a /{wide.length} and {inner.place} a /{inner.length} of overlapping "
                    "addresses in one network.", "Give all ports of a network the same length.",
                )  # fmt: skip
            else:
                findings.note(
                    "overlap-elsewhere", f"answer.{inner.device}",
                    f"{wide.place} and {inner.place} lie in overlapping networks that are not joined.",
                )  # fmt: skip


def check_links(findings: Findings) -> None:
    """Report ports in use without a link, and devices without any."""
    lab = findings.lab
    linked = {(end.device, end.port.lower()) for link in lab.links for end in (link.a, link.b)}
    for name, device in lab.devices.items():
        if lab.links and device.ports and not any(d == name for d, _ in linked):
            findings.note("not-linked", f"devices.{name}", f"{name} has no link.")
            continue
        for held in held_addresses(lab.model[name]):
            if held.block.kind != "port":
                continue
            port = device.port(held.block.sub_port_of[0] if held.block.sub_port_of else held.block.name)
            if port is not None and (name, port.name.lower()) not in linked:
                findings.note(
                    "unlinked-port", f"answer.{name}" if name in lab.answer else f"given.{name}",
                    f"{name}:{port.name} has an address in the model answer, and no link.",
                )  # fmt: skip


def check_counted(findings: Findings) -> None:
    """Report what the model answer requires and no criterion counts."""
    lab = findings.lab
    counted = {c.id for task in tasks_of(lab) for c in task.criteria}
    for name in lab.devices:
        loose = list(dict.fromkeys(_uncounted(lab, name, counted)))
        if loose:
            some = "; ".join(loose[:4]) + (f"; and {len(loose) - 4} more" if len(loose) > 4 else "")
            findings.note(
                "not-counted", f"answer.{name}", f"No criterion counts these lines of {name}: {some}.",
                "Add criteria, or leave them to the pings.",
            )  # fmt: skip


def _uncounted(lab: Lab, name: str, counted: set[str]) -> Iterator[str]:
    model, base = lab.model[name], lab.base[name]
    there = {(i.block, i.statement) for i in base.items}
    for item in model.items:
        if (item.block, item.statement) not in there and not item.statement.SPEC.traits.only_describes:
            wanted = counted_by(name, item, model)
            if wanted is not None and wanted.id not in counted:
                yield _said(item)


def _said(item: AnyItem) -> str:
    if item.block is None or isinstance(item.statement, Open):
        return item.text()
    return f"{item.block.header()}, {item.statement.text()}"


def check_variables(findings: Findings) -> None:
    """Report variables that no text uses."""
    for name in findings.lab.variables:
        if not any(f"${{{name}}}" in line for line in findings.places.lines):
            findings.note(
                "unused-variable", f"variables.{name}", f"No text of the lab uses ${{{name}}}.",
                "Write it where the number belongs, or leave the variable out.",
            )  # fmt: skip
