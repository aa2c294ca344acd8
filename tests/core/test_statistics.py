"""Figures of a class: against figures worked out by hand, and against SciPy on random classes."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from zensur.core.lab import read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.shapes import Fault, Marked, Result, SheetComment, SheetRemark
from zensur.core.statistics import (
    Across,
    Beside,
    Borrowed,
    Charged,
    Entrant,
    alike_pairs,
    beside,
    borrowed,
    charged,
    clusters,
    distribution,
    items,
    reliability,
    results_csv,
    slip_counts,
)
from zensur.demo import demo_papers, lab_text
from zensur.work.papers import read_paper


def table(rows: list[list[float]], marks: list[float], tasks: str = "") -> Charged:
    fractions = np.array(rows, dtype=np.float64)
    worth = np.array(marks, dtype=np.float64)
    names = tuple(f"c{n}" for n in range(len(marks)))
    return Charged(
        tuple(f"l{n}" for n in range(len(rows))), names, tuple(tasks or "T" * len(marks)), fractions, worth,
        (fractions * worth).sum(axis=1),
    )  # fmt: skip


def test_a_distribution_worked_out_by_hand() -> None:
    found = distribution([2, 4, 4, 10], 10)
    assert found is not None
    assert (found.least, found.lower, found.median, found.upper, found.most) == (2, 3.5, 4, 5.5, 10)
    assert (found.mean, round(found.deviation, 4)) == (5, 3.4641)  # squares 9, 1, 1, 25 over 3
    assert found.bars == (0, 0, 1, 0, 2, 0, 0, 0, 0, 1)
    assert distribution([], 10) is None
    one = distribution([3], 10)
    assert one is not None
    assert (one.deviation, one.median) == (0, 3)


def test_items_worked_out_by_hand() -> None:
    """Four learners; c0 is worth 2, c1 and c2 one each."""
    criteria, tasks = items(table([[1, 1, 1], [1, 0, 1], [0.5, 1, 0], [0, 0, 0]], [2, 1, 1], "AAB"))
    assert [c.difficulty for c in criteria] == [0.625, 0.5, 0.5]
    # c0 earns 2, 2, 1, 0 and the rest 2, 1, 1, 0: covariance 1.5, squares 2.75 and 2
    assert criteria[0].discrimination == pytest.approx(2 / (2.75 * 2) ** 0.5)
    assert [(t.id, t.marks, t.difficulty) for t in tasks] == [("A", 3, pytest.approx(7 / 12)), ("B", 1, 0.5)]
    assert [c.strong for c in criteria] == [1, 1, 1]  # the first is the strongest quarter
    assert [c.missed_by_strong for c in criteria] == [False] * 3
    missed, _ = items(table([[1, 0.4], [1, 0], [0, 0], [0, 0]], [5, 1]))
    assert [c.missed_by_strong for c in missed] == [False, True]


def test_alpha_worked_out_by_hand() -> None:
    """Two criteria that go together and one that does not: variances 1/3, 1/3, 1/3; of the sums 1, 3, 0, 2: 5/3."""
    found = reliability(table([[1, 0, 0], [1, 1, 1], [0, 0, 0], [1, 1, 0]], [1, 1, 1]))
    earned = np.array([[1, 0, 0], [1, 1, 1], [0, 0, 0], [1, 1, 0]])
    parts, whole = earned.var(axis=0, ddof=1).sum(), earned.sum(axis=1).var(ddof=1)
    assert found.alpha == pytest.approx(1.5 * (1 - parts / whole))
    assert found.alpha == pytest.approx(0.75)
    assert found.without["c0"] == pytest.approx(2 * (1 - (1 / 3 + 1 / 4) / (11 / 12)))
    assert reliability(table([[1, 1], [1, 1]], [1, 1])).alpha is None  # all alike
    assert reliability(table([[1], [0]], [1])).alpha is None


classes = st.integers(3, 12).flatmap(
    lambda learners: st.integers(2, 6).flatmap(
        lambda criteria: st.tuples(
            st.lists(
                st.lists(st.sampled_from([0.0, 0.25, 0.5, 1.0]), min_size=criteria, max_size=criteria),
                min_size=learners, max_size=learners,
            ),
            st.lists(st.sampled_from([0.5, 1.0, 2.0, 3.0]), min_size=criteria, max_size=criteria),
        )
    )
)  # fmt: skip


@given(classes)
def test_random_classes_as_scipy_says(made: tuple[list[list[float]], list[float]]) -> None:
    own = table(*made)
    earned = own.fractions * own.marks
    for n, item in enumerate(items(own)[0]):
        rest = earned.sum(axis=1) - earned[:, n]
        varies = np.ptp(earned[:, n]) > 1e-9 and np.ptp(rest) > 1e-9
        expected = stats.pearsonr(earned[:, n], rest).statistic if varies else None
        assert item.discrimination == (pytest.approx(expected, abs=1e-9) if varies else None)
        assert item.difficulty == pytest.approx(own.fractions[:, n].mean())
    found = distribution(list(own.totals), own.out_of)
    assert found is not None
    assert found.upper - found.lower == pytest.approx(stats.iqr(own.totals))
    assert found.deviation == pytest.approx(stats.tstd(own.totals))
    assert sum(found.bars) == len(own.totals)


def a_class(name: str = "first-addresses") -> list[Result]:
    lab = read_lab(lab_text(name)).lab
    assert lab is not None
    marker = Marker(lab)
    memo = marker.memo()
    return [
        marker.mark(read_paper(h.learner, {d: (f.path, f.content) for d, f in h.files.items()}), memo)
        for h in demo_papers(name, lab)
    ]


def test_the_table_adds_up_to_the_totals_that_are_charged() -> None:
    results = a_class()
    own = charged(results)
    for n, result in enumerate(results):
        extras = sum(e.charged for e in result.extras)
        assert round(float((own.fractions[n] * own.marks).sum()) - extras, 2) == pytest.approx(
            result.carried, abs=0.011
        )


def test_slips_are_counted_by_learner_and_by_time() -> None:
    results = a_class()
    for slip in slip_counts(results):
        own = [(r.learner, f) for r in results for f in r.faults if f.slip == slip.slip]
        assert slip.times == len(own)
        assert slip.learners == tuple(dict.fromkeys(learner for learner, _ in own))
        assert slip.cost == pytest.approx(sum(f.direct for _, f in own), abs=0.01)
    counts = [len(s.learners) for s in slip_counts(results)]
    assert counts == sorted(counts, reverse=True)


def paper(learner: str, *wrong: str) -> Result:
    """A result with mistakes told by their texts."""
    faults = tuple(
        Fault(n, "slip", "Slip", "", "", "weir", None, None, None, text, None, "", 1.0, ())
        for n, text in enumerate(wrong, 1)
    )
    return Result(learner, 0, 0, 10, 0, None, (), faults, (), (), (), (), ())


def test_alike_pairs_share_what_is_seldom() -> None:
    common = [paper(f"l{n}", "everybody") for n in range(27)]
    copied = [paper("a", "everybody", "x", "y", "z"), paper("b", "x", "y", "z"), paper("c", "x", "y", "own")]
    (pair,) = alike_pairs([*common, *copied])
    assert (pair.a, pair.b) == ("a", "b")
    assert pair.shared == ("Slip: weir x", "Slip: weir y", "Slip: weir z")
    assert pair.weight == pytest.approx(2 * np.log2(30 / 3) + np.log2(30 / 2), abs=0.01)
    assert alike_pairs([paper("a", "x", "y"), paper("b", "x", "y")]) == []  # two things make no question
    empty = [paper(name, "x", "y", "z") for name in "ab"]
    nothing = [replace(p, faults=tuple(replace(f, found=None) for f in p.faults)) for p in empty]
    assert alike_pairs([*common, *nothing]) == []  # nor does what neither has written


def test_the_same_spelling_and_comments_count_as_what_is_shared() -> None:
    def written(learner: str, comments: list[str], *errors: str, wrong: str = "") -> Result:
        remarks = [SheetRemark("weir", "weir.sheet", n, "error", "x", e) for n, e in enumerate(errors, 1)]
        return replace(
            paper(learner, *wrong.split()),
            sheet_comments=tuple(SheetComment("weir", text) for text in comments),
            diagnostics=tuple(remarks),
        )

    class_ = [written(f"l{n}", ["from the brief"]) for n in range(20)]
    pair = [
        written("a", ["from the brief", "my gate"], "adress is no word", "rout is no word", wrong="x"),
        written("b", ["my gate"], "adress is no word", "pord is no word", wrong="x"),
    ]
    (found,) = alike_pairs([*class_, *pair])
    assert found.shared == ("Slip: weir x", "weir: # my gate", "weir: adress is no word")
    assert alike_pairs([*class_, written("a", ["my gate"], "y"), written("b", ["my gate"], "y")]) == []
    lines = [
        replace(p, faults=(replace(p.faults[0], line=1),)) for p in pair
    ]  # the word is the mistake: told once
    assert alike_pairs([*class_, *lines]) == []


def required(learner: str, *told: tuple[str, str]) -> Result:
    """A result by what is required of each criterion, and what was found."""
    criteria = tuple(
        Marked(
            f"{learner}:{n}",
            "",
            "address",
            "weir",
            "",
            "",
            1.0,
            asked,
            found,
            (),
            float(asked == found),
            "met",
        )
        for n, (asked, found) in enumerate(told)
    )
    return Result(learner, 0, 0, 10, 0, None, criteria, (), (), (), (), (), ())


def test_numbers_of_another_learner_are_found_where_two_criteria_have_them() -> None:
    ana = required("ana", ("10.1", "10.1"), ("20.1", "20.1"), ("on", "on"), ("30.1", "30.1"))
    ben = required("ben", ("10.2", "10.1"), ("20.2", "20.1"), ("on", "off"), ("30.2", "30.3"))
    eva = required("eva", ("10.3", "10.3"), ("20.3", "20.1"), ("on", "on"), ("30.3", "30.3"))
    (found,) = borrowed([ana, ben, eva])
    assert found == Borrowed(learner="ben", of="ana", criteria=("ben:0", "ben:1"))
    assert borrowed([ana, eva]) == []  # one may be a slip of the hand
    assert borrowed([]) == []
    same = [required(name, ("10.1", "10.9"), ("20.1", "20.9")) for name in ("a", "b", "c")]
    assert borrowed(same) == []  # without numbers of one's own there are none of others


def test_sittings_beside_each_other() -> None:
    def own(learner: str, earned: float, *wrong: str, task: str = "Ports") -> Result:
        criterion = Marked("c1", task, "address", "weir", "", "", 4.0, "", "", (), earned / 4, "met")
        faults = tuple(replace(paper("", w).faults[0], title=w, slip=w) for w in wrong)
        return replace(paper(learner), criteria=(criterion,), carried=earned, out_of=4, faults=faults)

    autumn = [own("a", 4), own("b", 2, "Wrong mask"), own("c", 0, "Wrong mask", "Route missing")]
    spring = [own("a", 4, "Gateway wrong"), own("b", 3, "Gateway wrong", task="Gates")]
    found = beside([("Autumn", autumn), ("Winter", []), ("Spring", spring)])
    assert [(t.title, t.learners, t.median, t.mean) for t in found.terms] == [
        ("Autumn", 3, 0.5, 0.5), ("Winter", 0, None, None), ("Spring", 2, 0.875, 0.875),
    ]  # fmt: skip
    assert found.criteria == (Across(name="c1", parts=(0.5, None, 0.875)),)
    assert [(t.name, t.parts[:2]) for t in found.tasks] == [("Ports", (0.5, None))]
    assert found.slips == (  # what was made most in the last stands first
        Across(name="Gateway wrong", parts=(0.0, None, 1.0)),
        Across(name="Route missing", parts=(1 / 3, None, 0.0)),
        Across(name="Wrong mask", parts=(2 / 3, None, 0.0)),
    )
    assert beside([]) == Beside(terms=(), tasks=(), criteria=(), slips=())


def test_clusters_are_papers_that_go_wrong_alike() -> None:
    found = clusters([
        paper("a", "x", "y"), paper("b", "x", "y"), paper("c", "x"), paper("d", "far"), paper("e"),
        paper("f", "p", "q"), paper("g", "p", "q"),
    ])  # fmt: skip
    assert [c.learners for c in found] == [("a", "b", "c"), ("f", "g")]
    assert found[0].shared == ("Slip: weir x", "Slip: weir y")
    assert clusters([paper("a", "x")]) == []


def test_results_as_csv() -> None:
    first = a_class()[0]
    hostile = replace(first, learner="=cmd()", grade=None)
    lines = results_csv([Entrant(hostile)], ["learner", "carried", "out_of", "tasks"]).split("\r\n")
    assert lines[0].startswith('"learner","carried","out_of","Addresses and ports of lock"')
    assert lines[1].startswith(f'"\'=cmd()",{first.carried},{first.out_of}')
    tasks = [float(v) for v in lines[1].split(",")[3:]]
    assert sum(tasks) == pytest.approx(first.carried, abs=0.02)
    assert results_csv([Entrant(first)], ["learner", "grade"], ";").split("\r\n")[0] == '"learner";"grade"'
    assert isinstance(first.criteria[0], Marked)
