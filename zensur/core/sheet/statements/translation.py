"""Translation of addresses (RFC 2663, RFC 3022): lists, pools and the translations themselves."""

from collections.abc import Mapping
from dataclasses import dataclass
from ipaddress import IPv4Address
from typing import Any, Self

from ...addresses import AddressRange, BadValue, Prefix
from ..grammar import Form
from ..operands import Endpoint
from ..statement import IN_INSTANCE, TOP, Spec, Statement, Traits, Twice, folded

LIST = "addresses"
_BY_PORT = Form("out {port:port}")
"""The tail of translations that are only for packets which leave by one port, and from outside come in by it."""


@dataclass(frozen=True, slots=True)
class Entry(Statement):
    """A line of a list: the first that fits decides, and what no line fits is denied."""

    SPEC = Spec(
        Form("permit {prefix:entry}", permit=True),
        Form("deny {prefix:entry}", permit=False),
        places=(LIST,),
        about="the first line that fits decides; also `ADDRESS wildcard A.B.C.D`",
        twice=Twice.FIRST,
        traits=Traits(first_fits=True),
        uncounted="the translations that use its list are counted",
    )
    permit: bool
    prefix: Prefix

    @property
    def slot(self) -> tuple[object, ...]:
        """The same line twice says nothing more."""
        return (Entry, self.permit, self.prefix)


@dataclass(frozen=True, slots=True)
class Pool(Statement):
    """Addresses to translate to: a range, or the usable addresses of a prefix."""

    SPEC = Spec(
        Form("pool {name:name} {addresses:addresses}"),
        places=(TOP,),
        about="addresses for translation: a range, or the usable addresses of a prefix",
        tails=(IN_INSTANCE,),
        traits=Traits(identifies=True),
        uncounted="the translations that use it are counted",
    )
    name: str
    addresses: AddressRange | Prefix
    instance: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """One pool of a name in an instance."""
        return (Pool, self.name.lower(), folded(self.instance))


@dataclass(frozen=True, slots=True)
class OneToOne(Statement):
    """One address translated to one other, or to a port's own first IPv4 address."""

    SPEC = Spec(
        Form("translate {inside:inner} as {outside:outer}"),
        places=(TOP,),
        about="one-to-one: first the internal address, then the one it has outside, or the port whose own it is",
        tails=(_BY_PORT, IN_INSTANCE),
        twice=Twice.FIRST_AND_ERROR,
        twice_code="mapped-twice",
        traits=Traits(needs_forwarding="translates", identifies=True),
    )
    inside: IPv4Address
    outside: IPv4Address | str
    port: str | None = None
    instance: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """An internal address has one mapping, for each way out."""
        return (OneToOne, self.inside, folded(self.port), folded(self.instance))


@dataclass(frozen=True, slots=True)
class Published(Statement):
    """One service of an internal device, published at an address and port number outside."""

    SPEC = Spec(
        Form("translate tcp {inside:inner-endpoint} as {outside:outer-endpoint}", protocol="tcp"),
        Form("translate udp {inside:inner-endpoint} as {outside:outer-endpoint}", protocol="udp"),
        places=(TOP,),
        about="one service published",
        tails=(_BY_PORT, IN_INSTANCE),
        twice=Twice.FIRST_AND_ERROR,
        twice_code="mapped-twice",
        traits=Traits(needs_forwarding="translates", identifies=True),
    )
    protocol: str
    inside: Endpoint
    outside: Endpoint
    port: str | None = None
    instance: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """An internal service has one mapping, for each way out."""
        return (Published, self.protocol, self.inside, folded(self.port), folded(self.instance))


@dataclass(frozen=True, slots=True)
class Dynamic(Statement):
    """Addresses translated to those of a pool or port: one each, or shared by port number."""

    SPEC = Spec(
        Form(
            "translate from {who:who} to {where:pool-or-port} shared ports {first:number} to {last:number}",
            shared=True,
        ),
        Form("translate from {who:who} to {where:pool-or-port} shared", shared=True),
        Form("translate from {who:who} to {where:pool-or-port}"),
        places=(TOP,),
        about="dynamic: one address each, or `shared` by port number (default 1024 to 65535)",
        tails=(_BY_PORT, IN_INSTANCE),
        twice=Twice.FIRST,
        traits=Traits(needs_forwarding="translates", first_fits=True, identifies=True),
    )
    who: Prefix | str
    where: str
    shared: bool = False
    first: int | None = None
    last: int | None = None
    port: str | None = None
    instance: str | None = None

    @classmethod
    def build(cls, values: Mapping[str, Any]) -> Self:
        """Refuse a range of numbers that ends before it begins."""
        dynamic = cls(**values)
        if dynamic.first is not None and dynamic.last is not None and dynamic.last < dynamic.first:
            raise BadValue(
                "range-reversed",
                f"The numbers end before they begin: write ports {dynamic.last} to {dynamic.first}.",
            )
        return dynamic

    @property
    def slot(self) -> tuple[object, ...]:
        """The first for the same sources and the same way out decides."""
        who = self.who.lower() if isinstance(self.who, str) else self.who
        return (Dynamic, who, folded(self.port), folded(self.instance))
