"""Ports of a device by the names they have elsewhere, and the headers under which their statements stand."""

import re

from ..lab import Device, End, Kind, Lab, Medium
from ..sheet import Block, Configuration
from .draft import CannotEdit

_NUMBERED = re.compile(r"(.*?)([0-9]+)\Z")


def header_of(lab: Lab, device: Device, port: str) -> str:
    """Return the header of a port, sub-port, loopback or VLAN interface; one that is not there yet is a loopback."""
    block = block_of(lab.model[device.name], device, port)
    return block.header() if block else f"loopback {port}"


def block_of(model: Configuration, device: Device, port: str) -> Block | None:
    """Return the block of a port, None where there is none of that name."""
    physical = device.port(port)
    return model.bearer(port) or (Block("port", physical.name) if physical else None)


def end_of(lab: Lab, text: str) -> tuple[Device, str]:
    """Read ``DEVICE:PORT``; the port is empty where none is named. Raises :class:`CannotEdit`."""
    name, _, port = text.strip().partition(":")
    device = lab.device(name.strip())
    if device is None:
        raise CannotEdit(f"There is no device {name.strip()[:40] or 'without a name'}.")
    if port and device.port(port.strip()) is None:
        known = ", ".join(p.name for p in device.ports) or "none"
        raise CannotEdit(f"{device.name} has no port {port.strip()[:40]}; it has {known}.")
    return device, port.strip()


def linked(lab: Lab) -> frozenset[End]:
    """Return the ports that are joined to another."""
    return frozenset(end for link in lab.links for end in link.ends)


def free_port(lab: Lab, device: Device, medium: Medium = Medium.ETHERNET) -> str | None:
    """Return the first port that nothing is joined to, those without an address first; None where there is none."""
    taken, model = linked(lab), lab.model[device.name]
    free = [p.name for p in device.ports if p.medium is medium and End(device.name, p.name) not in taken]
    bare = [name for name in free if model.header(Block("port", name)) is None]
    return next(iter([*bare, *free]), None)


def next_port(device: Device, medium: Medium = Medium.ETHERNET) -> str:
    """Return the name for one more port: the last one's with the next number."""
    letter = "s" if medium is Medium.SERIAL else "p"
    names = {p.name.lower() for p in device.ports}
    own = [found for p in device.ports if p.medium is medium and (found := _NUMBERED.match(p.name))]
    head, number = (own[-1][1], int(own[-1][2])) if own else (letter, 0)
    while f"{head}{number + 1}".lower() in names:
        number += 1
    return f"{head}{number + 1}"


def is_switch(device: Device) -> bool:
    """Whether it is a switch."""
    return device.kind is Kind.SWITCH
