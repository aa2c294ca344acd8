"""Whom a ping or a service check goes to, where it comes from, and what it has to be seen as."""

from collections.abc import Iterable

from ..addresses import Address, BadValue, parse_address
from ..lab import Expected, parse_seen_as
from .device import IpPort, compile_device
from .network import Network
from .ping import Ping


def address_of(text: str) -> Address | None:
    """Return the text as an address, None where it is none."""
    try:
        return parse_address(text)
    except BadValue:
        return None


def target(model: Network, text: str) -> int | None:
    """Resolve an address, a device or a ``device:port`` against the model answer; None: it has no address.

    A device means its first IPv4 address over its ports in the order of the lab, then its loopbacks.
    What only an earlier stage had has the address that it had there.
    """
    address = address_of(text)
    if address is not None:
        return int(address) if address.version == 4 else None
    name, _, port = text.partition(":")
    number = model.wiring.device.get(name.lower())
    if number is None:
        return None
    found = _first(model.devices[number].ports, port)
    stage = model.wiring.lab.before
    while found is None and stage is not None:  # what an earlier stage had may be asked for, too
        device = model.wiring.names[number]
        compiled = compile_device(model.wiring, stage.devices[device], stage.model[device])
        found, stage = _first(compiled.ports, port), stage.before
    return found


def _first(ports: Iterable[IpPort], name: str) -> int | None:
    own = (p.addresses[0].address for p in ports if p.addresses and name.lower() in ("", p.name.lower()))
    return next(own, None)


def own_source(network: Network, asked: Expected) -> tuple[int | None, bool]:
    """Return the source asked for, None where none is; and whether there is such an address."""
    if asked.source is None:
        return None, True
    whole = ":" in asked.source or address_of(asked.source) is not None
    source = target(network, asked.source if whole else f"{asked.sender}:{asked.source}")
    return source, source is not None


def parsed(text: str) -> tuple[str, str, int]:
    """Split ``tcp TARGET:N`` into protocol, target and port number."""
    protocol, _, rest = text.strip().partition(" ")
    holder, _, number = rest.strip().rpartition(":")
    return protocol.lower(), holder, int(number)


def answered_by(network: Network, result: Ping) -> str | None:
    """Return the device that answered; None where the request did not arrive."""
    if result.request is None or result.seen_as is None:
        return None
    return network.wiring.names[result.request.device]


def seen_as_wanted(model: Network, asked: Expected, result: Ping) -> bool:
    """Say whether the answering device, and the source it saw, are those that the lab expects."""
    if asked.answered_by is not None and answered_by(model, result) != asked.answered_by:
        return False
    if asked.seen_as is None or result.seen_as is None or result.request is None:
        return asked.seen_as is None
    if asked.seen_as == "own":
        return result.seen_as == result.request.source
    if asked.seen_as.startswith("pool "):
        return False  # nothing is translated yet, so that nothing is seen as an address of a pool
    outside, first, last = parse_seen_as(asked.seen_as)
    return (int(first) <= result.seen_as <= int(last)) is not outside
