"""What becomes of the marks, worked out by hand: shares, rounding, verdicts, grades, ids, overrules."""

import pytest

from tests.core.two_routers import ADDRESS, ANA, GATEWAY, MORE, PING, lab, mark, totals
from tests.helpers import sheet
from zensur.core.formats.yang import read_yang
from zensur.core.lab import Criterion, Scheme
from zensur.core.marking.criteria.judging import header_of, in_instance, share, shown, texts_of
from zensur.core.marking.marker import Marker
from zensur.core.marking.overruling import TOTAL, Overrule, overruled
from zensur.core.marking.paper import Paper
from zensur.core.marking.scheme import numbered, tasks_of
from zensur.core.marking.shapes import Cost, Marked, Overruled, SheetComment, rounded, verdict_of
from zensur.core.sheet import Block, Route, Where, read_sheet
from zensur.core.sheet.statements import Service

# --- shares, verdicts, rounding, grades, ids -------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("required", "found", "expected"),
    [("ab", "ab", 1), ("ab", "a", 1 / 2), ("ab", "abc", 2 / 3), ("ab", "cd", 0), ("ab", "", 0), ("", "", 1), ("", "a", 0), ("abc", "abd", 1 / 2)],
)  # fmt: skip
def test_a_share_is_the_right_ones_of_those_required_and_those_too_many(required, found, expected) -> None:
    assert share(required, found) == expected


@pytest.mark.parametrize(
    ("marks", "expected"),
    [(0.125, 0.13), (0.135, 0.14), (2.675, 2.68), (1.005, 1.01), (0.1249999, 0.12), (2.5, 2.5), (-0.005, -0.01), (1 / 3, 0.33), (2 / 3, 0.67), (1e-7, 0.0)],
)  # fmt: skip
def test_marks_are_rounded_half_up_to_a_hundredth(marks: float, expected: float) -> None:
    assert rounded(marks) == expected


def test_only_the_end_is_rounded() -> None:
    """Three times an eighth of one mark is 0.375, and not three times 0.13."""
    of = lab(*[{"address": "ana:p1", "marks": 0.25}] * 3, GATEWAY)
    result = mark(of, ana=ANA.replace("/24", "/25"))
    assert totals(result) == (2.38, 2.38, 2.75)
    assert result.percent == 86.36
    assert result.faults[0].direct == 0.38


@pytest.mark.parametrize(
    ("fraction", "verdict"), [(1, "met"), (0.999, "partly"), (0.001, "partly"), (0, "missed")]
)
def test_a_verdict_follows_from_the_fraction(fraction: float, verdict: str) -> None:
    assert verdict_of(fraction) == verdict


@pytest.mark.parametrize(
    ("percent", "grade"), [(100, "A"), (90, "A"), (89.99, "B"), (50, "B"), (49.99, "E"), (0, "E")]
)
def test_a_grade_begins_at_its_bound(percent: float, grade: str) -> None:
    assert Scheme(grades={"B": 50, "E": 0, "A": 90}).grade(percent) == grade
    assert Scheme(grades={"A": 90}).grade(min(percent, 89.99)) is None


def test_a_grade_is_of_what_is_carried() -> None:
    of = lab(ADDRESS, GATEWAY, PING, scheme={"grades": {"pass": "70"}})
    assert mark(of, ana=ANA.replace("gateway 10.1.0.1", "")).grade == "pass"  # 7 of 9 where 3 of 9 stand
    assert mark(of, ana=ANA.replace("0.20", "9.20")).grade is None


def test_a_criterion_that_stands_twice_has_two_ids() -> None:
    of = lab(MORE, GATEWAY, MORE, MORE)
    assert [(i, t, c.marks) for i, t, c in numbered(tasks_of(of))] == [
        ("address:ana:p1", "T", 1),
        ("gateway:ana", "T", 2),
        ("address:ana:p1#2", "T", 1),
        ("address:ana:p1#3", "T", 1),
    ]


