"""What a whole class shares: runs and judgements by what they depend on. A memo belongs to one thread.

Most papers of a class differ from the model answer by the same few lines, and a repair of one of two slips is the state
that another learner handed in: neither is simulated or judged again.
"""

from collections.abc import Callable, Hashable
from dataclasses import dataclass

from ..lab import Criterion, Lab, with_answer
from ..sheet import Configuration, Route
from ..sim import Network
from ..sim.running.run_cache import RunCache, State, Variant
from ..sim.running.state_runs import StateRuns
from .criteria.effects import with_ports_of, with_routes_of
from .facts import LabFacts
from .shapes import Judged
from .sheets import SheetReader

MOST_JUDGED = 100_000
MOST_NETWORKS = 400
MOST_PAPERS = 400
"""So much is kept; then it begins anew."""


@dataclass(frozen=True, slots=True)
class _Known:
    """A judgement of one configuration; ``proof`` are the places of the statements that prove it."""

    fraction: float
    required: str
    found: str
    proof: tuple[int, ...]


Asked = tuple[Criterion, Variant] | tuple[Criterion, Variant, State]
"""What is judged: a criterion on a variant of its device, and among which others where it is not the model answer's."""
_JudgedKey = tuple[Asked, tuple[bool, ...]]


class Memo:
    """Everything worked out for one lab that the next paper may need again.

    What ``base`` knows is known here, too; it has to be left alone from then on, so that threads may share it.
    """

    def __init__(self, facts: LabFacts, base: "Memo | None" = None) -> None:
        self.facts, self.base = facts, base
        self.runs: RunCache = RunCache(facts.model, base.runs if base else None)
        self.reader = SheetReader(facts)
        bare = RunCache(facts.uncabled) if facts.uncabled is not None else self.runs
        blank = tuple(bare.variant(n, c) for n, c in enumerate(facts.lab.blank.values()))
        self.blank_runs = StateRuns(
            bare, blank, lambda: bare.network_of(blank, bare.network, bare.model_state)
        )
        """The pings and checks on a blank paper."""
        self.model_alone = StateRuns(self.runs, self.runs.model_state, lambda: self.runs.network, alone=True)
        """The pings and checks on the model answer, each by itself."""
        self.twins: dict[Hashable, object] = {}
        """What later steps found of papers, by what their twins have in common; here it is only kept."""
        self._judged: dict[_JudgedKey, _Known] = {}
        self._alone: dict[tuple[int, Variant], Network] = {}
        self._ported: dict[tuple[int, Variant], Configuration] = {}
        self._others: dict[tuple[Criterion, str], Memo] = {}

    @property
    def lab(self) -> Lab:
        """The lab."""
        return self.facts.lab

    @property
    def network(self) -> Network:
        """The model answer's network, with caches of this memo's own."""
        return self.runs.network

    def tidy(self) -> None:
        """Forget where too much is kept; called between papers."""
        self.runs.tidy()
        if len(self.twins) > MOST_PAPERS:
            self.twins.clear()
        if len(self._judged) > MOST_JUDGED:
            self._judged.clear()
        if len(self._alone) > MOST_NETWORKS:
            self._alone.clear()
            self._ported.clear()

    def variant(self, device: str, configuration: Configuration) -> Variant:
        """Return the variant that a device's configuration is."""
        return self.runs.variant(self.facts.wiring.device[device.lower()], configuration)

    def judged(self, asked: Asked, configuration: Configuration, judge: Callable[[], Judged]) -> Judged:
        """Return what is judged of one device's configuration; what is equal is judged once.

        What proves it is found again by its place among the statements, for it stands in other lines of each sheet.
        """
        key = (asked, configuration.written)
        known = self._judged.get(key) or (self.base._judged.get(key) if self.base else None)
        if known is None:
            found = judge()
            places = {id(item): n for n, item in enumerate(configuration.items)}
            proof = tuple(places[id(item)] for item in found.proof)
            self._judged[key] = _Known(found.fraction, found.required, found.found, proof)
            return found
        items = tuple(configuration.items[n] for n in known.proof)
        return Judged(known.fraction, known.required, known.found, items)

    def alone(self, name: str, configuration: Configuration) -> Network:
        """Compile a device among devices as the model answer has them; equal configurations once."""
        number = self.facts.wiring.device[name.lower()]
        variant = self.runs.variant(number, configuration)
        if variant is self.runs.model_state[number]:
            return self.network
        key = (number, variant)
        if key not in self._alone:
            self._alone[key] = self.network.with_compiled_devices({number: variant.compiled})
        return self._alone[key]

    def with_model_ports(self, name: str, configuration: Configuration) -> Configuration:
        """Return a device's configuration with the ports of the model answer."""
        key = (self.facts.wiring.device[name.lower()], self.variant(name, configuration))
        if key not in self._ported:
            self._ported[key] = with_ports_of(configuration, self.lab.model[name])
        return self._ported[key]

    def with_model_routes(
        self, name: str, configuration: Configuration, judged: Callable[[Route], bool]
    ) -> Configuration:
        """Return a device's configuration with the routes of the model answer but those that are judged."""
        return with_routes_of(configuration, self.lab.model[name], judged)

    def with_answer(self, criterion: Criterion, text: str) -> "Memo":
        """Return the memo of the lab with a further answer."""
        key = (criterion, text)
        if key not in self._others:
            lab, why = with_answer(self.lab, criterion, text)
            assert lab is not None, why  # the lab file was read only because it can be
            self._others[key] = Memo(LabFacts(lab))
        return self._others[key]
