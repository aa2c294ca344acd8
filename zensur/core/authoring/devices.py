"""Edits of devices and their ports."""

from dataclasses import dataclass
from typing import Literal

from ..lab import Device, End, Kind, Medium
from ..lab.entries import move
from ..lab.schema import NAME, PORT_NAME
from ..sheet import Block
from .blocks import end_of, next_port
from .draft import CannotEdit, Draft
from .references import forget, rename_device, rename_port


@dataclass(frozen=True, slots=True, kw_only=True)
class AddDevice:
    """Add a device; a router or switch gets its ports as it is joined."""

    do: Literal["add-device"] = "add-device"
    name: str
    kind: Kind
    about: str = ""

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the device at the end of the others."""
        _check_name(draft, self.name)
        value: dict[str, object] = {"kind": self.kind.value}
        if self.about:
            value["about"] = self.about
        return draft.add(f"devices.{self.name}", value)


@dataclass(frozen=True, slots=True, kw_only=True)
class RenameDevice:
    """Give a device another name; links, sheets, pings, scheme and stages follow."""

    do: Literal["rename-device"] = "rename-device"
    device: str
    to: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the other name everywhere."""
        device = draft.device(self.device)
        if self.to.lower() != device.name.lower():
            _check_name(draft, self.to)
        return rename_device(draft, device.name, self.to)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveDevice:
    """Remove a device with its links, its sheets, and what is asked of it."""

    do: Literal["remove-device"] = "remove-device"
    device: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without the device."""
        device = draft.device(self.device)
        draft = forget(draft, device.name)
        if len(draft.lab.devices) == 1:
            return draft.remove("devices").add("devices", {})
        return draft.remove(f"devices.{device.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetDevice:
    """Say what a device is, and what is said about it."""

    do: Literal["set-device"] = "set-device"
    device: str
    kind: Kind
    about: str = ""

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the other kind and description."""
        place = f"devices.{draft.device(self.device).name}"
        draft = draft.put(f"{place}.kind", self.kind.value)
        if not self.about.strip():
            return draft.remove(f"{place}.about")
        return draft.put(f"{place}.about", self.about.strip())


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveDevice:
    """Put a device at another place in the order of the lab, counted from 0."""

    do: Literal["move-device"] = "move-device"
    device: str
    to: int

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the device moved."""
        return draft.with_text(move(draft.text, f"devices.{draft.device(self.device).name}", self.to))


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveColumn:
    """Put a column of the chart further to the left or right: from then on columns stand as devices are listed."""

    do: Literal["move-column"] = "move-column"
    device: str
    by: int

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the devices listed as the chart shows them, and this one moved."""
        name = draft.device(self.device).name
        shown = list(dict.fromkeys(c.device for c in draft.chart.columns))
        to = min(max(shown.index(name) + self.by, 0), len(shown) - 1)
        shown.insert(to, shown.pop(shown.index(name)))
        for at, device in enumerate(shown):
            if list(draft.lab.devices)[at] != device:
                draft = draft.with_text(move(draft.text, f"devices.{device}", at))
        return draft if draft.lab.as_listed else draft.put("order", "as listed")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPort:
    """Add a port to a device; without a name the next number is taken."""

    do: Literal["add-port"] = "add-port"
    device: str
    port: str = ""
    medium: Medium = Medium.ETHERNET

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the port behind the others."""
        device = draft.device(self.device)
        return add_port(draft, device, self.port or next_port(device, self.medium), self.medium)


def add_port(draft: Draft, device: Device, port: str, medium: Medium = Medium.ETHERNET) -> Draft:
    """Add a port to a device; a host without a list of ports keeps its ``p1``."""
    if PORT_NAME.pattern.fullmatch(port) is None:
        raise CannotEdit(f"{port[:40]!r} is not {PORT_NAME.what}.")
    if device.port(port):
        raise CannotEdit(f"{device.name} has a port {port} already.")
    value = port if medium is Medium.ETHERNET else {"name": port, "medium": medium.value}
    place = f"devices.{device.name}.ports"
    if f"{place}[0]" in draft.typed or f"{place}[0].name" in draft.typed or not device.ports:
        return draft.insert(place, value)
    return draft.add(place, [*(p.name for p in device.ports), value])


@dataclass(frozen=True, slots=True, kw_only=True)
class RenamePort:
    """Give a port another name; links, sheets, pings and scheme follow."""

    do: Literal["rename-port"] = "rename-port"
    end: str
    to: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the other name everywhere."""
        device, port = end_of(draft.lab, self.end)
        own = device.port(port)
        if own is None:
            raise CannotEdit(f"{self.end[:40]} names no port: write DEVICE:PORT.")
        if PORT_NAME.pattern.fullmatch(self.to) is None:
            raise CannotEdit(f"{self.to[:40]!r} is not {PORT_NAME.what}.")
        if self.to.lower() != own.name.lower() and device.port(self.to):
            raise CannotEdit(f"{device.name} has a port {self.to} already.")
        return rename_port(draft, device, own.name, self.to)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovePort:
    """Remove a port with its link, and what its device's sheets say of it."""

    do: Literal["remove-port"] = "remove-port"
    end: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without the port."""
        device, port = end_of(draft.lab, self.end)
        own = device.port(port)
        if own is None:
            raise CannotEdit(f"{self.end[:40]} names no port: write DEVICE:PORT.")
        link = draft.link_at(End(device.name, own.name))
        if link is not None:
            draft = draft.remove(f"links[{link[0]}]")
        header = draft.lab.model[device.name].header(Block("port", own.name))
        if header is not None:
            draft = draft.take(header)
        draft = forget(draft, f"{device.name}:{own.name}")
        number = next(n for n, p in enumerate(device.ports) if p.name == own.name)
        place = f"devices.{device.name}.ports"
        if len(device.ports) == 1:
            return draft.put_list(place, [])
        return draft.remove(f"{place}[{number}]")


def _check_name(draft: Draft, name: str) -> None:
    if NAME.pattern.fullmatch(name) is None:
        raise CannotEdit(f"{name[:40]!r} is not {NAME.what}.")
    if draft.lab.device(name):
        raise CannotEdit(f"There is a device {name} already.")


DEVICE_EDITS = (
    AddDevice
    | RenameDevice
    | RemoveDevice
    | SetDevice
    | MoveDevice
    | MoveColumn
    | AddPort
    | RenamePort
    | RemovePort
)
