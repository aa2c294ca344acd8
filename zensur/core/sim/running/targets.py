"""Who pings, from where, whom, and what has to be seen of it: the words of a lab on a network."""

from collections.abc import Iterable
from functools import lru_cache

from ...addresses import AddressRange, BadValue, parse_address, usable
from ...lab import Expected, parse_seen_as
from ...sheet.statements import Pool
from ..device import compile_device
from ..network import Network
from ..numbers import SIX, is_link_local, number_of, same_network
from ..ping import Ping
from ..ports import IpPort, PortAddress
from .own_names import own_name

_LEARNED = ("leased", "advertised")


@lru_cache(maxsize=65_536)
def parse_number(text: str) -> int | None:
    """Return the text as the number of an address, None where it is none."""
    try:
        return number_of(parse_address(text))
    except BadValue:
        return None


def target(network: Network, model: Network, text: str, family: int | None = None) -> int | None:
    """Resolve an address, a device or a ``device:port`` against the model answer; None: it has no address.

    A device, or ``box/instance``, means its first IPv4 address over its ports in the order of the lab, then
    its VLAN interfaces and loopbacks; else its first global IPv6 address. Where the model's port has it from a
    lease or an advertisement, what the port holds in ``network`` is meant, if that lies in the model's network.
    What only an earlier stage had has the address that it had there.
    """
    name, _, port = text.partition(":")
    node = model.find_node(name) if text.count(":") < 2 else None
    if node is None:  # only then, for no device has an address for its name, and reading one takes longer
        return parse_number(text)
    number = model.wiring.device_of_node(node)
    found = _first(_ports(model, name, node), own_name(model, number, port), family)
    if found is not None and found[1].origin in _LEARNED:
        return _held(network, number, *found)
    stage = model.wiring.lab.before
    while found is None and stage is not None:  # what an earlier stage had may be asked for, too
        device = model.wiring.names[number]
        compiled = compile_device(model.wiring, stage.devices[device], stage.model[device])
        found, stage = _first(compiled.ports, port, family), stage.before
    return found[1].address if found else None


def _ports(network: Network, name: str, node: int) -> tuple[IpPort, ...]:
    if "/" in name:
        return network.nodes[node].ports
    return network.devices[network.wiring.device_of_node(node)].ports


def _first(ports: Iterable[IpPort], name: str, family: int | None) -> tuple[IpPort, PortAddress] | None:
    meant = [p for p in ports if name.lower() in ("", p.name.lower())]
    for wanted in (4, 6) if family is None else (family,):
        for port in meant:
            if own := port.four if wanted == 4 else port.six:
                return port, own[0]
    return None


def _held(network: Network, device: int, port: IpPort, own: PortAddress) -> int | None:
    theirs = next((p for p in network.devices[device].ports if p.name == port.name), None)
    for address in theirs.addresses if theirs else ():
        if same_network(address.address, own.network, own.length) and not is_link_local(address.address):
            return address.address
    return None


def sender_of(network: Network, asked: Expected) -> int | None:
    """Return the node that asks; None where the network has no such instance.

    A box alone means the instance of the source port, else the main one, else the only one.
    """
    node = network.find_node(asked.sender)
    if node is None or "/" in asked.sender:
        return node
    device = network.devices[node]
    if len(device.nodes) == 1:
        return node
    source = (asked.source or "").lower()
    for port in device.ports:
        if source == port.name.lower():
            return port.node
    others = [n.number for n in device.nodes[1:] if n.ports]
    return others[0] if not device.nodes[0].ports and len(others) == 1 else node


def own_source(network: Network, node: int, asked: Expected, destination: int) -> tuple[int | None, bool]:
    """Return the source asked for, None where none is; and whether there is such an address."""
    if asked.source is None:
        return None, True
    address = parse_number(asked.source)
    if address is not None:
        return address, True
    device = network.wiring.device_of_node(node)
    name = own_name(network, device, asked.source.rpartition(":")[2]).lower()
    for port in network.nodes[node].ports:
        if port.name.lower() == name:
            own = port.four if destination < SIX else port.links if is_link_local(destination) else port.six
            return (own[0].address, True) if own else (None, False)
    return None, False


def on_port(network: Network, node: int, name: str | None) -> IpPort | None:
    """Return the port of a node that a link-local address is meant on; its only one where none is named."""
    ports = [p for p in network.nodes[node].ports if not p.is_loopback]
    if name is None:
        return ports[0] if len(ports) == 1 else None
    return next((p for p in ports if p.name.lower() == name.lower()), None)


def answered_by(network: Network, result: Ping) -> str | None:
    """Return the device that answered; None where the request did not arrive."""
    if result.request is None or result.seen_as is None:
        return None
    return network.wiring.names[network.wiring.device_of_node(result.request.node)]


def seen_as_wanted(network: Network, model: Network, asked: Expected, result: Ping) -> bool:
    """Say whether the answering device, and the source it saw, are those that the lab expects."""
    if asked.answered_by is not None and answered_by(network, result) != asked.answered_by:
        return False
    if asked.seen_as is None or result.seen_as is None or result.request is None:
        return asked.seen_as is None
    if asked.seen_as == "own":
        return result.seen_as == result.request.source
    if asked.seen_as.startswith("pool "):
        return any(_within(result.seen_as, held) for held in _pools(model, asked.seen_as[5:].strip()))
    outside, first, last = parse_seen_as(asked.seen_as)
    return (number_of(first) <= result.seen_as <= number_of(last)) is not outside


def _within(number: int, held: AddressRange) -> bool:
    return number_of(held.first) <= number <= number_of(held.last)


def _pools(model: Network, name: str) -> Iterable[AddressRange]:
    for configuration in model.wiring.lab.model.values():
        for item in configuration.all(Pool):
            if item.statement.name.lower() == name.lower():
                held = item.statement.addresses
                yield held if isinstance(held, AddressRange) else usable(held)
