"""A lab's configurations as YANG data: a file for each device, and a note of what equipment has to be told by hand."""

from collections.abc import Iterator, Mapping

from ..formats import write_configuration
from ..formats.yang import yang_data
from ..formats.yang.modules import OWN
from ..lab import Kind, Lab
from ..sheet import AnyItem, Configuration, Forwarding, Switched
from ..sheet.configuration import Item
from .folder import archive_of

_SAID = {
    "access": "the VLAN of an access port", "trunk": "the VLANs of a trunk", "vlan": "which VLANs there are",
    "clocking": "the clock of a serial link", "realm": "the internal side of a translation",
    "proxy": "whether it answers for others (RFC 1027)", "relay": "where lease requests are passed on to",
    "parent": "the port of a tagged sub-port", "preference": "the preference of a route",
    "dhcp": "leases, given or taken", "dns": "the names that it answers", "service": "the services that it offers",
    "out": "the way out that a translation is for", "sources": "the list whose sources are translated",
    "external-interface": "the port whose address a translation takes", "name": "its name",
    "forwarding": "whether it forwards packets",
}  # fmt: skip
"""What our own module says, by its leafs."""


def modelled(lab: Lab, configurations: Mapping[str, Configuration], form: str = "yang-json") -> bytes:
    """Return an archive with the configuration of every device, and a README with what is left to be done by hand."""
    files: dict[str, str] = {}
    by_hand: list[str] = []
    for name, device in lab.devices.items():
        configuration = _spelled_out(configurations[name], device.kind)
        files[f"{name}.json"] = write_configuration(configuration, form)
        said = sorted({_SAID[leaf] for leaf in _own(yang_data(configuration)) if leaf in _SAID})
        by_hand += [f"{name}: {'; '.join(said)}."] if said else []
    files["README.txt"] = _NOTE.format(
        title=lab.title or lab.id,
        own=OWN,
        by_hand="\n".join(by_hand) or "Nothing: the standard modules say all of it.",
    )
    return archive_of(lab.id, files)


def _spelled_out(configuration: Configuration, kind: Kind) -> Configuration:
    """Say what a device of ours does by default: whether it forwards, and whether a port is on."""
    more: list[AnyItem] = []
    if configuration.one(Forwarding) is None:
        more.append(Item(None, Forwarding(kind is Kind.ROUTER)))
    for block in configuration.bearers():
        if configuration.one(Switched, block) is None:
            off = kind is Kind.ROUTER and block.kind == "port" and block.sub_port_of is None
            more.append(Item(block, Switched(not off)))
    return Configuration.of_items([*configuration.items, *more])


def _own(data: object) -> Iterator[str]:
    """Yield the names of the members that are of our module."""
    if isinstance(data, dict):
        for key, value in data.items():
            if key.startswith(f"{OWN}:") and key != f"{OWN}:device":
                yield key.partition(":")[2]
            elif key == f"{OWN}:device":
                yield from value
            yield from _own(value)
    elif isinstance(data, list):
        for one in data:
            yield from _own(one)


_NOTE = """\
{title}

The configuration of each device as data of YANG modules (RFC 7951), to be loaded by RESTCONF or NETCONF.
Names of interfaces are those of the lab: rename them to what the equipment calls its own.
Members of the module {own} are for Zensur alone; zensur yang-module prints it. Equipment that does not
know it has to be told by hand:

{by_hand}
"""
