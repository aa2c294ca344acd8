"""The journey of a ping, leg by leg, in words: what came in, which line decided, what went out."""

from dataclasses import dataclass, replace
from typing import Literal

from ...sheet import Where
from ..decisions import Action
from ..hardware import mac_text
from ..network import Network
from ..numbers import written
from ..packets import TTL, Carried, Kind, Packet, Reason, Step, Translated
from ..ping import Ping
from ..translating import Listed
from .ending import blame, why

_TRANSLATIONS = {
    "one-to-one": "one-to-one",
    "published": "a published service",
    "pool": "an address of its own",
    "shared": "a shared address",
}


Way = Literal["there", "back", "error"]


@dataclass(frozen=True, slots=True)
class SheetLine:
    """The line of a sheet that decided something; ``file`` and ``line`` are None for what is nowhere written."""

    file: str | None
    line: int | None
    text: str


@dataclass(frozen=True, slots=True)
class SwitchPassed:
    """A switch on the leg, with its ports and the VLAN."""

    device: str
    enters: str
    leaves: str
    vlan: int


@dataclass(frozen=True, slots=True)
class Arrival:
    """Where a packet is taken in next."""

    device: str
    port: str


@dataclass(frozen=True, slots=True)
class Rewritten:
    """A translation: which end of the packet, from which address and number to which, and the kind in words.

    ``before`` and ``after`` are addresses, with a port number behind them where one counts.
    """

    end: Literal["source", "destination"]
    before: str
    after: str
    kind: str


@dataclass(frozen=True, slots=True)
class Wire:
    """How a packet is sent out of a port: hardware addresses (None on a serial link), tag, addresses, TTL."""

    source_mac: str | None
    destination_mac: str | None
    tag: int | None
    source: str
    destination: str
    ttl: int


@dataclass(frozen=True, slots=True)
class Leg:
    """One node handling a packet. ``way`` is there, back, or error for an error on its way back.

    ``enters`` is None where the node sends by itself, ``leaves`` where the packet goes no further.
    ``source`` and ``destination`` are those with which the packet came in; ``vlan`` is its tag there, None
    for none; ``rewritten`` are the translations made here; ``sent`` is what goes out, None where nothing does.
    """

    number: int
    way: Way
    device: str
    enters: str | None
    leaves: str | None
    arrives: Arrival | None
    sentence: str
    lines: tuple[SheetLine, ...]
    switches: tuple[SwitchPassed, ...]
    found_first: bool
    ended: bool
    source: str
    destination: str
    rewritten: tuple[Rewritten, ...]
    vlan: int | None
    sent: Wire | None


def journey(network: Network, result: Ping) -> tuple[Leg, ...]:
    """Tell the journey of a ping, the way there and whatever came back."""
    teller = _Teller(network)
    legs: list[Leg] = []
    if result.request is not None:
        legs += teller.tell(result.request, "there", len(legs))
    if result.answer is not None:
        way: Way = "back" if result.seen_as is not None else "error"
        legs += teller.tell(result.answer, way, len(legs), result.reason if way == "back" else None)
    return tuple(legs)


def neighbours_to_find(legs: tuple[Leg, ...]) -> int:
    """Count the places where a neighbour has to be found first; a real network may lose a request at each."""
    return sum(leg.found_first for leg in legs)


@dataclass(frozen=True, slots=True)
class Circle:
    """How often a packet goes round.

    ``untold`` are the steps that a journey leaves out, as they say nothing new: those before the last that do again
    what was done before, so that the last one follows on what is told.
    """

    times: int
    untold: range


def circle_of(carried: Carried) -> Circle | None:
    """Find the circle that a packet goes round until its TTL is used up; None where it ends otherwise."""
    if carried.reason is not Reason.TTL:
        return None
    seen: dict[tuple[int, int, Packet], int] = {}
    packet = carried.sent
    for at, step in enumerate(carried.steps):
        state = (step.node, step.enters, packet)
        if state in seen:
            first, last = seen[state], len(carried.steps) - 1
            times, rest = divmod(last - first, at - first)
            return Circle(times, range(at + rest, last))
        seen[state] = at
        packet = _after(step, packet)
    return None


