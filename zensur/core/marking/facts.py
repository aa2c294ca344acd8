"""What marking has to know of a lab beyond its model: worked out at once, and shared by all threads."""

from collections.abc import Hashable, Mapping
from dataclasses import replace
from functools import lru_cache

from ..addresses import parse_prefix
from ..lab import Criterion, Lab, answers_of, counted_by
from ..sheet import AnyItem, Configuration, Switched
from ..sheet.statements import Open
from ..sim import Model, Wiring
from .criteria.effects import RouteClasses, networks_of
from .reading.pairing import named_by
from .scheme import Numbered, numbered, tasks_of

LEAST_WORK, WORK_EACH = 8_000, 30
"""The work that searching the mistakes of a paper may take: so much, and so much for each statement of the model
answer.

Counted in statements, not in seconds, so that a result is the same on every machine. Papers of the demo labs with five
mistakes take some hundred.
"""


class LabFacts:
    """A lab with its model, its criteria, and what tells its sheets apart. It never changes."""

    def __init__(self, lab: Lab, model: Model | None = None) -> None:
        self.lab = lab
        self.model = model or Model(lab)
        self.uncabled = Model(replace(lab, links=())) if lab.asks_cabling else None
        """The lab without a cable, as a blank paper leaves it where learners cable; None where the lab does."""
        self.criteria: tuple[Numbered, ...] = tuple(numbered(tasks_of(lab)))
        self.by_id: Mapping[str, Criterion] = {c.id: c for _, _, c in self.criteria}
        self.of_statements: Mapping[str, Criterion] = {
            by.id: by
            for name, model_answer in lab.model.items()
            for item in model_answer.items
            if (by := counted_by(name, item, model_answer)) is not None
        }
        """The criteria that count the statements of the model answer, by id, whether the scheme has them or not."""
        self.direct_marks: Mapping[str, float] = {i: c.marks for i, _, c in self.criteria if not c.is_outcome}
        """What each criterion earns that is no outcome of the whole network."""
        self.budget = LEAST_WORK + WORK_EACH * sum(len(c.items) for c in lab.model.values())
        """So many statements are looked at while the mistakes of a paper are searched."""
        self.out_of = sum(c.marks for _, _, c in self.criteria)
        self.earlier: frozenset[str] = frozenset(
            c.id for stage in lab.stages[:-1] for task in tasks_of(stage) for c in task.criteria
        )
        """The ids of what earlier stages count."""
        self.strict_names = self._strict_names()
        routes = {c.id: c for c in (*self.by_id.values(), *self.of_statements.values()) if c.key == "route"}
        networks = networks_of(self.model.network)
        self.classes: Mapping[tuple[str, str], RouteClasses] = {
            (c.node, c.operand): RouteClasses(networks, self.node(c), parse_prefix(c.operand))
            for c in routes.values()
        }
        """The addresses on which each route of the model answer is judged, by node and destination."""
        self.identifying: Mapping[str, frozenset[Hashable]] = {
            name: identifying(lab.model[name]) for name in lab.devices
        }
        """What tells each device's sheet in the model answer from others'."""
        self.identifying_given: Mapping[str, frozenset[Hashable]] = {
            name: identifying(lab.under[name]) for name in lab.devices
        }
        self.asking_more = frozenset(
            c.device for c in self.by_id.values() if c.dotted or c.key in ("name", "about")
        )
        """The devices of which a criterion asks for what equal statements may differ in: masks, names, descriptions."""

    @property
    def wiring(self) -> Wiring:
        """The topology in numbers."""
        return self.model.wiring

    def node(self, criterion: Criterion) -> int:
        """Return the node that a criterion is about; the main one where the model answer declares no such instance."""
        found = self.model.network.find_node(criterion.node)
        return self.wiring.device[criterion.device.lower()] if found is None else found

    def criterion(self, key: str, device: str, operand: str = "", instance: str | None = None) -> Criterion:
        """Return the scheme's criterion about something, or one that asks for the effect alone."""
        asked = Criterion(key, device, operand, 0, None, instance or "")
        return self.by_id.get(asked.id, asked)

    def criterion_of(self, ident: str) -> Criterion:
        """Return the scheme's criterion with an id, or the one that counts statements of the model answer."""
        return self.by_id.get(ident) or self.of_statements[ident]

    def counted(self, criterion: Criterion) -> list[AnyItem]:
        """Return the statements of the model answer that a criterion is about."""
        return answers_of(criterion, self.lab.model[criterion.device])

    def _strict_names(self) -> dict[str, frozenset[str]]:
        """Return by device the names, in small letters, that a criterion asks for."""
        found: dict[str, set[str]] = {}
        for _, _, criterion in self.criteria:
            if criterion.own_name:
                found.setdefault(criterion.device, set()).update(named_by(self.counted(criterion)))
        return {name: frozenset(names) for name, names in found.items()}


@lru_cache(maxsize=32)
def identifying(configuration: Configuration) -> frozenset[Hashable]:
    """Return what tells a sheet from another's: all its statements but headers and switches."""
    return frozenset(
        (i.block, i.statement.plain())
        for i in configuration.items
        if not isinstance(i.statement, Open | Switched)
    )
