"""Rosters as course systems write them, and whose a paper is by the name in an archive."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.sittings import Learner, Match, match_learners, read_roster, roster_csv

ROSTERS = [
    ("id,name\n4711,Ana Weir\n4712,Ben Lock\n", [("4711", "Ana Weir"), ("4712", "Ben Lock")]),
    ("Name;Student ID\nAna Weir;4711\n", [("4711", "Ana Weir")]),
    ("Last name\tFirst name\tUsername\nWeir\tAna\taweir\n", [("aweir", "Ana Weir")]),
    ("4711,Ana Weir\n4712,Ben Lock", [("4711", "Ana Weir"), ("4712", "Ben Lock")]),
    ("Ana Weir\nBen Lock\n", [("Ana Weir", "Ana Weir"), ("Ben Lock", "Ben Lock")]),
    ("\ufeffName\nAna Weir\n", [("Ana Weir", "Ana Weir")]),
    ('id,name\n"4711","Weir, Ana"\n\n\n', [("4711", "Weir, Ana")]),
    ("id,name\n4711,\n", [("4711", "4711")]),
]


@pytest.mark.parametrize(("text", "learners"), ROSTERS)
def test_columns_are_found_by_their_heads_or_their_places(text: str, learners: list[tuple[str, str]]) -> None:
    found = read_roster(text)
    assert [(own.code, own.name) for own in found.learners] == learners
    assert found.remarks == ()


def test_further_columns_are_taken_and_unknown_ones_left() -> None:
    found = read_roster("ID,Shoe,E-Mail,External ID,Team,Name\n1,43,a@lock.example,X9,red,Ana\n")
    assert found.learners == (
        Learner(code="1", name="Ana", export_id="X9", mail="a@lock.example", team="red"),
    )


@pytest.mark.parametrize(
    ("line", "said"),
    [
        (",Nobody", "Line 3 is left out: it has no id."),
        ("4711,Somebody else", "Line 3 is left out: 4711 stands in it twice."),
        ("a/b,Stroke", "Line 3 is left out: a/b cannot be an id"),
        (".hidden,Dot", "Line 3 is left out: .hidden cannot be an id"),
        ("x," + "n" * 121, "Line 3 is left out: its name is longer than 120 characters."),
    ],
)
def test_a_wrong_line_is_told_and_left_out_and_the_rest_is_taken(line: str, said: str) -> None:
    found = read_roster(f"id,name\n4711,Ana\n{line}\n4712,Ben\n")
    assert [own.code for own in found.learners] == ["4711", "4712"]
    (remark,) = found.remarks
    assert remark.startswith(said)


def test_heads_alone_are_no_roster() -> None:
    assert read_roster("NUMBER").remarks == ("There is no learner below its heads.",)


@given(st.text(max_size=200))
def test_any_text_is_read_and_what_was_read_is_read_again(text: str) -> None:
    found = read_roster(text)
    assert found.learners or found.remarks
    if found.learners:
        assert read_roster(roster_csv(found.learners)).learners == found.learners


CLASS = [
    Learner(code="4711", name="Ana Weir"), Learner(code="4712", name="Ben Lock"), Learner(code="4713", name="Eva Quay"),
    Learner(code="4714", name="Eva Quay"), Learner(code="aros", name="Ada von Ros"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("name", "code", "sure"),
    [
        ("4711", "4711", True), ("AROS", "aros", True), ("Ana Weir", "4711", True), ("ana  weir", "4711", True),
        ("Weir, Ana", "4711", True), ("Weir Ana", "4711", True), ("von Ros, Ada", "aros", True),
        ("Ana Weir_4711_file", "4711", True), ("Ana Weir_902_file", "4711", True), ("Ada vom Ros_902", "aros", False), ("4712-attempt-1", "4712", True), ("Somebody (4713)", "4713", True),
        ("Eva Quay", None, False),  # two are called so
        ("Eva Quay_4714", "4714", True), ("Anna Weir", "4711", False), ("Bem Lock", "4712", False),
        ("4711 and 4712", None, False), ("Zoe Far", None, False), ("471", None, False),
    ],
)  # fmt: skip
def test_who_a_name_stands_for(name: str, code: str | None, sure: bool) -> None:
    (found,) = match_learners([name], CLASS)
    assert (found.name, found.sure) == (name, sure)
    if name == "Eva Quay":
        assert found.code in {"4713", "4714"}
    else:
        assert found.code == code


def test_an_id_and_another_name_are_not_sure_and_nobody_is_proposed_who_is_found() -> None:
    assert not match_learners(["Ana Weir 4712"], CLASS)[0].sure
    assert match_learners(["Ana Weir", "Anna Weir"], CLASS) == [
        Match("Ana Weir", "4711", True),
        Match("Anna Weir", None, False),
    ]
