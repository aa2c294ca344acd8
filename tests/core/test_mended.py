"""What if one mistake were mended: the paper marks as the one without that slip does, which is marked by itself."""

import random
from dataclasses import replace

import pytest

from tests.core.every_lab import ALL, handed_in
from tests.core.test_faults import is_found, marked
from tests.helpers import lab_of, paper_of
from zensur.core.lab import Lab
from zensur.core.marking.making.made import may_go_together, sheets_with
from zensur.core.marking.marker import Marker
from zensur.core.marking.slips.catalogue import slips_in

SEVERAL = [lab for lab in ALL if len({slip.device for slip in slips_in(lab)}) > 1]


@pytest.mark.parametrize("lab", SEVERAL, ids=lambda lab: lab.id)
def test_a_paper_with_one_of_its_slips_mended_is_the_paper_without_it(lab: Lab) -> None:
    chance, marker = random.Random(f"mended {lab.id}"), Marker(lab)
    slips = [
        s for s in slips_in(lab) if not s.what.startswith("sheet:")
    ]  # what is in them depends on the other
    tried = 0
    for _ in range(30):
        both = chance.sample(slips, 2)
        if both[0].device == both[1].device or not may_go_together(both):
            continue
        result, left = marked(marker, both), marked(marker, both[1:])
        if not is_found(result, both) or not is_found(left, both[1:]):
            continue  # together they are another mistake, or one of them shows nowhere
        fault = next(f for f in result.faults if f.repair in both[0].repairs and f.device == both[0].device)
        sheets = sheets_with(lab, both)
        paper = handed_in(lab, sheets)
        then = marker.mended(paper, fault)
        tried += 1
        said = [[(s.device, s.what) for s in both], fault.title]
        assert {c.id: c.fraction for c in then.criteria} == {c.id: c.fraction for c in left.criteria}, said
        assert (then.score, then.carried, then.grade) == (left.score, left.carried, left.grade), said
        assert [(f.what, f.direct, f.consequences) for f in then.faults] == [
            (f.what, f.direct, f.consequences) for f in left.faults
        ], said
        assert [(p.id, p.as_expected, p.detail) for p in then.pings] == [
            (p.id, p.as_expected, p.detail) for p in left.pings
        ], said
    assert tried >= 8


LAB = lab_of(
    "weir=router:p1,p2 ana=host bob=host",
    "weir:p1--ana:p1 weir:p2--bob:p1",
    {
        "weir": "port p1\n  address 10.64.8.1/24\n  on\nport p2\n  address 10.64.16.1/24\n  on\n",
        "ana": "port p1\n  address 10.64.8.20/24\ngateway 10.64.8.1\n",
        "bob": "port p1\n  address 10.64.16.20/24\ngateway 10.64.16.1\n",
    },
    pings="ana>bob",
)
GATEWAY = "port p1\n  address 10.64.8.20/24\n"
PORT_OFF = "port p1\n  address 10.64.8.1/24\nport p2\n  address 10.64.16.1/24\n  on\n"
MISREAD = "prt p1\n  address 10.64.8.1/24\n  on\nport p2\n  address 10.64.16.9/24\n  on\n"


def test_a_ping_with_two_mistakes_before_it_holds_when_both_are_mended_only() -> None:
    marker, paper = Marker(LAB), paper_of(LAB, {"weir": PORT_OFF, "ana": GATEWAY})
    result = marker.mark(paper)
    assert {f.slip for f in result.faults} == {"port-left-off", "gateway-missing"}
    for fault in result.faults:
        then = marker.mended(paper, fault)
        assert then.score == result.score + fault.direct
        assert [p.as_expected for p in then.pings] == [False]
        assert [f.slip for f in then.faults] == [f.slip for f in result.faults if f is not fault]
    only = paper_of(LAB, {"ana": GATEWAY})
    (fault,) = marker.mark(only).faults
    then = marker.mended(only, fault)
    assert (then.score, then.faults, [p.as_expected for p in then.pings]) == (then.out_of, (), [True])


def test_a_ping_that_two_mistakes_together_let_pass_is_explained_by_the_one_that_is_left() -> None:
    """Where neither runs the protocol on a network, its packets take another way, without a loop."""
    lab = next(lab for lab in ALL if lab.id == "tidings")
    by = {(slip.device, *sorted(slip.repairs)): slip for slip in slips_in(lab)}
    run, passive = by["quay", "run p2"], by["weir", "passive p1"]
    sheets = sheets_with(lab, [run, passive])
    paper = handed_in(lab, sheets)
    marker = Marker(lab)
    result, left = marker.mark(paper), marked(marker, [passive])
    fault = next(f for f in result.faults if f.device == "quay")
    held, lost = ({c.id for c in r.criteria if c.fraction == 1} for r in (result, left))
    assert "ping:1" in held - lost
    assert marker.mended(paper, fault).carried == left.carried


def test_what_was_not_understood_stays_one_mistake_when_another_is_mended() -> None:
    marker, paper = Marker(LAB), paper_of(LAB, {"weir": MISREAD})
    header, address = marker.mark(paper).faults
    assert (header.line, address.line) == (1, 5)
    then = marker.mended(paper, address)
    assert [(f.line, f.direct) for f in then.faults] == [(1, header.direct)]
    then = marker.mended(paper, header)
    assert [(f.line, f.direct) for f in then.faults] == [(5, address.direct)]


def test_a_mistake_that_the_paper_does_not_have_mends_nothing() -> None:
    marker, paper = Marker(LAB), paper_of(LAB, {"ana": GATEWAY})
    result = marker.mark(paper)
    other = replace(result.faults[0], device="bob")
    assert marker.mended(paper, other) == result
