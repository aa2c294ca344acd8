"""Who earns what and what it costs, worked out by hand: charges, carrying, the guard, stages, extras, the budget."""

import random

import pytest

from tests.core.two_routers import (
    ADDRESS,
    ANA,
    ANSWER,
    BOB,
    DEVICES,
    GATEWAY,
    LINKS,
    MORE,
    PING,
    QUAY,
    WEIR,
    costs,
    earned,
    lab,
    mark,
    totals,
)
from tests.helpers import lab_of, paper_of, sheet
from zensur.core.marking.charged import NOT_CARRIED, charged_extras
from zensur.core.marking.guarded import ELSEWHERE, UNTOUCHED
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.result import CUT_SHORT
from zensur.core.marking.shapes import Extra, Result, rounded
from zensur.core.sheet import read_sheet

# --- what is lost is charged once ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("criteria", "ana", "fractions", "direct", "sums"),
    [
        # nothing lost; half of an address; the whole of it with the ping behind it; the gateway alone
        ([ADDRESS, GATEWAY, PING], ANA, [(1, False), (1, False), (1, False)], [], (9, 9, 9)),
        ([ADDRESS, GATEWAY, PING], ANA.replace("/24", "/25"), [(0.5, False), (1, False), (1, False)], [("ana", 1.5, 0)], (7.5, 7.5, 9)),
        ([ADDRESS, GATEWAY, PING], ANA.replace("0.20", "9.20"), [(0, False), (1, False), (0, False)], [("ana", 3, 1)], (2, 2, 9)),
        ([ADDRESS, GATEWAY, PING], ANA.replace("gateway 10.1.0.1", ""), [(1, False), (0, False), (0, True)], [("ana", 2, 1)], (3, 7, 9)),
        # two mistakes behind one ping: each costs what it costs itself
        ([ADDRESS, GATEWAY, PING], "port p1; -address 10.1.0.20/25; gateway 10.1.0.9", [(0.5, False), (0, False), (0, False)], [("ana", 1.5, 0), ("ana", 2, 1)], (1.5, 1.5, 9)),
        # nothing counts the gateway: its first consequence is what it costs, the next is carried
        ([ADDRESS, PING, {"ping": "1", "marks": 1}], ANA.replace("gateway 10.1.0.1", ""), [(1, False), (0, False), (0, True)], [("ana", 4, 1)], (3, 4, 8)),
        # the same criterion twice: both are lost, and both are charged
        ([MORE, MORE, GATEWAY, PING], ANA.replace("0.20", "9.20"), [(0, False), (0, False), (1, False), (0, True)], [("ana", 2, 1)], (2, 6, 8)),
        # a mark of nothing costs nothing
        ([{"address": "ana:p1", "marks": 0}, GATEWAY], ANA.replace("0.20", "9.20"), [(0, False), (1, False)], [("ana", 0, 0)], (2, 2, 2)),
    ],
)  # fmt: skip
def test_a_mistake_costs_what_it_costs_itself(criteria, ana, fractions, direct, sums) -> None:
    result = mark(lab(*criteria), ana=ana)
    assert (earned(result), costs(result), totals(result)) == (fractions, direct, sums)


@pytest.mark.parametrize(
    ("marks", "carried"),
    [
        ((2, 2), True),
        ((3, 2), False),
        ((2, 3), True),
        ((4, 3), False),
        ((201, 200), False),
        ((200, 201), True),
    ],
)
def test_a_ping_is_carried_where_at_least_half_was_done_on_every_device(marks, carried) -> None:
    """The first of the two is lost."""
    of = lab(
        {"gateway": "ana", "marks": marks[0]},
        {"address": "ana:p1", "marks": marks[1]},
        {"address": "weir:p1", "marks": 1},
        PING,
    )
    result = mark(of, ana=ANA.replace("gateway 10.1.0.1", ""))
    ping = result.criteria[-1]
    assert (ping.fraction, ping.carried) == (0, carried)
    assert ping.note == ("" if carried else NOT_CARRIED)
    kept = sum(marks) + 1 - marks[0]
    assert totals(result) == (kept, kept + 4 * carried, sum(marks) + 5)
    assert ping.fault == result.faults[0].id == 1


def test_what_follows_is_not_carried_for_a_device_that_the_learner_left_alone() -> None:
    of = lab({"address": "ana:p1"}, {"address": "quay:p1"}, {"route": "quay", "dest": "10.1.0.0/24"}, PING)
    result = mark(of, quay=None)
    assert earned(result) == [(1, False), (0, False), (0, False), (0, False)]
    assert costs(result) == [("quay", 2, 1)]
    assert result.criteria[-1].note == NOT_CARRIED
    assert totals(result) == (1, 1, 7)


