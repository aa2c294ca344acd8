"""Ports as IP sees them, compiled from one device's configuration without regard to any other device."""

from dataclasses import dataclass, field

from ..lab import Device
from ..sheet import Block, Configuration, OnPort, Switched, Where
from ..sheet.statements import Advertise, Advertised, Clocking, Leased, Member, Proxy, Realm, Relay
from .hardware import link_local, mac_of
from .numbers import SIX, is_link_local, mask_of, number_of, written
from .wiring import Wiring


@dataclass(frozen=True, slots=True)
class PortAddress:
    """An address of a port: the number, the length of its prefix, the line that gives it.

    ``origin`` is ``sheet``, ``leased``, ``advertised``, or ``formed`` for a link-local one made of the MAC address.
    """

    address: int
    length: int
    where: Where | None
    origin: str = "sheet"

    @property
    def network(self) -> int:
        """The number of the network's own address."""
        return self.address & mask_of(self.length, self.address >= SIX)

    @property
    def text(self) -> str:
        """The address with its length."""
        return f"{written(self.address)}/{self.length}"


@dataclass(frozen=True, slots=True)
class IpPort:
    """A port, sub-port, VLAN interface or loopback as IP sees it.

    ``port`` is the physical port's number, -1 for a loopback and for a VLAN interface, whose frames start
    inside the switch. ``vlan`` is the tag of a sub-port and the VLAN of a VLAN interface, else 0. ``key``
    is the number by which frames arrive at it, -1 for a loopback. ``node`` is the instance it belongs to.
    ``asks_lease`` and ``asks_router`` are the lines that say so. Its addresses by kind, the primary one first:
    ``four`` of IPv4, ``six`` of IPv6, global ones, and ``links``, which hold on this port only (RFC 4007).
    """

    name: str
    kind: str
    port: int
    vlan: int
    key: int
    node: int
    on: bool
    where: Where | None
    addresses: tuple[PortAddress, ...]
    mac: int = 0
    serial: bool = False
    clocking: bool = False
    proxy: bool = False
    external: bool | None = None
    advertises: bool = False
    relay: int | None = None
    asks_lease: Where | None = None
    asks_router: Where | None = None
    four: tuple[PortAddress, ...] = field(init=False, repr=False, compare=False)
    six: tuple[PortAddress, ...] = field(init=False, repr=False, compare=False)
    links: tuple[PortAddress, ...] = field(init=False, repr=False, compare=False)

    @property
    def is_loopback(self) -> bool:
        """Whether it is a loopback, which is up when it is on."""
        return self.kind == "loopback"

    def __post_init__(self) -> None:
        own = self.addresses
        links = tuple(a for a in own if is_link_local(a.address)) if own else ()
        six = tuple(a for a in own if a.address >= SIX and a not in links) if own else ()
        object.__setattr__(self, "four", tuple(a for a in own if a.address < SIX) if own else ())
        object.__setattr__(self, "six", six)
        object.__setattr__(self, "links", links)

    def bears(self, address: int) -> bool:
        """Whether an address stands on this very port."""
        return any(a.address == address for a in self.addresses)


Own = dict[int, tuple[IpPort, PortAddress]]
"""The addresses of a node, link-local ones apart, each with the port that bears it."""


@dataclass(frozen=True, slots=True)
class PortCompiler:
    """What all ports of a device are compiled with; ``proxies`` is what a port does without a word.

    ``instances`` are the nodes of the device's network instances, by their names in lower case.
    """

    wiring: Wiring
    device: Device
    configuration: Configuration
    proxies: bool
    main: int
    instances: dict[str, int]

    def port(self, block: Block, kind: str, port: int, vlan: int, key: int, default: bool) -> IpPort:
        """Compile one port, sub-port, VLAN interface or loopback."""
        one, wiring = self.configuration.one, self.wiring
        switched, header = one(Switched, block), self.configuration.header(block)
        member, proxy, realm, relay = (
            one(Member, block),
            one(Proxy, block),
            one(Realm, block),
            one(Relay, block),
        )
        advertises, leased, advertised = one(Advertise, block), one(Leased, block), one(Advertised, block)
        carries = kind == "port" and wiring.is_switch[wiring.port_device[port]]  # no place for addresses
        name = wiring.port_name[port] if kind == "port" else block.port_name
        mac = mac_of(self.device.name, wiring.port_name[port] if port >= 0 else name)
        return IpPort(
            name,
            kind,
            port,
            vlan,
            key,
            self.instances.get(member.statement.instance.lower(), self.main) if member else self.main,
            switched.statement.on if switched else default,
            switched.where if switched else header.where if header else None,
            ()
            if carries
            else self._addresses(block, None if kind == "loopback" else mac, advertised is not None),
            mac,
            kind in ("port", "sub-port") and wiring.serial[port],
            one(Clocking, block) is not None,
            proxy.statement.on if proxy else self.proxies,
            realm.statement.external if realm else None,
            advertises.statement.on if advertises else False,
            number_of(relay.statement.server) if relay else None,
            (leased.where or NOWHERE) if leased and not carries else None,
            (advertised.where or NOWHERE) if advertised and not carries else None,
        )

    def _addresses(self, block: Block, mac: int | None, asks_router: bool) -> tuple[PortAddress, ...]:
        """Return the addresses of the sheet, and a link-local one where IPv6 is spoken and none is given."""
        found = []
        for item in self.configuration.all(OnPort, block):
            interface = item.statement.interface
            found.append(PortAddress(number_of(interface.ip), interface.network.prefixlen, item.where))
        speaks_six = asks_router or any(a.address >= SIX for a in found)
        if mac is not None and speaks_six and not any(is_link_local(a.address) for a in found):
            found.append(PortAddress(link_local(mac), 64, None, "formed"))
        return tuple(found)


NOWHERE = Where("", 0)
"""The place of a statement that was made without a sheet."""
