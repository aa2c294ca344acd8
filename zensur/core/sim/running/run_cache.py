"""Runs kept by what they depend on: for a whole class what one paper shares with another is run once.

What comes of a ping depends on the devices that handle its packets, on all that share a segment with one that is asked
for there, and on whether the ports at the other ends of their links are on. Two sets of configurations that agree in
these give the same run. Where addresses are translated it also depends on what it reads in the tables, as the pings
before it left them, and on the numbers that hosts give their requests (RFC 4787).

A cache belongs to one thread. It keeps no network, so that its size is that of the runs.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import IntEnum

from ...lab import Expected, ExpectedPing, ExpectedService
from ...sheet import Configuration
from ..device import CompiledDevice, compile_device
from ..model import Model
from ..network import Network
from ..ping import Ping
from ..translation import Cell, Cells
from .expectations import AnyRun
from .rows import RunRow
from .services import Checked

MOST_RUNS = 50_000
"""So many runs are kept; then the cache begins anew."""
MOST_VARIANTS = 4_000
"""So many configurations are kept; then the cache begins anew."""
MOST_SETTLED = 64
"""So many forms of one device with what it learned are told apart; then they begin anew."""


class Variant:
    """One configuration of one device, compiled. Of equal configurations there is one, known by its identity."""

    __slots__ = ("compiled", "configuration", "learns", "links", "translates")

    def __init__(self, configuration: Configuration, compiled: CompiledDevice) -> None:
        self.configuration, self.compiled = configuration, compiled
        self.links = {p.port: (p.on, p.clocking) for p in compiled.ports if p.kind == "port"}
        """By physical port whether it is on, and whether it gives a clock: all that the far end sees of it."""
        self.translates = any(node.translating is not None for node in compiled.nodes)
        self.learns = any(
            p.advertises or p.asks_lease is not None or p.asks_router is not None for p in compiled.ports
        ) or any(node.serving.learning is not None for node in compiled.nodes)


State = tuple[Variant, ...]
"""A variant for every device of a lab, in its order."""
Counts = dict[tuple[int, str], int]
"""How many requests each node has sent in a protocol, less one, as :class:`Sessions` counts them."""
RunKey = tuple[object, ...]


@dataclass(slots=True)
class Recorded:
    """A run with what it read and wrote in the tables of translating nodes, and its row, once somebody asked for
    that."""

    run: AnyRun
    translated: bool
    read: Mapping[Cell, object]
    written: Mapping[Cell, object]
    row: RunRow | None = None


@dataclass(frozen=True, slots=True)
class _Dependencies:
    """What a run depends on."""

    devices: tuple[int, ...]
    ports: tuple[tuple[int, int], ...]
    """Ports of other devices, each with its device, of which only the link counts."""
    numbered: tuple[tuple[int, str], ...]
    """The nodes that sent requests, and in which protocols; empty where the run is by itself."""
    translated: bool

    def key(self, state: State, counts: Counts) -> RunKey:
        """Return what these things are now."""
        own = tuple([state[d] for d in self.devices])
        links = tuple([state[d].links[p] for d, p in self.ports])
        if not self.translated:
            return (own, links)
        return (own, links, *[counts.get(n, -1) for n in self.numbered])


class _Way(IntEnum):
    """How a run was made: untranslated, where it makes no difference; behind others, or by itself."""

    UNTRANSLATED = 0
    IN_TURN = 1
    ALONE = 2


@dataclass(slots=True)
class _Group:
    """The runs of one ping that depend on the same things, by what these were."""

    on: _Dependencies
    runs: dict[RunKey, list[Recorded]] = field(default_factory=dict)

    def find(self, state: State, tables: Cells, counts: Counts) -> Recorded | None:
        """Return a run that read in the tables what stands there now."""
        for found in self.runs.get(self.on.key(state, counts), ()):
            if tables.hold(found.read):
                return found
        return None


_Variants = dict[tuple[Configuration, tuple[str, ...]], Variant]


@dataclass(frozen=True, slots=True)
class _OfModel:
    """A run on the model answer: where nothing that it depends on is changed, it need not be looked for."""

    recorded: Recorded
    devices: frozenset[int]
    numbers: Counts

    def holds(self, changed: frozenset[int], tables: Cells, counts: Counts) -> bool:
        """Whether it holds where some devices are otherwise, with the tables as they are."""
        if not self.devices.isdisjoint(changed):
            return False
        if not self.recorded.translated:
            return True
        same = all(counts.get(n, -1) == number for n, number in self.numbers.items())
        return same and tables.hold(self.recorded.read)


class RunCache:
    """The lab's pings and checks on any set of configurations, each kept for what it depends on.

    What ``base`` knows is known here, too; it has to be left alone from then on, so that threads may share it.
    """

    def __init__(self, model: Model, base: "RunCache | None" = None) -> None:
        self.model, self.base = model, base
        self.wiring = model.wiring
        self.asked: Mapping[str, Expected] = model.lab.expected
        self.network: Network = model.network.with_devices({})
        """The model answer's network with caches of its own."""
        self._variants: list[_Variants] = [{} for _ in self.wiring.names]
        self._settled: list[list[Variant]] = [[] for _ in self.wiring.names]
        self._known: dict[tuple[str, _Way], list[_Group]] = {}
        self.of_model: dict[tuple[str, _Way], _OfModel] = dict(base.of_model) if base else {}
        """The runs of the model answer."""
        self._kept = 0
        self.model_state: State = (
            base.model_state
            if base
            else tuple(self.variant(n, model.lab.model[name]) for n, name in enumerate(self.wiring.names))
        )

    def close(self) -> None:
        """Work out what otherwise would be when it is asked for: from now on it is the base of others."""
        for variants in self._variants:
            for variant in variants.values():
                variant.configuration.work_out()

    def tidy(self) -> None:
        """Begin anew where too much is kept, so that memory is bounded."""
        if self._kept > MOST_RUNS or sum(map(len, self._variants)) > MOST_VARIANTS:
            self._known.clear()
            self._kept = 0
            for variants, model in zip(self._variants, self.model_state, strict=True):
                variants.clear()
                variants[model.configuration, model.configuration.spelling] = model

    def variant(self, device: int, configuration: Configuration) -> Variant:
        """Return the variant that a configuration is, compiled the first time."""
        spelled = (configuration, configuration.spelling)
        found: Variant | None = self._variants[device].get(spelled)
        if found is None and self.base is not None:
            found = self.base._variants[device].get(spelled)
        if found is None:
            lab, name = self.wiring.lab, self.wiring.names[device]
            compiled = (
                self.model.network.bare.devices[device]
                if configuration == lab.model[name]
                else compile_device(self.wiring, lab.devices[name], configuration)
            )
            found = self._variants[device][spelled] = Variant(configuration, compiled)
        return found

    def network_of(self, state: State, like: Network, like_state: State) -> Network:
        """Compile the network of a state, at the cost of what is otherwise in another."""
        changed = {n: v.compiled for n, v in enumerate(state) if v is not like_state[n]}
        return like.with_compiled_devices(changed)

    def settled(self, state: State, network: Network) -> State:
        """Return the state with what the devices learned: two that learned the same are the same variant."""
        return tuple(
            variant if device is variant.compiled or device == variant.compiled else self._learned(n, device)
            for n, (variant, device) in enumerate(zip(state, network.devices, strict=True))
        )

    def _learned(self, number: int, device: CompiledDevice) -> Variant:
        known = self._settled[number]
        of_base: list[Variant] = self.base._settled[number] if self.base else []
        for variant in (*known, *of_base):
            if variant.compiled == device:
                return variant
        if len(known) >= MOST_SETTLED:
            known.clear()
        known.append(Variant(Configuration(), device))
        return known[-1]

    def recall(
        self, ident: str, state: State, changed: frozenset[int], alone: bool, tables: Cells, counts: Counts
    ) -> Recorded | None:
        """Return a run; None where there is none that depends on the same. ``changed`` are the devices that are not as
        in the model answer. One that was not translated is the same by itself as behind others.
        """
        ways = (_Way.UNTRANSLATED, _Way.ALONE if alone else _Way.IN_TURN)
        for way in ways:
            of_model = self.of_model.get((ident, way))
            if of_model is not None and of_model.holds(changed, tables, counts):
                return of_model.recorded
        for way in ways:
            groups = self._known.get((ident, way), [])
            for place, group in enumerate(groups):
                found = group.find(state, tables, counts)
                if found is not None:
                    if place:  # what was found once is looked for first
                        groups.insert(0, groups.pop(place))
                    return found
            for group in self.base._known.get((ident, way), ()) if self.base is not None else ():
                found = group.find(state, tables, counts)
                if found is not None:
                    return found
        return None

    def keep(
        self,
        ident: str,
        run: AnyRun,
        network: Network,
        state: State,
        alone: bool,
        tables: Cells,
        counts: Counts,
    ) -> Recorded:
        """Keep a run that was made on the network of a state; ``counts`` are those before it."""
        on = _depends_on(network, run, alone)
        way = _Way.UNTRANSLATED if not on.translated else _Way.ALONE if alone else _Way.IN_TURN
        groups = self._known.setdefault((ident, way), [])
        group = next((g for g in groups if g.on == on), None)
        if group is None:
            group = _Group(on)
            groups.append(group)
        in_turn = way is _Way.IN_TURN
        recorded = Recorded(
            run, on.translated, tables.read if in_turn else {}, tables.written if in_turn else {}
        )
        group.runs.setdefault(on.key(state, counts), []).append(recorded)
        self._kept += 1
        if state == self.model_state:
            devices = frozenset((*on.devices, *(d for d, _ in on.ports)))
            numbers = {n: counts.get(n, -1) for n in on.numbered}
            self.of_model[ident, way] = _OfModel(recorded, devices, numbers)
        return recorded


