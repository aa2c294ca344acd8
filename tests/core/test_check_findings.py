"""What the lab check finds in what is asked: each rule by a lab that breaks it, and one that breaks none."""

import pytest

from zensur.core.lab import read_lab
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.sheet import Severity

LAB = """zensur: 1
id: check
brief: The basin is 10.64.8.0/24, the way between 10.64.0.0/30, the yard 10.64.16.0/24.
devices:
  weir: {kind: router, ports: [g0/0, g0/1]}
  quay: {kind: router, ports: [g0/0, g0/1]}
  ana: {kind: host}
  bob: {kind: host}
links: [weir:g0/0 -- ana:p1, weir:g0/1 -- quay:g0/0, quay:g0/1 -- bob:p1]
networks:
  yard: {prefix: 10.64.16.0/24}
answer:
  weir: |
    port g0/0
      address 10.64.8.1/24
      on
    port g0/1
      address 10.64.0.1/30
      on
    route 10.64.16.0/24 via 10.64.0.2
  quay: |
    port g0/0
      address 10.64.0.2/30
      on
    port g0/1
      address 10.64.16.1/24
      on
    route 10.64.8.0/24 via 10.64.0.1
  ana: |
    port p1
      address 10.64.8.20/24
    gateway 10.64.8.1
  bob: |
    port p1
      address 10.64.16.20/24
    gateway 10.64.16.1
pings:
  - {from: ana, to: bob, expect: reply}
  - {from: weir, source: g0/0, to: "quay:g0/1", expect: reply}
scheme:
  total: 8
  tasks:
    - title: Routes
      criteria: [{route: weir, dest: 10.64.16.0/24, marks: 2}, {route: quay, dest: 10.64.8.0/24, marks: 2}]
    - title: Addresses
      criteria: [{address: weir:g0/0}, {address: bob:p1}]
    - title: It works
      criteria: [{pings: all}]
"""
ELSEWHERE = {"not-counted"}


def findings(text: str) -> dict[str, tuple[Severity, str, str]]:
    return {
        f.code: (f.severity, f.place, f.message) for f in check_text(text).findings if f.code not in ELSEWHERE
    }


def test_a_lab_that_breaks_no_rule() -> None:
    assert findings(LAB) == {}


@pytest.mark.parametrize(
    ("changes", "code", "place", "says"),
    [
        ([("total: 8", "total: 10")], "total-differs", "scheme.total", "add up to 8: Routes 4, Addresses 6, It works 8."),
        ([("{address: bob:p1}]", "{address: bob:p1}, {address: bob:p1}]"), ("total: 8", "total: 9")], "counted-twice", "scheme", "address:bob:p1"),
        ([("{pings: all}", "{pings: all}, {ping: '1'}"), ("total: 8", "total: 9")], "counted-twice", "scheme", "The ping 1 is counted 2 times"),
        ([("{pings: all}", "{ping: '1'}"), ("total: 8", "total: 7")], "run-not-counted", "pings[1]", "No criterion counts this ping"),
        ([("expect: reply}\nscheme", "expect: reply}\n  - {from: Ana, to: bob, expect: reply}\nscheme"), ("total: 8", "total: 9")],
         "ping-twice", "pings[2]", "the ping 1 once more"),
        ([("yard: {prefix: 10.64.16.0/24}", "yard: {prefix: 10.64.17.0/24}")], "empty-network", "networks", "the network yard"),
        ([("route 10.64.8.0/24 via 10.64.0.1\n", "route 10.64.8.0/24 via 10.64.0.1\n    route 10.64.32.0/24 via 10.64.0.1\n"),
          ("route 10.64.16.0/24 via 10.64.0.2\n", "route 10.64.16.0/24 via 10.64.0.2\n    route 10.64.32.0/24 via 10.64.0.2\n    loopback lo0\n"
           "      address 10.64.32.1/32\n      off\n")], None, "", ""),  # nobody is there, so that nothing is lost
        ([("gateway 10.64.16.1", "gateway 10.64.16.9")], "gateway-of-nobody", "answer.bob", "10.64.16.9, the gateway of bob"),
        ([("via 10.64.0.2\n", "out g0/1\n")], "route-out-of-ethernet", "answer.weir", "route 10.64.16.0/24 out g0/1"),
        ([("the yard 10.64.16.0/24", "the yard"), ("prefix: 10.64.16.0/24", "prefix: 10.64.8.0/24")], "not-told", "brief", "wanted on bob:p1."),
        ([("{route: weir, dest: 10.64.16.0/24, marks: 2}", "{route: weir, dest: 10.64.16.0/24, marks: 2, accept: [route 10.64.16.0/24 via 10.64.0.3]}")],
         "accepted-answer-fails", "scheme", "2 of the pings and checks are not as expected: ana to bob"),
    ],
)  # fmt: skip
def test_a_lab_that_breaks_one(
    changes: list[tuple[str, str]], code: str | None, place: str, says: str
) -> None:
    text = LAB
    for old, new in changes:
        assert old in text, old
        text = text.replace(old, new, 1)
    found = findings(text)
    if code is None:
        assert "circle" not in found
        return
    severity, at, message = found[code]
    assert (at, says in message) == (place, True), message
    assert (severity is Severity.ERROR) is (code in ("total-differs", "accepted-answer-fails"))


