"""The tables of translating nodes during a run: RFC 2663, RFC 3022; RFC 4787 for ports, RFC 5508 for ICMP.

A flow is decided by its first packet, translated or not; what follows is done in reverse. To read it,
begin with :meth:`Table.inward` and :meth:`Table.outward`.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field

from .fabric import Fabric
from .packets import ALONE, Flow, Kind, Packet, Reason, Rewriting, Translated, Translator
from .ports import IpPort
from .translating import Mapped, Rule, Rules, Span

_FIRST_PORT, _FIRST_IDENTIFIER, _NUMBERS = 49152, 1, 65536
Said = Mapped | Rule


@dataclass(slots=True)
class Session:
    """What a dynamic translation gave a host, and in a shared one a number; ``remotes`` it went to."""

    rule: Rule
    protocol: str | None
    internal: int
    internal_number: int
    external: int
    external_number: int
    remotes: list[int] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Flow:
    """A flow through the node: its first packet as it came in and as it went out.

    ``turned`` says which end of it was translated: its ``destination``, its ``source``, or neither.
    """

    first: Packet
    after: Packet
    turned: str
    kind: str
    said: Said | None


class Table:
    """The table of one translating node."""

    def __init__(self, network: Fabric, node: int, rules: Rules) -> None:
        self.network, self.node, self.rules = network, node, rules
        self.sessions: list[Session] = []
        self._flows: dict[Flow, tuple[_Flow, bool]] = {}
        """Every flow by its packets as they come in: of its own direction, and (True) of the other."""
        self._kept: dict[int, Session] = {}
        self._kept_outside: dict[int, Session] = {}
        self._shared: dict[tuple[str, int, int], Session] = {}
        self._shared_outside: dict[tuple[str, int, int], Session] = {}
        self._taken: dict[tuple[str, int], set[int]] = {}
        self._host: dict[int, int] = {}
        for protocol, outside, number in rules.published:
            self._taken.setdefault((protocol, outside), set()).add(number)

    def inward(self, enters: IpPort | None, packet: Packet) -> Rewriting:
        """Translate a packet that comes in, before anything else is done with it."""
        if enters is None:
            return ALONE
        if packet.kind is Kind.ERROR:
            return self._error_inward(packet)
        known = self._flows.get(packet.flow)
        if known is not None:
            flow, back = known
            if flow.turned == ("source" if back else "destination"):
                to = flow.first.answered() if back else flow.after
                return _rewritten(flow, packet, _to(packet, to.destination, to.destination_number))
            return ALONE if back or flow.turned else self._unasked(enters, packet)
        if not _begins(packet) or not enters.external:
            return ALONE
        said, destination, number, kind = self._behind(packet)
        if said is not None:
            route = self.network.table(self.node).find(destination)
            if route is not None and route.out is not None and route.out.external is False:
                flow = _Flow(packet, _to(packet, destination, number), "destination", kind, said)
                self._record(flow)
                return _rewritten(flow, packet, flow.after)
            return ALONE
        return self._unasked(enters, packet)

    def _unasked(self, enters: IpPort, packet: Packet) -> Rewriting:
        """Drop what comes from outside to an address that is translated to, and that no session or mapping fits."""
        own = packet.destination in self.network.own(self.node)
        drops = enters.external and not own and self.rules.covers(packet.destination)
        return self._refused(packet) if drops else ALONE

    def _refused(self, packet: Packet) -> Rewriting:
        """Drop a packet to an address that is translated to, because of the line that says so."""
        return Reason.NO_SESSION, Translated("", packet, packet, self.rules.covering(packet.destination))

    def outward(
        self, enters: IpPort | None, leaves: IpPort | None, packet: Packet, came: Packet
    ) -> Rewriting:
        """Translate a packet that is about to go out."""
        if packet.kind is Kind.ERROR:
            return ALONE if enters is None else self._error_outward(packet)
        known = self._flows.get(came.flow)
        if known is not None:
            flow, back = known
            if flow.turned == ("destination" if back else "source"):
                to = flow.first.answered() if back else flow.after
                return _rewritten(flow, packet, _from(packet, to.source, to.source_number))
            return ALONE
        if not _begins(packet):
            return ALONE
        crosses = (
            enters is not None and enters.external is False and leaves is not None and leaves.external is True
        )
        if not crosses:
            self._record(_Flow(packet, packet, "", "", None))
            return ALONE
        if self.rules.covers(packet.destination):
            return self._refused(packet)  # not turned round
        said, source, number, kind = self._outside(packet)
        if kind == "":
            self._record(_Flow(packet, packet, "", "", None))
            return ALONE
        if kind == "empty":
            return Reason.POOL_EMPTY, Translated("", packet, packet, said)
        flow = _Flow(packet, _from(packet, source, number), "source", kind, said)
        self._record(flow)
        return _rewritten(flow, packet, flow.after)

    def _record(self, flow: _Flow) -> None:
        self._flows[flow.first.flow] = (flow, False)
        self._flows[flow.after.answered().flow] = (flow, True)

    def _behind(self, packet: Packet) -> tuple[Said | None, int, int, str]:
        """Find who is behind the address that a first packet from outside goes to."""
        protocol, address, number = packet.protocol, packet.destination, packet.destination_number
        shared = self._shared_outside.get((protocol, address, number))
        if shared is not None and packet.source in shared.remotes:
            return shared.rule, shared.internal, shared.internal_number, "shared"
        published = self.rules.published.get((protocol, address, number))
        if published is not None:
            return published.mapping, published.mapping.inside, published.mapping.inside_number, "published"
        one = self.rules.one_to_one.get(address)
        if one is not None:
            return one.mapping, one.mapping.inside, number, "one-to-one"
        kept = self._kept_outside.get(address)
        if kept is not None:
            return kept.rule, kept.internal, number, "pool"
        return None, 0, 0, ""

    def _outside(self, packet: Packet) -> tuple[Said | None, int, int, str]:
        """Find what the source of a first packet from inside is outside: line, address, number and kind.

        The kind is empty where no line is about it, and ``empty`` where nothing is left to give.
        """
        protocol, source, number = packet.protocol, packet.source, packet.source_number
        published = self.rules.published_inside.get((protocol, source, number))
        if published is not None:
            return published.mapping, published.outside, published.mapping.outside_number, "published"
        one = self.rules.one_to_one_inside.get(source)
        if one is not None:
            return one.mapping, one.outside, number, "one-to-one"
        for rule, span in self.rules.rules:
            if rule.permits(source):
                session = (self._share if rule.shared else self._keep)(rule, span, packet)
                if session is None:
                    return rule, 0, 0, "empty"
                if packet.destination not in session.remotes:
                    session.remotes.append(packet.destination)
                return (
                    rule,
                    session.external,
                    session.external_number if rule.shared else number,
                    ("shared" if rule.shared else "pool"),
                )
        return None, 0, 0, ""

    def _keep(self, rule: Rule, span: Span, packet: Packet) -> Session | None:
        """Give a host the lowest free address, kept for the run (RFC 3022, 2.1)."""
        session = self._kept.get(packet.source)
        if session is not None:
            return session
        for external in range(span[0], span[1] + 1):
            if external not in self._kept_outside and external not in self.rules.one_to_one:
                session = Session(rule, None, packet.source, 0, external, 0)
                self._kept[packet.source] = self._kept_outside[external] = session
                self.sessions.append(session)
                return session
        return None

    def _share(self, rule: Rule, span: Span, packet: Packet) -> Session | None:
        """Give a flow an address and a number: the host's own address while it has numbers left (RFC 4787, 4.1)."""
        key = (packet.protocol, packet.source, packet.source_number)
        session = self._shared.get(key)
        if session is not None:
            return session
        for external in self._addresses(packet.source, span):
            taken = self._taken.setdefault((packet.protocol, external), set())
            number = _free(packet.source_number, rule.numbers, taken)
            if number is not None:
                taken.add(number)
                self._host[packet.source] = external
                session = Session(rule, *key, external, number)
                self._shared[key] = self._shared_outside[packet.protocol, external, number] = session
                self.sessions.append(session)
                return session
        return None

    def _addresses(self, host: int, span: Span) -> Iterator[int]:
        own = self._host.get(host)
        if own is not None and span[0] <= own <= span[1]:
            yield own
        yield from range(span[0], span[1] + 1)

    def _error_inward(self, packet: Packet) -> Rewriting:
        """Translate an error about a flow back to who sent it (RFC 5508, section 4)."""
        flow, back = self._quoted(packet)
        if flow is not None and back and flow.turned == "source":
            return _rewritten(flow, packet, packet._replace(destination=flow.first.source, about=flow.first))
        own = packet.destination in self.network.own(self.node)
        if flow is None and self.rules.covers(packet.destination) and not own:
            return self._refused(packet)
        return ALONE

    def _error_outward(self, packet: Packet) -> Rewriting:
        """Let an error from behind a published or one-to-one address seem to come from that address."""
        flow, back = self._quoted(packet)
        if flow is not None and back and flow.turned == "destination":
            return _rewritten(flow, packet, packet._replace(source=flow.first.destination, about=flow.first))
        return ALONE

    def _quoted(self, packet: Packet) -> tuple[_Flow | None, bool]:
        """Find the flow of the packet that an error quotes, as it went out of this node."""
        assert packet.about is not None
        return self._flows.get(packet.about.answered().flow, (None, False))


