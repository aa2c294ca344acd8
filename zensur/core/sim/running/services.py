"""Service checks: a service opened, or a name looked up (RFC 1035), by the same walk as a ping."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from ...lab import Answer, ExpectedService, Outcome, parse_open
from ..explaining.ending import ending
from ..network import Network
from ..numbers import SIX, is_link_local, written
from ..packets import Reason
from ..ping import Ping, ping
from ..serving import DNS_PORT
from ..translation import Sessions
from .targets import on_port, own_source, seen_as_wanted, sender_of, target

MOST_ASKED = 8

_OUTCOMES = {
    Outcome.TIMEOUT: Answer.TIMEOUT,
    Outcome.UNREACHABLE: Answer.UNREACHABLE,
    Outcome.NO_ROUTE: Answer.NO_ROUTE,
}


@dataclass(frozen=True, slots=True)
class Walk:
    """A packet to a service and its answer.

    ``asked_name`` is the name that is looked up by it, and ``told`` the addresses that the answer holds;
    ``refused`` says that nothing listens there.
    """

    result: Ping
    asked_name: str | None = None
    told: tuple[int, ...] = ()
    refused: bool = False


@dataclass(frozen=True, slots=True)
class Checked:
    """A service check with what came of it. ``result`` is the last walk that was made, ``walks`` are all of them.

    ``addresses`` are those of the name, where one was looked up.
    """

    asked: ExpectedService
    outcome: Answer
    result: Ping
    addresses: tuple[int, ...] = ()
    detail: str = ""
    seen_as_fits: bool = True
    listed: bool = True
    walks: tuple[Walk, ...] = ()

    @property
    def outcome_fits(self) -> bool:
        """Whether the outcome is the expected one, whoever answered."""
        if self.result.duplicates:
            return False
        if self.asked.expect == "no-answer":
            return self.outcome is not Answer.ANSWER
        if self.outcome is not Answer.ANSWER:
            return False
        any_will_do = self.asked.resolve is None or self.asked.expect == "answer"
        return any_will_do or self.asked.expect in map(written, self.addresses)

    @property
    def as_expected(self) -> bool | None:
        """Whether outcome, source seen and answering device are as the lab expects."""
        return self.outcome_fits and self.seen_as_fits if self.listed else None


@dataclass(frozen=True, slots=True)
class _Checking:
    """A check under way on a network, with the tables of the run, and the walks made so far."""

    network: Network
    model: Network
    asked: ExpectedService
    sessions: Sessions | None
    walks: list[Walk] = field(default_factory=list)


def check_service(
    network: Network, model: Network, asked: ExpectedService, sessions: Sessions | None = None
) -> Checked:
    """Run one service check; a device as target is resolved against the model answer."""
    checking = _Checking(network, model, asked, sessions)
    return replace(_checked(checking), walks=tuple(checking.walks))


def _checked(checking: _Checking) -> Checked:
    network, model, asked = checking.network, checking.model, checking.asked
    sender = sender_of(network, asked)
    if sender is None:
        return _nowhere(checking, network.wiring.device[asked.sender.partition("/")[0].lower()])
    if asked.resolve is not None:
        return _looked_up(checking, sender, asked.resolve)
    protocol, holder, number = parse_open(asked.open or "")
    address = target(network, model, holder, asked.family)
    if address is not None:
        return _opened(checking, sender, (address,), (protocol, number), ())
    if model.find_node(holder.partition(":")[0]) is not None:
        return _nowhere(checking, sender)  # a device that has no address here
    found = _looked_up(checking, sender, holder)
    if found.outcome is not Answer.ANSWER:
        return found
    tried = _six_first(network, sender, found.addresses)
    return _opened(checking, sender, tried, (protocol, number), found.addresses)


def _nowhere(checking: _Checking, sender: int) -> Checked:
    nowhere = Ping(sender, 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, sender)
    return Checked(checking.asked, Answer.NO_ROUTE, nowhere)


def _opened(
    checking: _Checking,
    sender: int,
    to: Iterable[int],
    wanted: tuple[str, int],
    addresses: tuple[int, ...],
) -> Checked:
    """Open a service at the first of some addresses that answers; else at the first of them."""
    network, asked = checking.network, checking.asked
    first: Ping | None = None
    for address in to:
        result = _walk(checking, sender, address, wanted)
        if result is None:
            return _nowhere(checking, sender)
        first = first or result
        checking.walks.append(Walk(result))
        if result.outcome is Outcome.REPLY:
            assert result.request is not None  # what was answered was asked
            node, arrived = network.nodes[result.request.node], result.request.arrived
            there = (arrived.protocol, arrived.destination_number)
            box, service = network.wiring.names[node.device], f"{there[0]} {there[1]}"
            if there not in node.serving.services:
                checking.walks[-1] = Walk(result, refused=True)
                return Checked(asked, Answer.REFUSED, result, addresses, f"{box} has no service {service}")
            fits = seen_as_wanted(network, checking.model, asked, result)
            return Checked(asked, Answer.ANSWER, result, addresses, f"{box} answers {service}", fits)
    assert first is not None  # a name that was found has an address
    return Checked(asked, _OUTCOMES[first.outcome], first, addresses, ending(network, first))


def _walk(checking: _Checking, sender: int, address: int, to: tuple[str, int]) -> Ping | None:
    """Send a packet to a service and its answer back; None where the source asked for is not there."""
    network, asked = checking.network, checking.asked
    source, fits = own_source(network, sender, asked, address)
    on = on_port(network, sender, asked.out) if is_link_local(address) else None
    if not fits or (is_link_local(address) and on is None):
        return None
    return ping(network, sender, address, source, on, checking.sessions, to)


def _six_first(network: Network, node: int, addresses: Iterable[int]) -> list[int]:
    """Put IPv6 addresses first that the node has a global address and a route for (RFC 6724, section 6).

    Without them they cannot be asked, and are left out where there are others.
    """
    found = list(addresses)
    speaks = any(a >= SIX for a in network.own(node))

    def usable(address: int) -> bool:
        return speaks and network.table(node).find(address) is not None

    six = [a for a in found if a >= SIX and usable(a)]
    four = [a for a in found if a < SIX]
    return [*six, *four] or found


def _looked_up(checking: _Checking, sender: int, name: str) -> Checked:
    """Ask the node's name servers one after another, until one gives an answer of any kind.

    Silence passes on to the next, and so does an error that says that one cannot be reached: that is a hint
    (RFC 1122, 3.2.2.1).
    """
    network = checking.network
    silent: Checked | None = None
    for resolver in _six_first(network, sender, network.nodes[sender].serving.resolvers):
        found = _ask(checking, sender, resolver, name.lower().removesuffix("."), MOST_ASKED)
        if found.outcome not in _OUTCOMES.values():
            return found
        silent = silent or found
    if silent is not None:
        return silent
    nowhere = Ping(sender, 0, Outcome.NO_ROUTE, Reason.NO_SOURCE, sender)
    return Checked(
        checking.asked,
        Answer.NO_NAME,
        nowhere,
        (),
        f"{network.name(sender)} has no resolver to ask for {name}",
    )


def _ask(checking: _Checking, asker: int, server: int, name: str, left: int) -> Checked:
    """Ask one server, which may ask another in turn."""
    network, asked = checking.network, checking.asked
    walk = ping(network, asker, server, sessions=checking.sessions, to=DNS_PORT)
    who = network.name(asker)
    checking.walks.append(Walk(walk, name))
    if walk.outcome is not Outcome.REPLY:
        detail = f"{who} asks {written(server)} for {name}: {ending(network, walk)}"
        return Checked(asked, _OUTCOMES[walk.outcome], walk, (), detail)
    assert walk.request is not None  # what was answered was asked
    node = network.nodes[walk.request.node]
    serving = node.serving
    if walk.request.arrived.destination_number != DNS_PORT[1] or serving.names is None:
        checking.walks[-1] = Walk(walk, name, refused=True)
        return Checked(asked, Answer.REFUSED, walk, (), f"{node.name} answers no names")
    if name in serving.names:
        checking.walks[-1] = Walk(walk, name, serving.names[name])
        return Checked(asked, Answer.ANSWER, walk, serving.names[name], f"{node.name} knows {name}")
    if serving.ask is None or left <= 1:
        return Checked(asked, Answer.NO_NAME, walk, (), f"{node.name} has no record of {name}")
    at = len(checking.walks) - 1
    found = _ask(checking, node.number, serving.ask, name, left - 1)
    checking.walks[at] = Walk(walk, name, found.addresses)  # the server answers what it was told
    return found
