"""The table of statements: the one declaration of what a sheet may say.

Each statement is a frozen value whose ``SPEC`` declares its spelling, where it may stand, what it
replaces and in which order it is written. Reader, writer, overlay, differences and reference all
work from this table; a new statement is added here and nowhere else.
"""

from collections.abc import Mapping
from dataclasses import MISSING, dataclass, fields, replace
from functools import cached_property
from typing import Any, ClassVar, Self

from ..addresses import Address, BadValue, Interface, Prefix
from .grammar import DEFAULT_V4, DEFAULT_V6, Form, Masked

TOP = "top"
"""The place of statements that stand in the first column."""


class Spec:
    """What the language says of one statement."""

    def __init__(
        self,
        word: str,
        *forms: Form,
        places: tuple[str, ...],
        about: str,
        tails: tuple[Form, ...] = (),
        last_counts: bool = True,
    ) -> None:
        self.word = word
        self.forms = forms
        self.places = places
        self.about = about
        self.tails = tails
        self.last_counts = last_counts
        """Of two statements with the same slot: whether the last counts, or the first."""

    @cached_property
    def words(self) -> frozenset[str]:
        """The first words of the statement: one, or two as in on and off."""
        return frozenset(str(form.must[0]) for form in self.forms)


@dataclass(frozen=True, slots=True)
class Statement:
    """One statement of a sheet, whichever it is."""

    SPEC: ClassVar[Spec]

    @property
    def slot(self) -> tuple[object, ...]:
        """What there can be only one of: two statements of one block with the same slot exclude each other."""
        return (type(self),)

    @classmethod
    def build(cls, values: Mapping[str, Any]) -> Self:
        """Make the statement from what was read; raises :class:`BadValue` where values do not go together."""
        return cls(**values)

    def plain(self) -> "Statement":
        """Return the statement without what only describes it."""
        return self

    def text(self) -> str:
        """Write the statement in its canonical form, without indent."""
        spec = self.SPEC
        defaults = {f.name: f.default for f in fields(self) if f.default is not MISSING}
        in_tails = [{e.field for e in tail.must if not isinstance(e, str)} for tail in spec.tails]
        said_later = set().union(*in_tails) if in_tails else set()
        own = {name: value for name, value in defaults.items() if name not in said_later}
        words = [next(w for form in spec.forms if (w := form.write(self, own)) is not None)]
        for tail, names in zip(spec.tails, in_tails, strict=True):
            if any(getattr(self, name) != defaults[name] for name in names):
                words.append(tail.write(self, {}) or "")
        return " ".join(words)


@dataclass(frozen=True, slots=True)
class Name(Statement):
    """The device's own name."""

    SPEC = Spec("name", Form("name {name:name}"), places=(TOP,), about="the device's own name")
    name: str


@dataclass(frozen=True, slots=True)
class Open(Statement):
    """A block's header. It carries the line of the header; a loopback is there by its header alone."""

    SPEC = Spec("", places=(), about="")


@dataclass(frozen=True, slots=True)
class About(Statement):
    """A description."""

    SPEC = Spec("about", Form("about {said:text}"), places=("port", "loopback"), about="a description")
    said: str


@dataclass(frozen=True, slots=True)
class OnPort(Statement):
    """An address on a port or loopback; the first of each family is the primary one."""

    SPEC = Spec(
        "address",
        Form("address {masked:interface}"),
        places=("port", "loopback"),
        about="IPv4 or IPv6, as often as wanted; the first of each family is the primary one",
        last_counts=False,
    )
    masked: Masked

    @property
    def interface(self) -> Interface:
        """The address with its length."""
        return self.masked.interface

    @property
    def slot(self) -> tuple[object, ...]:
        """The address, whatever its mask."""
        return (OnPort, self.interface.ip)


@dataclass(frozen=True, slots=True)
class Switched(Statement):
    """Whether a port or loopback is on."""

    SPEC = Spec(
        "on",
        Form("on", on=True),
        Form("off", on=False),
        places=("port", "loopback"),
        about="default: off on a router's port, on elsewhere",
    )
    on: bool


@dataclass(frozen=True, slots=True)
class Gateway(Statement):
    """The default gateway of a device that does not forward, one for each family."""

    SPEC = Spec(
        "gateway",
        Form("gateway {address:address} [out {port:port}]"),
        places=(TOP,),
        about="the default gateway; on a device that forwards it is ignored",
    )
    address: Address
    port: str | None = None

    @property
    def slot(self) -> tuple[object, ...]:
        """One gateway for each family."""
        return (Gateway, self.address.version)


@dataclass(frozen=True, slots=True)
class Route(Statement):
    """A static route: by next hop, by out-port, by both, or a discard where it has neither."""

    SPEC = Spec(
        "route",
        Form("route {dest:destination} via {next_hop:address} [out {port:port}]"),
        Form("route {dest:destination} out {port:port}"),
        Form("route {dest:destination} discard"),
        places=(TOP,),
        about="a static route: by next hop, by out-port, by both, or a discard",
        tails=(Form("preference {preference:preference}"), Form("about {about:text}")),
        last_counts=False,
    )
    dest: Prefix
    next_hop: Address | None = None
    port: str | None = None
    preference: int = 10
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
    def slot(self) -> tuple[object, ...]:
        """The same destination by the same way is the same route."""
        return (Route, self.dest, self.next_hop, self.port)

    def plain(self) -> "Route":
        """Return the route without its description."""
        return replace(self, about=None)


STATEMENTS: tuple[type[Statement], ...] = (Name, About, OnPort, Switched, Gateway, Route)
"""Every statement but headers, in the canonical order of writing within its place."""


@dataclass(frozen=True, slots=True)
class BlockKind:
    """A kind of block: its header's word, what it is for, and whether the header alone means something."""

    word: str
    about: str
    declares: bool


BLOCKS: tuple[BlockKind, ...] = (
    BlockKind("port", "a physical port that the topology gives the device", declares=False),
    BlockKind("loopback", "a loopback, which needs no topology and is up unless switched off", declares=True),
)
"""Every kind of block, in the canonical order of writing."""


def statements_of(place: str) -> dict[str, type[Statement]]:
    """Return the statements that may stand in a place (``top`` or a block's word) by their first words."""
    return {word: kind for kind in STATEMENTS if place in kind.SPEC.places for word in kind.SPEC.words}