def test_without_carry_forward_both_totals_are_the_sum() -> None:
    of = lab(ADDRESS, GATEWAY, PING, scheme={"carry_forward": False})
    result = mark(of, ana=ANA.replace("gateway 10.1.0.1", ""))
    assert totals(result) == (3, 3, 9)
    assert [c.note for c in result.criteria] == ["", "", ""]
    low = mark(
        lab({"gateway": "ana", "marks": 9}, MORE, PING, scheme={"carry_forward": False}),
        ana=ANA.replace("gateway 10.1.0.1", ""),
    )
    assert low.criteria[-1].note == ""  # nothing is said of carrying where nothing is carried


def test_where_nothing_of_the_journey_is_counted_what_was_done_elsewhere_decides() -> None:
    """The scheme counts nothing of the devices that the second ping passes."""
    of = lab(
        {"address": "bob:p1", "marks": 2},
        {"ping": "1", "marks": 1},
        {"ping": "2", "marks": 1},
        pings="ana>weir:p2 weir>ana",
    )
    gone = ANA.replace("gateway 10.1.0.1", "")
    assert earned(mark(of, ana=gone)) == [(1, False), (0, False), (1, False)]
    off = WEIR.replace("-address 10.1.0.1/24; -on", "-address 10.1.0.1/24")
    assert earned(mark(of, weir=off)) == [(1, False), (0, False), (0, True)]
    assert earned(mark(of, weir=off, bob=BOB.replace("2.0.20", "2.9.20"))) == [
        (0, False),
        (0, False),
        (0, False),
    ]


def test_several_statements_of_one_criterion_share_what_it_loses() -> None:
    servers = {**ANSWER, "ana": ANA + "; resolver 10.2.0.20 10.2.0.21 10.2.0.22 10.2.0.23"}
    of = lab({"resolver": "ana", "marks": 3}, {"address": "ana:p1"}, answer=servers)
    assert costs(mark(of, ana=ANA)) == [("ana", 0.75, 0)] * 4
    assert costs(mark(of, ana=ANA + "; resolver 10.2.0.20 10.2.0.21")) == [("ana", 0.75, 0)] * 2
    one = mark(of, ana=ANA + "; resolver 10.2.0.20 10.2.0.21 10.2.0.22 10.2.0.23 10.2.0.24")
    assert (earned(one)[0], costs(one)) == ((0.8, False), [("ana", 0.6, 0)])


# --- a blank paper earns nothing -------------------------------------------------------------------------------------

NOWHERE = {"ping": "1", "marks": 2}


@pytest.mark.parametrize(
    ("criteria", "changes", "fractions", "notes"),
    [
        # a ping that has to fail: blank; with the route done; failing elsewhere; with another device's work alone
        ([GATEWAY, NOWHERE], dict.fromkeys(ANSWER), [0, 0], ["", UNTOUCHED]),
        ([GATEWAY, NOWHERE], {}, [1, 1], ["", ""]),
        (
            [GATEWAY, ADDRESS, NOWHERE],
            {"ana": ANA.replace("gateway 10.1.0.1", "")},
            [0, 1, 0],
            ["", "", ELSEWHERE],
        ),
        (
            [GATEWAY, {"address": "bob:p1"}, NOWHERE],
            {"ana": None, "weir": None},
            [0, 1, 0],
            ["", "", UNTOUCHED],
        ),
        # nothing of its journey is counted: a readable sheet of one of the devices is enough
        ([{"address": "bob:p1"}, NOWHERE], {}, [1, 1], ["", ""]),
        ([{"address": "bob:p1"}, NOWHERE], {"ana": None, "weir": None}, [1, 0], ["", UNTOUCHED]),
    ],
)
def test_what_a_blank_paper_meets_is_guarded(criteria, changes, fractions, notes) -> None:
    result = mark(lab(*criteria, pings="ana>10.9.0.1=no-reply"), **changes)
    assert [c.fraction for c in result.criteria] == fractions
    assert [c.note for c in result.criteria] == notes


def test_a_criterion_that_is_met_in_part_is_guarded_for_that_part() -> None:
    """The sheet to begin with has the right address with another mask, which is half."""
    of = lab(ADDRESS, GATEWAY, start={"ana": sheet("port p1; -address 10.1.0.20/25")})
    assert Marker(of).guard.blank == {"address:ana:p1": 0.5, "gateway:ana": 0.0}
    assert [c.fraction for c in mark(of, ana=None).criteria] == [0, 0]
    alone = mark(of, ana="port p1; -address 10.1.0.20/24")
    assert [(c.fraction, c.note) for c in alone.criteria] == [(0.5, UNTOUCHED), (0, "")]
    assert totals(alone) == (1.5, 1.5, 5)
    assert [c.fraction for c in mark(of).criteria] == [1, 1]
    both = mark(of, ana="port p1; -address 10.1.0.20/25; gateway 10.1.0.1")
    assert [c.fraction for c in both.criteria] == [0.5, 1]
    assert [c.fraction for c in mark(of, ana="port p1; -address 10.1.9.20/24").criteria] == [0, 0]


