"""What may stand next at a place of a lab file: its keys and values, and what fits in its sheets."""

import re
from collections.abc import Iterable, Iterator

from ..addresses import Address, Prefix, usable
from ..sheet import OnPort
from ..sheet.completion import Completion, Option, Surroundings, complete
from ..sheet.statements import BLOCKS
from .model import Device, Kind, Lab
from .schema import LAB
from .shapes import Choice, Either, Many, Named, Record, Shape, Truth

_KEY = re.compile(r"(?:- +)*([A-Za-z0-9][^:{}\[\]#]*?) *:(?: |$)")
_SECTIONS = ("given", "start", "answer", "remove")
_ONLY_SWITCH = frozenset(("vlan",))


def surroundings(lab: Lab, name: str) -> Surroundings:
    """Return what a sheet of a device may name: its ports, the lab's networks, the addresses of others.

    Addresses are those of the model answer, so that this is for the instructor's eyes only.
    """
    device = lab.devices[name]
    networks = [p for n in lab.networks for p in n.prefixes]
    others = {
        item.statement.interface.ip: f"{other}, {item.block.port_name}"
        for other, model in lab.model.items()
        if other != name
        for item in model.everywhere(OnPort)
        if item.block is not None
    }
    own = [i.statement.interface.network for i in lab.model[name].everywhere(OnPort)]
    free = [next((a for a in _hosts(n) if a not in others), None) for n in networks]
    return Surroundings(
        tuple(p.name for p in device.ports),
        {
            "address": tuple(
                Option(str(a), who)
                for a, who in sorted(others.items(), key=lambda one: not _near(one[0], own))
            ),
            "interface": tuple(
                Option(f"{address}/{network.prefixlen}", f"free in {_name(lab, str(network))}")
                for network, address in zip(networks, free, strict=True)
                if address is not None
            ),
            "network": (Option("default"), *(Option(str(n), _name(lab, str(n))) for n in networks)),
        },
        frozenset(k.word for k in BLOCKS if device.kind is Kind.SWITCH or k.word not in _ONLY_SWITCH),
    )


def _near(address: Address, networks: Iterable[Prefix]) -> bool:
    """Whether an address lies in a network of the device's own: that of a neighbour is meant first."""
    return any(address.version == n.version and address in n for n in networks)


def _hosts(network: Prefix) -> Iterator[Address]:
    held = usable(network)
    return (held.first + n for n in range(min(held.size, 512)))


def _name(lab: Lab, prefix: str) -> str:
    return next((n.name for n in lab.networks if prefix in map(str, n.prefixes)), "")


def complete_lab(text: str, number: int, column: int, lab: Lab | None) -> Completion:
    """Return what may stand at a column of a line of a lab file, both counted from 1; beyond the text at its end.

    ``lab`` is the lab as it could be read last; without it no names of devices are offered.
    """
    lines = text.split("\n")
    number = min(number, len(lines))
    before = lines[number - 1][: column - 1]
    found = _sheet_around(lines, number - 1, before)
    if found is not None:
        return _in_sheet(lines, found, number, column, lab)
    path = _path(lines[: number - 1], before)
    flow = before.rpartition("{")[2] if before.count("{") > before.count("}") else None
    said = flow if flow is not None else re.sub(r"^[ -]*", "", before)
    piece = said.rpartition(",")[2] if flow is not None else said
    key, colon, value = piece.partition(":")
    wanted = value if colon and (value[:1] in (" ", "")) else key
    partial = wanted.lstrip(" [")
    if "[" in wanted or (colon and "," in wanted):
        partial = wanted.rpartition(",")[2].lstrip(" [")
    if flow is not None:
        opener = _KEY.match(before.partition("{")[0].strip())
        path = [*path, *([opener[1]] if opener else [])] if opener and opener[1] not in path[-1:] else path
    shape = _shape(path)
    options = _for_value(shape, key.strip(), lab) if colon else _keys(shape, path, lab)
    fitting = [o for o in options if o.text.lower().startswith(partial.lower()) and o.text != partial]
    return Completion(len(before) - len(partial) + 1, tuple(dict.fromkeys(fitting)))


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip(" "))


def _sheet_around(lines: list[str], at: int, before: str) -> tuple[int, str] | None:
    """Find the header line of the sheet that a line lies in, and its device."""
    own = _indent(before) if before.strip() else len(before)
    for number in range(at - 1, -1, -1):
        line = lines[number]
        if not line.strip():
            continue
        if _indent(line) < own:
            found = re.fullmatch(r" +([A-Za-z0-9][A-Za-z0-9._-]*): *\|[0-9+-]*\s*", line)
            if found:
                return (
                    (number, found[1])
                    if _path(lines[:number], line)[-2:-1] in ([s] for s in _SECTIONS)
                    else None
                )
            if not line.strip().startswith("#"):
                own = min(own, _indent(line))
                if own == 0:
                    return None
    return None


