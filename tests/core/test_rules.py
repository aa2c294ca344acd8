"""The rules of a sitting: cases by hand for lateness, for what it costs, and for which paper counts."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.lab import read_lab
from zensur.core.marking.adding import sum_of
from zensur.core.marking.late import charged_late
from zensur.core.marking.overruling import TOTAL, Overrule, overruled
from zensur.core.marking.shapes import LateCharge
from zensur.core.sittings import Attempt, Rules, counting, days_late, pseudonym
from zensur.core.sittings.rules import MOST_ATTEMPTS
from zensur.demo import lab_text

from ..helpers import mark

CLOSES = datetime(2026, 11, 2, 12, 0, tzinfo=UTC)


@pytest.mark.parametrize(
    ("after", "days"),
    [
        (timedelta(days=-3), 0), (timedelta(0), 0), (timedelta(microseconds=1), 1), (timedelta(hours=23), 1),
        (timedelta(days=1), 1), (timedelta(days=1, seconds=1), 2), (timedelta(days=10), 10),
    ],
)  # fmt: skip
def test_each_day_that_was_begun_counts(after: timedelta, days: int) -> None:
    assert days_late(CLOSES, CLOSES + after) == days
    assert days_late(None, CLOSES + after) == 0


@pytest.mark.parametrize(
    ("rule", "least", "most", "said"),
    [
        ("percent", 0, 100, "from 0 to 100 per cent can be taken off"),
        ("most_percent", 0, 100, "from 0 to 100 per cent can be taken off"),
        ("attempts", 0, MOST_ATTEMPTS, f"from 0 to {MOST_ATTEMPTS} papers may count"),
    ],
)
def test_rules_out_of_their_range_are_refused(rule: str, least: int, most: int, said: str) -> None:
    def made(value: Any) -> Rules:
        return Rules(**{rule: value})

    for value in (least, 1, most):
        assert getattr(made(value), rule) == value
    for value in (least - 1, most + 1):
        with pytest.raises(ValueError, match=rf"\A{said}\Z"):
            made(value)
    both = Rules(percent=0, most_percent=0)
    assert both.percent_off(CLOSES) == 0


@pytest.mark.parametrize(
    ("late", "days", "off"),
    [
        ("charged", 0, 0), ("charged", 1, 15), ("charged", 2, 30), ("charged", 3, 40), ("charged", 9, 40),
        ("marked", 3, 0), ("refused", 3, 0),
    ],
)  # fmt: skip
def test_what_is_taken_off_grows_by_the_day_up_to_the_most(late: str, days: int, off: float) -> None:
    rules = Rules(closes=CLOSES, late=late, percent=15, most_percent=40)  # type: ignore[arg-type]
    assert rules.percent_off(CLOSES + timedelta(days=days)) == off


def attempts(*told: tuple[float, float | None]) -> list[Attempt]:
    """Papers 1, 2, …: so many days after the end (before it where below zero), with a total."""
    return [
        Attempt(paper=n, received=CLOSES + timedelta(days=days), total=total)
        for n, (days, total) in enumerate(told, 1)
    ]


IN_TIME = attempts((-3, 8.0), (-2, 9.0), (-1, 9.0))
MIXED = attempts((-1, 8.0), (0.5, 9.5), (1.5, 11.0))


@pytest.mark.parametrize(
    ("papers", "rules", "counts"),
    [
        ([], Rules(), None),
        (IN_TIME, Rules(counts="first"), 1), (IN_TIME, Rules(counts="last"), 3), (IN_TIME, Rules(counts="best"), 2),
        (IN_TIME, Rules(counts="last", attempts=2), 2), (IN_TIME, Rules(counts="last", attempts=9), 3),
        (IN_TIME, Rules(counts="best", attempts=1), 1),
        (attempts((-2, None), (-1, None)), Rules(counts="best"), 2), (attempts((-2, 0.0), (-1, None)), Rules(counts="best"), 1),
        (MIXED, Rules(closes=CLOSES, late="refused"), 1), (MIXED[1:], Rules(closes=CLOSES, late="refused"), None),
        (MIXED, Rules(closes=CLOSES, late="refused", attempts=2, counts="last"), 1),
        (MIXED, Rules(closes=CLOSES, late="marked", counts="best"), 3),
        # 8, then 9.5 less a tenth is 8.55, then 11 less two tenths is 8.8; with a fifth a day: 8, 7.6, 6.6
        (MIXED, Rules(closes=CLOSES, late="charged", percent=10, counts="best"), 3),
        (MIXED, Rules(closes=CLOSES, late="charged", percent=20, counts="best"), 1),
        # 8, and 10 less a fifth is 8, too: the earlier counts
        (attempts((-1, 8.0), (0.5, 10.0)), Rules(closes=CLOSES, late="charged", percent=20, counts="best"), 1),
    ],
)  # fmt: skip
def test_which_paper_counts(papers: list[Attempt], rules: Rules, counts: int | None) -> None:
    assert counting(papers, rules) == counts


@given(
    st.lists(st.tuples(st.integers(-3, 3), st.one_of(st.none(), st.integers(0, 20))), max_size=6),
    st.sampled_from(["first", "last", "best"]),
    st.integers(0, 4),
)
def test_what_counts_was_allowed_and_nothing_allowed_is_better(
    told: list[tuple[int, int | None]], which: str, most: int
) -> None:
    papers = attempts(*((float(days), None if total is None else float(total)) for days, total in told))
    rules = Rules(closes=CLOSES, late="refused", counts=which, attempts=most)  # type: ignore[arg-type]
    allowed = [p for n, p in enumerate(papers) if (not most or n < most) and p.received <= CLOSES]
    found = counting(papers, rules)
    assert (found is None) == (not allowed)
    if found is not None:
        (own,) = [p for p in allowed if p.paper == found]
        totals = [p.total for p in allowed if p.total is not None]
        if which == "best" and totals:
            assert own.total == max(totals)


def test_late_marks_are_taken_off_last_and_the_sum_still_adds_up() -> None:
    graded = "\nscheme:\n  grades: {A: 80, B: 64, C: 40}\n"
    lab = read_lab(lab_text("first-addresses") + graded).lab
    assert lab is not None
    result = mark(lab, {"gauge": ""})
    late = charged_late(result, 2, 20.0, lab.scheme)
    assert late.carried == pytest.approx(result.carried * 0.8, abs=0.005)
    assert late.score == pytest.approx(result.score * 0.8, abs=0.005)
    assert late.percent == pytest.approx(100 * late.carried / late.out_of, abs=0.005)
    assert (result.grade, late.grade) == ("A", "B")
    assert late.late is not None
    assert (late.late.days, late.late.percent) == (2, 20.0)
    assert late.late.marks == pytest.approx(result.carried - late.carried, abs=0.005)
    lost = sum(line.marks for line in sum_of(late, lab.scheme))
    assert late.out_of - lost == pytest.approx(late.carried, abs=0.02)
    assert sum_of(late, lab.scheme)[-1].what == "handed in late"
    assert charged_late(result, 0, 20.0, lab.scheme) is result
    nothing = charged_late(replace(result, out_of=0.0, carried=0.0, score=0.0), 2, 20.0, lab.scheme)
    assert (nothing.percent, nothing.carried) == (0.0, 0.0)
    told = charged_late(result, 3, 0.0, lab.scheme)
    assert (told.late, told.carried) == (LateCharge(3, 0.0, 0.0), result.carried)
    assert sum_of(told, lab.scheme) == sum_of(result, lab.scheme)


def test_a_total_that_was_decided_by_hand_is_not_lowered() -> None:
    lab = read_lab(lab_text("first-addresses")).lab
    assert lab is not None
    decided = overruled(mark(lab, {"weir": ""}), [Overrule(TOTAL, 5.0, "told in the lesson")], lab.scheme)
    late = charged_late(decided, 2, 50.0, lab.scheme)
    assert (late.carried, late.late) == (5.0, LateCharge(2, 0.0, 0.0))
    assert replace(late, late=None) == decided


def test_a_pseudonym_is_the_same_for_the_same_learner_of_a_sitting_only() -> None:
    names = {pseudonym("secret", str(n)) for n in range(500)}
    assert len(names) == 500
    assert pseudonym("secret", "7") == pseudonym("secret", "7") != pseudonym("other", "7")
    assert pseudonym("s", "0417") == "Paper IEM BNN"  # SHA-256 of s, a zero octet and 0417 begins 41 18 16 b6
