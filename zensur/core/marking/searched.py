"""The fifth step of marking: the mistakes behind the lost marks, found by repairing and simulating again.

For every lost criterion the smallest set of edits is found that mends it. The work is bounded, and counted in
statements looked at: beyond the bound what was found so far stands, and the result says that the search was cut short.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import combinations

from ..formats import plain
from ..lab import Criterion
from ..sheet.statements import Open
from ..sim import AnyRun
from .differences.cables import cable_edits, recabled
from .differences.edits import Edit, Of, apply
from .differences.found import differences
from .differences.rereading import reread
from .guarded import Guarded
from .reading.unread import Unread
from .session import Attempt, Session

MOST_TOGETHER = 3
"""So many edits are tried together, beyond those that are needed anyway."""


@dataclass(frozen=True)
class Searched:
    """Every edit that leads to the nearest accepted network, and which of them each lost criterion needs.

    ``base`` is the paper as it was compared: with exchanged sheets put right, and headers that were not understood
    read. ``needs`` are, by the id of each lost criterion, the numbers of the edits that mend it together;
    ``only_back`` says of an edit that all pings that need it arrive and only their answers are lost without it.
    """

    guarded: Guarded
    lost: Mapping[str, Criterion]
    edits: list[Edit]
    base: Attempt
    needs: Mapping[str, tuple[int, ...]] = field(default_factory=dict)
    only_back: Mapping[int, bool] = field(default_factory=dict)

    @property
    def session(self) -> Session:
        """The session of the paper."""
        return self.guarded.session

    @property
    def used(self) -> set[int]:
        """The numbers of the edits that some criterion needs: the mistakes."""
        return {n for needs in self.needs.values() for n in needs}


def search(guarded: Guarded) -> Searched:
    """Find, for every lost criterion, the smallest set of edits that mends it; nothing where a paper is too large."""
    session, earned = guarded.session, guarded.earned
    lost = {i: c for i, _, c in session.facts.criteria if earned[i] < 1 and i not in guarded.untouched}
    if not lost or session.is_cut_short:
        return Searched(guarded, lost, [], session.paper)
    first, base, unread = reread(session)
    edits, surplus = differences(session, base, session.sheets.missing, unread)
    cables, needless = cable_edits(session)
    repairs = _further(session, lost, [*cables, *first, *edits], [*surplus, *needless])
    needs = {i: _needed(repairs, i, c) for i, c in lost.items()}
    _with_hidden(repairs, lost, needs)
    _with_headers(repairs, needs)
    return Searched(guarded, lost, repairs.edits, base, needs, _only_back(repairs, lost, needs))


def needed_of(
    session: Session, edits: list[Edit], lost: Mapping[str, Criterion]
) -> dict[str, tuple[int, ...]]:
    """Find, for lost criteria of a session, the smallest set of some edits that mends each; empty where none does."""
    repairs, known = _Repairs(session, list(edits), []), range(len(edits))
    found = {i: _needed(repairs, i, c) for i, c in lost.items() if not c.answer}
    return {i: needs if all(n in known for n in needs) else () for i, needs in found.items()}


def _needed(repairs: "_Repairs", ident: str, criterion: Criterion) -> tuple[int, ...]:
    if criterion.answer:  # a question: no statement answers it
        return repairs.as_answered(ident, criterion)
    return _explain(repairs, criterion) if criterion.is_outcome else _of_its_statements(repairs, criterion)


class _Repairs:
    """The learner's network with some of the edits made: those that are ``needed``, and ``spare`` ones behind them."""

    def __init__(self, session: Session, needed: list[Edit], spare: list[Edit]) -> None:
        self.session, self.attempt = session, session.paper
        self.edits = [*needed, *spare]
        self.needed = range(len(needed))
        self.spare = range(len(needed), len(self.edits))
        self._made: dict[frozenset[int], Attempt] = {frozenset(): session.paper}
        self._alone: dict[str, bool] = {}

    def with_edits(self, chosen: Iterable[int]) -> Attempt:
        """Make some of the edits; most of them from where all that are needed were made, which is nearer."""
        key = frozenset(chosen)
        if key not in self._made:
            edits = [self.edits[n] for n in sorted(key)]
            made = apply(edits, self.attempt.configurations)
            cables = [e for e in edits if e.of is Of.CABLE]
            links = recabled(self.attempt.links, self.session.lab.links, cables)
            from_all = self._made.get(frozenset(self.needed)) if 2 * len(key) > len(self.needed) else None
            if from_all is None or from_all.links != links:
                self._made[key] = self.attempt.with_devices(made, links)
            else:
                wanted = {**self.attempt.configurations, **made}
                there = from_all.configurations
                changed = {n: c for n, c in wanted.items() if c is not there[n] and c != there[n]}
                self._made[key] = from_all.with_devices(changed)
        return self._made[key]

    def is_in_place(self, n: int) -> bool:
        """Whether an edit changes what serves in the place of what was asked: nothing else explains it sooner."""
        return n in self.spare and bool(self.edits[n].add)

    def as_answered(self, ident: str, criterion: Criterion) -> tuple[int, ...]:
        """Add the mistake of a question that is not answered, or not right."""
        answer = self.session.answers.get(plain(criterion.operand))
        given = Unread(answer.where, "; ".join(answer.texts), criterion.operand) if answer else None
        self.edits.append(Edit("", (), (), (ident,), of=Of.ANSWER, unread=given))
        return (len(self.edits) - 1,)

    def as_in_the_model(self, device: str) -> Iterator[int]:
        """Add the edit that makes a whole device as the model answer has it; yields its number where it differs."""
        learner, model = self.attempt.configurations[device], self.session.lab.model[device]
        there, wanted = set(learner.items), set(model.items)
        remove = tuple(i for i in learner.items if i not in wanted)
        add = tuple(i for i in model.items if i not in there)
        edit = Edit(device, remove, add, (), of=Of.DEVICE)
        if remove or add:
            if edit not in self.edits:
                self.edits.append(edit)
            yield self.edits.index(edit)

    def run(self, criterion: Criterion, attempt: Attempt) -> AnyRun:
        """Run a ping on an attempt, by itself where nothing that was sent before decides what comes of it."""
        return (attempt.alone if self._stands_alone(criterion) else attempt.runs)[criterion.id]

    def mends(self, criterion: Criterion, chosen: Iterable[int]) -> bool:
        """Say whether some edits together make a ping as expected, or meet a criterion."""
        mended = self.with_edits(chosen)
        if criterion.is_run:
            return self.session.as_it_should(criterion.id, mended, self._stands_alone(criterion))
        return self.session.judge(criterion, mended).fraction == 1

    def fraction(self, criterion: Criterion, chosen: Iterable[int]) -> float:
        """Return what a criterion earns with some edits made."""
        return self.session.judge(criterion, self.with_edits(chosen)).fraction

    def _stands_alone(self, criterion: Criterion) -> bool:
        found = self._alone.get(criterion.id)
        if found is None:
            found = self._alone[criterion.id] = self.session.stands_alone(criterion.id)
        return found


