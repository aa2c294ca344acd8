"""How totals add up: by hand for every kind of line, and for papers of all kinds without a mark left over."""

import random
from dataclasses import replace

import pytest

from tests.core.every_lab import ALL, mangled_paper
from tests.core.two_routers import ADDRESS, ANA, GATEWAY, PING, lab, mark
from zensur.core.lab import Lab
from zensur.core.marking.adding import sum_of
from zensur.core.marking.marker import Marker
from zensur.core.marking.overruling import TOTAL, Overrule, overruled
from zensur.core.marking.shapes import Result

MASK, NO_GATEWAY = ANA.replace("/24", "/25"), ANA.replace("gateway 10.1.0.1", "")
BY_HAND = {"manual": "Neatness", "marks": 2}


def lines(result: Result, scheme) -> list[tuple[str, float]]:
    return [(line.what, line.marks) for line in sum_of(result, scheme)]


@pytest.mark.parametrize(
    ("criteria", "scheme", "ana", "expected"),
    [
        ([ADDRESS, GATEWAY], {}, ANA, []),
        ([ADDRESS, GATEWAY], {}, MASK, [("1 Wrong mask, ana", 1.5)]),
        ([ADDRESS, GATEWAY, PING], {}, NO_GATEWAY, [("1 Gateway missing, ana", 2)]),  # the ping is carried
        ([ADDRESS, GATEWAY, PING], {"carry_forward": False}, NO_GATEWAY,
         [("1 Gateway missing, ana", 2), ("what follows from the mistakes", 4)]),
        ([ADDRESS, GATEWAY, PING], {}, None, [("1 Sheet missing, ana", 5), ("not carried: too little was done on the way", 4)]),
        ([ADDRESS, GATEWAY, PING], {"carry_forward": False}, None, [("1 Sheet missing, ana", 5), ("what follows from the mistakes", 4)]),
        ([ADDRESS, GATEWAY], {}, None, [("1 Sheet missing, ana", 5)]),
        ([{"value": "How many", "is": "2"}], {}, ANA, [("1 Answer missing, answers", 1)]),
        ([ADDRESS, BY_HAND], {}, ANA, [("still to be marked by hand", 2)]),
        ([PING], {}, NO_GATEWAY, [("1 Gateway missing, ana", 4)]),  # nothing else asks for it
        ([ADDRESS], {"extras": "charge", "charge": 0.5}, ANA + "; loopback lo0; -address 10.9.9.9/32", [("beyond what was asked", 0.5)]),
        ([ADDRESS], {"extras": "charge", "charge": 2}, MASK + "; loopback lo0; -address 10.9.9.9/32",
         [("1 Wrong mask, ana", 1.5), ("beyond what was asked", 2), ("a total is never below zero", -0.5)]),
        ([{"enabled": "ana:p1"}, ADDRESS], {}, None, [("1 Sheet missing, ana", 3), ("lost without a mistake of its own", 1)]),
    ],
)  # fmt: skip
def test_every_lost_mark_stands_in_one_line(criteria, scheme, ana, expected) -> None:
    of = lab(*criteria, scheme=scheme)
    result = mark(of, ana=ana)
    assert lines(result, of.scheme) == expected
    assert result.out_of - sum(marks for _, marks in expected) == result.carried


@pytest.mark.parametrize(
    ("overrules", "expected"),
    [
        ([Overrule("address:ana:p1", 3, "x")], [("still to be marked by hand", 2)]),
        ([Overrule("address:ana:p1", 1, "x")], [("1 Wrong mask, ana", 2), ("still to be marked by hand", 2)]),
        ([Overrule("manual:Neatness", 1.5, "x")], [("1 Wrong mask, ana", 1.5), ("decided by hand", 0.5)]),
        ([Overrule("gateway:ana", 0, "x")], [("1 Wrong mask, ana", 1.5), ("decided by hand", 2), ("still to be marked by hand", 2)]),
        ([Overrule(TOTAL, 4, "x")], []),
    ],
)  # fmt: skip
def test_what_is_decided_by_hand_says_so(overrules, expected) -> None:
    of = lab(ADDRESS, GATEWAY, BY_HAND)
    result = overruled(mark(of, ana=MASK), overrules, of.scheme)
    assert lines(result, of.scheme) == expected


@pytest.mark.parametrize("found", ALL, ids=lambda lab: lab.id)
def test_the_lines_add_up_for_papers_of_all_kinds(found: Lab) -> None:
    chance = random.Random(found.id)
    for carry, extras in ((True, "report"), (False, "charge"), (True, "charge")):
        of = replace(found, scheme=replace(found.scheme, carry_forward=carry, extras=extras, charge=0.75))
        marker = Marker(of)
        memo = marker.memo()
        for _ in range(6):
            result = marker.mark(mangled_paper(of, chance), memo)
            some = chance.sample(result.criteria, 2)
            decided = [Overrule(c.id, chance.choice([0, c.marks / 2, c.marks]), "x") for c in some]
            for one in (result, overruled(result, decided, of.scheme)):
                left = one.out_of - sum(line.marks for line in sum_of(one, of.scheme))
                assert left == pytest.approx(one.carried, abs=0.005)
