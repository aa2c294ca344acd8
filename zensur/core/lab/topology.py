"""Devices, links and networks of a lab file."""

import re
from collections.abc import Iterator, Mapping
from hashlib import sha256

from ..addresses import BadValue, parse_prefix
from .known import end_of
from .model import Device, End, Kind, Link, Medium, NamedNetwork, Port
from .schema import NAME
from .shapes import At, Found

_SUB_PORT = re.compile(r".+\.\d+")
_TAIL = re.compile(
    r"^(?P<ends>.*?)(?:\s+clock\s+(?:hidden\s+(?P<digest>[0-9a-f]{16})|(?P<clock>\S+)(?P<hidden>\s+hidden)?))?$",
    re.IGNORECASE,
)


def read_devices(root: Found) -> dict[str, Device]:
    """Read the devices in the order of the file."""
    devices: dict[str, Device] = {}
    for name, found in root.get("devices", {}).items():
        if NAME.pattern.fullmatch(name) is None:
            found.at.fail(f"{name[:40]!r} is not {NAME.what}.")
        elif name.lower() in (d.lower() for d in devices):
            found.at.fail(f"There is another device {name}, written in other capitals.")
        else:
            devices[name] = _device(name, found)
    return devices


def _device(name: str, found: Found) -> Device:
    kind = Kind(found.get("kind", Kind.HOST))
    ports: list[Port] = []
    for entry in found.get("ports", []):
        whole = entry if isinstance(entry.value, str) else entry.value.get("name")
        if whole is None:
            continue
        medium = Medium.ETHERNET if entry is whole else Medium(entry.get("medium", Medium.ETHERNET))
        if whole.value.lower() in (p.name.lower() for p in ports):
            whole.at.fail(f"{name} has a port {whole.value} already.")
        elif _SUB_PORT.fullmatch(whole.value):
            whole.at.fail(
                f"{whole.value} would read as a tagged sub-port: a port's name does not end in . and a number."
            )
        ports.append(Port(whole.value, medium))
    if kind is Kind.HOST and "ports" not in found.value:
        ports.append(Port("p1"))
    return Device(name, kind, tuple(ports), found.get("about", ""))


def read_links(root: Found, devices: Mapping[str, Device]) -> tuple[Link, ...]:
    """Read the links; a port is joined at most once, and only to a port of its own medium."""
    links: list[Link] = []
    taken: dict[End, str] = {}
    for found in root.get("links", []):
        link = read_link(found.value, devices, found.at, root.get("id", ""))
        for end in link.ends if link else ():
            if end in taken:
                found.at.fail(f"{end} is linked already, by {taken[end]}.")
            taken[end] = found.at.place
        links += [link] if link else []
    return tuple(links)


def clock_digest(lab: str, end: End) -> str:
    """Return what stands for the end that gives a clock where learners may not read which it is.

    It hides no more than trying does: a learner may turn the clock on at either end and see whether the link comes up.
    """
    return sha256(f"{lab.lower()} {str(end).lower()}".encode()).hexdigest()[:16]


def read_link(text: str, devices: Mapping[str, Device], at: At, lab: str = "") -> Link | None:
    """Read ``DEVICE:PORT -- DEVICE:PORT``, perhaps with its clock; report what is wrong, and where it is no link.

    ``lab`` is the lab's id, of which the digest of a hidden clock is made.
    """
    said = _TAIL.match(text)
    left, dashes, right = (said["ends"] if said else text).partition("--")
    if not dashes:
        at.fail(f"{text[:60]!r} is no link: write DEVICE:PORT -- DEVICE:PORT.")
        return None
    a, b = end_of(devices, left, at), end_of(devices, right, at)
    if a is None or b is None:
        return None
    if a[0] == b[0]:
        at.fail(f"{a[0]} cannot be linked to itself.")
    elif a[1].medium is not b[1].medium:
        at.fail(f"{a[0]} is {a[1].medium} and {b[0]} is {b[1].medium}: both have to be the same.")
    if said and said["digest"]:
        ends = [e for e in (a[0], b[0]) if clock_digest(lab, e) == said["digest"].lower()]
        if not ends:
            at.fail(
                "This hidden clock belongs to another lab, or to another link: take the learner's edition anew."
            )
        return Link(a[0], b[0], a[1].medium, next(iter(ends), None), True)
    clock = _clock(said["clock"], a[0], b[0], a[1].medium, at) if said and said["clock"] else None
    return Link(a[0], b[0], a[1].medium, clock, bool(said and said["hidden"]))


def _clock(text: str, a: End, b: End, medium: Medium, at: At) -> End | None:
    """Find the end that gives the clock: a device, or an end where both are of one device."""
    if medium is not Medium.SERIAL:
        at.fail("Only a serial link has a clock: leave it out, or give both ports medium: serial.")
        return None
    ends = [e for e in (a, b) if text.lower() in (str(e).lower(), e.device.lower())]
    if len(ends) == 1:
        return ends[0]
    at.fail(
        f"clock names the end that gives it: {a} or {b}."
        if ends
        else f"{text[:40]} is no end of this link: the clock is given by {a.device} or {b.device}."
    )
    return None


def read_networks(root: Found) -> Iterator[NamedNetwork]:
    """Read the names of networks."""
    for name, found in root.get("networks", {}).items():
        texts = [found.value["prefix"]] if "prefix" in found.value else found.get("prefixes", [])
        if not texts or {"prefix", "prefixes"} <= found.value.keys():
            found.at.fail("A network needs its prefix, such as prefix: 10.64.8.0/24, or its prefixes: […].")
        prefixes = []
        for text in texts:
            try:
                prefixes.append(parse_prefix(text.value))
            except BadValue as bad:
                text.at.fail(str(bad))
        yield NamedNetwork(name, tuple(prefixes))
