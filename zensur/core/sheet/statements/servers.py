"""Leases (RFC 2131) and names (RFC 1035) that a device serves."""

from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Network

from ...addresses import Address, AddressRange
from ..grammar import Form
from ..statement import Spec, Statement, Traits, Twice

DHCP, DNS = "dhcp", "dns"


@dataclass(frozen=True, slots=True)
class LeaseNetwork(Statement):
    """The network that leases are given for."""

    SPEC = Spec(
        Form("network {prefix:network}"), places=(DHCP,), about="the network that leases are given for"
    )
    prefix: IPv4Network


@dataclass(frozen=True, slots=True)
class LeaseRange(Statement):
    """The addresses that are given."""

    SPEC = Spec(
        Form("range {held:range}"), places=(DHCP,), about="default: all usable addresses of the network"
    )
    held: AddressRange


@dataclass(frozen=True, slots=True)
class Exclude(Statement):
    """Addresses that are never given."""

    SPEC = Spec(
        Form("exclude {held:excluded}"),
        places=(DHCP,),
        about="an address or range that is never given; as often as wanted",
        twice=Twice.FIRST,
    )
    held: AddressRange

    @property
    def slot(self) -> tuple[object, ...]:
        """Each range once."""
        return (Exclude, self.held)


@dataclass(frozen=True, slots=True)
class LeaseGateway(Statement):
    """The gateway that goes with a lease."""

    SPEC = Spec(Form("gateway {address:leased}"), places=(DHCP,), about="the gateway that goes with a lease")
    address: IPv4Address


@dataclass(frozen=True, slots=True)
class LeaseResolver(Statement):
    """A name server that goes with a lease."""

    SPEC = Spec(
        Form("resolver {address:leased} …"),
        places=(DHCP,),
        about="name servers that go with a lease; several lines add up",
        twice=Twice.FIRST,
    )
    address: IPv4Address

    @property
    def slot(self) -> tuple[object, ...]:
        """Each address once."""
        return (LeaseResolver, self.address)


@dataclass(frozen=True, slots=True)
class LeaseOrder(Statement):
    """Which free address is given first."""

    SPEC = Spec(
        Form("order lowest", highest=False),
        Form("order highest", highest=True),
        places=(DHCP,),
        about="which free address is given first; default: lowest",
    )
    highest: bool


@dataclass(frozen=True, slots=True)
class LeaseDuration(Statement):
    """How long a lease holds: kept and shown, without effect on a run."""

    SPEC = Spec(
        Form("duration {seconds:seconds}"),
        places=(DHCP,),
        about="kept and shown, without effect on a run",
        traits=Traits(only_describes=True),
    )
    seconds: int


@dataclass(frozen=True, slots=True)
class Record(Statement):
    """A name and an address it stands for."""

    SPEC = Spec(
        Form("record {name:domain} {address:address}"),
        places=(DNS,),
        about="IPv4 or IPv6; as often as wanted",
        twice=Twice.FIRST,
        traits=Traits(identifies=True),
    )
    name: str
    address: Address

    @property
    def slot(self) -> tuple[object, ...]:
        """Each address of a name once."""
        return (Record, self.name.lower(), self.address)


@dataclass(frozen=True, slots=True)
class Ask(Statement):
    """Where names are asked that stand in no record."""

    SPEC = Spec(Form("ask {address:address}"), places=(DNS,), about="other names are asked there")
    address: Address
