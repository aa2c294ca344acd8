"""Small labs written in a few words, and papers made from their model answers."""

import json
from collections.abc import Mapping
from typing import Any

import yaml

from zensur.core import sim
from zensur.core.jsonable import to_json
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.shapes import Result
from zensur.core.sheet import read_sheet
from zensur.core.sim import AnyRun, Network, run


def lab_of(
    devices: str,
    links: str | list[str] = "",
    answer: Mapping[str, str] | None = None,
    pings: str = "",
    **more: object,
) -> Lab:
    """Make a lab. ``devices`` as ``weir=router:p1,p2 ana=host``, ``links`` as ``weir:p1--ana:p1``.

    ``pings`` as ``ana>weir=reply``; sheets may have their lines divided by ``;`` with ``-`` for an indent.
    """
    document: dict[str, object] = {"zensur": 1, "id": "small", "devices": {}, **more}
    found = {}
    for word in devices.split():
        name, _, rest = word.partition("=")
        kind, _, ports = rest.partition(":")
        entry: dict[str, object] = {"kind": kind}
        if ports:
            entry["ports"] = [
                {"name": p, "medium": "serial"} if p.startswith("s") else p for p in ports.split(",")
            ]
        found[name] = entry
    document["devices"] = found
    document["links"] = (
        [link.replace("--", " -- ") for link in links.split()] if isinstance(links, str) else links
    )
    if "stages" not in more:
        document["answer"] = {name: sheet(text) for name, text in (answer or {}).items()}
        document["pings"] = [_ping(word) for word in pings.split()]
    if "given" in more and isinstance(more["given"], dict):
        document["given"] = {name: sheet(text) for name, text in more["given"].items()}
    read = read_lab(yaml.safe_dump(document, sort_keys=False))
    assert read.lab is not None, "\n".join(map(str, read.errors))
    return read.lab


def _ping(word: str) -> dict[str, str]:
    pair, _, expect = word.partition("=")
    sender, _, to = pair.partition(">")
    sender, _, source = sender.partition("@")
    return {"from": sender, "to": to, "expect": expect or "reply"} | ({"source": source} if source else {})


def sheet(text: str) -> str:
    """Turn ``port p1; -address …; -on`` into the lines of a sheet."""
    if "\n" in text:
        return text
    lines = (part.strip() for part in text.split(";"))
    return "".join(f"  {line[1:]}\n" if line.startswith("-") else f"{line}\n" for line in lines if line)


def paper_of(lab: Lab, changes: Mapping[str, str | None] | None = None, learner: str = "0417") -> Paper:
    """Make a paper: the model answer with other sheets for some devices, None for no sheet."""
    texts: dict[str, str | None] = {name: s.text for name, s in lab.answer.items()}
    texts |= {name: None if text is None else sheet(text) for name, text in (changes or {}).items()}
    kept = {name: text for name, text in texts.items() if text is not None}
    return Paper(
        learner,
        {name: read_sheet(text, f"{name}.sheet") for name, text in kept.items()},
        {name: f"{name}.sheet" for name in kept},
    )


def mark(lab: Lab, changes: Mapping[str, str | None] | None = None) -> Result:
    """Mark such a paper."""
    return Marker(lab).mark(paper_of(lab, changes))


def row(network: Network, ran: AnyRun) -> dict[str, Any]:
    """Return the row of a ping or check as ``ping --json`` prints it."""
    found: dict[str, Any] = json.loads(to_json(sim.row(network, ran)))
    return found


def known(network: Network, runs: sim.Runs) -> dict[str, Any]:
    """Return what every device knows as ``state --json`` prints it."""
    found: dict[str, Any] = json.loads(to_json(sim.state(network, runs)))
    return found


def rows(*asked: Any, **more: Any) -> list[dict[str, Any]]:
    """Return rows as ``ping --json`` prints them."""
    found: list[dict[str, Any]] = json.loads(to_json(sim.rows(*asked, **more)))
    return found


def pinged(lab: Lab, sheets: Mapping[str, str] | None = None) -> list[dict[str, object]]:
    """Run the lab's pings on the model answer with other sheets for some devices."""
    own = {name: s.configuration for name, s in lab.answer.items()}
    own |= {name: read_sheet(sheet(text), name).configuration for name, text in (sheets or {}).items()}
    model = Network.of_lab(lab, lab.model)
    network = Network.of_lab(lab, lab.with_sheets(own))
    return [row(network, run(network, model, asked)) for asked in lab.pings]
