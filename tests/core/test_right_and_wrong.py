"""Right answers that look wrong, and wrong ones that look right: by hand, with what each criterion earns.

Each case says what an instructor would say of it, the lines written otherwise, and what is not earned in full.
"""

import pytest

from tests.helpers import lab_of, paper_of
from zensur.core.lab import Lab
from zensur.core.marking import Marker
from zensur.core.marking.shapes import Result

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
        ({"spoke": [("10.64.0.6/30", "10.64.0.7/29")], "hub": [("10.64.0.5/30", "10.64.0.5/29"), ("via 10.64.0.6", "via 10.64.0.7")]},
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
