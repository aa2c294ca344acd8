"""How packets to an address end, worked out once for every node: what all askers of an address share.

A packet goes on from a node as its destination says, whoever sent it; only its own source, its TTL and
translations may change that. So the walks to one address form a tree, and each node's end is that of the next.
"""

from collections import Counter
from typing import NamedTuple

from ...lab import Outcome
from ..decisions import Action
from ..network import Network
from ..numbers import is_link_local
from ..packets import REASONS, TTL, Reason
from ..ping import ping


class PacketEnd(NamedTuple):
    """Where and why a packet ends that comes in at a node, and how many nodes handle it; ``error``: it is reported."""

    node: int
    reason: Reason | None
    error: bool
    steps: int


class OutcomeCache:
    """The outcomes of pings in a network that translates nothing."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self._known: dict[int, dict[int, PacketEnd | None]] = {}
        count = Counter(a for node in network.nodes for a in network.own(node))
        self._twice = {address for address, n in count.items() if n > 1}

    def outcome(self, sender: int, destination: int) -> Outcome:
        """Return the outcome of a ping, the same as :func:`ping` gives."""
        return self._shared(sender, destination) or ping(self.network, sender, destination).outcome

    def _shared(self, sender: int, destination: int) -> Outcome | None:
        """Return the outcome where it follows from what packets share alone, else None."""
        network = self.network
        if network.translates:
            return None
        first = network.decide(sender, destination)
        if first.neighbour is None or first.route is None or first.route.out is None:
            return None
        source = network.source_for(sender, first.route.out, destination)
        if source is None or source in self._twice or is_link_local(source) or destination in self._twice:
            return None
        there = self._of(destination, first.neighbour.node)
        if there is None or there.steps >= TTL or not (there.error or there.reason is None):
            return None if there is None or there.steps >= TTL else Outcome.TIMEOUT
        back = network.decide(there.node, source)
        if back.neighbour is None:
            return Outcome.TIMEOUT if back.action is not Action.DELIVER else None
        home = self._of(source, back.neighbour.node)
        if home is None or home.steps >= TTL:
            return None
        if home.reason is not None or home.node != sender:
            return Outcome.TIMEOUT
        if there.reason is None:
            return Outcome.REPLY
        assert back.route is not None
        assert back.route.out is not None
        told = network.source_for(there.node, back.route.out, source)
        return None if told is None or told in self._twice else Outcome.UNREACHABLE

    def _of(self, destination: int, node: int) -> PacketEnd | None:
        """Return where and why a packet ends that comes in at a node; None where it goes round in a loop."""
        known = self._known.setdefault(destination, {})
        if node in known:
            return known[node]
        way: list[int] = []
        on_way: set[int] = set()
        end: PacketEnd | None = None
        while True:
            if node in known:
                end = known[node]
                break
            if node in on_way:
                break
            decision = self.network.decide(node, destination)
            if decision.action is Action.DELIVER:
                end = known[node] = PacketEnd(node, None, False, 1)
                break
            if not self.network.nodes[node].forwards:
                end = known[node] = PacketEnd(node, Reason.NOT_FORWARDING, False, 1)
                break
            if decision.neighbour is None:
                end = known[node] = PacketEnd(node, *REASONS[decision.action], 1)
                break
            way.append(node)
            on_way.add(node)
            node = decision.neighbour.node
        for passed in reversed(way):
            end = known[passed] = None if end is None else end._replace(steps=end.steps + 1)
        return end
