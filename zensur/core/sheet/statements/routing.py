"""Static routes, gateways, and routes that are learned (RIPv2, RFC 2453)."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Self

from ...addresses import Address, BadValue, Prefix
from ..grammar import Form
from ..operands import DEFAULT_V4, DEFAULT_V6
from ..statement import IN_INSTANCE, TOP, Spec, Statement, Traits, Twice, folded

RIP = "rip"


@dataclass(frozen=True, slots=True)
class Gateway(Statement):
    """The default gateway of a device that does not forward, one for each family and instance."""

    SPEC = Spec(
        Form("gateway {address:address} [out {port:port}]"),
        places=(TOP,),
        about="the default gateway of the address's family; on a device that forwards it is ignored",
        tails=(IN_INSTANCE,),
        traits=Traits(identifies=True, compared_apart=True),
    )
    address: Address
    port: str | None = None
    instance: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """One gateway for each family and instance."""
        return (Gateway, self.address.version, folded(self.instance))


@dataclass(frozen=True, slots=True)
class Route(Statement):
    """A static route: by next hop, by out-port, by both, or a discard where it has neither."""

    SPEC = Spec(
        Form("route {dest:destination} via {next_hop:next-hop} [out {port:port}]"),
        Form("route {dest:destination} out {port:port}"),
        Form("route {dest:destination} discard"),
        places=(TOP,),
        about="a static route: by next hop, by out-port, by both, or a discard; DEST is a PREFIX or `default`",
        tails=(Form("preference {preference:preference}"), IN_INSTANCE, Form("about {about:text}")),
        twice=Twice.FIRST,
        traits=Traits(identifies=True, compared_apart=True),
    )
    dest: Prefix
    next_hop: Address | None = None
    port: str | None = None
    preference: int = 10
    instance: str | None = None
    about: str | None = None

    @classmethod
    def build(cls, values: Mapping[str, Any]) -> Self:
        """Settle the family of ``default`` by the next hop's."""
        route = cls(**values)
        if route.next_hop is not None and route.next_hop.version != route.dest.version:
            if route.dest == DEFAULT_V4:
                return cls(**{**values, "dest": DEFAULT_V6})
            raise BadValue(
                "wrong-family",
                f"{route.dest} is IPv{route.dest.version}, and the next hop {route.next_hop} is "
                f"IPv{route.next_hop.version}: both have to be of one family.",
            )
        return route

    @property
    def discard(self) -> bool:
        """Whether packets to the destination are dropped."""
        return self.next_hop is None and self.port is None

    @property
    def form(self) -> str:
        """How the way is said: ``via``, ``out``, ``both`` or ``discard``."""
        if self.next_hop is not None:
            return "via" if self.port is None else "both"
        return "discard" if self.port is None else "out"

    @property
    def slot(self) -> tuple[object, ...]:
        """The same destination by the same way is the same route."""
        return (Route, self.dest, self.next_hop, folded(self.port), folded(self.instance))

    def plain(self) -> "Route":
        """Return the route without its description."""
        return replace(self, about=None)


@dataclass(frozen=True, slots=True)
class Run(Statement):
    """A port on which routes are learned and announced."""

    SPEC = Spec(
        Form("run {port:port} …"),
        places=(RIP,),
        about="runs on these ports and announces their networks; several lines add up",
        twice=Twice.FIRST,
        traits=Traits(needs_forwarding="learns routes"),
    )
    port: str

    @property
    def slot(self) -> tuple[object, ...]:
        """Each port once."""
        return (Run, self.port.lower())


@dataclass(frozen=True, slots=True)
class Passive(Statement):
    """A port whose network is announced, but on which nothing is sent."""

    SPEC = Spec(
        Form("passive {port:port} …"),
        places=(RIP,),
        about="their networks are announced, but nothing is sent there; several lines add up",
        twice=Twice.FIRST,
    )
    port: str

    @property
    def slot(self) -> tuple[object, ...]:
        """Each port once."""
        return (Passive, self.port.lower())


@dataclass(frozen=True, slots=True)
class Announce(Statement):
    """What is announced beside the networks of the ports: a default, or the static routes."""

    SPEC = Spec(
        Form("announce default", what="default"),
        Form("announce static", what="static"),
        places=(RIP,),
        about="announce a default, or the active static routes, too",
        twice=Twice.FIRST,
    )
    what: str

    @property
    def slot(self) -> tuple[object, ...]:
        """Each of the two once."""
        return (Announce, self.what)
