"""Names that stand in many places of a lab file: carried along where they change, and taken out where they go."""

import re
from collections.abc import Callable, Collection, Iterator, Mapping

import yaml

from ..lab import Device
from ..lab.entries import rename
from ..lab.nodes import LabError, compose
from ..lab.port_names import in_sheet, put_ports
from ..lab.splice import entries_of, put_all
from ..sheet.statements import Pool
from .draft import CannotEdit, Draft
from .numbered import Listed, left_of, reordered

_SHEETS = ("given", "start", "answer", "remove")
_SECTION = re.compile(r"(?:stages\[\d+\]\.)?(\w+)")
_ONE_ASKED = re.compile(r"(stages\[\d+\]\.)?(pings|services)\[(\d+)\]")
_ASKED = ("from", "to", "answered_by", "open")
_NO_DEVICE = (
    "title",
    "marks",
    "each",
    "dest",
    "of",
    "port",
    "record",
    "network",
    "like",
    "is",
    "manual",
    "value",
)
Told = Mapping[str, str]
"""Texts by their places."""


def rename_device(draft: Draft, old: str, new: str) -> Draft:
    """Return the draft with another name for a device, wherever it is named; its sheets say so, too."""
    token = _of_device(old)
    changes = dict(_named(draft.typed, token, lambda text: token.sub(new, text)))
    for place, title in draft.typed.items():
        if re.fullmatch(r"(stages\[\d+\]\.)?scheme\.tasks\[\d+\]\.title", place):
            changes[place] = token.sub(new, title)
    own_name = re.compile(rf"^name {re.escape(old)}(?=\s|$)", re.IGNORECASE | re.MULTILINE)
    for place in sheets_of(draft.typed, old):
        said = own_name.sub(f"name {new}", draft.typed[place])
        if said != draft.typed[place]:
            changes[place] = said
    text = put_all(draft.text, changes)
    for place in list(keys_of(text, old)):
        text = rename(text, place, new)
    return draft.with_text(text)


def rename_port(draft: Draft, device: Device, old: str, new: str) -> Draft:
    """Return the draft with another name for a port: in links, sheets, pings and scheme."""
    changes = dict(_naming_port(draft, device.name, old, new))
    for place in sheets_of(draft.typed, device.name):
        if not re.search(r"(^|\.)answer\.", place):
            changes[place] = in_sheet(draft.typed[place], {old.lower(): new})
    for place, value in draft.typed.items():
        if re.fullmatch(rf"devices\.{re.escape(device.name)}\.ports\[\d+\](\.name)?", place) and value == old:
            changes[place] = new
    if not any(
        place.startswith(f"devices.{device.name}.") for place in changes
    ):  # a host's p1 is not written
        draft = draft.add(f"devices.{device.name}.ports", [new])
    return draft.with_text(put_all(draft.text, changes))


def _naming_port(draft: Draft, device: str, port: str, other: str) -> Iterator[tuple[str, str]]:
    """Yield the texts that name a port, as they are with another name; of the sheets only the answers."""
    root = compose(draft.text)
    if root is None or isinstance(root, LabError):
        raise CannotEdit("The text has to be mended first.")
    put_ports(root, {device.lower(): {port.lower(): other}})
    return ((place, value) for place, value in _scalars(root) if value != draft.typed[place])


def forget(draft: Draft, name: str) -> Draft:
    """Return the draft without what names a device, or ``DEVICE:PORT``: links, pings, checks, criteria, its sheets."""
    device, _, port = name.partition(":")
    token = _of_port(device, port) if port else _of_device(device)
    places = [place for place, _ in _named(draft.typed, token, lambda text: token.sub("\0", text))]
    if port:
        named = _naming_port(draft, device, port, "gone")
        places += [place for place, _ in named if place.endswith((".source", ".out"))]
    else:
        places += keys_of(draft.text, device, ("devices",))
    gone = {place if _keeps_its_entry(place) else re.sub(r"(.*\]).*", r"\1", place) for place in places}
    draft, criteria = _criteria_follow(draft, gone)
    gone |= set(criteria) | set(() if port else _seen_as_pools_of(draft, device))
    gone -= {place for place in gone if any(place.startswith(f"{other}.") for other in gone)}
    order = {place: n for n, place in enumerate(entries_of(draft.text))}
    for place in sorted(gone, key=lambda p: order[p], reverse=True):
        draft = draft.remove(place)
        around = place.rpartition("[")[0]
        if around.endswith(".criteria") and f"{around}[0]" not in draft.entries:
            draft = draft.remove(around.removesuffix(".criteria"))  # a task that was about this alone
    return draft


