"""Differences in all statements but addresses, switches of ports, gateways and routes, as small edits.

A statement is wanted where the criterion that counts it is not fully met; one that no criterion counts, such as
a pool or a line of a list, where a criterion is not met that it serves.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ...lab import Criterion, Device, counted_by
from ...sheet import AnyItem, Block, Configuration, Where
from ...sheet.statement import Statement, folded
from ...sheet.statements import (
    Dynamic,
    Entry,
    Instance,
    Member,
    OneToOne,
    Open,
    Pool,
    Published,
    Trunk,
)
from ...sheet.statements.translation import LIST
from ..criteria.ports import shares_native
from ..session import Attempt, Session
from .edits import Edit


def statement_edits(
    session: Session, attempt: Attempt, device: Device, surplus: list[Edit]
) -> Iterator[Edit]:
    """Yield the edits of a device, and put what stands there needlessly into ``surplus``."""
    learner, model = attempt.configurations[device.name], session.lab.model[device.name]
    comparing = _Comparing(session, attempt, device.name, learner, model)
    yield from comparing.edits(surplus)


@dataclass(frozen=True)
class _Comparing:
    """One device's sheet held against the model answer's."""

    session: Session
    attempt: Attempt
    device: str
    learner: Configuration
    model: Configuration

    def edits(self, surplus: list[Edit]) -> Iterator[Edit]:
        """Pair what is missing with what is there in its place; the rest is missing, or needless."""
        by_slot = {i.slot: i for i in self.learner.items}
        wanted = {i.slot for i in self.model.items}
        spare = [i for i in self.learner.items if i.slot not in wanted and _is_compared(i)]
        missing: list[tuple[AnyItem, tuple[str, ...]]] = []
        disordered = list(self._disordered())
        for mine, ours in disordered:
            yield self._edit(mine, ours, tuple(dict.fromkeys(s for i in ours for s in self._subjects(i))))
        settled = {i.slot for _, ours in disordered for i in ours}
        spare = [i for i in spare if not any(i in mine for mine, _ in disordered)]
        for item in self.model.items:
            if not _is_compared(item) or item.slot in settled:
                continue
            subjects = self._subjects(item)
            if subjects and self._met(subjects):
                continue
            found = by_slot.get(item.slot)
            if found is None:
                missing.append((item, subjects))
            elif found.statement.plain() != item.statement.plain():
                yield self._edit((found,), (self._with_own_native(found, item),), subjects)
        for near in (_in_its_place, _of_its_kind, _of_one_inside):
            for item, subjects in list(missing):
                other = next((s for s in spare if near(s, item)), None)
                if other is not None:
                    spare.remove(other)
                    missing.remove((item, subjects))
                    yield self._edit((other,), (item,), subjects)
        for item, subjects in missing:
            yield self._edit((), (item,), subjects)
        surplus += [self._edit((item,), (), ()) for item in spare if not isinstance(item.statement, Open)]

    def _with_own_native(self, found: AnyItem, wanted: AnyItem) -> AnyItem:
        """Leave a trunk the learner's native VLAN, where both ends share it."""
        mine, ours = found.statement, wanted.statement
        if not (isinstance(mine, Trunk) and isinstance(ours, Trunk) and wanted.block):
            return wanted
        configurations = self.attempt.configurations
        if not shares_native(self.session.wiring, self.device, wanted.block, configurations):
            return wanted
        return replace(wanted, statement=replace(ours, native=mine.native))

    def _disordered(self) -> Iterator[tuple[tuple[AnyItem, ...], tuple[AnyItem, ...]]]:
        """Yield what the learner has and the model answer, in another order, where the order decides."""
        groups: list[tuple[type[Statement], Block | None]] = [(Dynamic, None)]
        groups += [(Entry, block) for block in self.model.blocks(LIST)]
        for kind, block in groups:
            mine: tuple[AnyItem, ...] = self.learner.all(kind, block)
            ours: tuple[AnyItem, ...] = self.model.all(kind, block)
            both = {i.slot for i in mine} & {i.slot for i in ours}
            order, wanted = ([i.slot for i in items if i.slot in both] for items in (mine, ours))
            if order != wanted and not all(self._met(self._subjects(i)) for i in ours):
                yield mine, ours

    def _edit(self, remove: tuple[AnyItem, ...], add: tuple[AnyItem, ...], subjects: tuple[str, ...]) -> Edit:
        block = (add or remove)[0].block
        header: Where | None = None
        if block is not None and (found := self.learner.header(block)) is not None:
            header = found.where
        return Edit(self.device, remove, add, subjects, header, before=self._behind(add))

    def _behind(self, add: tuple[AnyItem, ...]) -> tuple[AnyItem, ...]:
        """Return what stands behind a statement in the model answer, where the first that fits decides."""
        if not add or not add[0].statement.SPEC.traits.first_fits:
            return ()
        ours: tuple[AnyItem, ...] = self.model.all(type(add[0].statement), add[0].block)
        return ours[ours.index(add[0]) + 1 :] if add[0] in ours else ()

    def _subjects(self, item: AnyItem) -> tuple[str, ...]:
        """Return the ids of the criteria that count a statement, or that it serves."""
        counted = counted_by(self.device, item, self.model)
        if counted is not None:
            return (counted.id,)
        return tuple(
            c.id
            for other in self.model.items
            if _serves(item, other) and (c := counted_by(self.device, other, self.model)) is not None
        )

    def _met(self, subjects: tuple[str, ...]) -> bool:
        return all(
            self.session.judge(self._criterion(ident), self.attempt).fraction == 1 for ident in subjects
        )

    def _criterion(self, ident: str) -> Criterion:
        return self.session.facts.criterion_of(ident)


