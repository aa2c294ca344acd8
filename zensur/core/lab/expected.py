"""Pings and service checks of a lab file: who asks whom, and what has to come of it."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

from ..addresses import Address, BadValue, parse_address, parse_prefix, range_of
from ..sheet import AnyItem, OnPort
from ..sheet.statements import Advertised, Instance, Leased, Pool
from ..sheet.words import check_domain
from .known import device_of, end_of, near
from .model import Device, ExpectedPing, ExpectedService, Kind, Lab
from .shapes import At, Found

_OPEN = re.compile(r"(tcp|udp)\s+(\S+):(\d{1,5})", re.IGNORECASE)


def parse_open(text: str) -> tuple[str, str, int]:
    """Split ``tcp TARGET:N`` into protocol, target and port number; raises :class:`BadValue`."""
    said = _OPEN.fullmatch(text.strip())
    if said is None or not 1 <= int(said[3]) <= 65535:
        raise BadValue("bad-service", "Write tcp TARGET:N or udp TARGET:N, such as tcp 10.64.8.80:80.")
    return said[1].lower(), said[2].removeprefix("[").removesuffix("]"), int(said[3])


def read_pings(section: list[Found], devices: Mapping[str, Device]) -> Iterator[ExpectedPing]:
    """Read the pings; whom they go to is checked once the model answer is known."""
    for common, found in _asked(section, devices, ("from", "to", "expect")):
        yield ExpectedPing(**common, to=found.get("to"), expect=found.get("expect"))


def read_services(section: list[Found], devices: Mapping[str, Device]) -> Iterator[ExpectedService]:
    """Read the service checks."""
    for common, found in _asked(section, devices, ("from", "expect")):
        if ("open" in found.value) == ("resolve" in found.value):
            found.at.fail("A service check has either open or resolve.")
            continue
        expect = found.value["expect"]
        if "open" in found.value:
            _check(parse_open, found.get("open"), found.value["open"].at)
            if expect.value not in ("answer", "no-answer"):
                expect.at.fail(f"{expect.value[:60]} is not known here: answer, no-answer.")
        else:
            _check(check_domain, found.get("resolve"), found.value["resolve"].at)
            if expect.value not in ("answer", "no-answer"):
                _check(parse_address, expect.value, expect.at)
        yield ExpectedService(
            **common, expect=expect.value, open=found.get("open"), resolve=found.get("resolve")
        )


def _check(read: Any, text: str, at: At) -> None:
    try:
        read(text)
    except BadValue as bad:
        at.fail(str(bad))


def _asked(
    section: list[Found], devices: Mapping[str, Device], required: tuple[str, ...]
) -> Iterator[tuple[dict[str, Any], Found]]:
    """Read what pings and service checks have in common."""
    ids: set[str] = set()
    for number, found in enumerate(section, 1):
        asked = found.value
        if any(key not in asked for key in required):
            continue
        ident = found.get("id", str(number))
        if ident in ids:
            found.at.fail(f"There is another one with the id {ident}.")
        ids.add(ident)
        box, _, instance = asked["from"].value.partition("/")
        sender = device_of(devices, box, asked["from"].at)
        if sender is None:
            continue
        if "answered_by" in asked and (
            by := device_of(devices, found.get("answered_by"), asked["answered_by"].at)
        ):
            asked["answered_by"].value = by.name
        yield (
            {
                "id": ident,
                "sender": f"{sender.name}/{instance}" if instance else sender.name,
                "source": found.get("source"),
                "note": found.get("note", ""),
                "shown": found.get("shown", False),
                "seen_as": found.get("seen_as"),
                "answered_by": found.get("answered_by"),
                "distinct": found.get("distinct"),
                "family": int(found.get("family")) if "family" in asked else None,
                "out": found.get("out"),
            },
            found,
        )


def check_targets(pings: list[Found], services: list[Found], lab: Lab) -> None:
    """Check where pings and checks come from and go to, and what they are to be seen as.

    A learner's edition holds no model answer, so that devices without an address are no mistake in it.
    """
    for found in (*pings, *services):
        box, _, instance = found.get("from", "").partition("/")
        sender = lab.device(box)
        if sender is None:
            continue
        at = found.value["from"].at
        if instance and lab.answered:
            _instance(instance, sender, at, lab)
        switch = sender.kind is Kind.SWITCH and lab.answered
        if switch and not lab.model[sender.name].everywhere(OnPort):
            at.fail(f"{sender.name} is a switch without an address: it cannot ping.")
        source = found.value.get("source")
        if source is not None:
            text = source.value
            _target(text if ":" in text or _is_address(text) else f"{box}:{text}", source.at, lab, None)
        if "seen_as" in found.value:
            _seen_as(found.get("seen_as"), found.value["seen_as"].at, lab)
        if "out" in found.value:
            end_of(lab.devices, f"{box}:{found.get('out').partition('.')[0]}", found.value["out"].at)
    for found in pings:
        if "to" in found.value:
            _target(found.get("to"), found.value["to"].at, lab, found.get("family"))
            _scope(found, lab)
    for found in services:
        said = _OPEN.fullmatch(found.get("open", "").strip())
        if said is not None and not _is_name(_bare(said[2]), lab):
            _target(_bare(said[2]), found.value["open"].at, lab, found.get("family"))


def _instance(name: str, device: Device, at: At, lab: Lab) -> None:
    known = [i.statement.name for i in lab.model[device.name].all(Instance)]
    if name.lower() not in (k.lower() for k in known):
        at.fail(f"The model answer gives {device.name} no instance {name[:40]}.{near(name, known)}")


def _scope(found: Found, lab: Lab) -> None:
    """Ask for the port where a link-local address would stand on several (RFC 4007)."""
    text, sender = found.get("to"), lab.device(found.get("from", "").partition("/")[0])
    if sender is None or not _is_address(text) or not parse_address(text).is_link_local:
        return
    if parse_address(text).version == 6 and "out" not in found.value and len(sender.ports) != 1:
        found.value["to"].at.fail(
            f"{text} stands on every link: say the port of {sender.name} with out: PORT."
        )


def _bare(text: str) -> str:
    """Take the brackets off an IPv6 address before a port number."""
    return text[1:-1] if text.startswith("[") and text.endswith("]") else text


def _is_address(text: str) -> bool:
    try:
        parse_address(text)
    except BadValue:
        return False
    return True


def _is_name(text: str, lab: Lab) -> bool:
    return not _is_address(text) and lab.device(text.partition(":")[0]) is None and "." in text


def _target(text: str, at: At, lab: Lab, family: str | None) -> None:
    try:
        address = parse_address(text)
    except BadValue as bad:
        name, colon, port = text.partition(":")
        if not colon and text[:1].isdigit() and "." in text and lab.device(text) is None:
            at.fail(str(bad))
            return
        box, _, instance = name.partition("/")
        device = device_of(lab.devices, box, at)
        if device is None:
            return
        if instance and lab.answered:
            _instance(instance, device, at, lab)
        held = [
            item.block
            for stage in lab.stages
            for item in stage.model[device.name].items
            if item.block is not None and _may_answer(item, family)
        ]
        if colon and not any(b.port_name.lower() == port.lower() for b in held):
            held = []
        if not held and lab.answered:
            of_family = f"IPv{family} address" if family else "address"
            at.fail(f"The model answer gives {text} no {of_family}.")
    else:
        if family is not None and address.version != int(family):
            at.fail(f"{address} is IPv{address.version}: leave out family, or name another target.")


def _may_answer(item: AnyItem, family: str | None) -> bool:
    """Whether a statement gives a port an address that may be asked for: of a family, and not link-local."""
    statement = item.statement
    if isinstance(statement, OnPort):
        interface = statement.interface
        fits = family is None or interface.version == int(family)
        return fits and not (interface.version == 6 and interface.ip.is_link_local)
    return (isinstance(statement, Leased) and family != "6") or (
        isinstance(statement, Advertised) and family != "4"
    )


def _seen_as(text: str, at: At, lab: Lab) -> None:
    first, _, rest = text.partition(" ")
    if text == "own":
        return
    if first == "pool":
        pools = {p.statement.name for c in lab.model.values() for p in c.all(Pool)}
        if rest.lower() not in (p.lower() for p in pools) and lab.answered:
            at.fail(f"The model answer has no pool {rest[:40]}.{near(rest, pools)}")
        return
    try:
        parse_seen_as(text)
    except BadValue as bad:
        at.fail(f"{bad} Write an address, a prefix, a range, pool NAME, own, or not ADDRESS.")


def parse_seen_as(text: str) -> tuple[bool, Address, Address]:
    """Read what a source has to be seen as: whether it has to be outside, and the first and last address.

    Takes an address, a prefix, ``ADDRESS to ADDRESS`` or ``not ADDRESS``; raises :class:`BadValue`.
    """
    if text.startswith("not "):
        address = parse_address(text[4:].strip())
        return True, address, address
    if " to " in text:
        first, _, last = text.partition(" to ")
        held = range_of(parse_address(first.strip()), parse_address(last.strip()))
        return False, held.first, held.last
    if "/" in text:
        prefix = parse_prefix(text)
        return False, prefix.network_address, prefix.broadcast_address
    address = parse_address(text)
    return False, address, address
