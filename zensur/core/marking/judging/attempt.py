"""A set of configurations, compiled: what a criterion is judged on."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from ...lab import Criterion
from ...sheet import Configuration, Where
from ...sim import Network, Runs
from ..result import Judged
from .unread import Unread


@dataclass(frozen=True)
class Attempt:
    """A set of configurations, compiled: a learner's paper, the model answer, or a paper partly mended."""

    configurations: Mapping[str, Configuration]
    network: Network
    runs: Runs
    unread: Mapping[str, tuple[Unread, ...]] = field(default_factory=dict)
    """By device the lines that were not understood."""
    sheets: Mapping[str, Configuration] = field(default_factory=dict)
    """By device what was handed in, with the learner's own names and without what is given."""
    answers: Mapping[str, tuple[str, Where]] = field(default_factory=dict)
    """What was answered to questions, and in which line."""
    ported: dict[str, Configuration] = field(default_factory=dict, compare=False, repr=False)
    """By device its configuration with the ports of the model answer, where it was asked for."""
    as_model: frozenset[str] = frozenset()
    """The devices that are configured as in the model answer."""
    like: "Attempt | None" = field(default=None, compare=False, repr=False)
    """The attempt that it was made from."""
    judged: dict[Criterion, Judged] = field(default_factory=dict, compare=False, repr=False)
    """What was judged already."""

    @cached_property
    def alone(self) -> Runs:
        """The pings and checks run each with empty tables of translations, as if it were the first."""
        like = self.like.alone if self.like is not None else None
        return Runs(self.network, self.runs.model, self.runs.asked, fresh=True, like=like)

    def with_devices(self, changed: Mapping[str, Configuration]) -> "Attempt":
        """Return the attempt with other configurations for some devices."""
        network = self.network.with_devices(changed)
        configurations = {**self.configurations, **changed}
        return Attempt(
            configurations, network, self.runs.on(network), self.unread, self.sheets, self.answers,
            as_model=self.as_model - changed.keys(), like=self,
        )  # fmt: skip
