"""Statements about the device itself: its name, forwarding, instances, services, name servers."""

from dataclasses import dataclass, replace

from ...addresses import Address
from ..grammar import Form
from ..statement import IN_INSTANCE, TOP, Spec, Statement, Traits, Twice, folded


@dataclass(frozen=True, slots=True)
class Name(Statement):
    """The device's own name."""

    SPEC = Spec(
        Form("name {name:name}"),
        places=(TOP,),
        about="the device's own name",
        traits=Traits(only_describes=True),
        uncounted="only a criterion of its own asks for a name",
    )
    name: str


@dataclass(frozen=True, slots=True)
class Instance(Statement):
    """Declares a network instance (RFC 8529)."""

    SPEC = Spec(
        Form("instance {name:name}"),
        places=(TOP,),
        about="declares a network instance",
        uncounted="the ports that belong to it are counted",
    )
    name: str

    @property
    def slot(self) -> tuple[object, ...]:
        """One for each name."""
        return (Instance, self.name.lower())


@dataclass(frozen=True, slots=True)
class Forwarding(Statement):
    """Whether the device forwards packets between its ports, in both families."""

    SPEC = Spec(
        Form("forwarding on", on=True),
        Form("forwarding off", on=False),
        places=(TOP,),
        about="whether it forwards packets between its ports; default: on for a router, off for a switch or host",
    )
    on: bool


@dataclass(frozen=True, slots=True)
class Resolver(Statement):
    """A name server to ask; several are asked in order, before those of a lease."""

    SPEC = Spec(
        Form("resolver {address:address} …"),
        places=(TOP,),
        about="name servers to ask, in order, before those of a lease; several lines add up",
        tails=(IN_INSTANCE,),
        twice=Twice.FIRST,
    )
    address: Address
    instance: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """Each address once in an instance."""
        return (Resolver, self.address, folded(self.instance))


@dataclass(frozen=True, slots=True)
class Service(Statement):
    """A service that answers on this device."""

    SPEC = Spec(
        Form("service tcp {number:number}", protocol="tcp"),
        Form("service udp {number:number}", protocol="udp"),
        places=(TOP,),
        about="a service that answers on this device",
        tails=(IN_INSTANCE, Form("about {about:text}")),
        traits=Traits(identifies=True),
    )
    protocol: str
    number: int
    instance: str | None = None
    about: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """Each port number once for a protocol."""
        return (Service, self.protocol, self.number, folded(self.instance))

    def plain(self) -> "Service":
        """Return the service without its description."""
        return replace(self, about=None)
