"""Statements under the header of a port, sub-port, loopback or VLAN."""

from dataclasses import dataclass
from ipaddress import ip_interface

from ...addresses import Address, Interface
from ..grammar import Form
from ..operands import Masked
from ..statement import On, Spec, Statement, Traits, Twice
from ..vlans import VlanSet

PORT, SUB_PORT, LOOPBACK, VLAN = "port", "sub-port", "loopback", "vlan"
_PORTS = (PORT, SUB_PORT)


@dataclass(frozen=True, slots=True)
class About(Statement):
    """A description."""

    SPEC = Spec(
        Form("about {words:text}"),
        places=(*_PORTS, LOOPBACK),
        about="a description",
        traits=Traits(only_describes=True),
        uncounted="only a criterion of its own asks for a description",
    )
    words: str


@dataclass(frozen=True, slots=True)
class Label(Statement):
    """What a VLAN is called."""

    SPEC = Spec(
        Form("label {words:text}"),
        places=(VLAN,),
        about="what the VLAN is called",
        traits=Traits(only_describes=True),
        uncounted="what a VLAN is called changes nothing",
    )
    words: str


@dataclass(frozen=True, slots=True)
class OnPort(Statement):
    """An address on a port, loopback or VLAN; the first of each family is the primary one."""

    SPEC = Spec(
        Form("address {masked:interface}"),
        places=(*_PORTS, LOOPBACK, VLAN),
        about="IPv4 or IPv6, as often as wanted; the first of each family is the primary one",
        twice=Twice.FIRST,
        traits=Traits(
            ports=On.ROUTED, exchanged=True, identifies=True, gives_way_to="Leased", compared_apart=True
        ),
    )
    masked: Masked

    @classmethod
    def of(cls, text: str) -> "OnPort":
        """Make it from an address with its length."""
        return cls(Masked(ip_interface(text)))

    @property
    def interface(self) -> Interface:
        """The address with its length."""
        return self.masked.interface

    @property
    def is_short(self) -> bool:
        """Whether an IPv4 mask was given by its length, and not written out."""
        return self.interface.version == 4 and not self.masked.written

    @property
    def slot(self) -> tuple[object, ...]:
        """The address, whatever its mask."""
        return (OnPort, self.interface.ip)


@dataclass(frozen=True, slots=True)
class Leased(Statement):
    """An address taken from a lease (RFC 2131)."""

    SPEC = Spec(
        Form("address dhcp"),
        places=(*_PORTS, VLAN),
        about="an IPv4 address from a lease",
        traits=Traits(ports=On.ROUTED, gives_way_to="OnPort"),
    )


@dataclass(frozen=True, slots=True)
class Advertised(Statement):
    """An IPv6 address from the router's advertisement (RFC 4862)."""

    SPEC = Spec(
        Form("address auto"),
        places=_PORTS,
        about="an IPv6 address from the router's advertisement (RFC 4862)",
        traits=Traits(ports=On.ROUTED),
    )


@dataclass(frozen=True, slots=True)
class Switched(Statement):
    """Whether a port, loopback or VLAN is on."""

    SPEC = Spec(
        Form("on", on=True),
        Form("off", on=False),
        places=(*_PORTS, LOOPBACK, VLAN),
        about="default: off on a router's port, on elsewhere",
        traits=Traits(compared_apart=True),
    )
    on: bool


@dataclass(frozen=True, slots=True)
class Clocking(Statement):
    """The clock that this end of a serial link gives, in bits a second."""

    SPEC = Spec(
        Form("clocking {rate:rate}"),
        places=(PORT,),
        about="bits a second; on the end of a serial link that gives the clock",
        traits=Traits(ports=On.SERIAL),
    )
    rate: int


@dataclass(frozen=True, slots=True)
class Realm(Statement):
    """On which side of a translation the port lies (words of RFC 8512)."""

    SPEC = Spec(
        Form("realm internal", external=False),
        Form("realm external", external=True),
        places=_PORTS,
        about="for translation (words of RFC 8512)",
        traits=Traits(ports=On.ROUTED, exchanged=True),
    )
    external: bool


class _Carrying(Statement):
    """How a switch's port carries VLANs: access and trunk are one value."""

    __slots__ = ()

    @property
    def slot(self) -> tuple[object, ...]:
        """Either the one or the other."""
        return (_Carrying,)


@dataclass(frozen=True, slots=True)
class Access(_Carrying):
    """The port belongs to one VLAN, untagged."""

    SPEC = Spec(
        Form("access {vlan:vlan}"),
        places=(PORT,),
        about="default: access 1 on a switch",
        traits=Traits(ports=On.SWITCH, exchanged=True),
    )
    vlan: int


@dataclass(frozen=True, slots=True)
class Trunk(_Carrying):
    """The port carries several VLANs, tagged, and perhaps one untagged (IEEE 802.1Q)."""

    SPEC = Spec(
        Form("trunk {vlans:vlans} [native {native:vlan}]"),
        places=(PORT,),
        about="`10,20,30-34` or `all`; the native VLAN is carried untagged even if it is not listed, "
        "and without it untagged frames are dropped",
        traits=Traits(ports=On.SWITCH),
    )
    vlans: VlanSet
    native: int | None = None


@dataclass(frozen=True, slots=True)
class Proxy(Statement):
    """Whether the port answers address requests on behalf of others (RFC 1027)."""

    SPEC = Spec(
        Form("proxy on", on=True),
        Form("proxy off", on=False),
        places=_PORTS,
        about="answer address requests on behalf of others (RFC 1027); default: on for a router",
        traits=Traits(ports=On.ROUTED),
    )
    on: bool


@dataclass(frozen=True, slots=True)
class Relay(Statement):
    """The server that lease requests heard on the port are passed on to."""

    SPEC = Spec(
        Form("relay {server:leased}"),
        places=_PORTS,
        about="pass lease requests on to that server",
        traits=Traits(ports=On.ROUTED),
    )
    server: Address


@dataclass(frozen=True, slots=True)
class Advertise(Statement):
    """Whether the port sends IPv6 router advertisements (RFC 4861)."""

    SPEC = Spec(
        Form("advertise on", on=True),
        Form("advertise off", on=False),
        places=_PORTS,
        about="IPv6 router advertisements; default: off",
        traits=Traits(ports=On.ROUTED),
    )
    on: bool


@dataclass(frozen=True, slots=True)
class Member(Statement):
    """The network instance that the port or loopback belongs to."""

    SPEC = Spec(
        Form("instance {instance:instance}"),
        places=(*_PORTS, LOOPBACK),
        about="the port belongs to that network instance",
        twice=Twice.LAST_AND_ERROR,
        twice_code="port-in-two-instances",
        traits=Traits(ports=On.ROUTED),
    )
    instance: str
