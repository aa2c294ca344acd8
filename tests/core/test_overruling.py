"""What an instructor decides against the marking."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers import lab_of, mark
from zensur.core.marking.overruling import TOTAL, Overrule, overruled
from zensur.core.marking.shapes import Overruled

ANSWER = {
    "weir": "port p1; -address 10.1.0.1/24; -on",
    "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
}
LAB = lab_of(
    "weir=router:p1 ana=host", "weir:p1--ana:p1", ANSWER, "ana>weir", scheme={"grades": {"good": "90", "fair": "50"}}
)  # fmt: skip
RESULT = mark(LAB, {"ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.7"})
IDS = [c.id for c in RESULT.criteria]


def test_a_verdict_is_overruled_with_its_reason() -> None:
    assert (RESULT.score, RESULT.out_of) == (6, 7)
    found = overruled(RESULT, [Overrule("gateway:ana", 1, "The router has both.")], LAB.scheme)
    (gateway,) = [c for c in found.criteria if c.id == "gateway:ana"]
    assert (gateway.verdict, gateway.fraction) == ("met", 1)
    assert gateway.overruled == Overruled(1, "The router has both.", 0)
    assert (found.score, found.carried, found.grade) == (7, 7, "good")
    assert RESULT.score == 6  # the marking itself stays as it is


def test_the_total_is_overruled_and_graded() -> None:
    found = overruled(RESULT, [Overrule(TOTAL, 3.5, "Handed in late.")], LAB.scheme)
    assert (found.score, found.carried, found.percent, found.grade) == (3.5, 3.5, 50, "fair")
    assert found.overruled is not None
    assert found.overruled.was == RESULT.carried


def test_what_the_lab_no_longer_asks_for_is_left_out() -> None:
    assert overruled(RESULT, [Overrule("gateway:bob", 1, "x")], LAB.scheme) == RESULT
    assert overruled(RESULT, [], LAB.scheme) is RESULT


@given(st.dictionaries(st.sampled_from(IDS), st.sampled_from([0.0, 0.25, 0.5, 1.0])))
def test_totals_follow_from_the_verdicts(shares) -> None:
    of = {c.id: c.marks for c in RESULT.criteria}
    found = overruled(RESULT, [Overrule(i, of[i] * share, "so") for i, share in shares.items()], LAB.scheme)
    assert found.score == pytest.approx(sum(c.marks * c.fraction for c in found.criteria), abs=0.005)
    assert found.score <= found.carried <= found.out_of
    for criterion in found.criteria:
        if criterion.id in shares:
            assert criterion.overruled is not None
            assert criterion.marks * criterion.fraction == pytest.approx(criterion.overruled.marks)
        else:
            assert criterion in RESULT.criteria
