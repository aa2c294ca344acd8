"""What learners may choose, over all demo labs: cables, ports and addresses of their own."""

import random
import re

import pytest

from zensur.core.formats import cabling_of
from zensur.core.lab import Lab, Link, OwnChoice, read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.reading.chosen import another_choice, read_chosen
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
    for lab in stages_of(CABLED[name]):
        ports: list[tuple[str, str, str]] = []
        for device in lab.devices.values():
            own = [p.name for p in device.ports if p.medium == "ethernet"]
            mine = chance.sample(own, len(own)) if not lab.blank[device.name].items else own
            ports += [(device.name, a, b) for a, b in zip(own, mine, strict=True) if a != b]
        other = read_chosen(lab.text, lab.stage, {}, OwnChoice(ports=tuple(ports)))
        assert other is not None
        result = Marker(lab).mark(handed_in(other, other.links))
        assert (result.carried, result.faults) == (result.out_of, ()), ports


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