def _criteria_follow(draft: Draft, gone: Collection[str]) -> tuple[Draft, list[str]]:
    """Let criteria name the pings that stay by their new numbers; return the places of those that name what goes."""
    numbers: dict[tuple[str, Listed], set[int]] = {}
    for place in gone:
        if found := _ONE_ASKED.fullmatch(place):
            numbers.setdefault((found[1] or "", "pings" if found[2] == "pings" else "services"), set()).add(
                int(found[3])
            )
    criteria: list[str] = []
    for (stage, listed), taken in numbers.items():
        draft, more = reordered(draft, stage, listed, left_of(draft, stage, listed, taken))
        criteria += more
    return draft, criteria


def _seen_as_pools_of(draft: Draft, device: str) -> Iterator[str]:
    """Yield where pings are to be seen as a pool that no other device has."""
    pools = {
        name: {p.statement.name for p in model.everywhere(Pool)} for name, model in draft.lab.model.items()
    }
    elsewhere = {pool for name, own in pools.items() if name != device for pool in own}
    for pool in pools.get(device, set()) - elsewhere:
        for place, value in draft.typed.items():
            if place.endswith(".seen_as") and value.split() == ["pool", pool]:
                yield place


def sheets_of(typed: Told, device: str) -> Iterator[str]:
    """Yield the places of a device's sheets, in all stages."""
    own = re.compile(rf"(stages\[\d+\]\.)?(given|start|answer)\.{re.escape(device)}", re.IGNORECASE)
    return (place for place in typed if own.fullmatch(place))


def keys_of(text: str, device: str, without: tuple[str, ...] = ()) -> Iterator[str]:
    """Yield the places of keys that are a device's name, the last first."""
    sections = [s for s in ("devices", *_SHEETS) if s not in without]
    own = re.compile(rf"(stages\[\d+\]\.)?({'|'.join(sections)})\.{re.escape(device)}", re.IGNORECASE)
    return (place for place in reversed(list(entries_of(text))) if own.fullmatch(place))


def _of_device(name: str) -> re.Pattern[str]:
    return re.compile(rf"(?<![\w.-]){re.escape(name)}(?![\w.-])", re.IGNORECASE)


def _of_port(device: str, port: str) -> re.Pattern[str]:
    return re.compile(
        rf"(?<![\w.-]){re.escape(device)}(?:/[\w.-]+)?:{re.escape(port)}(?:\.\d+)?(?![\w/.-])", re.IGNORECASE
    )


def _named(typed: Told, token: re.Pattern[str], change: Callable[[str], str]) -> Iterator[tuple[str, str]]:
    """Yield the texts that name something, as they are after a change; sheets are left alone."""
    for place, value in typed.items():
        if _may_name(place) and token.search(value):
            yield place, change(value)


def _may_name(place: str) -> bool:
    """Whether a text of the file may be, or hold, the name of a device."""
    found = _SECTION.match(place)
    section, key = found[1] if found else "", place.rpartition(".")[2]
    if section in ("links", "hidden", "free"):
        return not place.endswith((".network", ".from", ".length"))
    if section in ("pings", "services"):
        return key in _ASKED
    return section == "scheme" and ".criteria[" in place and "].accept" not in place and key not in _NO_DEVICE


def _keeps_its_entry(place: str) -> bool:
    """Whether only the key goes, and not the ping that it belongs to; sheets are keys as well."""
    return place.endswith(".answered_by") or bool(re.search(rf"(^|\.)({'|'.join(_SHEETS)})\.[^.]+$", place))


def _scalars(node: yaml.Node, place: str = "") -> Iterator[tuple[str, str]]:
    if isinstance(node, yaml.ScalarNode):
        yield place, node.value
    elif isinstance(node, yaml.MappingNode):
        for key, value in node.value:
            if isinstance(key, yaml.ScalarNode):
                yield from _scalars(value, f"{place}.{key.value}" if place else key.value)
    elif isinstance(node, yaml.SequenceNode):
        for number, value in enumerate(node.value):
            yield from _scalars(value, f"{place}[{number}]")
