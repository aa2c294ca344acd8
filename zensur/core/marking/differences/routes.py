"""Differences in static routes, as small edits: which of the learner's stands where the model answer has another."""

from collections.abc import Iterator
from dataclasses import replace

from ...lab import Criterion, Device, counted_by
from ...sheet import Item, Route
from ...sheet.statement import folded
from ..session import Attempt, Session
from .edits import Edit, Of

AnyRoute = Item[Route]


def route_edits(session: Session, attempt: Attempt, device: Device, surplus: list[Edit]) -> Iterator[Edit]:
    """Yield the edits of a device's routes, and put what stands there needlessly into ``surplus``."""
    yield from _Comparing(session, attempt, device).edits(surplus)


class _Comparing:
    """One device's routes held against the model answer's; what is not paired yet is ``spare`` or ``unmet``."""

    def __init__(self, session: Session, attempt: Attempt, device: Device) -> None:
        self.session, self.attempt, self.device = session, attempt, device.name
        self.learner, self.model = attempt.configurations[device.name], session.lab.model[device.name]
        ours = {i.slot for i in self.model.all(Route)}
        self.spare: list[AnyRoute] = [i for i in self.learner.all(Route) if i.slot not in ours]
        self.unmet: list[AnyRoute] = []
        self.served: list[AnyRoute] = []
        """Routes of the model answer in whose place others serve."""

    def edits(self, surplus: list[Edit]) -> Iterator[Edit]:
        """Pair what is missing with what is there in its place; the rest is missing, or needless."""
        mine = {i.slot: i for i in self.learner.all(Route)}
        for item in self.model.all(Route):
            yield from self._compared(item, mine.get(item.slot))
        for near in (_other_way, _same_start, _same_hop, _both_discard):
            for wanted in list(self.unmet):
                found = next((s for s in self.spare if near(s.statement, wanted.statement)), None)
                if found is not None:
                    self.spare.remove(found)
                    self.unmet.remove(wanted)
                    yield self._edit([found], [wanted])
        for found, instead in _one_in_place(self.unmet, self.spare, self.served):
            self.spare.remove(found)
            self.unmet = [item for item in self.unmet if item not in instead]
            yield self._led_right(found, instead)
        for wanted in self.unmet:
            yield self._edit([], [wanted])
        for item in self.spare:
            serves = tuple(s for s in self.served if _holds_for(item.statement, s.statement))
            surplus.append(Edit(self.device, (item,), serves, ()))

    def _compared(self, wanted: AnyRoute, same: AnyRoute | None) -> Iterator[Edit]:
        """Sort a route of the model answer: met, served by another, right but for its preference, or unmet."""
        met = self.session.judge(self._criterion(wanted), self.attempt).fraction == 1
        if same is not None:
            if not met and same.statement.preference != wanted.statement.preference:
                yield self._edit([same], [wanted])
        elif not met:
            self.unmet.append(wanted)
        else:
            self.served.append(wanted)
            other = next((s for s in self.spare if s.statement.dest == wanted.statement.dest), None)
            if other is not None:  # by another address, which may have to be put right
                yield Edit(self.device, (other,), (wanted,), (), of=Of.FOLLOWING)

    def _led_right(self, found: AnyRoute, instead: list[AnyRoute]) -> Edit:
        """Lead a route that stands in the place of others the right way; where that does not do, put them there."""
        way = instead[0].statement
        own = Item(None, replace(found.statement, next_hop=way.next_hop, port=way.port))
        led = self.attempt.with_devices({self.device: self.learner.changed([found], [own])})
        right = all(self.session.judge(self._criterion(item), led).fraction == 1 for item in instead)
        return replace(self._edit([found], instead), add=(own,) if right else tuple(instead))

    def _edit(self, found: list[AnyRoute], wanted: list[AnyRoute]) -> Edit:
        return Edit(self.device, tuple(found), tuple(wanted), tuple(self._criterion(w).id for w in wanted))

    def _criterion(self, route: AnyRoute) -> Criterion:
        counted = counted_by(self.device, route, self.model)
        assert counted is not None
        return self.session.facts.by_id.get(counted.id, counted)


def _one_in_place(
    unmet: list[AnyRoute], spare: list[AnyRoute], served: list[AnyRoute]
) -> list[tuple[AnyRoute, list[AnyRoute]]]:
    """Find routes that stand in the place of others, such as a default by the wrong neighbour for three routes."""
    left, found = list(unmet), []
    for item in sorted(spare, key=lambda i: -i.statement.dest.prefixlen):
        wide = item.statement
        instead = [u for u in left if _holds_for(wide, u.statement) and not u.statement.discard]
        if instead and not wide.discard and not any(_holds_for(wide, s.statement) for s in served):
            left = [u for u in left if u not in instead]
            found.append((item, instead))
    return found


def _holds_for(wide: Route, route: Route) -> bool:
    """Whether a route holds for all addresses of another, in the same instance."""
    same = wide.dest.version == route.dest.version and folded(wide.instance) == folded(route.instance)
    return same and wide.dest.overlaps(route.dest) and wide.dest.prefixlen <= route.dest.prefixlen


def _other_way(found: Route, wanted: Route) -> bool:
    return found.dest == wanted.dest


def _same_start(found: Route, wanted: Route) -> bool:
    """The same way to an overlapping prefix: the mask is wrong."""
    return (
        found.dest.version == wanted.dest.version
        and found.dest.overlaps(wanted.dest)
        and not (found.discard and found.dest.prefixlen == found.dest.max_prefixlen)
        and (found.next_hop, found.port) == (wanted.next_hop, wanted.port)
    )


def _same_hop(found: Route, wanted: Route) -> bool:
    return not found.discard and (found.next_hop, found.port) == (wanted.next_hop, wanted.port)


def _both_discard(found: Route, wanted: Route) -> bool:
    """A discard of as many addresses, elsewhere."""
    same_size = found.dest.prefixlen == wanted.dest.prefixlen and found.dest.version == wanted.dest.version
    return found.discard and wanted.discard and same_size
