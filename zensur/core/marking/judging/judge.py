"""Compares a learner's network with the model answer, one criterion at a time."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import replace
from functools import cached_property
from ipaddress import ip_network

from ...lab import Criterion, Lab, answers_of, counted_by, with_answer
from ...sheet import (
    AnyItem,
    Block,
    Configuration,
    Route,
    Switched,
    Where,
)
from ...sheet.statements import Open
from ...sim import AnyRun, Network, Runs, Wiring
from ..result import Judged
from ..scheme import tasks_of
from .attempt import Attempt
from .effects import RouteClasses, with_ports_of, with_routes_of
from .pairing import named_by, names_in
from .unread import Unread


class Judge:
    """All that marking a lab needs and that does not depend on the paper, worked out once."""

    def __init__(self, lab: Lab, keys: Mapping[str, "Judging"]) -> None:
        self.lab, self.keys = lab, keys
        self.wiring = Wiring(lab)
        self._first: Attempt | None = None
        self.model = self._first = self.attempt(lab.model)
        self.blank = self.attempt(lab.blank)
        self._compiled: dict[tuple[str, int], tuple[Configuration, Network]] = {}
        self._classes: dict[tuple[str, str], RouteClasses] = {}
        self._counted: dict[str, list[AnyItem]] = {}
        self._others: dict[tuple[Criterion, str], Judge] = {}

    def counted(self, criterion: Criterion) -> list[AnyItem]:
        """Return the statements of the model answer that a criterion is about."""
        if criterion.id not in self._counted:
            self._counted[criterion.id] = answers_of(criterion, self.lab.model[criterion.device])
        return self._counted[criterion.id]

    def arranged(
        self, device: str, attempt: Attempt, judged: Callable[[Route], bool] | None = None
    ) -> Iterator[Configuration]:
        """Yield the configurations in which a device is judged on what is not its ports, the learner's own first.

        One slip is lost once: the ports, and for a route those that are not ``judged`` themselves and only serve to
        find next hops, are as the learner has them or as the model answer has them, whichever is better.
        """
        model = self.lab.model[device]
        if device in attempt.as_model:
            yield model
            return
        own = attempt.configurations[device]
        yield own
        ported = attempt.ported.get(device)
        if ported is None:
            ported = attempt.ported[device] = with_ports_of(own, model)
        yield ported
        if judged is not None:
            yield with_routes_of(own, model, judged)
            yield with_routes_of(ported, model, judged)

    @cached_property
    def _criteria(self) -> dict[str, Criterion]:
        return {c.id: c for task in tasks_of(self.lab) for c in task.criteria}

    def criterion(self, key: str, device: str, operand: str = "", instance: str | None = None) -> Criterion:
        """Return the scheme's criterion about something, or one that asks for the effect alone."""
        asked = Criterion(key, device, operand, 0, None, instance or "")
        return self._criteria.get(asked.id, asked)

    @property
    def criteria(self) -> Iterable[Criterion]:
        """The criteria of the scheme."""
        return self._criteria.values()

    @cached_property
    def telling(self) -> dict[str, tuple[frozenset[object], frozenset[object]]]:
        """What tells each device's sheet from others': of the model answer, and of what is given."""
        lab = self.lab
        return {d: (frozenset(telling(lab.model[d])), frozenset(telling(lab.under[d]))) for d in lab.devices}

    @cached_property
    def _asking_more(self) -> frozenset[str]:
        return frozenset(c.device for c in self.criteria if c.dotted or c.key in ("name", "about"))

    def asks_more(self, device: str) -> bool:
        """Say whether a criterion looks at what the same statements may be written in: masks, names, descriptions."""
        return device in self._asking_more

    def criterion_of(self, ident: str) -> Criterion:
        """Return the scheme's criterion with an id, or the one that counts statements of the model answer."""
        found = self._criteria.get(ident)
        return found or self._statement_criteria[ident]

    @cached_property
    def _statement_criteria(self) -> dict[str, Criterion]:
        return {
            by.id: by
            for name, model in self.lab.model.items()
            for item in model.items
            if (by := counted_by(name, item, model)) is not None
        }

    def attempt(
        self,
        configurations: Mapping[str, Configuration],
        unread: Mapping[str, tuple[Unread, ...]] | None = None,
        sheets: Mapping[str, Configuration] | None = None,
        answers: Mapping[str, tuple[str, Where]] | None = None,
    ) -> Attempt:
        """Compile configurations, one for every device; ``unread``, ``sheets`` and ``answers`` tell more of a paper."""
        if self._first is None:
            network = Network.of_lab(self.lab, configurations, self.wiring)
            runs = Runs(network, network, self.lab.expected)
            return Attempt(configurations, network, runs)
        model = self._first
        changed = {n: c for n, c in configurations.items() if c != model.configurations[n]}
        network = model.network.with_devices(changed)
        runs = model.runs.on(network)
        return Attempt(
            configurations, network, runs, unread or {}, sheets or {}, answers or {},
            as_model=frozenset(configurations.keys() - changed), like=model,
        )  # fmt: skip

    @cached_property
    def model_runs(self) -> dict[str, AnyRun]:
        """The lab's pings and checks on the model answer, by the ids of their criteria."""
        return {ident: self.run(ident, self.model) for ident in self.lab.expected}

    def run(self, ident: str, attempt: Attempt) -> AnyRun:
        """Run one of the lab's pings (``ping:ID``) or checks (``check:ID``) on an attempt."""
        return attempt.runs[ident]

    def judge(self, criterion: Criterion, attempt: Attempt) -> Judged:
        """Compare one criterion; the same one on the same attempt only once."""
        found = attempt.judged.get(criterion)
        if found is None:
            found = attempt.judged[criterion] = self._as_before(criterion, attempt) or self._best(
                criterion, attempt
            )
        return found

    def _as_before(self, criterion: Criterion, attempt: Attempt) -> Judged | None:
        """Return what was judged of the attempt before a repair that did not touch the device.

        A device is judged by itself, so that only outcomes depend on others.
        """
        like, name = attempt.like, criterion.device
        if (
            criterion.is_outcome
            or like is None
            or not name
            or like.configurations[name] is not attempt.configurations[name]
        ):
            return None
        return self.judge(criterion, like)

    def _best(self, criterion: Criterion, attempt: Attempt) -> Judged:
        """Compare with the model answer, and with further answers where that is not met."""
        best = self.keys[criterion.key](self, criterion, attempt)
        for text in criterion.accept if criterion.device else ():
            if best.fraction == 1:
                break
            other = self._with_answer(replace(criterion, accept=()), text)
            also = self.keys[criterion.key](other, criterion, attempt)
            if also.fraction > best.fraction:
                best = replace(also, required=best.required)
        if criterion.own_name and best.fraction and not self._is_named(criterion, attempt):
            best = replace(best, fraction=min(best.fraction, 0.5), found=f"{best.found}, under another name")
        return best

    def _is_named(self, criterion: Criterion, attempt: Attempt) -> bool:
        """Whether the learner uses the names that what a criterion counts bears in the model answer."""
        asked = named_by(self.counted(criterion))
        wanted = {n for n in names_in(self.lab.model[criterion.device]) if n[1] in asked}
        return wanted <= names_in(attempt.configurations[criterion.device])

    def _with_answer(self, criterion: Criterion, text: str) -> "Judge":
        """Return the judge of the lab with a further answer."""
        key = (criterion, text)
        if key not in self._others:
            lab, why = with_answer(self.lab, criterion, text)
            assert lab is not None, why  # the lab file was read only because it can be
            self._others[key] = Judge(lab, self.keys)
        return self._others[key]

    def block(self, criterion: Criterion) -> Block:
        """Return the port, sub-port, loopback or VLAN that a criterion is about."""
        found = self.lab.model[criterion.device].bearer(criterion.operand)
        return found or Block("port", criterion.operand)

    def forget(self) -> None:
        """Forget what was compiled for the paper before."""
        self._compiled.clear()

    def alone(self, name: str, configuration: Configuration) -> Network:
        """Compile a device among devices as the model answer has them; the same configuration only once."""
        if configuration == self.lab.model[name]:
            return self.model.network
        known = self._compiled.get((name, id(configuration)))
        if known is None or known[0] is not configuration:
            known = (configuration, self.model.network.with_device(name, configuration))
            self._compiled[name, id(configuration)] = known
        return known[1]

    def node(self, criterion: Criterion) -> int:
        """Return the node that a criterion is about; the main one where the model answer declares no such instance."""
        found = self.model.network.find_node(criterion.node)
        return self.wiring.device[criterion.device.lower()] if found is None else found

    def classes(self, criterion: Criterion) -> RouteClasses:
        """Return the addresses on which a route of the model answer is judged."""
        key = (criterion.node, criterion.operand)
        if key not in self._classes:
            self._classes[key] = RouteClasses(
                self.model.network, self.node(criterion), ip_network(criterion.operand)
            )
        return self._classes[key]

    def as_it_should(self, ping: str, attempt: Attempt, alone: bool = False) -> bool:
        """Say whether a ping is as expected; one that a blank paper meets also has to end like the model's.

        ``alone`` runs it with empty tables of translations.
        """
        ran = attempt.alone[ping] if alone else attempt.runs[ping]
        if not ran.as_expected:
            return False
        return not self.run(ping, self.blank).as_expected or self._ends_like_the_model(ping, ran)

    def ends_like_the_model(self, ping: str, attempt: Attempt) -> bool:
        """Say whether a ping ends at the same device for the same reason as in the model answer."""
        return self._ends_like_the_model(ping, self.run(ping, attempt))

    def _ends_like_the_model(self, ping: str, ran: AnyRun) -> bool:
        model = self.model_runs[ping].result
        return (ran.result.reason, ran.result.by) == (model.reason, model.by)

    def stands_alone(self, ping: str, attempt: Attempt) -> bool:
        """Say whether nothing that was sent before decides what comes of a ping, here and in the model answer.

        It can then be run by itself, which is all the faster the more there are before it.
        """
        return _same_alone(self.model, ping) and _same_alone(attempt, ping)


def _same_alone(attempt: Attempt, ping: str) -> bool:
    if not attempt.network.translates:
        return True
    after, alone = attempt.runs[ping], attempt.alone[ping]
    return (after.as_expected, after.outcome_fits, after.result.reason, after.result.by) == (
        alone.as_expected, alone.outcome_fits, alone.result.reason, alone.result.by,
    )  # fmt: skip


def telling(configuration: Configuration) -> set[object]:
    """Return what tells a sheet from another's: all its statements but headers and switches."""
    return {
        (i.block, i.statement.plain())
        for i in configuration.items
        if not isinstance(i.statement, Open | Switched)
    }


Judging = Callable[[Judge, Criterion, Attempt], Judged]
"""How a key of a criterion is judged."""