def test_a_criterion_is_told_whole() -> None:
    result = mark(lab(GATEWAY, ADDRESS), ana=ANA.replace("/24", "/25"))
    assert result.criteria[1] == Marked(
        id="address:ana:p1", task="T", key="address", device="ana", operand="p1", instance="", marks=3,
        required="10.1.0.20/24", found="10.1.0.20/25", lines=(Where("ana.sheet", 2),), fraction=0.5, verdict="partly", fault=1,
        costs=(Cost(1, 1.5),),
    )  # fmt: skip
    assert result.criteria[0].fault is None
    assert result.cut_short is False
    assert result.text().startswith('{"learner": "0417", "score": 3.5, ')
    assert result.json()["criteria"][1]["lines"] == [{"file": "ana.sheet", "line": 2}]


def test_what_nothing_asks_for_costs_its_first_consequence() -> None:
    (ping,) = mark(lab(PING), ana=ANA.replace("gateway 10.1.0.1", "")).criteria
    assert ping.costs == (Cost(1, ping.marks),)


# --- overrules -------------------------------------------------------------------------------------------------------


def test_what_is_overruled_costs_nobody_any_more() -> None:
    of = lab(ADDRESS, GATEWAY, PING)
    result = mark(of, ana=ANA.replace("/24", "/25").replace("gateway 10.1.0.1", "gateway 10.1.0.9"))

    def costs(*overrules: Overrule) -> list[float]:
        found = overruled(result, overrules, of.scheme)
        direct = sum(f.direct for f in found.faults)
        own = sum(c.marks for criterion in found.criteria for c in criterion.costs)
        assert direct == own
        return [f.direct for f in found.faults]

    assert costs() == [1.5, 2]
    assert costs(Overrule("address:ana:p1", 3, "x")) == [0, 2]
    assert costs(Overrule("address:ana:p1", 2, "x")) == [1, 2]
    assert costs(Overrule("gateway:ana", 1, "x"), Overrule("address:ana:p1", 0, "x")) == [3, 1]
    assert costs(Overrule(TOTAL, result.out_of, "x")) == [0, 0]
    free = lab({"address": "ana:p1", "marks": 0}, GATEWAY)
    nothing = mark(free, ana=ANA.replace("/24", "/25"))
    assert overruled(nothing, [Overrule("address:ana:p1", 0, "x")], free.scheme).criteria[0].costs == ()
    assert costs(Overrule(TOTAL, result.out_of - 1, "x")) == [1.5, 2]


@pytest.mark.parametrize(
    ("overrules", "carry", "sums", "percent"),
    [
        ([], True, (1.5, 5.5), 55),
        ([Overrule("ping:1", 1, "x")], True, (2.5, 2.5), 25),  # what was carried has now what it was given
        ([Overrule("gateway:ana", 1, "x")], True, (2.5, 6.5), 65),
        ([Overrule("gateway:ana", 1, "x")], False, (2.5, 2.5), 25),
        ([Overrule("address:ana:p1", 0, "x")], True, (0, 2.5), 25),
        ([Overrule("address:ana:p1", 0, "x"), Overrule("ping:1", 0, "x")], True, (0, 0), 0),
        ([Overrule("gateway:ana", 99, "x"), Overrule("address:ana:p1", -5, "x")], True, (0.5, 4.5), 45),
        ([Overrule(TOTAL, 9, "x")], True, (9, 9), 90),
    ],
)
def test_overrules_are_added_up_anew_with_the_charges(overrules, carry, sums, percent) -> None:
    of = lab(
        {"gateway": "ana", "marks": 2}, {"address": "ana:p1", "marks": 3}, PING, {"manual": "Neatness"},
        scheme={"extras": "charge", "charge": 1.5, "carry_forward": carry},
    )  # fmt: skip
    result = mark(of, ana="port p1; -address 10.1.0.20/24; loopback lo0; -address 10.9.9.9/32")
    assert [e.charged for e in result.extras] == [1.5]
    found = overruled(result, overrules, of.scheme)
    assert (found.score, found.carried, found.percent) == (*sums, percent)


