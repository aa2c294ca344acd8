"""Who hears a frame: links and switches, flooded once (IEEE 802.1D bridging, loops made harmless)."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass

from .wiring import Wiring


@dataclass(frozen=True, slots=True)
class Passed:
    """A switch that a frame passed, with the physical ports it came in and went out by."""

    device: int
    enters: int
    leaves: int


@dataclass(frozen=True, slots=True)
class Reached:
    """A port of a router or host that a frame reaches, with the switches on the way."""

    port: int
    path: tuple[Passed, ...]


def reached_from(wiring: Wiring, link_up: Callable[[int], bool], start: int) -> tuple[Reached, ...]:
    """Flood a frame from a physical port and return whom it reaches, in the order of the lab."""
    found: dict[int, Reached] = {}
    seen = {start}
    waiting: deque[tuple[int, tuple[Passed, ...]]] = deque([(start, ())])
    while waiting:
        sends, path = waiting.popleft()
        if not link_up(sends):
            continue
        enters = wiring.peer[sends]
        device = wiring.port_device[enters]
        if not wiring.is_switch[device]:
            if enters not in seen:
                found[enters] = Reached(enters, path)
                seen.add(enters)
            continue
        if enters in seen:
            continue
        seen.add(enters)
        for leaves in wiring.ports_of[device].values():
            if leaves not in seen:
                seen.add(leaves)
                waiting.append((leaves, (*path, Passed(device, enters, leaves))))
    found.pop(start, None)
    return tuple(found[port] for port in sorted(found))
