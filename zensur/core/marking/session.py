"""The second step of marking: a session, which owns all that is worked out for one paper.

An :class:`Attempt` is a set of configurations: the paper, the model answer, a blank paper, or a paper partly mended.
What is asked of it is worked out when it is needed, and once.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import replace
from functools import cached_property

from ..formats import Answer
from ..lab import KEYS, Criterion, Lab, Link
from ..sheet import AnyItem, Block, Configuration, Route, Where
from ..sim import AnyRun, Model, Network, RunRow, Wiring
from ..sim.running.expectations import circles
from ..sim.running.run_cache import RunCache, State, Variant
from ..sim.running.state_runs import StateRuns
from .criteria.effects import RouteClasses
from .facts import LabFacts
from .memo import Memo
from .reading.cabled import Links, as_planned
from .reading.pairing import named_by, names_in
from .shapes import Judged
from .sheets import Sheets


class Attempt:
    """A set of configurations, one for every device of the lab."""

    by_owner = True
    """Among the learner's own devices a next hop is right only where its owner answers."""

    def __init__(
        self,
        session: "Session",
        configurations: Mapping[str, Configuration],
        like: "Attempt | None",
        links: Links | None = None,
    ) -> None:
        own = session.sheets.cabled.links
        self.links: Links = (
            links if links is not None else like.links if like else as_planned(own, session.lab.links)
        )
        runs = self._runs = session.runs_on(self.links)
        like = like if like is not None and like._runs is runs else None
        self.session, self.configurations, self.like = session, configurations, like
        self._beside: dict[tuple[int, Variant], Network] = {}
        self.state: State = (
            tuple(runs.variant(n, c) for n, c in enumerate(configurations.values()))
            if like is None
            else tuple(
                like.state[n] if c is like.configurations[name] else runs.variant(n, c)
                for n, (name, c) in enumerate(configurations.items())
            )
        )

    @cached_property
    def network(self) -> Network:
        """The network that they make."""
        runs = self._runs
        if self.like is None:
            return runs.network_of(self.state, runs.network, runs.model_state)
        return runs.network_of(self.state, self.like.network, self.like.state)

    @cached_property
    def runs(self) -> StateRuns:
        """The pings and checks of the lab by their ids, one behind the other."""
        return StateRuns(self._runs, self.state, lambda: self.network)

    @cached_property
    def alone(self) -> StateRuns:
        """The pings and checks each with empty tables of translations, as if it were the first."""
        return StateRuns(self._runs, self.state, lambda: self.network, alone=True)

    def beside(self, name: str, configuration: Configuration) -> Network:
        """Compile a device among the others; equal configurations once."""
        number = self.session.wiring.device[name.lower()]
        variant = self._runs.variant(number, configuration)
        if variant is self.state[number]:
            return self.network
        key = (number, variant)
        if key not in self._beside:
            self._beside[key] = self.network.with_compiled_devices({number: variant.compiled})
        return self._beside[key]

    @property
    def translates(self) -> bool:
        """Whether a node translates addresses."""
        return any(v.translates for v in self.state)

    def row(self, ident: str) -> RunRow:
        """Return what came of a ping or check as a row; a circle fulfils no expected failure."""
        row, circles = self.runs.row(ident), self.session.circles(ident, self.runs[ident])
        return replace(row, as_expected=False) if circles else row

    def detail(self, ident: str) -> str:
        """Return where and why a ping or check ended, in a sentence."""
        return self.row(ident).detail

    def is_model(self, device: str) -> bool:
        """Whether a device is configured as in the model answer."""
        return self.variant(device).configuration == self.session.lab.model[device]

    def variant(self, device: str) -> Variant:
        """Return what a device is configured as, compiled."""
        return self.state[self.session.wiring.device[device.lower()]]

    @cached_property
    def planned(self) -> "Attempt":
        """The same configurations joined as planned: what is not asked of the whole network is judged there."""
        links = self.session.lab.links
        return self if self.links is links else self.with_devices({}, links)

    def with_devices(self, changed: Mapping[str, Configuration], links: Links | None = None) -> "Attempt":
        """Return the attempt with other configurations for some devices, and perhaps cabled otherwise."""
        return self.session.attempt({**self.configurations, **changed}, self, links)

    def cables_at(self, links: Iterable[Link]) -> tuple[Where, ...]:
        """Return the lines of the paper that links stand in."""
        found = (self.session.sheets.cabled.line_of(link) for link in links)
        return tuple(where for where in found if where is not None)


class Alone:
    """One device of an attempt among devices as the model answer has them."""

    by_owner = False

    def __init__(self, attempt: Attempt, device: str) -> None:
        self.session = attempt.session
        self.configurations = {**self.session.lab.model, device: attempt.configurations[device]}

    def beside(self, name: str, configuration: Configuration) -> Network:
        """Compile a device among the others; equal configurations once for all papers."""
        return self.session.alone(name, configuration)


