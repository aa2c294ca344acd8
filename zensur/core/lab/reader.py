"""Reads a lab file strictly: the shapes of its keys first, then what the values say about one another."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from difflib import get_close_matches

from ..addresses import BadValue, parse_address, parse_prefix
from ..sheet import DEFAULT_V4, Block, Gateway, OnPort, Route, Sheet, read_sheet
from .model import (
    Criterion,
    Device,
    End,
    ExpectedPing,
    Kind,
    Lab,
    Link,
    Medium,
    NamedNetwork,
    Outcome,
    Port,
    Scheme,
    Task,
)
from .nodes import LabError, compose
from .shapes import At, Choice, Either, Found, Many, Named, Number, Record, Text, Truth

_ID = Text(r"[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?", "an id: a-z, 0-9 and - inside")
_NAME = Text(r"[A-Za-z0-9][A-Za-z0-9._-]{0,31}", "a name: letters, digits and . _ -, at most 32 characters")
_PORT = Either(_NAME, Record({"name": _NAME, "medium": Choice(*Medium)}, ("name",)))
_DEVICE = Record({"kind": Choice(*Kind), "ports": Many(_PORT), "about": Text()}, ("kind",))
_NETWORK = Record({"prefix": Text(), "prefixes": Many(Text())})
_EXPECT = Choice(Outcome.REPLY, "no-reply", Outcome.TIMEOUT, Outcome.UNREACHABLE, Outcome.NO_ROUTE)
_PING = Record(
    {
        "id": _ID,
        "from": Text(),
        "to": Text(),
        "source": Text(),
        "expect": _EXPECT,
        "note": Text(),
        "shown": Truth(),
    },
    ("from", "to", "expect"),
)
_MARKS = Number()
_CRITERION = Record(
    {
        "address": Text(),
        "enabled": Text(),
        "route": Text(),
        "dest": Text(),
        "gateway": Text(),
        "ping": Text(),
        "pings": Choice("all"),
        "marks": _MARKS,
        "each": _MARKS,
    }
)
_TASKS = Either(
    Choice("auto"), Many(Record({"title": Text(), "criteria": Many(_CRITERION)}, ("title", "criteria")))
)
_LAB = Record(
    {
        "zensur": Choice("1"),
        "id": _ID,
        "title": Text(),
        "brief": Text(),
        "topics": Many(Text()),
        "level": Text(),
        "minutes": Number(1, 10_000, whole=True),
        "devices": Named(_DEVICE),
        "links": Many(Text()),
        "networks": Named(_NETWORK),
        "given": Named(Text()),
        "answer": Named(Text()),
        "pings": Many(_PING),
        "scheme": Record({"tasks": _TASKS, "strictness": Choice("effect"), "carry_forward": Truth()}),
    },
    ("zensur", "id", "devices"),
)


@dataclass(frozen=True, slots=True)
class ReadLab:
    """A lab as read: None, and at least one error, where the file cannot be used."""

    lab: Lab | None
    errors: tuple[LabError, ...]


def read_lab(text: str) -> ReadLab:
    """Read a lab file. Never raises; every error says place, line and what would be right."""
    node = compose(text)
    if isinstance(node, LabError):
        return ReadLab(None, (node,))
    if node is None:
        return ReadLab(None, (LabError("", 1, 1, "The file is empty: a lab needs zensur, id and devices."),))
    errors: list[LabError] = []
    found = _LAB.read(node, At("", 1, 1, errors))
    lab = _Builder(found).lab() if found is not None else None
    return ReadLab(None if errors else lab, tuple(sorted(errors, key=lambda e: (e.line, e.column))))


def _near(word: str, known: Iterator[str] | list[str]) -> str:
    names = list(known)
    near = get_close_matches(word, names, 1, 0.6)
    return f" Did you mean {near[0]}?" if near else f" There are {', '.join(names[:12])}."


class _Builder:
    """Turns what was read into the lab, and reports what does not fit together."""

    def __init__(self, root: Found) -> None:
        self.root = root
        self.devices: dict[str, Device] = {}

    def section(self, key: str) -> list[Found]:
        return list(self.root.get(key, []))

    def named(self, key: str) -> dict[str, Found]:
        return dict(self.root.get(key, {}))

    def lab(self) -> Lab:
        for name, found in self.named("devices").items():
            if _NAME.pattern.fullmatch(name) is None:
                found.at.fail(f"{name[:40]!r} is not {_NAME.what}.")
            elif name.lower() in (d.lower() for d in self.devices):
                found.at.fail(f"There is another device {name}, written in other capitals.")
            else:
                self.devices[name] = self._device(name, found)
        if not self.devices and "devices" in self.root.value:
            self.root.value["devices"].at.fail("A lab needs at least one device.")
        lab = Lab(
            id=self.root.get("id", ""),
            title=self.root.get("title") or self.root.get("id", ""),
            devices=self.devices,
            brief=self.root.get("brief", ""),
            level=self.root.get("level", ""),
            minutes=self.root.get("minutes"),
            topics=tuple(t.value for t in self.section("topics")),
            links=self._links(),
            networks=tuple(self._networks()),
            given=self._sheets("given"),
            answer=self._sheets("answer"),
            pings=tuple(self._pings()),
        )
        return replace(lab, scheme=self._scheme(lab))

    def _device(self, name: str, found: Found) -> Device:
        kind = Kind(found.get("kind", Kind.HOST))
        ports: list[Port] = []
        for entry in found.get("ports", []):
            whole = entry if isinstance(entry.value, str) else entry.value.get("name")
            if whole is None:
                continue
            medium = Medium.ETHERNET if entry is whole else Medium(entry.get("medium", Medium.ETHERNET))
            if whole.value.lower() in (p.name.lower() for p in ports):
                whole.at.fail(f"{name} has a port {whole.value} already.")
            ports.append(Port(whole.value, medium))
        if kind is Kind.HOST and "ports" not in found.value:
            ports.append(Port("p1"))
        return Device(name, kind, tuple(ports), found.get("about", ""))

    def _known(self, name: str, at: At) -> Device | None:
        device = next((d for n, d in self.devices.items() if n.lower() == name.lower()), None)
        if device is None:
            at.fail(f"There is no device {name[:40] or 'without a name'}.{_near(name, list(self.devices))}")
        return device

    def _end(self, text: str, at: At) -> tuple[End, Port] | None:
        name, colon, port_name = text.strip().partition(":")
        if not colon:
            at.fail(f"{text.strip()[:40]!r} names no port: write DEVICE:PORT.")
            return None
        device = self._known(name.strip(), at)
        if device is None:
            return None
        port = device.port(port_name.strip())
        if port is None:
            known = [p.name for p in device.ports]
            ports = f"it has {', '.join(known)}" if known else "it has none"
            at.fail(f"{device.name} has no port {port_name.strip()[:40]}; {ports}.")
            return None
        return End(device.name, port.name), port

    def _links(self) -> tuple[Link, ...]:
        links: list[Link] = []
        taken: dict[End, str] = {}
        for found in self.section("links"):
            left, dashes, right = found.value.partition("--")
            if not dashes:
                found.at.fail(f"{found.value[:60]!r} is no link: write DEVICE:PORT -- DEVICE:PORT.")
                continue
            a, b = self._end(left, found.at), self._end(right, found.at)
            if a is None or b is None:
                continue
            if a[0] == b[0]:
                found.at.fail(f"{a[0]} cannot be linked to itself.")
            elif a[1].medium is not b[1].medium:
                found.at.fail(
                    f"{a[0]} is {a[1].medium} and {b[0]} is {b[1].medium}: both have to be the same."
                )
            for end in (a[0], b[0]):
                if end in taken:
                    found.at.fail(f"{end} is linked already, by {taken[end]}.")
                taken[end] = found.at.place
            links.append(Link(a[0], b[0], a[1].medium))
        return tuple(links)

    def _networks(self) -> Iterator[NamedNetwork]:
        for name, found in self.named("networks").items():
            texts = [found.value["prefix"]] if "prefix" in found.value else found.get("prefixes", [])
            if not texts:
                found.at.fail("A network needs its prefix, such as prefix: 10.64.8.0/24.")
            prefixes = []
            for text in texts:
                try:
                    prefixes.append(parse_prefix(text.value))
                except BadValue as bad:
                    text.at.fail(str(bad))
            yield NamedNetwork(name, tuple(prefixes))

    def _sheets(self, key: str) -> dict[str, Sheet]:
        sheets: dict[str, Sheet] = {}
        for name, found in self.named(key).items():
            device = self._known(name, found.at)
            if device is not None and device.name in sheets:
                found.at.fail(f"{device.name} has a sheet here already.")
            elif device is not None:
                sheets[device.name] = read_sheet(found.value, f"{key}/{device.name}")
        return sheets

    def _pings(self) -> Iterator[ExpectedPing]:
        ids: set[str] = set()
        for number, found in enumerate(self.section("pings"), 1):
            ping = found.value
            if any(key not in ping for key in ("from", "to", "expect")):
                continue
            ident = found.get("id", str(number))
            if ident in ids:
                found.at.fail(f"There is another ping with the id {ident}.")
            ids.add(ident)
            sender = self._known(ping["from"].value, ping["from"].at)
            if sender is None:
                continue
            if sender.kind is Kind.SWITCH:
                ping["from"].at.fail(f"{sender.name} is a switch without an address: it cannot ping.")
            yield ExpectedPing(
                ident,
                sender.name,
                found.get("to"),
                found.get("expect"),
                found.get("source"),
                found.get("note", ""),
                found.get("shown", False),
            )

    def _scheme(self, lab: Lab) -> Scheme:
        self._targets(lab)
        found = self.root.value.get("scheme")
        if found is None:
            return Scheme()
        carry = found.get("carry_forward", True)
        tasks = found.get("tasks", "auto")
        if tasks == "auto":
            return Scheme(None, carry)
        return Scheme(tuple(self._task(task, lab) for task in tasks), carry)

    def _targets(self, lab: Lab) -> None:
        """Check where pings come from and go to: an address, a device, or a port that has an address."""
        for found in self.section("pings"):
            for key in ("to", "source"):
                entry = found.value.get(key)
                if entry is not None:
                    text = entry.value
                    if key == "source" and ":" not in text and not text[:1].isdigit():
                        text = f"{found.get('from')}:{text}"
                    self._target(text, entry.at, lab)

    def _target(self, text: str, at: At, lab: Lab) -> None:
        try:
            address = parse_address(text)
        except BadValue as bad:
            name, colon, port = text.partition(":")
            if not colon and text[:1].isdigit() and "." in text and lab.device(text) is None:
                at.fail(str(bad))
                return
            device = self._known(name, at)
            if device is None:
                return
            configuration = lab.model[device.name]
            blocks = [b for kind in ("port", "loopback") for b in configuration.blocks(kind)]
            if colon:
                blocks = [b for b in blocks if b.name.lower() == port.lower()]
            if not any(configuration.all(OnPort, block) for block in blocks):
                at.fail(f"The model answer gives {text} no address.")
        else:
            if address.version != 4:
                at.fail(f"{address}: pings of IPv6 addresses are not simulated yet.")

    def _task(self, found: Found, lab: Lab) -> Task:
        criteria: list[Criterion] = []
        for entry in found.get("criteria", []):
            criteria += self._criterion(entry, lab)
        return Task(found.get("title", ""), tuple(criteria))

    def _criterion(self, found: Found, lab: Lab) -> Iterator[Criterion]:
        keys = [k for k in ("address", "enabled", "route", "gateway", "ping", "pings") if k in found.value]
        if len(keys) != 1:
            found.at.fail("A criterion has one of address, enabled, route, gateway, ping, pings.")
            return
        key, text, at = keys[0], found.get(keys[0]), found.value[keys[0]].at
        for extra, owner in (("dest", "route"), ("each", "pings")):
            if extra in found.value and key != owner:
                found.value[extra].at.fail(f"{extra} goes with {owner} only.")
        marks = found.get("each" if key == "pings" else "marks", 1.0)
        if key == "pings":
            yield from (Criterion("ping", "", ping.id, marks) for ping in lab.pings)
        elif key == "ping":
            if text not in [p.id for p in lab.pings]:
                at.fail(f"There is no ping {text[:40]}.{_near(text, [p.id for p in lab.pings])}")
            yield Criterion(key, "", text, marks)
        elif key in ("address", "enabled"):
            yield from self._port_criterion(key, text, marks, at, lab)
        else:
            device = self._known(text, at)
            if device is None:
                return
            if key == "gateway":
                if not lab.model[device.name].all(Gateway):
                    at.fail(f"The model answer gives {device.name} no gateway.")
                yield Criterion(key, device.name, "", marks)
            elif (dest := self._dest(found, device, lab)) is not None:
                yield Criterion(key, device.name, dest, marks)

    def _port_criterion(self, key: str, text: str, marks: float, at: At, lab: Lab) -> Iterator[Criterion]:
        name, _, port = text.partition(":")
        device = self._known(name, at)
        if device is None:
            return
        model = lab.model[device.name]
        physical = device.port(port)
        loopback = next((b.name for b in model.blocks("loopback") if b.name.lower() == port.lower()), None)
        canonical = physical.name if physical else loopback
        if canonical is None:
            at.fail(f"{device.name} has no port or loopback {port[:40] or 'without a name'}.")
            return
        block = Block("port" if physical else "loopback", canonical)
        if key == "address" and not model.all(OnPort, block):
            at.fail(f"The model answer gives {text} no address.")
        yield Criterion(key, device.name, canonical, marks)

    def _dest(self, found: Found, device: Device, lab: Lab) -> str | None:
        entry = found.value.get("dest")
        if entry is None:
            found.at.fail("A route criterion needs its dest, such as dest: 10.64.40.0/24 or dest: default.")
            return None
        try:
            dest = DEFAULT_V4 if entry.value == "default" else parse_prefix(entry.value)
        except BadValue as bad:
            entry.at.fail(str(bad))
            return None
        if dest.version != 4:
            entry.at.fail(f"{dest}: routes of IPv6 are not simulated yet.")
            return None
        if dest not in [r.statement.dest for r in lab.model[device.name].all(Route)]:
            entry.at.fail(f"The model answer of {device.name} has no route to {entry.value}.")
            return None
        return str(dest)
