"""Right answers that look wrong, and wrong ones that look right: by hand, with what each criterion earns.

Each case says what an instructor would say of it, the lines written otherwise, and what is not earned in full.
"""

import pytest

from tests.helpers import lab_of, paper_of
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.checking.lab_check import check_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.shapes import Result
from zensur.core.sheet import Sheet

HUB = lab_of(
    "hub=router:p1,p2,p3,p4 gate=router:p1,p2 spoke=router:p1,p2 ana=host bob=host shop=host yard=router:p1,p2",
    "hub:p1--ana:p1 hub:p2--gate:p1 hub:p3--spoke:p1 spoke:p2--bob:p1 gate:p2--shop:p1 hub:p4--yard:p1",
    {
        "hub": "port p1; -address 10.1.0.1/24; -on; port p2; -address 10.64.0.1/30; -on; port p3; -address 10.64.0.5/30; -on; "
        "port p4; -address 10.64.0.9/30; -on; route 10.1.1.0/24 via 10.64.0.6; route default via 10.64.0.2; "
        "route default via 10.64.0.10 preference 60",
        "gate": "port p1; -address 10.64.0.2/30; -on; port p2; -address 198.51.100.1/24; -on; route 10.1.0.0/16 via 10.64.0.1",
        "spoke": "port p1; -address 10.64.0.6/30; -on; port p2; -address 10.1.1.1/24; -on; route default via 10.64.0.5",
        "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
        "bob": "port p1; -address 10.1.1.20/24; gateway 10.1.1.1",
        "shop": "port p1; -address 198.51.100.20/24; gateway 198.51.100.1",
    },
    "ana>bob ana>shop bob>shop",
    given={"yard": "port p1; -address 10.64.0.10/30; -on"},
)
DEFAULT, SPOKE, BACKUP = "route:hub:0.0.0.0/0", "route:hub:10.1.1.0/24", "route:hub:0.0.0.0/0:backup"

Lost = dict[str, float]
"""What criteria earn, by id, that do not earn everything."""


def changed(lab: Lab, device: str, *lines: tuple[str, str]) -> Result:
    text = lab.answer[device].text
    for old, new in lines:
        assert old in text, old
        text = text.replace(old, new, 1)
    return Marker(lab).mark(paper_of(lab, {device: text}))


def lost(result: Result) -> Lost:
    return {c.id: c.fraction for c in result.criteria if c.fraction < 1 and c.key not in ("ping", "check")}


VIA_GATE, VIA_YARD = "route default via 10.64.0.2\n", "route default via 10.64.0.10 preference 60\n"