class Session:
    """One paper being marked, with a memo that the papers of a class share one after another."""

    def __init__(self, memo: Memo, sheets: Sheets) -> None:
        self.memo, self.sheets = memo, sheets
        self.facts: LabFacts = memo.facts
        self.lab: Lab = memo.lab
        self.wiring: Wiring = memo.facts.wiring
        self.budget = memo.facts.budget
        self._attempts: dict[tuple[Links, State], Attempt] = {}
        self._cabled: dict[Links, RunCache] = {self.lab.links: memo.runs}
        self.paper = Attempt(self, sheets.configurations, None)
        sizes = [len(c.items) for c in sheets.configurations.values()]
        self._dearest = max(sizes, default=0)
        self.spend(sum(sizes))

    @property
    def network(self) -> Network:
        """The network of the model answer."""
        return self.memo.network

    @property
    def answers(self) -> Mapping[str, Answer]:
        """What was answered, by the questions as they are compared."""
        return self.sheets.paper.answers

    def spend(self, work: int) -> None:
        """Count work, in statements looked at: cached or not, so that a result depends on the paper alone."""
        self.budget -= work

    @property
    def is_cut_short(self) -> bool:
        """Whether the budget of the search is used up: it has to suffice for the dearest device there is."""
        return self.budget < self._dearest

    def runs_on(self, links: Links) -> RunCache:
        """Return the runs where the devices are joined as given: in the memo where that is as planned."""
        if links not in self._cabled:
            lab = replace(self.lab, links=links)
            self._cabled[links] = RunCache(Model(lab))
            self.spend(sum(len(c.items) for c in lab.model.values()))
        return self._cabled[links]

    def attempt(
        self, configurations: Mapping[str, Configuration], like: Attempt, links: Links | None = None
    ) -> Attempt:
        """Return the attempt that some configurations make; the same state only once."""
        made = Attempt(self, configurations, like, links)
        known = self._attempts.get((made.links, made.state))
        if known is None:
            known = self._attempts[made.links, made.state] = made
            changed = (c for n, c in configurations.items() if c is not like.configurations[n])
            self.spend(sum(len(c.items) for c in changed) + len(configurations))
        return known

    # --- judging -----------------------------------------------------------------------------------------------

    def judge(self, criterion: Criterion, attempt: Attempt) -> Judged:
        """Compare one criterion: a device is judged by itself, so that only outcomes depend on others."""
        key = KEYS[criterion.key]
        if key.of_paper or key.of_run:
            judged: Judged = key.judge(self, criterion, attempt)
            return judged
        if key.of_network:
            return self._best(criterion, attempt)
        attempt = attempt.planned
        alone = self.judge_alone(criterion, attempt)
        around = self._around(criterion.device, attempt) if key.beside and alone.fraction < 1 else None
        if around is None:
            return alone
        device = criterion.device
        among = self.memo.judged(
            (criterion, attempt.variant(device), around),
            attempt.configurations[device],
            lambda: self._best(criterion, attempt),
        )
        return among if among.fraction > alone.fraction else alone

    def judge_alone(self, criterion: Criterion, attempt: Attempt) -> Judged:
        """Compare one criterion about a device, with all other devices as in the model answer."""
        device, beside = criterion.device, KEYS[criterion.key].beside
        return self.memo.judged(
            (criterion, attempt.variant(device)),
            attempt.configurations[device],
            lambda: self._best(criterion, Alone(attempt, device) if beside else attempt),
        )

    def _around(self, device: str, attempt: Attempt) -> State | None:
        """Return what decides to whom a device's packets go, beside itself; None where it is as in the model answer.

        Those are its neighbours, and theirs, whose ports decide by which routes a neighbour answers for others; all
        where something is learned.
        """
        number, model = self.wiring.device[device.lower()], self.memo.runs.model_state
        touching = self.wiring.touching
        learns = any(v.learns for v in attempt.state)
        near = range(len(model)) if learns else {far for n in touching[number] for far in touching[n]}
        others = sorted(n for n in near if n != number)
        if all(attempt.state[n] is model[n] for n in others):
            return None
        return tuple(attempt.state[n] for n in others)

    def _best(self, criterion: Criterion, attempt: Attempt | Alone) -> Judged:
        """Compare with the model answer, and with further answers where that is not met."""
        judge = KEYS[criterion.key].judge
        best: Judged = judge(self, criterion, attempt)
        for text in criterion.accept:
            if best.fraction == 1:
                break
            other = Session(self.memo.with_answer(criterion, text), self.sheets)
            also: Judged = judge(other, replace(criterion, accept=()), attempt)
            if also.fraction > best.fraction:
                best = replace(also, required=best.required)
        if criterion.own_name and best.fraction and not self._is_named(criterion, attempt):
            best = replace(best, fraction=min(best.fraction, 0.5), found=f"{best.found}, under another name")
        return best

    def _is_named(self, criterion: Criterion, attempt: Attempt | Alone) -> bool:
        """Whether the learner uses the names that what a criterion counts bears in the model answer."""
        asked = named_by(self.counted(criterion))
        wanted = {n for n in names_in(self.lab.model[criterion.device]) if n[1] in asked}
        return wanted <= names_in(attempt.configurations[criterion.device])

    def counted(self, criterion: Criterion) -> list[AnyItem]:
        """Return the statements of the model answer that a criterion is about."""
        return self.facts.counted(criterion)

    def block(self, criterion: Criterion) -> Block:
        """Return the port, sub-port, loopback or VLAN that a criterion is about."""
        found = self.lab.model[criterion.device].bearer(criterion.operand)
        return found or Block("port", criterion.operand)

    def node(self, criterion: Criterion) -> int:
        """Return the node that a criterion is about; the main one where the model answer declares no such instance."""
        return self.facts.node(criterion)

    def classes(self, criterion: Criterion) -> RouteClasses:
        """Return the addresses on which a route of the model answer is judged."""
        return self.facts.classes[criterion.node, criterion.operand]

    def alone(self, name: str, configuration: Configuration) -> Network:
        """Compile a device among devices as the model answer has them."""
        return self.memo.alone(name, configuration)

    def candidate_configurations(
        self, device: str, attempt: Attempt | Alone, judged: Callable[[Route], bool] | None = None
    ) -> Iterator[Configuration]:
        """Yield the configurations in which a device is judged on what is not its ports, the learner's own first.

        One slip is lost once: the ports, and for a route those that are not ``judged`` themselves and only serve to
        find next hops, are as the learner has them or as the model answer has them, whichever is better. Where none is
        judged, no next hop has to be found.
        """
        own = attempt.configurations[device]
        if own == self.lab.model[device]:
            yield self.lab.model[device]
            return
        yield own
        ported = self.memo.with_model_ports(device, own)
        yield ported
        if judged is not None and any(judged(i.statement) for i in own.all(Route)):
            yield self.memo.with_model_routes(device, own, judged)
            yield self.memo.with_model_routes(device, ported, judged)

    # --- runs --------------------------------------------------------------------------------------------------

    def as_it_should(self, ping: str, attempt: Attempt, alone: bool = False) -> bool:
        """Say whether a ping is as expected; one that a blank paper meets also has to end like the model's.

        ``alone`` runs it with empty tables of translations.
        """
        ran = (attempt.alone if alone else attempt.runs)[ping]
        if not ran.as_expected or self.circles(ping, ran):
            return False
        return not self.memo.blank_runs[ping].as_expected or self._ends_like_the_model(ping, ran)

    def circles(self, ident: str, ran: AnyRun) -> bool:
        """Say whether a packet that should have failed went round in a circle, as the model answer's does not."""
        return circles(ident, ran, self.facts.model.runs)

    def ends_like_the_model(self, ping: str, attempt: Attempt) -> bool:
        """Say whether a ping ends at the same device for the same reason as in the model answer."""
        return self._ends_like_the_model(ping, attempt.runs[ping])

    def _ends_like_the_model(self, ping: str, ran: AnyRun) -> bool:
        model = self.facts.model.runs[ping].result
        return (ran.result.reason, ran.result.by) == (model.reason, model.by)

    def stands_alone(self, ping: str) -> bool:
        """Say whether nothing that was sent before decides what comes of a ping, here and in the model answer.

        It can then be run by itself, which is all the faster the more there are before it.
        """
        if not self.paper.translates and not self.memo.network.translates:
            return True
        if not _same(self.facts.model.runs[ping], self.memo.model_alone[ping]):
            return False
        paper = self.paper
        return paper.runs.found_tables_empty(ping) or _same(paper.runs[ping], paper.alone[ping])

    def asks_more(self, device: str) -> bool:
        """Say whether a criterion looks at what equal statements may differ in: masks, names, descriptions."""
        return device in self.facts.asking_more

    @property
    def criteria(self) -> Iterable[Criterion]:
        """The criteria of the scheme."""
        return self.facts.by_id.values()


def _same(after: AnyRun, alone: AnyRun) -> bool:
    """Whether the same came of a ping behind others as by itself."""
    return (after.as_expected, after.outcome_fits, after.result.reason, after.result.by) == (
        alone.as_expected, alone.outcome_fits, alone.result.reason, alone.result.by,
    )  # fmt: skip
