"""The learner's edition of a lab: what learners may know, without model answer, scheme and hidden sheets."""

from collections.abc import Iterator
from typing import Any

import yaml

from ..addresses import Prefix
from ..lab import (
    Device,
    Expected,
    ExpectedPing,
    ExpectedService,
    FreeNetwork,
    FreePort,
    Lab,
    Link,
    Medium,
    NamedNetwork,
    clock_digest,
)
from ..sheet import write_sheet


class _Dumper(yaml.SafeDumper):
    """Writes texts of several lines as literal blocks."""


def _text(dumper: yaml.SafeDumper, value: str) -> yaml.Node:
    return dumper.represent_scalar("tag:yaml.org,2002:str", value, style="|" if "\n" in value else None)


_Dumper.add_representer(str, _text)


def given_sheets(lab: Lab) -> dict[str, str]:
    """Return the sheets that are in place and that learners may read, by device."""
    if lab.before is None:
        return {name: sheet.text for name, sheet in lab.given.items() if name not in lab.hidden}
    return {
        name: write_sheet(configuration)
        for name, configuration in lab.under.items()
        if configuration.items and name not in lab.hidden
    }


def targets(lab: Lab) -> list[Expected]:
    """Return the pings and service checks that learners see."""
    return [asked for asked in lab.expected.values() if asked.shown]


def shown_prefixes(lab: Lab, network: NamedNetwork) -> list[Prefix]:
    """Return the prefixes of a network as learners see them: what one is chosen within in the place of the choice."""
    within = {f.planned: f.within for f in lab.free if isinstance(f, FreeNetwork)}
    return [within.get(p, p) for p in network.prefixes]


def learners_edition(lab: Lab) -> str:
    """Write a lab, or a stage of one, as a lab file for its learners.

    It is written anew, so that no comment of the instructor's is in it.
    """
    document: dict[str, Any] = {
        "zensur": 1,
        "id": lab.id,
        "title": f"{lab.title}: {lab.stage_title}" if lab.stage else lab.title,
        "brief": lab.brief,
        "topics": list(lab.topics),
        "level": lab.level,
        "minutes": lab.minutes,
        "devices": {name: _device(device) for name, device in lab.devices.items()},
        "links": [] if lab.asks_cabling else [_link(lab, link) for link in lab.links],
        "order": "as listed" if lab.as_listed else "",
        "cabling": "asked" if lab.asks_cabling else "",
        "networks": {n.name: {"prefixes": [str(p) for p in shown_prefixes(lab, n)]} for n in lab.networks},
        "given": given_sheets(lab),
        "start": {name: sheet.text for name, sheet in lab.start.items()},
        "free": [f"{f.device}:{f.port}" for f in lab.free if isinstance(f, FreePort)],
        "pings": [_asked(p) for p in lab.pings if p.shown],
        "services": [_asked(s) for s in lab.services if s.shown],
    }
    kept = {key: value for key, value in document.items() if value not in (None, "", [], {})}
    return yaml.dump(kept, Dumper=_Dumper, sort_keys=False, allow_unicode=True, width=110)


def _device(device: Device) -> dict[str, Any]:
    ports = [
        p.name if p.medium is Medium.ETHERNET else {"name": p.name, "medium": p.medium.value}
        for p in device.ports
    ]
    about = {"about": device.about} if device.about else {}
    return {"kind": device.kind.value, "ports": ports, **about}


def _link(lab: Lab, link: Link) -> str:
    """Write a link; which end gives the clock cannot be read where learners have to find out, and yet it decides."""
    if link.clock is None:
        return str(link)
    if link.clock_hidden:
        return f"{link} clock hidden {clock_digest(lab.id, link.clock)}"
    alone = link.a.device != link.b.device
    return f"{link} clock {link.clock.device if alone else link.clock}"


def _asked(asked: Expected) -> dict[str, Any]:
    """Write a ping or check without what only the instructor is to know."""
    return {key: value for key, value in _said(asked) if value is not None}


def _said(asked: Expected) -> Iterator[tuple[str, Any]]:
    yield "id", asked.id
    yield "from", asked.sender
    yield "source", asked.source
    yield "family", asked.family
    yield "out", asked.out if isinstance(asked, ExpectedPing) else None
    if isinstance(asked, ExpectedPing):
        yield "to", asked.to
    if isinstance(asked, ExpectedService):
        yield "open", asked.open
        yield "resolve", asked.resolve
    yield "expect", asked.expect
    yield "shown", True