class _Teller:
    def __init__(self, network: Network) -> None:
        self.network = network
        self.name = network.name
        self.acquainted: set[tuple[int, int]] = set()

    def tell(self, carried: Carried, way: Way, told: int, reason: Reason | None = None) -> list[Leg]:
        legs: list[Leg] = []
        packet, ttl, circle = carried.sent, TTL, circle_of(carried)
        for at, step in enumerate(carried.steps):
            ttl -= step.enters >= 0
            if circle is None or at not in circle.untold:
                leg = self._leg(carried, step, at, way, told + len(legs) + 1, reason, packet, circle)
                following = carried.steps[at + 1] if at + 1 < len(carried.steps) else None
                legs.append(replace(leg, sent=self._wire(step, following, _after(step, packet), ttl)))
            packet = _after(step, packet)
        return legs

    def _leg(
        self,
        carried: Carried,
        step: Step,
        at: int,
        way: Way,
        number: int,
        reason: Reason | None,
        packet: Packet,
        circle: Circle | None,
    ) -> Leg:
        wiring, decision = self.network.wiring, step.decision
        last = at == len(carried.steps) - 1
        neighbour = None if last else decision.neighbour
        out = decision.route.out if decision.route and neighbour else None
        ended = carried.reason or (reason if last else None)
        enters = self.network.port(step.enters) if step.enters >= 0 else None
        return Leg(
            number,
            way,
            self.name(step.node),
            enters.name if enters else None,
            out.name if out else None,
            Arrival(self.name(neighbour.node), self.network.port(neighbour.key).name) if neighbour else None,
            self._ended(carried, ended, way, packet, circle) if last else self._sent(step, way, packet),
            tuple(self._lines(step, packet, last and ended is not None)),
            tuple(
                SwitchPassed(
                    wiring.names[p.device],
                    wiring.port_name[p.enters] if p.enters >= 0 else f"vlan{p.vlan}",
                    wiring.port_name[p.leaves],
                    p.vlan,
                )
                for p in (neighbour.path if neighbour else ())
            ),
            self._meets(step, neighbour is not None),
            last and ended is not None,
            written(packet.source),
            written(packet.destination),
            tuple(
                _rewritten(t) for t in (step.inward, step.outward) if t is not None and t.before != t.after
            ),
            enters.vlan if enters and enters.kind == "sub-port" else None,
            None,
        )

    def _wire(self, step: Step, following: Step | None, packet: Packet, ttl: int) -> Wire | None:
        """Tell what goes out of a node towards the next."""
        out = step.decision.route.out if step.decision.route else None
        if following is None or out is None:
            return None
        taken = self.network.port(following.enters)
        return Wire(
            None if out.serial else mac_text(out.mac),
            None if out.serial else mac_text(taken.mac),
            out.vlan if out.kind == "sub-port" else None,
            written(packet.source),
            written(packet.destination),
            ttl,
        )

    def _meets(self, step: Step, sent: bool) -> bool:
        """Say whether the neighbour had to be found first; by asking, both ends learn of each other."""
        decision = step.decision
        if not sent or decision.neighbour is None or decision.route is None or decision.route.out is None:
            return False
        pair = (step.node, decision.neighbour.node)
        if decision.route.out.serial or pair in self.acquainted:
            return False
        self.acquainted |= {pair, pair[::-1]}
        return True

    def _sent(self, step: Step, way: Way, packet: Packet) -> str:
        decision = step.decision
        route, neighbour = decision.route, decision.neighbour
        assert route is not None  # only such a step is followed by another
        assert route.out is not None
        assert neighbour is not None
        name, to = self.name(step.node), self.name(neighbour.node)
        if step.enters < 0:
            action = {"there": "sends", "back": "answers", "error": "reports it"}[way]
            if route.origin in ("gateway", "leased", "advertised") and route.ask is not None:
                return f"{name} {action} to its gateway {written(decision.ask or 0)}"
            sentence = f"{name} {action} out of {route.out.name}"
        else:
            enters = self.network.port(step.enters).name
            does = _translates(step)
            if self._refuses(step, packet) is not None:
                does = f"does not translate {written(packet.source)}, which is denied, "
            sentence = f"{name} takes it in at {enters}, {does}sends it out of {route.out.name}"
        if neighbour.answers_for == "proxy":
            return f"{sentence}, where {to} answers for {written(decision.ask or 0)}"
        if neighbour.answers_for == "translation":
            return f"{sentence} to {to}, which translates {written(decision.ask or 0)}"
        return sentence if route.static is None else f"{sentence} to {to}"

    def _ended(
        self, carried: Carried, reason: Reason | None, way: Way, packet: Packet, circle: Circle | None
    ) -> str:
        name = self.name(carried.node)
        if circle is not None:
            nodes = ", ".join(map(self.name, carried.circle))
            return f"{name} drops it: its TTL is used up, after {circle.times} times round {nodes}"
        if reason is not None:
            return f"{name} drops it: {why(self.network, carried, reason)}"
        if len(carried.steps) == 1:
            return f"{name} has the address itself"
        translated = _translates(carried.steps[-1])
        arrived = carried.arrived
        return {
            "there": f"{name} {translated}has {written(arrived.destination)} and will answer {written(arrived.source)}",
            "back": f"{name} has its answer",
            "error": f"{name} is told of the error",
        }[way]

    def _refuses(self, step: Step, packet: Packet) -> Listed | None:
        """Return the line of a list that keeps a node from translating a packet that crosses it outward."""
        rules, route = self.network.rules(step.node), step.decision.route
        out = route.out if route else None
        if out is None or not out.external or step.enters < 0:
            return None
        if self.network.port(step.enters).external is not False:
            return None
        if rules is None or packet.kind is not Kind.FIRST or step.outward or step.inward:
            return None
        lines = (
            rule.line_for(packet.source) for rule, _ in rules.rules if rule.port in (None, out.name.lower())
        )
        return next((line for line in lines if line is not None), None)

    def _lines(self, step: Step, packet: Packet, ended: bool) -> list[SheetLine]:
        decision, refuses = step.decision, self._refuses(step, packet)
        found = [_line(t.line.where, t.line.text) for t in (step.inward, step.outward) if t and t.line]
        if refuses is not None:
            found.append(_line(refuses.where, refuses.text))
        if decision.route is not None:
            found += [_line(r.where, r.text) for r in (decision.route, *decision.route.chain)]
        elif decision.own is not None and not ended:
            port, address = decision.own
            found.append(_line(address.where, f"address {address.text} on {port.name}"))
        elif decision.action is Action.NO_ROUTE:
            cause = blame(self.network, step.node, packet.destination)
            if cause is not None and cause[1] is not None:
                found.append(_line(cause[1], cause[0]))
        return found