def _is_compared(item: AnyItem) -> bool:
    statement = item.statement
    if isinstance(statement, Open):
        return item.block is not None and item.block.kind == "vlan"
    traits = statement.SPEC.traits
    return not traits.compared_apart and not traits.only_describes


def _serves(item: AnyItem, other: AnyItem) -> bool:
    """Whether a statement has its effect by another: a pool or list by a translation, an instance by its ports."""
    statement, user = item.statement, other.statement
    if isinstance(user, Dynamic):
        if isinstance(statement, Pool):
            return statement.name.lower() == user.where.lower() and folded(statement.instance) == folded(
                user.instance
            )
        if isinstance(statement, Entry) and item.block is not None and isinstance(user.who, str):
            return item.block.name.lower() == user.who.lower() and folded(item.block.instance) == folded(
                user.instance
            )
    if isinstance(statement, Instance) and isinstance(user, Member):
        return statement.name.lower() == user.instance.lower()
    return False


def _kind(item: AnyItem) -> type[Statement]:
    return type(item.statement)


def _in_its_place(found: AnyItem, wanted: AnyItem) -> bool:
    """The same kind of statement in the same block: with another operand."""
    return _kind(found) is _kind(wanted) and found.block == wanted.block


def _of_one_inside(found: AnyItem, wanted: AnyItem) -> bool:
    """A one-to-one in the place of a published service of the same host, or the other way round."""
    mine, ours = found.statement, wanted.statement
    both = (OneToOne, Published)
    return isinstance(mine, both) and isinstance(ours, both) and _inside(mine) == _inside(ours)


def _inside(mapping: OneToOne | Published) -> object:
    return mapping.inside if isinstance(mapping, OneToOne) else mapping.inside.holder


def _of_its_kind(found: AnyItem, wanted: AnyItem) -> bool:
    """The same statement on another port, or in a block of another name."""
    kinds = (found.block.kind if found.block else "", wanted.block.kind if wanted.block else "")
    return _kind(found) is _kind(wanted) and kinds[0] == kinds[1] and found.statement == wanted.statement
