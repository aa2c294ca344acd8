"""The tables of translating nodes during a run: RFC 2663, RFC 3022; RFC 4787 for ports, RFC 5508 for ICMP.

A flow is decided by its first packet, translated or not; what follows is done in reverse. To read it,
begin with :meth:`Table.inward` and :meth:`Table.outward`.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from .fabric import Fabric
from .packets import ALONE, Flow, Kind, Packet, Reason, Rewriting, Translated, Translator
from .ports import IpPort
from .translating import Mapped, Rule, Rules, Span, by

_FIRST_PORT, _FIRST_IDENTIFIER, _NUMBERS = 49152, 1, 65536
Line = Mapped | Rule
Cell = tuple[object, ...]
"""A place in the tables: what kind of entry, and of what. All entries are values that never change."""


class Cells:
    """The entries of all tables of a run; a log of what one ping or check read and wrote there.

    A ping finds the same tables as another wherever the cells that it reads hold the same.
    """

    def __init__(self) -> None:
        self._now: dict[Cell, object] = {}
        self.read: dict[Cell, object] = {}
        """What was read since the log was begun, as it was before anything was written there."""
        self.written: dict[Cell, object] = {}

    def begin_log(self) -> None:
        """Begin the log anew."""
        self.read, self.written = {}, {}

    def get(self, cell: Cell) -> Any:
        """Return an entry; None where there is none."""
        found = self._now.get(cell)
        if cell not in self.written:
            self.read.setdefault(cell, found)
        return found

    def set(self, cell: Cell, value: object) -> None:
        """Make an entry."""
        self._now[cell] = self.written[cell] = value

    def hold(self, read: Mapping[Cell, object]) -> bool:
        """Whether cells hold what was read from them elsewhere."""
        now = self._now
        return all(now.get(cell) == value for cell, value in read.items())

    def write_again(self, written: Mapping[Cell, object]) -> None:
        """Make the entries that were made elsewhere."""
        self._now.update(written)


@dataclass(frozen=True, slots=True)
class Session:
    """What a dynamic translation gave a host, and in a shared one a number."""

    rule: Rule
    protocol: str | None
    internal: int
    internal_number: int
    external: int
    external_number: int

    @property
    def remotes(self) -> Cell:
        """The cell of the addresses that it went to."""
        return ("remotes", self.rule.port, self.protocol, self.internal, self.internal_number)

    def is_by(self, port: str) -> bool:
        """Whether it is for packets by a port."""
        return self.rule.port in (None, port)


@dataclass(frozen=True, slots=True)
class _Flow:
    """A flow through the node: its first packet as it came in and as it went out.

    ``turned`` says which end of it was translated: its ``destination``, its ``source``, or neither.
    """

    first: Packet
    after: Packet
    turned: str
    kind: str
    line: Line | None


class Table:
    """The table of one translating node."""

    def __init__(self, network: Fabric, node: int, rules: Rules, cells: Cells) -> None:
        self.network, self.node, self.rules, self._cells = network, node, rules, cells
        self.sessions: list[Session] = []
        self._published: dict[tuple[str, int], frozenset[int]] = {}
        for protocol, outside, number in rules.published:
            taken = self._published.get((protocol, outside), frozenset())
            self._published[protocol, outside] = taken | {number}

    def _get(self, *cell: object) -> Any:
        return self._cells.get((self.node, *cell))

    def _set(self, value: object, *cell: object) -> None:
        self._cells.set((self.node, *cell), value)

    def remotes(self, session: Session) -> tuple[int, ...]:
        """Return the addresses that a session went to."""
        found: tuple[int, ...] | None = self._get(*session.remotes)
        return found or ()

    def _flow(self, flow: Flow) -> "tuple[_Flow, bool] | None":
        """Find a flow by a packet as it comes in: of its own direction, or (True) of the other."""
        found: tuple[_Flow, bool] | None = self._get("flow", flow)
        return found

    def inward(self, enters: IpPort | None, packet: Packet) -> Rewriting:
        """Translate a packet that comes in, before anything else is done with it."""
        if enters is None:
            return ALONE
        if packet.kind is Kind.ERROR:
            return self._error_inward(packet)
        known = self._flow(packet.flow)
        if known is not None:
            flow, back = known
            if flow.turned == ("source" if back else "destination"):
                to = flow.first.answered() if back else flow.after
                return _rewritten(flow, packet, _to(packet, to.destination, to.destination_number))
            return ALONE if back or flow.turned else self._unasked(enters, packet)
        if not _begins(packet) or not enters.external:
            return ALONE
        line, destination, number, kind = self._behind(packet, enters.name.lower())
        if line is not None:
            route = self.network.table(self.node).find(destination)
            if route is not None and route.out is not None and route.out.external is False:
                flow = _Flow(packet, _to(packet, destination, number), "destination", kind, line)
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
        known = self._flow(came.flow)
        if known is not None:
            flow, back = known
            if flow.turned == ("destination" if back else "source"):
                to = flow.first.answered() if back else flow.after
                return _rewritten(flow, packet, _from(packet, to.source, to.source_number))
            return ALONE
        if not _begins(packet):
            return ALONE
        if enters is None or enters.external is not False or leaves is None or not leaves.external:
            self._record(_Flow(packet, packet, "", "", None))
            return ALONE
        if self.rules.covers(packet.destination):
            return self._refused(packet)  # not turned round
        line, source, number, kind = self._outside(packet, leaves.name.lower())
        if kind == "":
            self._record(_Flow(packet, packet, "", "", None))
            return ALONE
        if kind == "empty":
            return Reason.POOL_EMPTY, Translated("", packet, packet, line)
        flow = _Flow(packet, _from(packet, source, number), "source", kind, line)
        self._record(flow)
        return _rewritten(flow, packet, flow.after)

    def _record(self, flow: _Flow) -> None:
        self._set((flow, False), "flow", flow.first.flow)
        self._set((flow, True), "flow", flow.after.answered().flow)

    def _behind(self, packet: Packet, enters: str) -> tuple[Line | None, int, int, str]:
        """Find who is behind the address that a first packet from outside goes to, which comes in by a port."""
        protocol, address, number = packet.protocol, packet.destination, packet.destination_number
        shared: Session | None = self._get("shared outside", protocol, address, number)
        if shared is not None and packet.source in self.remotes(shared) and shared.is_by(enters):
            return shared.rule, shared.internal, shared.internal_number, "shared"
        published = by(self.rules.published.get((protocol, address, number)), enters)
        if published is not None:
            return published.mapping, published.mapping.inside, published.mapping.inside_number, "published"
        one = by(self.rules.one_to_one.get(address), enters)
        if one is not None:
            return one.mapping, one.mapping.inside, number, "one-to-one"
        kept: Session | None = self._get("kept outside", address)
        if kept is not None and kept.is_by(enters):
            return kept.rule, kept.internal, number, "pool"
        return None, 0, 0, ""

    def _outside(self, packet: Packet, leaves: str) -> tuple[Line | None, int, int, str]:
        """Find what the source of a first packet from inside is outside, where it leaves by a port: line, address,
        number and kind.

        The kind is empty where no line is about it, and ``empty`` where nothing is left to give.
        """
        protocol, source, number = packet.protocol, packet.source, packet.source_number
        published = by(self.rules.published_inside.get((protocol, source, number)), leaves)
        if published is not None:
            return published.mapping, published.outside, published.mapping.outside_number, "published"
        one = by(self.rules.one_to_one_inside.get(source), leaves)
        if one is not None:
            return one.mapping, one.outside, number, "one-to-one"
        for rule, span in self.rules.rules:
            if rule.permits(source, leaves):
                session = (self._share if rule.shared else self._keep)(rule, span, packet)
                if session is None:
                    return rule, 0, 0, "empty"
                remotes = self.remotes(session)
                if packet.destination not in remotes:
                    self._set((*remotes, packet.destination), *session.remotes)
                return (
                    rule,
                    session.external,
                    session.external_number if rule.shared else number,
                    ("shared" if rule.shared else "pool"),
                )
        return None, 0, 0, ""

    def _keep(self, rule: Rule, span: Span, packet: Packet) -> Session | None:
        """Give a host the lowest free address, kept for the run (RFC 3022, 2.1)."""
        session: Session | None = self._get("kept", rule.port, packet.source)
        if session is not None:
            return session
        for external in range(span[0], span[1] + 1):
            if external not in self.rules.one_to_one and self._get("kept outside", external) is None:
                session = Session(rule, None, packet.source, 0, external, 0)
                self._set(session, "kept", rule.port, packet.source)
                self._set(session, "kept outside", external)
                self.sessions.append(session)
                return session
        return None

    def _share(self, rule: Rule, span: Span, packet: Packet) -> Session | None:
        """Give a flow an address and a number: the host's own address while it has numbers left (RFC 4787, 4.1)."""
        key = (packet.protocol, packet.source, packet.source_number)
        session: Session | None = self._get("shared", rule.port, *key)
        if session is not None:
            return session
        for external in self._addresses(rule, packet.source, span):
            taken = self._taken(packet.protocol, external)
            number = _free(packet.source_number, rule.numbers, taken)
            if number is not None:
                self._set(taken | {number}, "taken", packet.protocol, external)
                self._set(external, "host", rule.port, packet.source)
                session = Session(rule, *key, external, number)
                self._set(session, "shared", rule.port, *key)
                self._set(session, "shared outside", packet.protocol, external, number)
                self.sessions.append(session)
                return session
        return None

    def _taken(self, protocol: str, external: int) -> frozenset[int]:
        """Return the numbers of an address that are in use."""
        found: frozenset[int] | None = self._get("taken", protocol, external)
        return self._published.get((protocol, external), frozenset()) if found is None else found

    def _addresses(self, rule: Rule, host: int, span: Span) -> Iterator[int]:
        own: int | None = self._get("host", rule.port, host)
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
        return self._flow(packet.about.answered().flow) or (None, False)