def test_a_circle_among_the_routes_of_the_model_answer() -> None:
    text = LAB.replace(
        "route 10.64.8.0/24 via 10.64.0.1\n",
        "route 10.64.8.0/24 via 10.64.0.1\n    route 10.64.99.0/24 via 10.64.0.1\n",
    )
    text = text.replace(
        "route 10.64.16.0/24 via 10.64.0.2\n",
        "route 10.64.16.0/24 via 10.64.0.2\n    route 10.64.99.128/25 via 10.64.0.2\n",
    )
    text = (
        text.replace("  bob: {kind: host}\n", "  bob: {kind: host}\n  cia: {kind: host}\n")
        .replace(
            "pings:\n",
            "  cia: |\n    port p1\n      address 10.64.99.200/25\n    gateway 10.64.99.129\npings:\n",
            1,
        )
        .replace("g0/1 -- bob:p1]", "g0/1 -- bob:p1, cia:p1 -- eve:p1]")
        .replace("  cia: {kind: host}\n", "  cia: {kind: host}\n  eve: {kind: host}\n")
    )
    _, _, message = findings(text)["circle"]
    assert message == "Packets to 10.64.99.128/25 go round in a circle: weir to quay to weir."


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("  weir: {kind: router", "  weir: {type: router", "This key is not known. Did you mean kind?"),
        ("  weir: {kind", "\tweir: {kind", "A tab stands here"),
        ("to: bob,", "to: bobb,", "Did you mean bob?"),
        ("  total: 8", "  points: 8", "This key is not known."),
    ],
)
def test_errors_say_what_was_meant(old: str, new: str, says: str) -> None:
    read = read_lab(LAB.replace(old, new, 1))
    assert any(says in e.message for e in read.errors), read.errors


def test_an_error_in_a_sheet_of_the_model_answer_is_told_by_itself() -> None:
    found = check_text(LAB.replace("address 10.64.16.1/24", "adress 10.64.16.1/24"))
    assert [(f.code, f.place) for f in found.errors] == [("unknown-word", "answer.quay line 5")]


def test_only_what_an_unread_sheet_explains_is_left_out() -> None:
    """Errors about what the model answer has on another device stay, also where its name is part of a word."""
    text = LAB.replace("address 10.64.16.1/24", "adress 10.64.16.1/24").replace(
        "{address: bob:p1}]", "{address: quay:g0/1}, {clocking: ana:p1}]"
    )
    codes = [(f.code, f.message) for f in check_text(text).errors]
    assert [code for code, _ in codes] == ["unknown-word", "lab-file"]
    assert codes[1][1].startswith("The model answer gives ana no clocking")


def test_a_loopback_is_looked_at_by_its_own_address() -> None:
    """Next to a loopback's address lies what goes round in a circle, and nobody has."""
    text = LAB.replace(
        "route 10.64.8.0/24 via 10.64.0.1\n",
        "route 10.64.8.0/24 via 10.64.0.1\n    route 10.64.32.0/24 via 10.64.0.1\n",
    )
    text = text.replace(
        "route 10.64.16.0/24 via 10.64.0.2\n",
        "route 10.64.16.0/24 via 10.64.0.2\n    route 10.64.32.0/24 via 10.64.0.2\n    loopback lo0\n      address 10.64.32.1/32\n",
    )
    assert "circle" not in findings(text)