def walks_of(run: AnyRun) -> tuple[Ping, ...]:
    """Return every walk of a ping or check."""
    return tuple(w.result for w in run.walks) if isinstance(run, Checked) else (run.result,)


def _depends_on(network: Network, run: AnyRun, alone: bool) -> _Dependencies:
    """Say what a run on a network depends on."""
    wiring, walks = network.wiring, walks_of(run)
    nodes = {walk.sender for walk in walks}
    segments: set[int] = set()
    for walk in walks:
        for step in walk.steps:
            nodes.add(step.node)
            if step.decision.segment is not None:
                segments.add(step.decision.segment)
    devices = {wiring.device_of_node(n) for n in nodes}
    for word in (run.asked.sender, _holder(run.asked)):
        named = wiring.device.get(_device_in(word))
        if named is not None:
            devices.add(named)
    for segment in segments:
        devices |= wiring.devices_in_segment.get(segment, frozenset())
    ports = [far for d in devices for far in wiring.far_ends[d] if far[0] not in devices]
    numbered = {(w.sender, w.request.sent.protocol) for w in walks if w.request is not None}
    translated = any(n in network.nodes and network.nodes[n].translating is not None for n in nodes)
    return _Dependencies(
        tuple(sorted(devices)), tuple(sorted(ports)), () if alone else tuple(sorted(numbered)), translated
    )


def _holder(asked: Expected) -> str:
    """Return who is asked, as the lab writes it."""
    if isinstance(asked, ExpectedPing):
        return asked.to
    assert isinstance(asked, ExpectedService)
    return (asked.open or "").rpartition(" ")[2]


def _device_in(word: str) -> str:
    """Return what may be the name of a device in ``DEVICE``, ``BOX/INSTANCE``, ``DEVICE:PORT`` or an address."""
    return word.lower().partition(":")[0].partition("/")[0]