class Sessions(Translator):
    """The tables of a whole run, empty at its start, and the numbers that hosts give their own requests."""

    def __init__(self, network: Fabric) -> None:
        self.network = network
        self.tables: dict[int, Table] = {}
        self._used: dict[tuple[int, str], int] = {}

    def number(self, node: int, protocol: str) -> int:
        """Number a node's next request: ICMP identifiers from 1, ports from 49152 (RFC 6335, section 6)."""
        count = self._used[node, protocol] = self._used.get((node, protocol), -1) + 1
        first = _FIRST_IDENTIFIER if protocol == "icmp" else _FIRST_PORT
        return first + count % (_NUMBERS - first)

    def table(self, node: int) -> Table | None:
        """Return a node's table; None where it does not translate."""
        found = self.tables.get(node)
        if found is None:
            rules = self.network.rules(node)
            if rules is None:
                return None
            found = self.tables[node] = Table(self.network, node, rules)
        return found

    def inward(self, node: int, enters: IpPort | None, packet: Packet) -> Rewriting:
        """Ask the node's table."""
        table = self.table(node)
        return table.inward(enters, packet) if table else ALONE

    def outward(
        self, node: int, enters: IpPort | None, leaves: IpPort | None, packet: Packet, came: Packet
    ) -> Rewriting:
        """Ask the node's table."""
        table = self.table(node)
        return table.outward(enters, leaves, packet, came) if table else ALONE