class Sessions(Translator):
    """The tables of a whole run, empty at its start, and the numbers that hosts give their own requests."""

    def __init__(
        self, network: Fabric, cells: Cells | None = None, used: dict[tuple[int, str], int] | None = None
    ) -> None:
        self.network = network
        self.cells = Cells() if cells is None else cells
        self.tables: dict[int, Table] = {}
        self.used: dict[tuple[int, str], int] = {} if used is None else used
        """How many requests each node has sent in a protocol, less one."""

    def number(self, node: int, protocol: str) -> int:
        """Number a node's next request: ICMP identifiers from 1, ports from 49152 (RFC 6335, section 6)."""
        count = self.used[node, protocol] = self.used.get((node, protocol), -1) + 1
        first = _FIRST_IDENTIFIER if protocol == "icmp" else _FIRST_PORT
        return first + count % (_NUMBERS - first)

    def table(self, node: int) -> Table | None:
        """Return a node's table; None where it does not translate."""
        found = self.tables.get(node)
        if found is None:
            rules = self.network.rules(node)
            if rules is None:
                return None
            found = self.tables[node] = Table(self.network, node, rules, self.cells)
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
    """Whether a packet that belongs to no flow begins one: an echo reply or an answered SYN does not, in UDP any
    does."""
    return packet.kind is Kind.FIRST or (packet.kind is Kind.ANSWER and packet.protocol == "udp")


def _to(packet: Packet, address: int, number: int) -> Packet:
    """Return a packet sent elsewhere. An echo has its identifier in both places."""
    other = number if packet.protocol == "icmp" else packet.source_number
    return packet._replace(destination=address, destination_number=number, source_number=other)


def _from(packet: Packet, address: int, number: int) -> Packet:
    """Return a packet that comes from elsewhere."""
    other = number if packet.protocol == "icmp" else packet.destination_number
    return packet._replace(source=address, source_number=number, destination_number=other)


def _free(wanted: int, numbers: tuple[int, int], taken: frozenset[int]) -> int | None:
    """Keep the number where it is free and in the range, else take the next free one from the range's start."""
    first, last = numbers
    if first <= wanted <= last and wanted not in taken:
        return wanted
    return next((n for n in range(first, last + 1) if n not in taken), None)


def _rewritten(flow: _Flow, before: Packet, after: Packet) -> Rewriting:
    return ALONE if before == after else (None, Translated(flow.kind, before, after, flow.line))
