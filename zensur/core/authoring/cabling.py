"""Edits of links: a device joined to a network, two devices to each other, cables moved and taken out, clocks."""

from dataclasses import dataclass
from typing import Literal

from ..lab import Device, End, Kind, Link, Medium
from ..sheet import Block
from ..sheet.statements import Access
from ..weave import Knot
from .addresses import next_host, put_address
from .blocks import end_of, free_port, is_switch, linked, next_port
from .devices import add_port
from .draft import CannotEdit, Draft


@dataclass(frozen=True, slots=True, kw_only=True)
class Join:
    """Join a device, or ``box/instance``, to a network, by its row: through its switch, or to the one port
    in it.

    A free port is taken, or one added. Where the network has a prefix, the next free address is written, too.
    """

    do: Literal["join"] = "join"
    device: str
    row: int
    side: Literal["given", "answer"] = "answer"

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the device in the network."""
        box, _, instance = self.device.partition("/")
        device = draft.device(box)
        if not 0 <= self.row < len(draft.chart.rows):
            raise CannotEdit("There is no such network.")
        row = draft.chart.rows[self.row]
        knots = [k for k in draft.chart.knots if k.row == self.row]
        columns = [draft.chart.columns[k.column] for k in knots]
        if any(c.device == device.name and c.instance.lower() == instance.lower() for c in columns):
            raise CannotEdit(f"{device.name} is in this network already.")
        if row.serial:
            raise CannotEdit("A serial link has two ends: add a network for another one.")
        draft, port = _with_port(draft, device)
        if knots:
            draft, far = _way_in(draft, knots, self.side)
            draft = draft.insert("links", f"{device.name}:{port} -- {far}")
        if instance:
            draft = draft.put_statement(self.side, device.name, f"port {port}", f"instance {instance}")
        prefix = row.prefix.partition(",")[0]
        if not prefix or is_switch(device):
            return draft
        host = next_host(draft, prefix)
        return draft if host is None else put_address(draft, device.name, port, str(host), self.side)


def _with_port(draft: Draft, device: Device, medium: Medium = Medium.ETHERNET) -> tuple[Draft, str]:
    """Pick a free port of a device, or add one."""
    port = free_port(draft.lab, device, medium)
    if port is not None:
        return draft, port
    port = next_port(device, medium)
    return add_port(draft, device, port, medium), port


def _way_in(draft: Draft, knots: list[Knot], side: str) -> tuple[Draft, End]:
    """Find the port by which a network is joined: of its switch, or the one that nothing is joined to yet.

    A link between two ports gets a switch in its middle.
    """
    columns = draft.chart.columns
    switches = [k for k in knots if columns[k.column].kind == Kind.SWITCH.value]
    if switches:
        return _at_switch(draft, draft.device(columns[switches[0].column].device), switches[0], side)
    taken = linked(draft.lab)
    ends = [End(columns[k.column].device, p) for k in knots for p in k.ports]
    physical = [e for e in ends if draft.device(e.device).port(e.port)]
    loose = [e for e in physical if e not in taken]
    if loose:
        return draft, loose[0]
    found = next((f for e in physical if (f := draft.link_at(e))), None)
    if found is None:
        raise CannotEdit("This network has no port that can be joined: join the devices by their ports.")
    return _switch_between(draft, *found)


def _at_switch(draft: Draft, switch: Device, knot: Knot, side: str) -> tuple[Draft, End]:
    """Take a free port of a switch, in the VLAN of the network."""
    model = draft.lab.model[switch.name]
    access = [a for p in knot.ports if (a := model.one(Access, Block("port", p)))]
    draft, port = _with_port(draft, switch)
    if access and access[0].statement.vlan != 1:
        draft = draft.put_statement(side, switch.name, f"port {port}", access[0].statement.text())
    return draft, End(switch.name, port)


def _switch_between(draft: Draft, number: int, link: Link) -> tuple[Draft, End]:
    """Put a new switch between the ends of a link."""
    taken = {name.lower() for name in draft.lab.devices}
    name = next(f"sw{n}" for n in range(1, len(taken) + 2) if f"sw{n}" not in taken)
    draft = draft.add(f"devices.{name}", {"kind": "switch", "ports": ["p1", "p2", "p3"]})
    draft = draft.put(f"links[{number}]", f"{link.a} -- {name}:p1").insert(
        "links", f"{name}:p2 -- {link.b}", number + 1
    )
    return draft, End(name, "p3")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkPorts:
    """Link two devices, by ``DEVICE`` or ``DEVICE:PORT``; free ports are taken where none are named."""

    do: Literal["link"] = "link"
    a: str
    b: str
    medium: Medium = Medium.ETHERNET

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the link."""
        ends: list[End] = []
        for text in (self.a, self.b):
            device, port = end_of(draft.lab, text)
            if port and End(device.name, port) in linked(draft.lab):
                raise CannotEdit(f"{device.name}:{port} is linked already.")
            if not port:
                draft, port = _with_port(draft, device, self.medium)
            ends.append(End(device.name, draft.device(device.name).port(port).name))  # type: ignore[union-attr]
        return draft.insert("links", f"{ends[0]} -- {ends[1]}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Unlink:
    """Take out the link of a port."""

    do: Literal["unlink"] = "unlink"
    end: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without the link."""
        number, _ = _link_of(draft, self.end)
        return draft.remove(f"links[{number}]")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveEnd:
    """Plug one end of a link into another free port, ``DEVICE`` or ``DEVICE:PORT``."""

    do: Literal["move-end"] = "move-end"
    end: str
    to: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the link ending there."""
        number, link = _link_of(draft, self.end)
        device, port = end_of(draft.lab, self.to)
        if not port:
            draft, port = _with_port(draft, device, link.medium)
        name = draft.device(device.name).port(port)
        to = End(device.name, name.name if name else port)
        if to in linked(draft.lab):
            raise CannotEdit(f"{to} is linked already.")
        old = _end(draft, self.end)
        return _put_link(draft, number, link, tuple(to if e == old else e for e in link.ends), link.clock and (
            to if link.clock == old else link.clock
        ), link.clock_hidden)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class SetClock:
    """Say which end of a serial link has to give the clock; none where ``end`` alone is told. Perhaps hidden."""

    do: Literal["set-clock"] = "set-clock"
    end: str
    """One end of the link."""
    clocked: str = ""
    """The end that gives the clock, ``DEVICE:PORT``; empty: none has to."""
    hidden: bool = False
    """Whether learners have to find out which end it is."""

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the clock."""
        number, link = _link_of(draft, self.end)
        if link.medium is not Medium.SERIAL:
            raise CannotEdit("Only a serial link has a clock.")
        clock = _end(draft, self.clocked) if self.clocked else None
        if clock is not None and clock not in link.ends:
            raise CannotEdit(f"{clock} is no end of this link.")
        return _put_link(draft, number, link, link.ends, clock, self.hidden)


def _put_link(
    draft: Draft, number: int, link: Link, ends: tuple[End, ...], clock: End | None, hidden: bool
) -> Draft:
    a, b = ends
    text = f"{a} -- {b}"
    if clock is not None:
        text += f" clock {clock if a.device == b.device else clock.device}" + (" hidden" if hidden else "")
    return draft.put(f"links[{number}]", text)


def _end(draft: Draft, text: str) -> End:
    device, port = end_of(draft.lab, text)
    own = device.port(port)
    if own is None:
        raise CannotEdit(f"{text[:40]} names no port: write DEVICE:PORT.")
    return End(device.name, own.name)


def _link_of(draft: Draft, text: str) -> tuple[int, Link]:
    found = draft.link_at(_end(draft, text))
    if found is None:
        raise CannotEdit(f"{text[:40]} is linked to nothing.")
    return found


CABLE_EDITS = Join | LinkPorts | Unlink | MoveEnd | SetClock
