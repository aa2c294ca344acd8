"""Compares a learner's network with the model answer, one criterion at a time."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from ipaddress import ip_network

from ...addresses import Prefix
from ...lab import Criterion, Lab, answers_of, counted_by, with_answer
from ...sheet import (
    AnyItem,
    Block,
    Configuration,
    Gateway,
    Item,
    OnPort,
    Route,
    Switched,
    Where,
    write_destination,
)
from ...sheet.statement import folded
from ...sheet.statements import Open
from ...sim import AnyRun, Checked, Network, Runs, Wiring, answered_by, ending, written
from ..result import Judged
from ..scheme import is_on, tasks_of
from .effects import RouteClasses, gateway_is_right, with_ports_of, with_routes_of
from .pairing import named_by, names_in
from .statements import JUDGING
from .translations import translation
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
            configurations, network, self.runs.on(network), self.unread, self.sheets,
            as_model=self.as_model - changed.keys(), like=self,
        )  # fmt: skip


class Judge:
    """All that marking a lab needs and that does not depend on the paper, worked out once."""

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.wiring = Wiring(lab)
        self._first: Attempt | None = None
        self.model = self._first = self.attempt(lab.model)
        self.blank = self.attempt(lab.blank)
        self._compiled: dict[tuple[str, int], tuple[Configuration, Network]] = {}
        self._classes: dict[tuple[str, str], RouteClasses] = {}
        self._counted: dict[str, list[AnyItem]] = {}
        self._others: dict[tuple[Criterion, str], Judge] = {}
        self._keys: dict[str, Callable[[Criterion, Attempt], Judged]] = {
            "address": self._address,
            "enabled": self._enabled,
            "route": self._route,
            "gateway": self._gateway,
            "ping": self._run,
            "check": self._run,
        }
        for key, judging in {**JUDGING, "translation": translation}.items():
            self._keys[key] = partial(judging, self)

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
    ) -> Attempt:
        """Compile configurations, one for every device; ``unread`` and ``sheets`` tell more of a paper."""
        if self._first is None:
            network = Network.of_lab(self.lab, configurations, self.wiring)
            runs = Runs(network, network, self.lab.expected)
            return Attempt(configurations, network, runs)
        model = self._first
        changed = {n: c for n, c in configurations.items() if c != model.configurations[n]}
        network = model.network.with_devices(changed)
        runs = model.runs.on(network)
        return Attempt(
            configurations, network, runs, unread or {}, sheets or {},
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
            or like.configurations[name] is not attempt.configurations[name]
        ):
            return None
        return self.judge(criterion, like)

    def _best(self, criterion: Criterion, attempt: Attempt) -> Judged:
        """Compare with the model answer, and with further answers where that is not met."""
        best = self._keys[criterion.key](criterion, attempt)
        for text in criterion.accept:
            if best.fraction == 1:
                break
            other = self._with_answer(replace(criterion, accept=()), text)
            also = other._keys[criterion.key](criterion, attempt)
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
            self._others[key] = Judge(lab)
        return self._others[key]

    def block(self, criterion: Criterion) -> Block:
        """Return the port, sub-port, loopback or VLAN that a criterion is about."""
        found = self.lab.model[criterion.device].bearer(criterion.operand)
        return found or Block("port", criterion.operand)

    def _address(self, criterion: Criterion, attempt: Attempt) -> Judged:
        block = self.block(criterion)
        learner = attempt.configurations[criterion.device]
        required = [i.statement.interface for i in self.lab.model[criterion.device].all(OnPort, block)]
        items = learner.all(OnPort, block)
        found = [i.statement.interface for i in items]
        fractions = []
        for family in (4, 6):
            wanted = [r for r in required if r.version == family]
            if wanted:
                right = sum(r in found for r in wanted)
                near = sum(any(r.ip == f.ip for f in found) for r in wanted)
                fractions.append(1.0 if right == len(wanted) else 0.5 if near else 0.0)
        fraction = sum(fractions) / len(fractions) if fractions else 1.0
        lines = _lines(items) or _lines([learner.header(block)])
        said = ", ".join(str(f) for f in found) or "no address"
        written = ""
        if criterion.dotted:
            written = ", the mask written out"
            short = any(i.statement.is_short and i.statement.interface in required for i in items)
            if fraction and short:
                fraction, said = min(fraction, 0.5), f"{said}, as a length"
        return Judged(fraction, ", ".join(str(r) for r in required) + written, said, lines)

    def _enabled(self, criterion: Criterion, attempt: Attempt) -> Judged:
        block, device = self.block(criterion), self.lab.devices[criterion.device]
        learner = attempt.configurations[criterion.device]
        on = is_on(learner, block, device)
        lines = _lines([learner.one(Switched, block) or learner.header(block)])
        return Judged(float(on), "on", "on" if on else "off", lines)

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

    def _gateway(self, criterion: Criterion, attempt: Attempt) -> Judged:
        name, node, six = criterion.device, self.node(criterion), criterion.operand == "6"
        learner, model = attempt.configurations[name], self.lab.model[name]
        right = any(
            network.find_node(criterion.node) == node
            and gateway_is_right(network, self.model.network, node, six)
            for network in (self.alone(name, c) for c in self.arranged(name, attempt))
        )

        def own(configuration: Configuration) -> list[AnyItem]:
            return [
                i
                for i in configuration.all(Gateway)
                if (i.statement.address.version == 6) is six
                and (i.statement.instance or "").lower() == criterion.instance.lower()
            ]

        items, wanted = own(learner), own(model)
        required, found = ([i.statement.address for i in c if isinstance(i.statement, Gateway)] for c in (wanted, items))  # fmt: skip
        if not right and required and required == found:
            right = True  # the model's own gateway does not answer: there is nothing but its text to compare
        defaults = [
            r for r in learner.all(Route)
            if r.statement.dest.prefixlen == 0 and (r.statement.dest.version == 6) is six
        ]  # fmt: skip
        lines = _lines(items) or _lines(defaults)
        said = ", ".join(map(str, found)) or ("a default route" if lines else "no gateway")
        return Judged(float(right), ", ".join(map(str, required)), said, lines)

    def classes(self, criterion: Criterion) -> RouteClasses:
        """Return the addresses on which a route of the model answer is judged."""
        key = (criterion.node, criterion.operand)
        if key not in self._classes:
            self._classes[key] = RouteClasses(
                self.model.network, self.node(criterion), ip_network(criterion.operand)
            )
        return self._classes[key]

    def _route(self, criterion: Criterion, attempt: Attempt) -> Judged:
        name, node = criterion.device, self.node(criterion)
        learner, model = attempt.configurations[name], self.lab.model[name]
        classes = self.classes(criterion)
        dest = ip_network(criterion.operand)

        def own(configuration: Configuration) -> list[Item[Route]]:
            folded_instance = criterion.instance.lower()
            return [
                i for i in configuration.all(Route) if (i.statement.instance or "").lower() == folded_instance
            ]

        wanted = [i for i in own(model) if i.statement.dest == dest]
        wrong: int | None = None
        for configuration in self.arranged(name, attempt, classes.reaches):
            network = self.alone(name, configuration)
            wrong = classes.wrong(network) if network.find_node(criterion.node) == node else 1
            if not wrong:
                break
        concerned = [i for i in own(learner) if classes.reaches(i.statement)]
        exact = [i for i in concerned if i.statement.dest == dest]
        covering = [i for i in concerned if i.statement.dest.prefixlen < dest.prefixlen]
        if wrong is None:  # the model never uses this route: there is nothing but its text to compare
            wrong = not any(_same_way(i.statement, w.statement) for i in exact for w in wanted)
        fraction = 0.0 if wrong else 1.0
        if wrong and any(_same_way(i.statement, w.statement) for i in covering for w in wanted):
            fraction = 0.5  # the right way for too many addresses, hidden by another route for some
        if criterion.form is not None and not any(
            _in_form(i.statement, w.statement, criterion.form) for i in exact for w in wanted
        ):
            fraction = min(fraction, 0.5)  # the right neighbour, said in another form
        if criterion.preference is not None and all(
            i.statement.preference != criterion.preference for i in exact
        ):
            fraction = min(fraction, 0.5)  # the right way, with another preference
        shown = exact or covering or ([] if not wrong else concerned)
        return Judged(
            fraction,
            wanted[0].statement.plain().text(),
            "; ".join(i.statement.plain().text() for i in shown[:3]) or _no_route(dest),
            _lines(shown),
        )

    def _run(self, criterion: Criterion, attempt: Attempt) -> Judged:
        ran = self.run(criterion.id, attempt)
        result = ran.result
        wheres: dict[Where, None] = {}
        for step in result.steps:
            route = step.decision.route
            if route is not None and route.static is not None and route.where is not None:
                wheres[route.where] = None
        fraction = 1.0 if ran.as_expected else 0.5 if ran.outcome_fits else 0.0
        return Judged(fraction, ran.asked.expect, _came_of(attempt.network, ran), tuple(wheres))

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


def _came_of(network: Network, ran: AnyRun) -> str:
    """Say what came of a ping or check, and what is not right with an outcome that is."""
    result = ran.result
    if isinstance(ran, Checked):
        found = f"{ran.outcome.value}: {ran.detail}"
    elif result.reason is not None:
        found = f"{result.outcome.value}: {ending(network, result)}"
    else:
        found = result.outcome.value
    if result.duplicates:
        found = f"{found}, but an address on the way belongs to two devices"
    elif not ran.seen_as_fits and ran.outcome_fits and result.seen_as is not None:
        found = f"{found}, but {answered_by(network, result)} sees it as {written(result.seen_as)}"
    return found


def _no_route(dest: Prefix) -> str:
    return "no default route" if dest.prefixlen == 0 else f"no route to {write_destination(dest)}"


def _same_way(a: Route, b: Route) -> bool:
    return (a.next_hop, a.port) == (b.next_hop, b.port)


def _in_form(found: Route, wanted: Route, form: str) -> bool:
    """Say whether a route to the same destination has the form asked for, with the model's next hop or port."""
    same_hop, same_port = found.next_hop == wanted.next_hop, folded(found.port) == folded(wanted.port)
    if form == "any":
        return (
            (found.next_hop is not None and same_hop)
            or (found.port is not None and same_port)
            or (found.discard and wanted.discard)
        )
    return found.form == form and (same_hop or form == "out") and (same_port or form == "via")


def _lines(items: Sequence[AnyItem | None]) -> tuple[Where, ...]:
    return tuple(i.where for i in items if i is not None and i.where is not None)
