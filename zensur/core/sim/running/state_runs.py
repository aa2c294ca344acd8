"""The lab's pings and checks on one set of configurations, recalled from a cache or run."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from itertools import islice

from ..network import Network
from ..translation import Cells, Sessions
from .expectations import AnyRun, run_any, told_apart
from .rows import RunRow, row
from .run_cache import Counts, Recorded, RunCache, State, walks_of


class StateRuns(Mapping[str, AnyRun]):
    """The runs of one state, by the ids of their criteria; ``alone`` gives each tables of translations of its own.

    The network is compiled only where something has to be run.
    """

    def __init__(
        self, cache: RunCache, state: State, network: Callable[[], Network], alone: bool = False
    ) -> None:
        self.cache, self._network = cache, network
        self.state = cache.settled(state, network()) if any(v.learns for v in state) else state
        self._in_order = not alone and any(v.translates for v in state)
        self._changed = frozenset(
            n
            for n, (v, model) in enumerate(zip(self.state, cache.model_state, strict=True))
            if v is not model
        )
        self._order = list(cache.asked)
        self._found: dict[str, Recorded] = {}
        self._counts: Counts = {}
        self._tables = Cells()

    def __iter__(self) -> Iterator[str]:
        return iter(self._order)

    def __len__(self) -> int:
        return len(self._order)

    def __getitem__(self, ident: str) -> AnyRun:
        if self.cache.asked[ident].distinct is None:
            return self._recorded(ident).run
        return told_apart(lambda one: self._recorded(one).run, self.cache.asked, ident)

    def row(self, ident: str) -> RunRow:
        """Return what came of a ping or check as a row."""
        ran, recorded = self[ident], self._recorded(ident)
        if recorded.row is None:
            recorded.row = row(self._network(), recorded.run)
        return recorded.row if ran is recorded.run else replace(recorded.row, as_expected=ran.as_expected)

    def found_tables_empty(self, ident: str) -> bool:
        """Whether no translation that was made before it was there when a ping or check looked for one."""
        return all(value is None for value in self._recorded(ident).read.values())

    def _recorded(self, ident: str) -> Recorded:
        found = self._found.get(ident)
        if found is not None:
            return found
        if not self._in_order:
            found = self._found[ident] = self._by_itself(ident)
            return found
        for waiting in islice(self._order, len(self._found), None):
            self._found[waiting] = self._in_turn(waiting)
            if waiting == ident:
                break
        return self._found[ident]

    def _by_itself(self, ident: str) -> Recorded:
        cache, empty = self.cache, Cells()
        known = cache.recall(ident, self.state, self._changed, True, empty, {})
        if known is not None:
            return known
        network = self._network()
        run = run_any(network, cache.network, cache.asked[ident], None)
        return cache.keep(ident, run, network, self.state, True, empty, {})

    def _in_turn(self, ident: str) -> Recorded:
        """Run a ping behind those before it, whose translations are still in the tables."""
        cache, tables = self.cache, self._tables
        recorded = cache.recall(ident, self.state, self._changed, False, tables, self._counts)
        if recorded is None:
            network = self._network()
            tables.begin_log()
            sessions = Sessions(network, tables, dict(self._counts))
            run = run_any(network, cache.network, cache.asked[ident], sessions)
            recorded = cache.keep(ident, run, network, self.state, False, tables, self._counts)
        else:
            tables.write_again(recorded.written)
        _count(recorded.run, self._counts)
        return recorded


def _count(run: AnyRun, counts: Counts) -> None:
    """Count the requests of a run: a host numbers the next one behind them, whatever came of these."""
    for walk in walks_of(run):
        if walk.request is not None:
            key = (walk.sender, walk.request.sent.protocol)
            counts[key] = counts.get(key, -1) + 1