@pytest.mark.parametrize(
    ("device", "lines", "earned"),
    [
        ("hub", [("10.1.1.0/24", "10.1.0.0/16")], {}),  # a summary wider than planned takes nothing from the default
        ("hub", [(VIA_GATE, VIA_GATE + "route 10.0.0.0/8 discard\nroute 172.16.0.0/12 discard\n")], {}),
        ("hub", [(VIA_GATE, VIA_GATE + "route 10.99.0.0/16 via 10.64.0.6\n")], {}),  # where another route leads
        ("hub", [(VIA_GATE, "route 0.0.0.0/1 via 10.64.0.2\nroute 128.0.0.0/1 via 10.64.0.2\n")], {}),
        ("hub", [(VIA_GATE, "route default out p2\n")], {DEFAULT: 0.5}),  # the gate answers for the shop alone
        ("hub", [(VIA_GATE, "route default via 10.64.0.2 out p2\n")], {}),
        ("hub", [(VIA_GATE, "route 198.51.100.0/24 via 10.64.0.2\n")], {DEFAULT: 0.5}),  # single routes for a default
        ("gate", [("10.1.0.0/16", "10.1.0.0/23")], {"route:gate:10.1.0.0/16": 0.5}),
        ("gate", [("route 10.1.0.0/16 via 10.64.0.1", "route 10.1.0.0/24 via 10.64.0.1\nroute 10.1.1.0/24 via 10.64.0.1")],
         {"route:gate:10.1.0.0/16": 0.5}),
        ("gate", [("route 10.1.0.0/16 via 10.64.0.1", "route 10.1.0.0/24 via 10.64.0.1")], {"route:gate:10.1.0.0/16": 0}),
        ("hub", [(VIA_GATE, VIA_GATE + "route 198.51.100.128/25 via 10.64.0.6\n")], {DEFAULT: 0.5}),  # hidden for a half
        ("hub", [("10.1.1.0/24 via", "10.1.1.0/24 via"), (VIA_GATE, VIA_GATE + "route 10.1.1.128/25 discard\n")], {SPOKE: 0.5}),
        ("hub", [("10.1.1.0/24", "198.51.100.0/24")], {SPOKE: 0}),  # the wrong network is one mistake, and not the default's too
        ("hub", [(VIA_GATE, "route default via 10.64.0.6\n")], {DEFAULT: 0}),
        ("hub", [(VIA_GATE, "route default discard\n")], {DEFAULT: 0}),
        ("hub", [(VIA_GATE, "route 0.0.0.0/1 discard\nroute 128.0.0.0/1 discard\nroute 198.51.100.0/24 via 10.64.0.2\n")],
         {DEFAULT: 0.5}),
        ("hub", [(VIA_GATE, "")], {DEFAULT: 0}),
        ("hub", [(VIA_YARD, "")], {BACKUP: 0}),
        ("hub", [(VIA_YARD, "route default via 10.64.0.10 preference 200\n")], {}),
        ("hub", [(VIA_YARD, "route default via 10.64.0.6 preference 60\n")], {BACKUP: 0}),
        ("hub", [(VIA_YARD, "route default discard preference 60\n")], {BACKUP: 0}),
        ("hub", [(VIA_YARD, "route default via 10.64.0.10\n")], {}),  # behind it in the sheet, and so behind it in use
        ("hub", [(VIA_YARD, "route default via 10.64.0.10 preference 5\n")], {DEFAULT: 0}),  # it is preferred: one loss
        ("hub", [(VIA_GATE, ""), (VIA_YARD, "")], {DEFAULT: 0, BACKUP: 0}),
        ("ana", [("gateway 10.1.0.1", "gateway 10.1.0.20")], {"gateway:ana": 0}),
    ],
)  # fmt: skip
def test_what_a_route_earns(device: str, lines: list[tuple[str, str]], earned: Lost) -> None:
    assert lost(changed(HUB, device, *lines)) == earned


@pytest.mark.parametrize(
    ("changes", "earned", "mistakes"),
    [  # the router's second address, and the address that the learner gave it
        ({"hub": [("10.1.0.1/24\n", "10.1.0.1/24\n  address 10.1.0.254/24\n")], "ana": [("10.1.0.1", "10.1.0.254")]}, {}, []),
        ({"hub": [("10.1.0.1/24", "10.1.0.9/24")], "ana": [("gateway 10.1.0.1", "gateway 10.1.0.9")]},
         {"address:hub:p1": 0}, [("wrong-address", "hub")]),
        ({"spoke": [("10.64.0.6/30", "10.64.0.4/29")], "hub": [("10.64.0.5/30", "10.64.0.5/29"), ("via 10.64.0.6", "via 10.64.0.4")]},
         {"address:spoke:p1": 0, "address:hub:p3": 0.5}, [("wrong-mask", "hub"), ("wrong-address", "spoke")]),
        ({"ana": [("gateway 10.1.0.1", "gateway 10.1.0.9")]}, {"gateway:ana": 0}, [("gateway-wrong", "ana")]),
        ({"hub": [("10.1.0.1/24", "10.1.0.9/24")], "ana": [("gateway 10.1.0.1", "gateway 10.1.0.20")]},
         {"address:hub:p1": 0, "gateway:ana": 0}, [("wrong-address", "hub"), ("gateway-is-the-device-itself", "ana")]),
    ],
)  # fmt: skip
def test_what_points_to_the_right_router_is_right(changes, earned: Lost, mistakes) -> None:
    texts = {}
    for device, lines in changes.items():
        texts[device] = HUB.answer[device].text
        for old, new in lines:
            assert old in texts[device]
            texts[device] = texts[device].replace(old, new, 1)
    result = Marker(HUB).mark(paper_of(HUB, texts))
    assert lost(result) == earned
    assert [(f.slip, f.device) for f in result.faults] == mistakes
    assert result.carried + sum(f.direct for f in result.faults) == result.out_of


def test_a_route_that_is_wrong_and_hidden_is_mended_by_both() -> None:
    text = HUB.answer["hub"].text.replace(
        VIA_GATE, "route default via 10.64.0.6\nroute 198.51.100.128/25 discard\n"
    )
    marker, paper = Marker(HUB), paper_of(HUB, {"hub": text})
    assert [f.slip for f in marker.mark(paper).faults] == ["wrong-next-hop", "route-where-none-should-be"]
    mended = {d: Sheet(c, (), 0, "") for d, c in marker.repaired(paper).items()}
    assert lost(marker.mark(Paper("0417", mended))) == {}


