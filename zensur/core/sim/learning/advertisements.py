"""Router advertisements (RFC 4861, 6.2) and the addresses that ports form by them (RFC 4862, 5.5.3)."""

from ..device import StaticRoute
from ..fabric import Fabric
from ..hardware import interface_id
from ..numbers import SIX
from ..ports import IpPort, PortAddress
from .learned import ADVERTISED_ORDER, Learned

_LENGTH = 64
_PREFERENCE = 20


def advertised(fabric: Fabric) -> Learned:
    """Work out what advertising ports give to the ports that ask for an address by ``address auto``.

    Each network of 64 bits gives an address, any other is on-link there (RFC 4861, 6.3.4); the first router in
    the order of the lab that forwards is the default of a port's node, unless that node forwards itself.
    """
    learned = Learned()
    defaults: set[int] = set()
    for device in fabric.devices:
        for router in device.ports:
            if not (router.advertises and router.links and fabric.is_up(router)):
                continue
            for receiver in fabric.receivers(router):
                port = fabric.port(receiver.key)
                if port.asks_router is None or not fabric.is_up(port):
                    continue
                _give_addresses(learned, router, port, fabric.name(router.node))
                if (
                    port.key not in defaults
                    and fabric.nodes[router.node].forwards
                    and not fabric.nodes[port.node].forwards
                ):
                    defaults.add(port.key)
                    text = f"the default advertised by {fabric.name(router.node)}"
                    route = StaticRoute(
                        ADVERTISED_ORDER + len(defaults), SIX, 0, router.links[0].address, port.name.lower(),
                        _PREFERENCE, "advertised", port.asks_router, text,
                    )  # fmt: skip
                    learned.routes.setdefault(port.node, []).append(route)
    return learned


def _give_addresses(learned: Learned, router: IpPort, port: IpPort, said: str) -> None:
    own = learned.addresses.setdefault(port.key, [])
    for prefix in router.six:
        if prefix.length != _LENGTH:
            _put_on_link(learned, prefix, port, said)
            continue
        address = prefix.network | interface_id(port.mac)
        if not port.bears(address) and all(a.address != address for a in own):
            own.append(PortAddress(address, _LENGTH, port.asks_router, "advertised"))


def _put_on_link(learned: Learned, prefix: PortAddress, port: IpPort, said: str) -> None:
    known, name = learned.routes.setdefault(port.node, []), port.name.lower()
    if all((r.network, r.length, r.port) != (prefix.network, prefix.length, name) for r in known):
        known.append(
            StaticRoute(
                ADVERTISED_ORDER, prefix.network, prefix.length, None, name, 0, "advertised", port.asks_router,
                f"the network advertised by {said}",
            )
        )  # fmt: skip
