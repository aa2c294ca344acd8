"""The marker's hand in a sheet, worked out by hand: what is struck, what is pencilled in, and where."""

import pytest

from tests.helpers import lab_of, paper_of, sheet
from zensur.core.marking.margin import Margin, margin
from zensur.core.marking.marker import Marker

WEIR = (
    "port p1; -address 10.1.0.1/24; -on; loopback anchor; -address 10.9.0.1/32; "
    "dhcp crew; -network 10.1.0.0/24; -gateway 10.1.0.1; route 10.4.0.0/16 via 10.1.0.7"
)
SWITCH = "vlan 10; -address 10.1.0.9/24; -on; port p1; -access 10; port p2; -access 10"
ANA = "port p1; -address 10.1.0.20/24; gateway 10.1.0.1"
LAB = lab_of(
    "weir=router:p1 ana=host sw=switch:p1,p2", "ana:p1--sw:p1 sw:p2--weir:p1",
    {"weir": WEIR, "ana": ANA, "sw": SWITCH}, "ana>weir",
)  # fmt: skip
MARKER = Marker(LAB)


def margin_of(device: str, text: str | None) -> Margin:
    result = MARKER.mark(paper_of(LAB, {device: text}))
    return margin(result, device, f"{device}.sheet", None if text is None else sheet(text), True)


def pencilled(device: str, text: str) -> list[tuple[int | None, str]]:
    """What is pencilled in, each line with the number of the learner's line above it."""
    found: list[tuple[int | None, str]] = []
    above: int | None = None
    for line in margin_of(device, text).lines:
        if line.number is None:
            found.append((above, line.text))
        above = line.number or above
    return found


@pytest.mark.parametrize(
    ("device", "text", "expected"),
    [
        ("ana", "port p1; -address 10.1.0.20/24", [(2, "gateway 10.1.0.1")]),
        ("ana", "gateway 10.1.0.1", [(1, "port p1"), (1, "  address 10.1.0.20/24")]),
        # at the end of the block that is there, or with its header where it is not
        ("weir", WEIR.replace("; -gateway 10.1.0.1", ""), [(7, "  gateway 10.1.0.1")]),
        ("weir", WEIR.replace("loopback anchor; -address 10.9.0.1/32; ", ""),
         [(7, "loopback anchor"), (7, "  address 10.9.0.1/32")]),
        ("weir", WEIR.replace("dhcp crew; -network 10.1.0.0/24; -gateway 10.1.0.1; ", ""),
         [(6, "dhcp crew"), (6, "  network 10.1.0.0/24"), (6, "  gateway 10.1.0.1")]),
        ("weir", WEIR.replace("-address 10.1.0.1/24; ", ""), [(2, "  address 10.1.0.1/24")]),
        # the header is itself a mistake
        ("sw", SWITCH.replace("vlan 10; -address 10.1.0.9/24; -on; ", ""), [(4, "vlan 10"), (4, "  address 10.1.0.9/24")]),
        # a route belongs behind the last route
        ("weir", "route 10.8.0.0/16 discard; " + WEIR.replace("; route 10.4.0.0/16 via 10.1.0.7", ""), [(1, "route 10.4.0.0/16 via 10.1.0.7")]),
    ],
)  # fmt: skip
def test_what_is_missing_is_pencilled_in_where_it_belongs(device, text, expected) -> None:
    assert pencilled(device, text) == expected


@pytest.mark.parametrize(
    ("device", "text", "number", "struck", "correction"),
    [
        ("ana", ANA.replace("/24", "/25"), 2, "10.1.0.20/25", "/24"),
        ("ana", ANA.replace("gateway 10.1.0.1", "gateway 10.1.0.3"), 3, "10.1.0.3", "10.1.0.1"),
        ("weir", WEIR.replace("via 10.1.0.7", "via 10.1.0.8"), 9, "10.1.0.8", "via 10.1.0.7"),
    ],
)
def test_what_is_wrong_is_struck_and_corrected(device, text, number, struck, correction) -> None:
    line = margin_of(device, text).lines[number - 1]
    assert line.number == number
    assert line.wrong is not None
    assert (line.text[line.wrong.start : line.wrong.end], line.correction, line.fault) == (
        struck,
        correction,
        1,
    )


TOLL = (
    "port p1; -address 10.1.0.1/24; -realm internal; -on; port p2; -address 203.0.113.2/29; -realm external; -on; "
    "addresses crew; -deny 10.1.0.199; -permit 10.1.0.0/24; addresses few; -permit 10.1.0.0/25; "
    "pool spare 203.0.113.4 to 203.0.113.5; translate from few to spare; translate from crew to p2 shared"
)
IN_ORDER = lab_of("toll=router:p1,p2 ana=host shop=host", "ana:p1--toll:p1 toll:p2--shop:p1",
                  {"toll": TOLL, "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1", "shop": "port p1; -address 203.0.113.1/29"},
                  "ana>shop")  # fmt: skip


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        # behind what permits all of the network it would have no effect
        (TOLL.replace("-deny 10.1.0.199; ", ""), [(9, "addresses crew", ""), (None, "  deny 10.1.0.199", ""), (10, "  permit 10.1.0.0/24", "")]),
        (TOLL.replace("-deny 10.1.0.199; -permit 10.1.0.0/24", "-permit 10.1.0.0/24; -deny 10.1.0.9"),
         [(10, "  permit 10.1.0.0/24", ""), (11, "  deny 10.1.0.9", "deny 10.1.0.199, above line 10")]),
        (TOLL.replace("10.1.0.199", "10.1.0.9"), [(10, "  deny 10.1.0.9", "10.1.0.199")]),
        (TOLL.replace("translate from few to spare; ", ""),
         [(14, "pool spare 203.0.113.4 to 203.0.113.5", ""), (None, "translate from few to spare", ""), (15, "translate from crew to p2 shared", "")]),
    ],
)  # fmt: skip
def test_what_decides_first_is_pencilled_in_above_what_would_hide_it(text, shown) -> None:
    result = Marker(IN_ORDER).mark(paper_of(IN_ORDER, {"toll": text}))
    assert len(result.faults) == 1
    lines = [
        (n.number, n.text, n.correction)
        for n in margin(result, "toll", "toll.sheet", sheet(text), True).lines
    ]
    at = lines.index(shown[0])
    assert lines[at : at + len(shown)] == shown


def test_a_twin_has_it_above_its_own_line() -> None:
    marker, wrong = Marker(IN_ORDER), TOLL.replace("-deny 10.1.0.199; ", "")
    memo = marker.memo()
    papers = [
        paper_of(IN_ORDER, {"toll": text})
        for text in (wrong, sheet(wrong).replace("port p1", "# mine\n\nport p1", 1))
    ]
    above = [fault.in_front_of for paper in papers for fault in marker.mark(paper, memo).faults]
    assert len(memo.twins) == 1
    assert [where.line for where in above if where is not None] == [10, 12]


def test_every_criterion_of_a_device_stands_beside_one_line_or_none() -> None:
    found = margin_of("ana", "port p1; -address 10.1.0.20/25")
    assert [(line.number, line.criteria, line.earned, line.out_of) for line in found.lines] == [
        (1, (), 0, 0), (2, ("address:ana:p1",), 1, 2), (None, ("gateway:ana",), 0, 1),
    ]  # fmt: skip
    assert found.unlined == ()


def test_a_sheet_that_is_not_there_is_told() -> None:
    assert margin_of("ana", None).absent == ("No sheet of ana was handed in.",)
    assert margin(MARKER.mark(paper_of(LAB, {})), "x", None, None, False).absent == (
        "Nothing is asked of x.",
    )