def _further(
    session: Session, lost: Mapping[str, Criterion], edits: list[Edit], surplus: list[Edit]
) -> _Repairs:
    """Look once more where the edits do not mend a ping: one may have hidden what another lacks.

    An address with far too wide a mask, for one, reaches networks for which the route is missing.
    """
    repairs = _Repairs(session, edits, surplus)
    runs = [c for c in lost.values() if c.is_run]
    everything = range(len(repairs.edits))
    if (
        not edits
        or session.is_cut_short
        or all(repairs.mends(c, repairs.needed) or repairs.mends(c, everything) for c in runs)
    ):
        return repairs
    more, also = differences(session, repairs.with_edits(repairs.needed), frozenset(), session.sheets.unread)
    added = [edit for edit in more if edit not in edits]
    if not added:
        return repairs
    return _Repairs(session, [*edits, *added], [*surplus, *(e for e in also if e not in surplus)])


def _with_hidden(repairs: _Repairs, lost: Mapping[str, Criterion], needs: dict[str, tuple[int, ...]]) -> None:
    """Add what mends a ping only once all the others are mended: a wrong device that answers may hide a mistake."""
    everything = [*repairs.needed, *repairs.spare]
    for ident, criterion in lost.items():
        if not criterion.is_run or not needs[ident] or repairs.session.is_cut_short:
            continue
        used = {n for own in needs.values() for n in own}
        if used == set(repairs.needed) or repairs.mends(criterion, used):
            continue
        hidden = [n for n in everything if n not in used]
        if repairs.mends(criterion, [*used, *hidden]):
            found = _greedy(repairs, criterion, hidden, used)
            needs[ident] += () if repairs.session.is_cut_short else found


def _with_headers(repairs: _Repairs, needs: dict[str, tuple[int, ...]]) -> None:
    """Add the header above what has to be mended, where it was not understood: until it is, nothing below it counts.

    An edit of a statement below brings the header along, so that the search does not miss it; one of a whole sheet
    takes away what was misspelt there.
    """
    used = {n for own in needs.values() for n in own}
    for n, header in enumerate(repairs.edits):
        opened = {i.block for i in header.add if isinstance(i.statement, Open)}
        if header.unread is None or not opened or n in used:
            continue
        below = {
            m for m in used for part in repairs.edits[m].parts
            if part.device == header.device and opened & {i.block for i in (*part.remove, *part.add)}
            and repairs.edits[m].of not in (Of.SHEET, Of.EXCHANGE, Of.DEVICE)
        }  # fmt: skip
        for ident, own in needs.items():
            if below & set(own):
                needs[ident] = tuple(sorted((*own, n)))