def test_nobody_can_hand_in_what_the_model_answer_adds_nothing_to() -> None:
    """A ping between given devices that has to fail counts once anything else of the lab is met."""
    given = {"quay": QUAY.replace("route 10.1.0.0/24 via 10.0.0.1", ""), "bob": BOB}
    of = lab(ADDRESS, NOWHERE, pings="bob>10.9.0.1=no-reply", answer={"weir": WEIR, "ana": ANA}, given=given)
    assert [c.fraction for c in mark(of).criteria] == [1, 1]
    assert [(c.fraction, c.note) for c in mark(of, ana=None).criteria] == [(0, ""), (0, UNTOUCHED)]


# --- stages ----------------------------------------------------------------------------------------------------------


def test_what_an_earlier_stage_counts_costs_nothing_again_but_a_missing_sheet_does() -> None:
    ping = {"from": "ana", "to": "bob", "expect": "reply"}
    counted = [{"title": "T", "criteria": [{"gateway": "ana"}, {"address": "ana:p1"}]}]
    stages = [
        {"id": "one", "answer": {n: sheet(t) for n, t in ANSWER.items()}, "pings": [dict(ping)], "scheme": {"tasks": counted}},
        {"id": "two", "answer": {"ana": "name ana\n"}, "pings": [dict(ping)],
         "scheme": {"tasks": [{"title": "U", "criteria": [{"ping": "1", "marks": 4}, {"name": "ana"}]}]}},
    ]  # fmt: skip
    of = lab_of(DEVICES, LINKS, stages=stages)
    whole = {name: s.text for name, s in of.full_paper.items()}

    def marked(ana: str | None) -> Result:
        texts = {**whole, "ana": ana}
        return Marker(of).mark(Paper("x", {n: read_sheet(t, n) for n, t in texts.items() if t is not None}))

    forgot = marked(whole["ana"].replace("gateway 10.1.0.1\n", ""))
    assert (earned(forgot), costs(forgot), totals(forgot)) == (
        [(0, True), (1, False)],
        [("ana", 0, 1)],
        (1, 5, 5),
    )
    missing = marked(None)
    assert (earned(missing), costs(missing), totals(missing)) == (
        [(0, False), (0, False)],
        [("ana", 1, 1)],
        (0, 0, 5),
    )


# --- what nobody asked for -------------------------------------------------------------------------------------------


def extra(changes: bool) -> Extra:
    return Extra("weir", "weir.sheet", 1, "x", changes)


@pytest.mark.parametrize(
    ("scheme", "changing", "charged"),
    [
        ({"extras": "report"}, [True, True], [0, 0]),
        ({"extras": "charge"}, [True, False, True], [1, 0, 1]),
        ({"extras": "charge", "charge": 0.5}, [True, True], [0.5, 0.5]),
        ({"extras": "charge", "charge": 2, "charge_limit": 3}, [True, False, True, True], [2, 0, 1, 0]),
        ({"extras": "charge", "charge": 2, "charge_limit": 0}, [True], [0]),
        ({"extras": "charge", "charge": 2, "charge_limit": 1}, [False, True], [0, 1]),
    ],
)
def test_extras_are_charged_up_to_a_limit(scheme, changing, charged) -> None:
    of = lab_of(DEVICES, LINKS, ANSWER, "ana>bob", scheme=scheme)
    assert [e.charged for e in charged_extras(of, [extra(c) for c in changing])] == charged


@pytest.mark.parametrize(
    ("charge", "sums"), [(1, (3, 7, 9)), (2.5, (1.5, 5.5, 9)), (5, (0, 3, 9)), (9, (0, 0, 9)), (0, (4, 8, 9))]
)
def test_charges_lower_both_totals_and_never_below_zero(charge, sums) -> None:
    of = lab(
        {"gateway": "ana", "marks": 1},
        {"address": "ana:p1", "marks": 4},
        PING,
        scheme={"extras": "charge", "charge": charge},
    )
    forgot = mark(of, ana="port p1; -address 10.1.0.20/24; loopback lo0; -address 10.9.9.9/32")
    assert [(e.changes, e.charged) for e in forgot.extras] == [(True, charge)]
    assert totals(forgot) == sums
    assert forgot.percent == rounded(100 * sums[1] / 9)