STAGED = """
zensur: 1
id: staged
devices:
  weir: {kind: router, ports: [p1, p2]}
  gauge: {kind: host}
links: [weir:p1 -- gauge:p1]
stages:
  - id: build
    answer:
      weir: |
        port p1
          address 10.64.8.1/24
          realm internal
          on
        port p2
          realm external
        loopback lo0
          address 10.64.255.1/32
        addresses crew
          permit 10.64.8.0/24
        pool spare 203.0.113.4 to 203.0.113.5
        translate from crew to spare
      gauge: |
        port p1
          address 10.64.8.20/24
        gateway 10.64.8.1
    pings: [{from: gauge, to: "weir:lo0", expect: reply}]
  - id: undo
    remove: {weir: [loopback lo0, addresses crew, pool spare, translate from crew]}
    answer:
      weir: |
        loopback lo1
          address 10.64.255.2/32
    pings: [{from: gauge, to: 10.64.255.1, expect: no-reply}, {from: gauge, to: "weir:lo1", expect: reply}]
"""
KEPT = "port p1\n  address 10.64.8.1/24\n  realm internal\n  on\nport p2\n  realm external\n"
OLD, NEW = "loopback lo0\n  address 10.64.255.1/32\n", "loopback lo1\n  address 10.64.255.2/32\n"
REST = ["addresses crew", "pool spare", "translate from crew"]
LIST = "addresses crew\n  permit 10.64.8.0/24\npool spare 203.0.113.4 to 203.0.113.5\ntranslate from crew to spare\n"


