"""The journey of a ping, leg by leg, in words: what came in, which line decided, what went out."""

from dataclasses import dataclass

from ..sheet import Where
from .decisions import Decision, Verb
from .device import dotted
from .ending import blame, why
from .network import Network
from .packets import Carried, Reason, Step
from .ping import Ping


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
class Leg:
    """One device handling a packet. ``way`` is there, back, or error for an error on its way back.

    ``enters`` is None where the device sends by itself, ``leaves`` where the packet goes no further.
    """

    number: int
    way: str
    device: str
    enters: str | None
    leaves: str | None
    arrives: Arrival | None
    said: str
    lines: tuple[SheetLine, ...]
    switches: tuple[SwitchPassed, ...]
    found_first: bool
    ended: bool
    source: str
    destination: str


def journey(network: Network, result: Ping) -> tuple[Leg, ...]:
    """Tell the journey of a ping, the way there and whatever came back."""
    teller = _Teller(network)
    legs: list[Leg] = []
    if result.request is not None:
        legs += teller.tell(result.request, "there", len(legs))
    if result.answer is not None:
        way = "back" if result.seen_as is not None else "error"
        legs += teller.tell(result.answer, way, len(legs), result.reason if way == "back" else None)
    return tuple(legs)


def neighbours_to_find(legs: tuple[Leg, ...]) -> int:
    """Count the places where a neighbour has to be found first; a real network may lose a request at each."""
    return sum(leg.found_first for leg in legs)


class _Teller:
    def __init__(self, network: Network) -> None:
        self.network = network
        self.names = network.wiring.names
        self.acquainted: set[tuple[int, int]] = set()

    def tell(self, carried: Carried, way: str, told: int, reason: Reason | None = None) -> list[Leg]:
        return [
            self._leg(carried, step, n, way, told + n + 1, reason) for n, step in enumerate(carried.steps)
        ]

    def _leg(
        self, carried: Carried, step: Step, at: int, way: str, number: int, reason: Reason | None
    ) -> Leg:
        wiring, decision = self.network.wiring, step.decision
        last = at == len(carried.steps) - 1
        neighbour = None if last else decision.neighbour
        out = decision.route.out if decision.route and neighbour else None
        ended = carried.reason or (reason if last else None)
        return Leg(
            number,
            way,
            self.names[step.device],
            self._port_name(step.device, step.enters) if step.enters >= 0 else None,
            out.name if out else None,
            Arrival(self.names[neighbour.device], self._port_name(neighbour.device, neighbour.key))
            if neighbour
            else None,
            self._ended(carried, ended, way) if last else self._sent(step, way),
            tuple(self._lines(step.device, decision, carried.destination, last and ended is not None)),
            tuple(
                SwitchPassed(
                    self.names[p.device],
                    wiring.port_name[p.enters] if p.enters >= 0 else f"vlan{p.vlan}",
                    wiring.port_name[p.leaves],
                    p.vlan,
                )
                for p in (neighbour.path if neighbour else ())
            ),
            self._meets(step, neighbour is not None),
            last and ended is not None,
            dotted(carried.source),
            dotted(carried.destination),
        )

    def _port_name(self, device: int, key: int) -> str:
        return self.network.devices[device].by_key[key].name

    def _meets(self, step: Step, sent: bool) -> bool:
        """Say whether the neighbour had to be found first; by asking, both ends learn of each other."""
        decision = step.decision
        if not sent or decision.neighbour is None or decision.route is None or decision.route.out is None:
            return False
        pair = (step.device, decision.neighbour.device)
        if decision.route.out.serial or pair in self.acquainted:
            return False
        self.acquainted |= {pair, pair[::-1]}
        return True

    def _sent(self, step: Step, way: str) -> str:
        decision = step.decision
        route, neighbour = decision.route, decision.neighbour
        assert route is not None  # only such a step is followed by another
        assert route.out is not None
        assert neighbour is not None
        name, to = self.names[step.device], self.names[neighbour.device]
        if step.enters < 0:
            verb = {"there": "sends", "back": "answers", "error": "reports it"}[way]
            if route.origin == "gateway":
                return f"{name} {verb} to its gateway {dotted(decision.ask or 0)}"
            said = f"{name} {verb} out of {route.out.name}"
        else:
            said = f"{name} takes it in at {self._port_name(step.device, step.enters)}, sends it out of {route.out.name}"
        if neighbour.proxy:
            return f"{said}, where {to} answers for {dotted(decision.ask or 0)}"
        return said if route.static is None else f"{said} to {to}"

    def _ended(self, carried: Carried, reason: Reason | None, way: str) -> str:
        name = self.names[carried.device]
        if reason is not None:
            return f"{name} drops it: {why(self.network, carried, reason)}"
        if len(carried.steps) == 1:
            return f"{name} has the address itself"
        return {
            "there": f"{name} has {dotted(carried.destination)} and will answer {dotted(carried.source)}",
            "back": f"{name} has its answer",
            "error": f"{name} is told of the error",
        }[way]

    def _lines(self, device: int, decision: Decision, destination: int, ended: bool) -> list[SheetLine]:
        found: list[SheetLine] = []
        if decision.route is not None:
            found = [_line(r.where, r.text) for r in (decision.route, *decision.route.chain)]
        elif decision.own is not None and not ended:
            port, address = decision.own
            found = [
                _line(address.where, f"address {dotted(address.address)}/{address.length} on {port.name}")
            ]
        elif decision.verb is Verb.NO_ROUTE:
            cause = blame(self.network, device, destination)
            if cause is not None and cause[1] is not None:
                found = [_line(cause[1], cause[0])]
        return found


def _line(where: Where | None, text: str) -> SheetLine:
    return SheetLine(where.file if where else None, where.line if where else None, text)
