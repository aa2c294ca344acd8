"""Who receives a frame: links, switches and their VLANs, flooded once (IEEE 802.1D, 802.1Q; loops made harmless)."""

from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from .carrying import UNTAGGED
from .device import CompiledDevice
from .ports import IpPort
from .wiring import Wiring


@dataclass(frozen=True, slots=True)
class Passed:
    """A switch that a frame passed, with its physical ports (-1: the switch itself) and the VLAN there."""

    device: int
    enters: int
    leaves: int
    vlan: int = 1


Path = tuple[Passed, ...]


@dataclass(frozen=True, slots=True)
class Receiver:
    """A port, sub-port or VLAN interface that a frame reaches, by its key, with the switches on the way."""

    node: int
    key: int
    path: Path


class Flood:
    """A frame on its way to everybody who receives it.

    Delivery has a direction: what is tagged on one end and untagged on the other may pass one way only.
    """

    def __init__(
        self,
        wiring: Wiring,
        devices: Sequence[CompiledDevice],
        link_up: Callable[[int], bool],
        is_up: Callable[[IpPort], bool],
    ) -> None:
        self.wiring, self.devices, self.link_up, self.is_up = wiring, devices, link_up, is_up
        self.found: dict[int, Receiver] = {}
        self.passed: set[tuple[int, int]] = set()
        """Physical ports of switches that it entered or left by, each with the VLAN."""
        self._waiting: deque[tuple[int, int, Path]] = deque()

    def run(self, start: IpPort) -> tuple[Receiver, ...]:
        """Send a frame out of a port, sub-port or VLAN interface; returns whom it reaches, in the lab's order."""
        if start.kind == "vlan":
            self._inside(self.wiring.device_of(start.key), start.vlan, -1, ())
        else:
            self._waiting.append((start.port, start.vlan, ()))
        while self._waiting:
            sends, tag, path = self._waiting.popleft()
            if self.link_up(sends):
                self._arrive(self.wiring.peer[sends], tag, path)
        self.found.pop(start.key, None)
        return tuple(sorted(self.found.values(), key=self._in_order))

    def _in_order(self, receiver: Receiver) -> tuple[int, int]:
        return self.wiring.device_of_node(receiver.node), receiver.key

    def _arrive(self, enters: int, tag: int, path: Path) -> None:
        device = self.wiring.port_device[enters]
        compiled = self.devices[device]
        if not compiled.is_switch:
            taken = compiled.by_key.get(self.wiring.key_of(enters, tag))
            if taken is not None and (tag == UNTAGGED or self.is_up(taken)):
                self.found.setdefault(taken.key, Receiver(taken.node, taken.key, path))
            return
        vlan = compiled.carries[enters].vlan_of(tag)
        if vlan is None or vlan not in compiled.declared or (enters, vlan) in self.passed:
            return
        self.passed.add((enters, vlan))
        self._inside(device, vlan, enters, path)

    def _inside(self, device: int, vlan: int, enters: int, path: Path) -> None:
        compiled = self.devices[device]
        own = compiled.by_key.get(self.wiring.vlan_key(device, vlan))
        if own is not None and own.addresses and enters >= 0 and self.is_up(own):
            self.found.setdefault(own.key, Receiver(own.node, own.key, path))
        for leaves in self.wiring.ports_of[device].values():
            tag = compiled.carries[leaves].tag_of(vlan)
            if tag is not None and (leaves, vlan) not in self.passed:
                self.passed.add((leaves, vlan))
                self._waiting.append((leaves, tag, (*path, Passed(device, enters, leaves, vlan))))


def cabled(wiring: Wiring, link_up: Callable[[int], bool], start: Sequence[int]) -> set[int]:
    """Return the physical ports that links which are up lead to, through switches, whatever the VLANs."""
    found: set[int] = set()
    waiting = list(start)
    while waiting:
        sends = waiting.pop()
        if not link_up(sends) or (enters := wiring.peer[sends]) in found:
            continue
        found.add(enters)
        device = wiring.port_device[enters]
        if wiring.is_switch[device]:
            waiting += [p for p in wiring.ports_of[device].values() if p != enters]
    return found