@pytest.mark.parametrize(
    ("weir", "missed"),
    [
        (KEPT + NEW, []),
        (KEPT + NEW.replace("lo1", "lo0"), []),  # under another name, even the old one
        (KEPT + OLD + NEW, ["loopback lo0"]),
        (KEPT + OLD, ["loopback lo0", *REST]),  # the old one is not the new one; and a blank paper has the rest
        (KEPT + NEW + LIST.replace("translate from crew to spare\n", ""), ["addresses crew", "pool spare"]),
        (KEPT + OLD.replace("lo0", "lo7") + NEW, ["loopback lo0"]),
        (KEPT + NEW + LIST, REST),
        (KEPT + NEW + LIST.replace("crew", "staff").replace("spare", "few"), REST),
    ],
)  # fmt: skip
def test_what_a_stage_takes_away_has_to_be_gone_under_whatever_name(weir: str, missed: list[str]) -> None:
    read = read_lab(STAGED)
    assert read.lab is not None, read.errors
    result = Marker(read.lab).mark(
        paper_of(read.lab, {"weir": weir, "gauge": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1"})
    )
    absent = {c.operand: c.fraction for c in result.criteria if c.key == "absent"}
    assert absent == {w: float(w not in missed) for w in ("loopback lo0", *REST)}
    slip = "wrong-address" if weir == KEPT + OLD else "loopback-or-route-not-removed"
    assert {f.slip for f in result.faults if weir == KEPT + OLD or "lo1" not in f.repair} == (
        {slip} if missed else set()
    )


TWO = lab_of(
    "toll=router:p1,p2 sw=switch:p1,p2,p3 quay=switch:p1,p2 ana=host bob=host shop=host",
    "toll:p1--sw:p1 sw:p2--ana:p1 sw:p3--quay:p1 quay:p2--bob:p1 toll:p2--shop:p1",
    {
        "toll": "port p1; -address 10.64.8.1/24; -address 2001:db8:8::1/64; -realm internal; -on; port p2; -address 203.0.113.1/29; "
        "-realm external; -on; translate 10.64.8.20 as 203.0.113.4",
        "sw": "vlan 10; vlan 20; port p1; -access 10; port p2; -access 10; port p3; -trunk 10 native 1",
        "quay": "vlan 10; vlan 20; port p1; -trunk 10 native 1; port p2; -access 10",
        "ana": "port p1; -address 10.64.8.20/24; -address 2001:db8:8::20/64; gateway 10.64.8.1; gateway 2001:db8:8::1",
        "bob": "port p1; -address 10.64.8.21/24; gateway 10.64.8.1",
    },
    "ana>shop shop>203.0.113.4 bob>ana",
    given={"shop": "port p1; -address 203.0.113.2/29", "bob": "port p1; -address fe80::21/64"},
    scheme={
        "tasks": [{"title": "All", "criteria": [
            {"translation": "toll", "of": "10.64.8.20", "marks": 3}, {"gateway": "ana", "marks": 2}, {"address": "bob:p1", "marks": 2},
            {"trunk": "sw:p3"}, {"trunk": "quay:p1"}, {"access": "sw:p2"}, {"pings": "all"},
        ]}]
    },
)  # fmt: skip
TRUNK, OTHER = "trunk 10 native 1", "trunk 10 native 20"


@pytest.mark.parametrize(
    ("changes", "earned"),
    [
        ({}, {}),
        # outside, a pool of one answers only as long as a session stands, and an earlier ping had opened it
        ({"toll": ("translate 10.64.8.20 as 203.0.113.4", "addresses one\n  permit 10.64.8.20\npool own 203.0.113.4 to 203.0.113.4\n"
                   "translate from one to own")}, {"translation:toll:10.64.8.20": 0}),
        ({"ana": ("gateway 2001:db8:8::1\n", "")}, {"gateway:ana:6": 0}),
        ({"ana": ("gateway 2001:db8:8::1\n", "gateway 2001:db8:8::9\n")}, {"gateway:ana:6": 0}),
        ({"ana": ("gateway 10.64.8.1\n", "")}, {"gateway:ana": 0}),
        ({"bob": ("  address 10.64.8.21/24\n", "")}, {"address:bob:p1": 0}),  # what is given earns nothing
        ({"bob": ("10.64.8.21/24", "10.64.8.21/25")}, {"address:bob:p1": 0.5}),
        ({"sw": (TRUNK, OTHER), "quay": (TRUNK, OTHER)}, {}),
        ({"sw": (TRUNK, OTHER)}, {"trunk:sw:p3": 0.2}),
        ({"sw": (TRUNK, "trunk 20 native 20"), "quay": (TRUNK, OTHER)}, {"trunk:sw:p3": 0.667}),
    ],
)  # fmt: skip
def test_what_looks_right_or_wrong_and_is_not(changes, earned: Lost) -> None:
    texts = {}
    for device, (old, new) in changes.items():
        assert old in TWO.answer[device].text
        texts[device] = TWO.answer[device].text.replace(old, new, 1)
    result = Marker(TWO).mark(paper_of(TWO, texts))
    assert {i: round(f, 3) for i, f in lost(result).items()} == earned
    assert bool(result.faults) is bool(earned)


LEARNING = lab_of(
    "weir=router:p1,p2,p3 quay=router:p1,p2,p3 ana=host bob=host",
    "weir:p1--ana:p1 weir:p2--quay:p2 weir:p3--quay:p3 quay:p1--bob:p1",
    {
        "weir": "port p1; -address 10.64.8.1/24; -on; port p2; -address 10.64.0.1/30; -on; port p3; -address 10.64.0.5/30; -on; "
        "route 10.64.16.0/24 via 10.64.0.6 preference 60; rip; -run p2; -passive p1",
        "quay": "port p1; -address 10.64.16.1/24; -on; port p2; -address 10.64.0.2/30; -on; port p3; -address 10.64.0.6/30; -on; "
        "rip; -run p2; -passive p1",
        "ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
        "bob": "port p1; -address 10.64.16.20/24; gateway 10.64.16.1",
    },
    "ana>bob bob>ana",
)
FLOATING = "route 10.64.16.0/24 via 10.64.0.6 preference 60\n"


@pytest.mark.parametrize(
    ("instead", "fraction"),
    [
        (FLOATING, 1),
        (FLOATING.replace("60", "200"), 1),  # any number that keeps it behind what is learned
        (FLOATING.replace(" preference 60", ""), 0.5),  # it stands in front
        (FLOATING.replace("0.6", "0.2"), 0),
        ("route 10.64.16.0/24 discard preference 60\n", 0),
        ("", 0),
    ],
)
def test_a_route_behind_a_learned_one_is_judged_without_that(instead: str, fraction: float) -> None:
    result = changed(LEARNING, "weir", (FLOATING, instead))
    assert lost(result) == ({"route:weir:10.64.16.0/24": fraction} if fraction < 1 else {})
    assert check_lab(LEARNING).errors == ()
