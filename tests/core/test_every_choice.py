"""What learners may choose, over all demo labs: cables, ports and addresses of their own."""

import random
import re
from dataclasses import replace

import pytest

from zensur.core.formats import cabling_of
from zensur.core.lab import Lab, Link, OwnChoice, read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.reading.chosen import another_choice, read_chosen
from zensur.core.sheet import read_sheet, write_sheet
from zensur.demo import LABS, lab_text

CABLED = {
    name: re.sub(r"\n(cabling: asked\n)?devices:", "\ncabling: asked\ndevices:", lab_text(name), count=1)
    for name in LABS
}
UNSEEN = {("rebuilding", "round-by-the-quay"): ["weir:p2 -- lock:p2"]}
"""Links that no ping of a stage needs, and that only an earlier one asks for."""


def stages_of(text: str) -> tuple[Lab, ...]:
    read = read_lab(text)
    assert read.lab is not None, read.errors
    return read.lab.stages


def handed_in(lab: Lab, links: tuple[Link, ...]) -> Paper:
    return Paper(
        "", lab.full_paper, {name: f"{name}.sheet" for name in lab.full_paper}, cabling=cabling_of(links)
    )


@pytest.mark.parametrize("name", LABS)
def test_every_missing_cable_is_one_mistake(name: str) -> None:
    for lab in stages_of(CABLED[name]):
        marker, links = Marker(lab), lab.links
        result = marker.mark(handed_in(lab, links[::-1]))
        assert (result.carried, result.faults) == (result.out_of, ())
        for n, link in enumerate(links):
            result = marker.mark(handed_in(lab, (*links[:n], *links[n + 1 :])))
            wanted = [] if str(link) in UNSEEN.get((name, lab.stage), ()) else [("cable-missing", str(link))]
            assert [(f.slip, f.repair) for f in result.faults] == wanted


@pytest.mark.parametrize("name", LABS)
def test_every_cabling_with_the_sheets_that_go_with_it_is_right(name: str) -> None:
    """Ports of ethernet are exchanged at random, on devices of which nothing is there at the start."""
    chance = random.Random(name)
    for lab in [lab for lab in stages_of(CABLED[name]) for _ in range(4)]:
        ports: list[tuple[str, str, str]] = []
        for device in lab.devices.values():
            own = [p.name for p in device.ports if p.medium == "ethernet"]
            mine = chance.sample(own, len(own)) if not lab.blank[device.name].items else own
            ports += [(device.name, a, b) for a, b in zip(own, mine, strict=True) if a != b]
        other = read_chosen(lab.text, lab.stage, {}, OwnChoice(ports=tuple(ports)))
        assert other is not None
        links = [replace(k, a=k.b, b=k.a) if chance.random() < 0.5 else k for k in other.links]
        result = Marker(lab).mark(handed_in(other, tuple(chance.sample(links, len(links)))))
        assert (result.carried, result.faults) == (result.out_of, ()), ports


BETWEEN_TWO = """
zensur: 1
id: two-cables
title: Two cables between two weirs
devices:
  weir: {kind: router, ports: [p1, p2, p3]}
  lock: {kind: router, ports: [p1, p2, p3]}
cabling: asked
links:
  - weir:p1 -- lock:p1
  - weir:p2 -- lock:p2
answer:
  weir: |
    port p1
      address 10.64.0.1/30
      on
    port p2
      address 10.64.0.5/30
      on
  lock: |
    port p1
      address 10.64.0.2/30
      on
    port p2
      address 10.64.0.6/30
      on
pings:
  - {from: weir, to: "lock:p1", expect: reply}
  - {from: weir, to: "lock:p2", expect: reply}
scheme:
  tasks:
    - title: All
      criteria: [{address: "weir:p1"}, {address: "weir:p2"}, {address: "lock:p1"}, {address: "lock:p2"}, {pings: all}]
"""


@pytest.mark.parametrize(
    ("swapped", "slips"), [(("weir", "lock"), []), (("lock",), ["two-ports-swapped"]), ((), [])]
)
def test_which_of_two_cables_is_which_the_sheets_tell(swapped: tuple[str, ...], slips: list[str]) -> None:
    (lab,) = stages_of(BETWEEN_TWO)
    texts = {name: write_sheet(sheet.configuration) for name, sheet in lab.full_paper.items()}
    for name in swapped:
        texts[name] = texts[name].replace("p1", "p").replace("p2", "p1").replace("port p\n", "port p2\n")
    sheets = {name: read_sheet(text, f"{name}.sheet") for name, text in texts.items()}
    result = Marker(lab).mark(replace(handed_in(lab, lab.links), sheets=sheets))
    assert [f.slip for f in result.faults] == slips
    assert (result.score == result.out_of) is not bool(slips)


@pytest.mark.parametrize("name", ["first-addresses", "two-families", "night-shift"])
def test_every_host_may_have_another_address(name: str) -> None:
    lab = stages_of(lab_text(name))[-1]
    hosts = [
        n
        for n, device in lab.devices.items()
        if device.kind == "host" and n in lab.answer and n not in lab.given
    ]
    free = [f"{host}:{lab.devices[host].ports[0].name}" for host in hosts]
    lab = stages_of(lab.text.replace("\ndevices:", f"\nfree: {free}\ndevices:", 1))[-1]
    choice = another_choice(lab)
    assert len(choice.addresses) >= len(hosts)
    other = read_chosen(lab.text, lab.stage, {}, choice)
    assert other is not None
    result = Marker(lab).mark(handed_in(other, ()))
    assert (result.carried, result.faults) == (result.out_of, ())