def test_a_statement_that_nothing_counts_costs_what_its_first_consequence_loses() -> None:
    """The route is counted and pays for itself; the gateway is not, and pays for the ping, which is not its consequence."""
    of = lab({"route": "quay", "dest": "10.1.0.0/24", "marks": 2}, {"address": "ana:p1"}, PING)
    result = mark(
        of, quay=QUAY.replace("route 10.1.0.0/24 via 10.0.0.1", ""), ana=ANA.replace("gateway 10.1.0.1", "")
    )
    assert [(f.device, f.direct, f.consequences) for f in result.faults] == [
        ("quay", 2, ("ping:1",)),
        ("ana", 4, ()),
    ]
    assert [c.fault for c in result.criteria] == [1, None, 2]
    assert totals(result) == (1, 1, 7)


def test_half_of_an_outcome_costs_half_where_nothing_counts_its_cause() -> None:
    """The ping is answered, and seen with another source than it should."""
    wide = {
        **ANSWER,
        "weir": WEIR.replace("10.0.0.1/30", "10.0.0.1/29"),
        "quay": QUAY.replace("10.0.0.2/30", "10.0.0.2/29"),
    }
    seen = [{"from": "weir", "to": "quay:p2", "expect": "reply", "seen_as": "10.0.0.1"}]
    of = lab_of(DEVICES, LINKS, wide, stages=[{
        "id": "s", "answer": {n: sheet(t) for n, t in wide.items()}, "pings": seen,
        "scheme": {"tasks": [{"title": "T", "criteria": [dict(PING), {"address": "ana:p1"}]}]}}])  # fmt: skip
    first = wide["weir"].replace("-address 10.0.0.1/29", "-address 10.0.0.3/29; -address 10.0.0.1/29")
    texts = {**wide, "weir": first}
    result = Marker(of).mark(Paper("x", {n: read_sheet(sheet(t), n) for n, t in texts.items()}))
    assert (earned(result), costs(result), totals(result)) == (
        [(0.5, False), (1, False)],
        [("weir", 2, 0)],
        (3, 3, 5),
    )


def test_a_port_that_has_to_be_up_is_carried_for_its_own_device() -> None:
    of = lab({"enabled": "quay:p2", "marks": 2}, {"address": "weir:p2"}, {"up": "weir:p2", "marks": 3})
    off = QUAY.replace("-address 10.0.0.2/30; -on", "-address 10.0.0.2/30")
    assert earned(mark(of, quay=off)) == [(0, False), (1, False), (0, True)]
    wrong = mark(of, quay=off, weir=WEIR.replace("10.0.0.1/30", "10.0.9.1/30"))
    assert earned(wrong) == [(0, False), (0, False), (0, False)]


def test_what_is_untouched_has_no_mistake_behind_it() -> None:
    of = lab(GATEWAY, NOWHERE, pings="ana>10.9.0.1=no-reply")
    blank = mark(of, **dict.fromkeys(ANSWER))
    assert [c.fault for c in blank.criteria] == [1, None]
    assert [f.consequences for f in blank.faults] == [()]


def test_nothing_is_said_of_a_ping_that_no_blank_paper_meets() -> None:
    """All that is counted of its devices is lost, and the ping is earned all the same."""
    result = mark(lab({"name": "ana"}, PING))
    assert [(c.fraction, c.note) for c in result.criteria] == [(0, ""), (1, "")]


def test_extras_that_are_ignored_are_not_even_listed() -> None:
    more = ANA + "; loopback lo0; -address 10.9.9.9/32"
    assert mark(lab(GATEWAY, scheme={"extras": "ignore"}), ana=more).extras == ()
    assert len(mark(lab(GATEWAY), ana=more).extras) == 1


def test_a_search_that_takes_too_much_work_is_cut_short_and_the_verdicts_stand() -> None:
    chance = random.Random(1)
    wide = "".join(
        f"; -address {chance.randrange(1, 200)}.{n // 250}.{n % 250}.9/{chance.randrange(8, 31)}"
        for n in range(600)
    )
    of, changes = (
        lab(ADDRESS, GATEWAY, PING),
        {name: text.replace("port p1", f"port p1{wide}") for name, text in ANSWER.items()},
    )
    marker, paper = Marker(of), paper_of(of, changes)
    result = marker.mark(paper)
    assert result.cut_short is True
    assert result.remarks == (CUT_SHORT,)
    assert {c.id: c.fraction for c in result.criteria} == marker.earned(paper).earned
    assert result.text() == Marker(of).mark(paper, marker.memo()).text()