def _begins(packet: Packet) -> bool:
    """Whether a packet that belongs to no flow begins one: an echo reply or an answered SYN does not, in UDP any does."""
    return packet.kind is Kind.FIRST or (packet.kind is Kind.ANSWER and packet.protocol == "udp")


def _to(packet: Packet, address: int, number: int) -> Packet:
    """Return a packet sent elsewhere. An echo has its identifier in both places."""
    other = number if packet.protocol == "icmp" else packet.source_number
    return packet._replace(destination=address, destination_number=number, source_number=other)


def _from(packet: Packet, address: int, number: int) -> Packet:
    """Return a packet that comes from elsewhere."""
    other = number if packet.protocol == "icmp" else packet.destination_number
    return packet._replace(source=address, source_number=number, destination_number=other)


def _free(wanted: int, numbers: tuple[int, int], taken: set[int]) -> int | None:
    """Keep the number where it is free and in the range, else take the next free one from the range's start."""
    first, last = numbers
    if first <= wanted <= last and wanted not in taken:
        return wanted
    return next((n for n in range(first, last + 1) if n not in taken), None)


def _rewritten(flow: _Flow, before: Packet, after: Packet) -> Rewriting:
    return ALONE if before == after else (None, Translated(flow.kind, before, after, flow.said))
