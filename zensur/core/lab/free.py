"""What a lab leaves to its learners: the host part of an address, or a subnet within a prefix."""

from collections.abc import Iterator
from itertools import islice

from ..addresses import Address, BadValue, parse_prefix
from ..sheet import OnPort
from .known import device_of, near
from .model import FreeNetwork, FreePort, Lab
from .shapes import Found


def read_free(root: Found, lab: Lab) -> Iterator[FreePort | FreeNetwork]:
    """Read what is free; which ports the model answer has is checked once that is known."""
    for found in root.get("free", []):
        if isinstance(found.value, str):
            name, colon, port = found.value.partition(":")
            if not colon:
                found.at.fail(
                    f"{found.value[:40]!r} names no port: write DEVICE:PORT, or network, from and length."
                )
            elif device := device_of(lab.devices, name.strip(), found.at):
                yield FreePort(device.name, port.strip())
        elif free := _network(found, lab):
            yield free


def _network(found: Found, lab: Lab) -> FreeNetwork | None:
    keys = found.value
    if not {"network", "from", "length"} <= keys.keys():
        return None
    name, length = found.get("network"), found.get("length")
    network = next((n for n in lab.networks if n.name == name), None)
    if network is None:
        keys["network"].at.fail(
            f"There is no network {name[:40]}.{near(name, [n.name for n in lab.networks])}"
        )
        return None
    try:
        within = parse_prefix(found.get("from"))
    except BadValue as bad:
        keys["from"].at.fail(str(bad))
        return None
    planned = [p for p in network.prefixes if p.version == within.version]
    free = FreeNetwork(name, planned[0], within) if len(planned) == 1 else None
    if free is None:
        keys["network"].at.fail(
            f"{name} needs one IPv{within.version} prefix, the model answer's choice; it has {len(planned)}."
        )
    elif free.planned.prefixlen != length:
        keys["length"].at.fail(f"The model answer's choice is {free.planned}, not a /{length}.")
    elif free.planned.prefixlen < within.prefixlen or not free.planned.overlaps(within):
        keys["from"].at.fail(f"{free.planned}, the model answer's choice, does not lie in {within}.")
    else:
        return free
    return None


def check_free(root: Found, lab: Lab) -> None:
    """Report ports that the model answer gives no address, and addresses that are given, or stand on two ports.

    A learner's edition has no model answer to look at.
    """
    for found in root.get("free", []) if lab.answered else ():
        given = [
            f"{device} {block.port_name}"
            for device, under in lab.under.items()
            for block in under.bearers()
            for item in under.all(OnPort, block)
            if _is_about(found, device, block.port_name, item.statement.interface.ip, lab)
        ]
        if given:
            found.at.fail(f"The address of {given[0]} is given, so that it is not the learner's to choose.")
        elif isinstance(found.value, str):
            _check_port(found, lab)
    for holders in islice(_shared(lab), 1):  # a choice could not be told for one of them alone
        root.value["free"].at.fail(
            f"{holders[0]} and {holders[1]} have the same address, so that it cannot be free on one of them."
        )


def _shared(lab: Lab) -> Iterator[list[str]]:
    """Yield the ports that have an address of the model answer in common, where it is free on one of them."""
    holders: dict[Address, list[str]] = {}
    free: set[Address] = set()
    for device, model in lab.model.items():
        for block in model.bearers():
            for item in model.all(OnPort, block):
                address = item.statement.interface.ip
                holders.setdefault(address, []).append(f"{device} {block.port_name}")
                if lab.leaves_free(device, block.port_name, address):
                    free.add(address)
    yield from (ports for address, ports in holders.items() if address in free and len(ports) > 1)


def _is_about(found: Found, device: str, port: str, address: Address, lab: Lab) -> bool:
    if isinstance(found.value, str):
        return found.value.replace(" ", "").lower() == f"{device}:{port}".lower()
    network = next(
        (f for f in lab.free if isinstance(f, FreeNetwork) and f.name == found.get("network")), None
    )
    return network is not None and address.version == network.planned.version and address in network.planned


def _check_port(found: Found, lab: Lab) -> None:
    name, _, port = found.value.partition(":")
    device = lab.device(name.strip())
    if device is None:
        return
    model = lab.model[device.name]
    block = model.bearer(port.strip())
    if block is None or not model.all(OnPort, block):
        borne = [b.port_name for b in model.bearers() if model.all(OnPort, b)]
        found.at.fail(
            f"The model answer gives {found.value[:40]} no address, so that there is nothing to choose."
            f"{near(port, borne)}"
        )