def test_an_overrule_says_what_it_was() -> None:
    of = lab(
        {"gateway": "ana", "marks": 2},
        {"address": "ana:p1", "marks": 3},
        PING,
        {"address": "bob:p1", "marks": 0},
    )
    result = mark(of, ana=ANA.replace("gateway 10.1.0.1", "").replace("/24", "/25"))
    told = [
        Overrule("gateway:ana", 1, "a"),
        Overrule("address:ana:p1", 3, "b"),
        Overrule("address:bob:p1", 5, "c"),
        Overrule(TOTAL, 2, "d"),
    ]
    found = overruled(result, told, of.scheme)
    of_id = {c.id: c for c in found.criteria}
    assert (of_id["gateway:ana"].fraction, of_id["gateway:ana"].verdict) == (0.5, "partly")
    assert of_id["gateway:ana"].overruled == Overruled(1, "a", 0)
    assert of_id["address:ana:p1"].overruled == Overruled(3, "b", 1.5)
    assert of_id["address:bob:p1"].fraction == 1
    assert found.overruled == Overruled(2, "d", 4)
    carried = overruled(
        mark(of, ana=ANA.replace("gateway 10.1.0.1", "")), [Overrule("ping:1", 1, "e")], of.scheme
    )
    assert [(c.carried, c.overruled) for c in carried.criteria if c.key == "ping"] == [
        (False, Overruled(1, "e", 4))
    ]


def test_a_lab_of_no_marks_has_no_percentage() -> None:
    of = lab({"address": "ana:p1", "marks": 0})
    assert mark(of).percent == 0
    assert overruled(mark(of), [Overrule("address:ana:p1", 0, "x")], of.scheme).percent == 0


# --- what a verdict shows --------------------------------------------------------------------------------------------


def test_statements_are_shown_once_and_without_what_only_describes_them() -> None:
    own = read_sheet(
        sheet(
            "port P1; -address 10.1.0.1/24; route 10.4.0.0/16 via 10.1.0.2 about far; service tcp 80 in West"
        )
    ).configuration
    route, service = own.all(Route)[0], own.all(Service)[0]
    assert shown([None, route, service, route]) == (route, service)
    assert texts_of([route, service]) == "route 10.4.0.0/16 via 10.1.0.2; service tcp 80 in West"
    assert texts_of([]) == "nothing"
    block = Block("port", "p1")
    assert header_of(own, block) == (own.header(block),)
    assert header_of(own, Block("port", "p2")) == header_of(own, None) == ()
    assert in_instance("West", Criterion("service", "weir", "tcp 80", 1, None, "wEST"))
    assert in_instance(None, Criterion("service", "weir", "tcp 80", 1))
    assert not in_instance(None, Criterion("service", "weir", "tcp 80", 1, None, "west"))


def test_a_result_tells_what_came_of_every_ping_and_what_was_remarked() -> None:
    of = lab(GATEWAY, services=[{"from": "ana", "open": "tcp bob:80", "expect": "no-answer"}])
    result = mark(of, ana=ANA.replace("gateway", "gatway"))
    assert [(r.id, r.outcome) for r in result.pings] == [("1", "no-route")]
    assert [(r.id, r.outcome) for r in result.services] == [("1", "no-route")]
    assert result.remarks == ()
    (remark,) = result.diagnostics
    assert remark.message.startswith("gatway is not")
    assert (remark.device, remark.file, remark.line, remark.severity, remark.code) == (
        "ana", "ana.sheet", 3, "error", "unknown-word",
    )  # fmt: skip
    unnamed = Marker(of).mark(Paper("x", {"ana": read_sheet("gatway 10.1.0.1")}))
    assert unnamed.diagnostics[0].file == ""


# --- what a paper says besides ---------------------------------------------------------------------------------------


def test_comments_are_told_by_their_sheet_each_once_and_without_what_is_quoted() -> None:
    texts = {
        "weir": 'port p1  #  the  gate\n  about "no # comment"\n  on\n# the gate\n#\n' + "# " + 200 * "x",
        "quay": "port p1\n  on\n",
        "ana": "# the gate\n",
        "bob": "".join(f"# {n}\n" for n in range(120)),
    }
    sheets = {name: read_sheet(text, f"{name}.sheet") for name, text in texts.items()}
    sheets["quay"] = read_yang(
        '{"ietf-system:system": {"hostname": "quay"}} # x', "yang-json"
    )  # no comment there
    paper = Paper("a", sheets)
    comments = Marker(lab(ADDRESS)).mark(paper).sheet_comments
    assert comments[:3] == (
        SheetComment("weir", "the gate"),
        SheetComment("weir", 120 * "x"),
        SheetComment("ana", "the gate"),
    )
    assert comments[3:] == tuple(SheetComment("bob", str(n)) for n in range(97))