def _in_sheet(
    lines: list[str], found: tuple[int, str], number: int, column: int, lab: Lab | None
) -> Completion:
    start, name = found
    body = lines[start + 1 :]
    indent = next((_indent(line) for line in body if line.strip()), _indent(lines[start]) + 2)
    device = lab.device(name) if lab else None
    around = surroundings(lab, device.name) if lab and device else Surroundings()
    inner = complete("\n".join(line[indent:] for line in body), number - start - 1, column - indent, around)
    return Completion(inner.column + indent, inner.options)


def _path(above: list[str], before: str) -> list[str]:
    """Return the keys around a place, worked out from how far lines are indented."""
    path: list[str] = []
    depth = _indent(before) + (2 if before.lstrip().startswith("- ") and before.strip() != "-" else 0)
    own = _KEY.match(before.strip())
    if own and before.rstrip().endswith("|"):
        path.append(own[1])
        depth = _indent(before)
    for line in reversed(above):
        stripped = line.strip()
        if not stripped or stripped.startswith("#") or depth <= 0:
            continue
        inner = _indent(line) + (2 if stripped.startswith("- ") else 0)
        found = _KEY.match(stripped)
        if found and (inner < depth or (before.lstrip().startswith("-") and inner <= _indent(before))):
            path.insert(0, found[1])
            depth = inner if inner < depth else 0
            before = line
    return path


def _shape(path: list[str]) -> Shape:
    """Follow keys through the declared shapes."""
    shape: Shape = LAB
    for key in path:
        shape = _inner(shape, key)
    return shape


def _inner(shape: Shape, key: str) -> Shape:
    while isinstance(shape, (Many, Either)):
        shape = shape.shape if isinstance(shape, Many) else shape.other
    if isinstance(shape, Record) and key in shape.keys:
        shape = shape.keys[key].shape
    elif isinstance(shape, Named):
        shape = shape.shape
    while isinstance(shape, (Many, Either)):
        inner = shape.shape if isinstance(shape, Many) else shape.other
        if not isinstance(inner, (Record, Many, Either)):
            break
        shape = inner
    return shape


def _keys(shape: Shape, path: list[str], lab: Lab | None) -> Iterator[Option]:
    if isinstance(shape, Record):
        for name, key in shape.keys.items():
            yield Option(f"{name}: ", key.about)
    elif path and path[-1] in _SECTIONS and lab is not None:
        for name in lab.devices:
            yield Option(f"{name}: |", "a sheet of this device")
    elif path and path[-1] == "links" and lab is not None:
        yield from _free_ends(lab)


def _for_value(shape: Shape, key: str, lab: Lab | None) -> Iterator[Option]:
    inner = shape.keys[key].shape if isinstance(shape, Record) and key in shape.keys else None
    while isinstance(inner, Many):
        inner = inner.shape
    if isinstance(inner, Either):
        inner = inner.text
    if isinstance(inner, Choice):
        yield from (Option(word) for word in inner.words)
    elif isinstance(inner, Truth):
        yield from (Option("true"), Option("false"))
    elif lab is not None:
        yield from _named_in(key, lab)


def _named_in(key: str, lab: Lab) -> Iterator[Option]:
    """Offer what a key names: devices, ports, pings."""
    if key in ("from", "answered_by", "gateway", "route", "to"):
        for name, device in lab.devices.items():
            if key != "from" or device.kind is not Kind.SWITCH or lab.model[name].everywhere(OnPort):
                yield Option(name, device.kind.value)
    if key in ("address", "enabled", "to"):
        for name, device in lab.devices.items():
            yield from (Option(f"{name}:{port}") for port in _ports(lab, device))
    if key == "ping":
        yield from (Option(p.id, f"{p.sender} to {p.to}") for p in lab.pings)
    if key == "check":
        yield from (Option(s.id, f"{s.sender}: {s.open or s.resolve}") for s in lab.services)


def _ports(lab: Lab, device: Device) -> list[str]:
    made = [b.port_name for b in lab.model[device.name].bearers() if b.is_made]
    return [*(p.name for p in device.ports), *made]


def _free_ends(lab: Lab) -> Iterator[Option]:
    taken = {end for link in lab.links for end in (link.a, link.b)}
    for name, device in lab.devices.items():
        for port in device.ports:
            if not any(t.device == name and t.port == port.name for t in taken):
                yield Option(f"{name}:{port.name}", "not linked yet")
