"""What the judges of all keys have in common: what they are given, and shares, words and lines of a verdict."""

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from typing import Protocol

from ...formats import Answer
from ...lab import Criterion, Lab, Link
from ...sheet import AnyItem, Block, Configuration, Route, Where
from ...sim import AnyRun, Network, Wiring
from .effects import RouteClasses


class Judging(Protocol):
    """What a judge may ask of the session: the lab, the model answer's network, and devices compiled by themselves."""

    lab: Lab
    wiring: Wiring

    @property
    def network(self) -> Network:
        """The network of the model answer."""

    @property
    def answers(self) -> Mapping[str, Answer]:
        """What was answered, by the questions as they are compared."""

    def circles(self, ident: str, ran: AnyRun) -> bool:
        """Whether a packet that should have failed went round in a circle, as the model answer's does not."""

    def counted(self, criterion: Criterion) -> list[AnyItem]:
        """The statements of the model answer that a criterion is about."""

    def block(self, criterion: Criterion) -> Block:
        """The port, sub-port, loopback or VLAN that a criterion is about."""

    def node(self, criterion: Criterion) -> int:
        """The node that a criterion is about."""

    def classes(self, criterion: Criterion) -> RouteClasses:
        """The addresses on which a route of the model answer is judged."""

    def alone(self, name: str, configuration: Configuration) -> Network:
        """A device compiled among devices as the model answer has them."""

    def candidate_configurations(
        self, device: str, attempt: "Attempted", judged: Callable[[Route], bool] | None = None
    ) -> Iterator[Configuration]:
        """The configurations in which a device is judged, whichever is better for the learner."""


class Attempted(Protocol):
    """What a judge may ask of a set of configurations."""

    configurations: Mapping[str, Configuration]
    links: tuple[Link, ...]
    """How the devices are joined."""

    def cables_at(self, links: Iterable[Link]) -> tuple[Where, ...]:
        """The lines of the paper that links stand in."""

    @property
    def network(self) -> Network:
        """The network that they make."""

    @property
    def runs(self) -> Mapping[str, AnyRun]:
        """The pings and checks of the lab by their ids."""

    @property
    def by_owner(self) -> bool:
        """Whether a next hop is right only where its owner answers, and nobody for it."""

    def beside(self, name: str, configuration: Configuration) -> Network:
        """A device compiled among the others."""

    def detail(self, ident: str) -> str:
        """Where and why a ping or check ended, in a sentence."""


def share(required: Collection[object], found: Collection[object]) -> float:
    """Return the right items among those required and the wrong ones more; 1 where nothing is required."""
    wanted, got = set(required), set(found)
    most = len(wanted | got)
    return len(wanted & got) / most if most else 1.0


def shown(items: Iterable[AnyItem | None]) -> tuple[AnyItem, ...]:
    """Return the statements that are there, each once."""
    return tuple({id(i): i for i in items if i is not None}.values())


def texts_of(items: Iterable[AnyItem]) -> str:
    """Write statements without what only describes them."""
    return "; ".join(i.statement.plain().text() for i in items) or "nothing"


def header_of(configuration: Configuration, block: Block | None) -> tuple[AnyItem, ...]:
    """Return the header of a block, to be shown where nothing in it can be."""
    return shown([configuration.header(block)]) if block is not None else ()


def in_instance(instance: str | None, criterion: Criterion) -> bool:
    """Whether a statement's network instance is the criterion's."""
    return (instance or "").lower() == criterion.instance.lower()
