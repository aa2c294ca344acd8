"""Names in a lab file that mean devices and ports: found, or an error that says what there is."""

from collections.abc import Iterable, Mapping
from difflib import get_close_matches

from .model import Device, End, Port
from .shapes import At


def near(word: str, known: Iterable[str]) -> str:
    """Say what was probably meant, or what there is."""
    names = list(known)
    close = [n for n in get_close_matches(word, names, 2, 0.6) if n != word]
    if close:
        return f" Did you mean {close[0]}?"
    return f" There are {', '.join(names[:12])}." if names else ""


def device_of(devices: Mapping[str, Device], name: str, at: At) -> Device | None:
    """Find a device by name, without regard to case; report where there is none."""
    device = next((d for n, d in devices.items() if n.lower() == name.lower()), None)
    if device is None:
        at.fail(f"There is no device {name[:40] or 'without a name'}.{near(name, devices)}")
    return device


def end_of(devices: Mapping[str, Device], text: str, at: At) -> tuple[End, Port] | None:
    """Find the port that ``DEVICE:PORT`` means; report where there is none."""
    name, colon, port_name = text.strip().partition(":")
    if not colon:
        at.fail(f"{text.strip()[:40]!r} names no port: write DEVICE:PORT.")
        return None
    device = device_of(devices, name.strip(), at)
    if device is None:
        return None
    port = device.port(port_name.strip())
    if port is None:
        known = [p.name for p in device.ports]
        ports = f"it has {', '.join(known)}" if known else "it has none"
        at.fail(f"{device.name} has no port {port_name.strip()[:40]}; {ports}.")
        return None
    return End(device.name, port.name), port