def _after(step: Step, packet: Packet) -> Packet:
    for translated in (step.inward, step.outward):
        packet = translated.after if translated else packet
    return packet


def _translates(step: Step) -> str:
    """Say what is translated before the packet goes on, with a comma behind it."""
    sentence = []
    for translated in (step.inward, step.outward):
        if translated is not None and translated.before != translated.after:
            done = _rewritten(translated)
            sentence.append(f"translates its {done.end} {done.before} to {done.after}, ")
    return "".join(sentence)


def _rewritten(translated: Translated) -> Rewritten:
    before, after = translated.before, translated.after
    kind = _TRANSLATIONS.get(translated.kind, translated.kind)
    if before.source != after.source or (
        before.destination == after.destination and before.source_number != after.source_number
    ):
        return Rewritten(
            "source", _end(before, before.source, before.source_number),
            _end(after, after.source, after.source_number), kind,
        )  # fmt: skip
    return Rewritten(
        "destination", _end(before, before.destination, before.destination_number),
        _end(after, after.destination, after.destination_number), kind,
    )  # fmt: skip


def _end(packet: Packet, address: int, number: int) -> str:
    """Write an end of a packet: the identifier of an echo says nothing to a reader."""
    return written(address) if packet.protocol == "icmp" else f"{written(address)}:{number}"


def _line(where: Where | None, text: str) -> SheetLine:
    return SheetLine(where.file if where else None, where.line if where else None, text)