def _of_its_statements(repairs: _Repairs, criterion: Criterion) -> tuple[int, ...]:
    """Find the edits about a criterion's own statements; where there is none, one that makes it better."""
    own = tuple(n for n in repairs.needed if criterion.id in repairs.edits[n].subjects)
    if own:
        return _with_needless(repairs, criterion, own)
    before = repairs.fraction(criterion, ())
    for n in (*repairs.spare, *repairs.needed):
        if repairs.session.is_cut_short:
            break
        if criterion.device in repairs.edits[n].devices and repairs.fraction(criterion, [n]) > before:
            return (n,)
    return ()


def _with_needless(repairs: _Repairs, criterion: Criterion, own: tuple[int, ...]) -> tuple[int, ...]:
    """Add the statements that have to go, where what is missing is not all that is wrong."""
    chosen = list(own)
    best = repairs.fraction(criterion, chosen)
    for n in repairs.spare:
        if best == 1 or repairs.session.is_cut_short:
            break
        if criterion.device in repairs.edits[n].devices:
            also = repairs.fraction(criterion, [*chosen, n])
            if also > best:
                best = also
                chosen.append(n)
    return tuple(chosen)


def _explain(repairs: _Repairs, asked: Criterion) -> tuple[int, ...]:
    """Find the smallest set of edits that makes a ping or check as expected, or a port be up; empty where none does."""
    everything = list(repairs.needed)
    if repairs.session.is_cut_short:
        return ()
    if not repairs.mends(asked, everything):
        everything += repairs.spare
        if not repairs.mends(asked, everything):
            return _by_devices(repairs, asked)
    concerned = _concerned(repairs, asked)
    candidates = [n for n in everything if repairs.edits[n].devices & concerned]
    # What is missing when everything else is mended is needed in every set.
    core = []
    for n in candidates:
        if repairs.session.is_cut_short:
            return ()
        if not repairs.mends(asked, [m for m in everything if m != n]):
            core.append(n)
    if repairs.mends(asked, core):
        return tuple(core)
    rest = sorted((n for n in candidates if n not in core), key=lambda n: bool(repairs.is_in_place(n)))
    for size in range(1, MOST_TOGETHER + 1 - len(core)):
        for more in combinations(rest, size):
            if repairs.session.is_cut_short:
                return ()
            if repairs.mends(asked, [*core, *more]):
                return tuple(sorted([*core, *more]))
    return _greedy(repairs, asked, everything)


def _by_devices(repairs: _Repairs, asked: Criterion) -> tuple[int, ...]:
    """Find the devices that have to be as in the model answer, where the edits alone mend nothing: never none."""
    session = repairs.session
    for devices in (
        _concerned(repairs, asked),
        set(session.lab.devices),
    ):  # what is learned may come from anywhere
        whole = [n for d in session.lab.devices if d in devices for n in repairs.as_in_the_model(d)]
        if not session.is_cut_short and repairs.mends(asked, whole):
            return _greedy(repairs, asked, whole)
    return ()


def _greedy(
    repairs: _Repairs, asked: Criterion, everything: list[int], always: Iterable[int] = ()
) -> tuple[int, ...]:
    """Leave out one edit after another as long as the ping stays mended; ``always`` are made in any case."""
    kept, always = list(everything), list(always)
    for n in everything:
        fewer = [m for m in kept if m != n]
        if not repairs.session.is_cut_short and repairs.mends(asked, [*always, *fewer]):
            kept = fewer
    return tuple(kept)


def _concerned(repairs: _Repairs, asked: Criterion) -> set[str]:
    """Return the devices on the learner's journey and on the model's, with the switches they pass."""
    session = repairs.session
    if not asked.is_run:
        return set(session.lab.devices)
    wiring = session.wiring
    of = wiring.device_of_node
    found: set[int] = set()
    for ran in (repairs.attempt.runs[asked.id], session.facts.model.runs[asked.id]):
        found.add(of(ran.result.sender))
        for step in ran.result.steps:
            found.add(of(step.node))
            neighbour = step.decision.neighbour
            if neighbour is not None:
                found.update(map(of, neighbour.others), (passed.device for passed in neighbour.path))
    beside = {o for device in found for o in wiring.touching[device] if wiring.is_switch[o]}
    return {wiring.names[n] for n in found | beside}  # a switch that is off hides the rest of the way


def _only_back(
    repairs: _Repairs, lost: Mapping[str, Criterion], needs: Mapping[str, tuple[int, ...]]
) -> dict[int, bool]:
    """Say of each edit whether the pings that need it arrive without it, so that only their answers are lost."""
    found: dict[int, bool] = {}
    for n in repairs.needed:
        pings = [c for i, c in lost.items() if c.is_run and n in needs[i]]
        without = repairs.with_edits(m for m in repairs.needed if m != n) if pings else None
        found[n] = without is not None and all(
            repairs.run(c, without).result.seen_as is not None for c in pings
        )
    return found
