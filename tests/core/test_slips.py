"""Slips that no model answer of the demo holds a place for: recognised, named once, at their line."""

import pytest

from tests.helpers import lab_of, mark, sheet
from zensur.core.lab import Lab
from zensur.core.marking.reading.unread import MOST_LETTERS, unread_lines
from zensur.core.marking.shapes import Result
from zensur.core.sheet import read_sheet

PAIR = "weir=router:p1,p2 quay=router:p1,p2 ana=host bob=host"
LINKS = "weir:p1--ana:p1 weir:p2--quay:p2 quay:p1--bob:p1"
ANSWER = {
    "weir": "name weir; port p1; -about to ana; -address 10.1.0.1/24; -on; port p2; -address 10.0.0.1/30; -on; "
    "route 10.2.0.0/24 via 10.0.0.2",
    "quay": "port p1; -address 10.2.0.1/24; -on; port p2; -address 10.0.0.2/30; -on; route 10.1.0.0/24 via 10.0.0.1",
    "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
    "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1",
}


def pair(**more: object) -> Lab:
    return lab_of(PAIR, LINKS, ANSWER, "ana>bob", **more)


def named(result: Result) -> list[tuple[str, str, int | None, str]]:
    return [(f.slip, f.device, f.line, f.repair) for f in result.faults]


def tasks(*criteria: dict[str, object]) -> dict[str, object]:
    return {"tasks": [{"title": "T", "criteria": [*criteria, {"pings": "all"}]}]}


@pytest.mark.parametrize(
    ("changes", "fault"),
    [
        ({"weir": ("address 10.1.0.1/24", "adress 10.1.0.1/24")}, ("line-not-understood", "weir", 4, "address 10.1.0.1/24")),
        ({"weir": ("address 10.1.0.1/24", "ip address 10.1.0.1 255.255.255.0")}, ("line-not-understood", "weir", 4, "address 10.1.0.1/24")),
        ({"weir": ("address 10.1.0.1/24", "address 10.1.0.1 mask 0.0.0.255")}, ("mask-and-wildcard-confused", "weir", 4, "address 10.1.0.1/24")),
        ({"weir": ("port p1; -about", "interface p1; -about")}, ("line-not-understood", "weir", 2, "port p1")),
        ({"weir": ("10.1.0.1/24; -on", "10.1.0.1/24; -enable")}, ("line-not-understood", "weir", 5, "on")),
        ({"ana": ("10.1.0.20/24", "10.1.0.20")}, ("line-not-understood", "ana", 2, "address 10.1.0.20/24")),
        ({"quay": ("route 10.1", "rute 10.1")}, ("line-not-understood", "quay", 7, "route 10.1.0.0/24 via 10.0.0.1")),
        ({"ana": ("gateway", "default-gateway")}, ("line-not-understood", "ana", 3, "gateway 10.1.0.1")),
        ({"ana": ("10.1.0.20/24", "10.1.0.20/24"), "weir": ("route 10.2.0.0/24 via 10.0.0.2", ""),
          "quay": ("route 10.1.0.0/24", "route 10.2.0.0/24 via 10.0.0.2; route 10.1.0.0/24")},
         ("statement-on-the-wrong-device", "weir", None, "route 10.2.0.0/24 via 10.0.0.2")),
        ({"ana": ("10.1.0.20/24", "10.2.0.20/24"), "bob": ("10.2.0.20/24", "10.1.0.20/24")},
         ("two-ports-swapped", "ana", 2, "address 10.1.0.20/24; on bob p1: address 10.2.0.20/24")),
        ({"quay": ("10.1.0.0/24 via", "10.1.0.0/25 via")}, ("route-with-the-wrong-mask", "quay", 7, "route 10.1.0.0/24 via 10.0.0.1")),
        ({"ana": ("-address 10.1.0.20/24", "-address 2001:db8::20/64")}, ("wrong-family", "ana", 2, "address 10.1.0.20/24")),
        ({"ana": ("gateway 10.1.0.1", "gateway 2001:db8::1")}, ("wrong-family", "ana", 3, "gateway 10.1.0.1")),
        ({"quay": ("route 10.1.0.0/24", "route 10.1.0.20/32 discard; route 10.1.0.0/24")},
         ("host-route-hides-a-wider-one", "quay", 7, "without route 10.1.0.20/32 discard")),
    ],
)  # fmt: skip
def test_one_slip_is_one_fault_at_its_line(changes, fault) -> None:
    sheets = {}
    for device, (old, new) in changes.items():
        assert old in ANSWER[device]
        sheets[device] = sheet(ANSWER[device].replace(old, new))
    result = mark(pair(), sheets)
    assert named(result) == [fault]
    assert result.faults[0].said.endswith(".")
    assert result.faults[0].told.endswith(".")
    assert result.score < result.out_of


def test_what_stands_under_a_header_that_was_not_understood_is_read_all_the_same() -> None:
    """The header is one mistake, a wrong value below it another; what is right below it is none."""
    weir = ANSWER["weir"].replace("port p2", "prot p2").replace("10.0.0.1/30", "10.0.0.1/29")
    result = mark(pair(), {"weir": weir})
    assert named(result) == [
        ("line-not-understood", "weir", 6, "port p2"),
        ("wrong-mask", "weir", 7, "address 10.0.0.1/30"),
    ]


@pytest.mark.parametrize(
    ("criterion", "old", "new", "fault"),
    [
        ({"about": "weir:p1"}, "-about to ana; ", "", ("description-missing", "weir", 2, "about to ana")),
        ({"about": "weir:p1"}, "-about to ana", "-about to bob", ("description-wrong", "weir", 3, "about to ana")),
        ({"name": "weir"}, "name weir; ", "", ("name-missing", "weir", None, "name weir")),
        ({"name": "weir"}, "name weir", "name wier", ("name-wrong", "weir", 1, "name weir")),
        ({"absent": "weir loopback lo9"}, "port p2", "loopback lo9; -address 10.9.9.9/32; port p2",
         ("address-where-none-should-be", "weir", 6, "without loopback lo9")),
        ({"absent": "weir route 10.9.0.0/16"}, "route", "route 10.9.0.0/16 discard; route",
         ("route-where-none-should-be", "weir", 9, "without route 10.9.0.0/16 discard")),
        ({"disabled": "weir:p2"}, "-on; route", "-on; route", ("port-not-switched-off", "weir", 8, "off")),
        ({"up": "weir:p2"}, "10.0.0.1/30; -on", "10.0.0.1/30", ("port-left-off", "weir", 6, "on")),
        ({"address": "weir:p1", "mask": "dotted"}, "10.1.0.1/24", "10.1.0.1/24",
         ("mask-not-written-out", "weir", 4, "address 10.1.0.1 mask 255.255.255.0")),
        ({"route": "weir", "dest": "10.2.0.0/24", "preference": 10}, "via 10.0.0.2", "via 10.0.0.2 preference 5",
         ("preference-wrong", "weir", 9, "route 10.2.0.0/24 via 10.0.0.2")),
    ],
)  # fmt: skip
def test_what_only_some_schemes_ask_for(criterion, old, new, fault) -> None:
    answer = dict(ANSWER)
    if "disabled" in criterion:
        answer["weir"] = answer["weir"].replace("-on; route", "-off; route")
    lab = lab_of(PAIR, LINKS, answer, "" if "disabled" in criterion else "ana>bob", scheme=tasks(criterion))
    assert old in ANSWER["weir"]
    result = mark(lab, {"weir": ANSWER["weir"].replace(old, new)})
    assert named(result) == [fault]


def test_what_learners_begin_with_is_not_removed() -> None:
    start = {"weir": sheet(ANSWER["weir"] + "; route 10.2.0.20/32 discard")}
    lab = pair(start=start)
    assert named(mark(lab)) == []
    assert named(mark(lab, {"weir": start["weir"]})) == [
        ("loopback-or-route-not-removed", "weir", 10, "without route 10.2.0.20/32 discard")
    ]


def test_one_name_for_two_loopbacks_of_different_instances_is_one_mistake() -> None:
    lab = lab_of(
        "box=router:p1,p2 ana=host bob=host",
        "box:p1--ana:p1 box:p2--bob:p1",
        {
            "box": "instance east; port p1; -address 10.1.0.1/24; -on; port p2; -instance east; -address 10.2.0.1/24; -on; "
            "loopback lo0; -address 10.9.0.1/32; loopback lo1; -instance east; -address 10.9.0.2/32",
            "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
            "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1",
        },
        "ana>10.9.0.1 bob>10.9.0.2",
    )
    result = mark(lab, {"box": lab.answer["box"].text.replace("loopback lo1", "loopback lo0")})
    (fault,) = result.faults
    assert (fault.slip, fault.device) == ("same-name-in-two-instances", "box")
    assert (fault.found, fault.repair) == ("loopback lo0", "loopback lo1")
    header = [
        n for n, line in enumerate(lab.answer["box"].text.split("\n"), 1) if line.startswith("loopback")
    ]
    assert (fault.line, [where.line for where in fault.also]) == (header[1] + 1, [header[0]])


VARIANTS = {
    "weir": "port p1; -address 10.${site}.0.1/24; -on; port p2; -address 10.0.${site}.1/30; -on; "
    "route 172.16.${site}.0/24 via 10.0.${site}.2",
    "quay": "port p1; -address 172.16.${site}.1/24; -on; port p2; -address 10.0.${site}.2/30; -on; "
    "route 10.${site}.0.0/24 via 10.0.${site}.1",
    "ana": "port p1; -address 10.${site}.0.20/24; gateway 10.${site}.0.1",
    "bob": "port p1; -address 172.16.${site}.20/24; gateway 172.16.${site}.1",
}


@pytest.mark.parametrize("copied", [["weir", "quay", "ana", "bob"], ["weir"], ["quay", "bob"]])
def test_another_learners_numbers_are_one_mistake(copied) -> None:
    lab = lab_of(PAIR, LINKS, VARIANTS, "ana>bob", variables={"site": {"from": 16, "to": 47}})
    theirs = {d: VARIANTS[d].replace("${site}", "23") for d in copied}
    own = {d: VARIANTS[d].replace("${site}", "16") for d in VARIANTS if d not in copied}
    result = mark(lab, {**own, **theirs})
    assert [f.slip for f in result.faults] == ["another-learner's-numbers"]
    assert result.faults[0].direct > 0
    # one wrong octet is a slip of its own, and one value alone proves nothing
    odd = own | theirs | {copied[0]: theirs[copied[0]].replace("0.1/24", "0.7/24")}
    also = mark(lab, {**odd, "ana": VARIANTS["ana"].replace("${site}", "16")})
    assert all(f.said.endswith(".") for f in also.faults)


def test_another_learner_has_other_values_for_every_variable() -> None:
    two = {d: t.replace("172.16.${site}", "172.16.${far}") for d, t in VARIANTS.items()}
    lab = lab_of(
        PAIR, LINKS, two, "ana>bob", variables={"site": {"from": 16, "to": 47}, "far": {"from": 60, "to": 90}}
    )

    def with_values(site: int, far: int) -> dict[str, str | None]:
        return {d: t.replace("${site}", str(site)).replace("${far}", str(far)) for d, t in two.items()}

    assert mark(lab, with_values(16, 60)).score == mark(lab).out_of
    for values in ((23, 77), (23, 60), (16, 77)):
        assert [f.slip for f in mark(lab, with_values(*values)).faults] == ["another-learner's-numbers"], (
            values
        )


def test_a_line_as_long_as_a_sheet_keeps_nobody_waiting() -> None:
    """Comparing letters takes time: only the beginning of a line is looked at."""
    (line,) = unread_lines(read_sheet("adress 10.1.0.1/24 " + "x" * 250_000, "weir.sheet"), "weir.sheet")
    assert len(line.text) == MOST_LETTERS
    assert mark(pair(), {"weir": "port p1; -on; -" + "adress" * 40_000}).score > 0


def test_two_sheets_exchanged_and_a_slip_in_one_of_them_are_two_mistakes() -> None:
    weir = ANSWER["weir"].replace("10.1.0.1/24", "10.1.0.1/25")
    result = mark(pair(), {"weir": ANSWER["quay"], "quay": weir})
    assert named(result) == [
        ("two-sheets-exchanged", "weir", None, "hand in the sheets of weir and quay each under its own name"),
        ("wrong-mask", "weir", 4, "address 10.1.0.1/24"),
    ]


def test_the_sheet_of_another_device_is_one_mistake() -> None:
    result = mark(pair(), {"weir": ANSWER["quay"]})
    assert [(f.slip, f.device) for f in result.faults] == [("sheet-handed-in-for-the-wrong-device", "weir")]


def test_an_empty_sheet_is_as_good_as_none() -> None:
    """What learners begin with stands: a port that is off because nothing is written earns nothing."""
    start = {"weir": sheet("port p2; -on")}
    scheme = tasks({"disabled": "weir:p2"}, {"enabled": "weir:p1"})
    lab = lab_of("weir=router:p1,p2", "", {"weir": "port p1; -on; port p2; -off"}, start=start, scheme=scheme)
    assert mark(lab, {"weir": ""}).score == mark(lab, {"weir": "# nothing yet"}).score == 0
    assert mark(lab, {"weir": "port p1; -on"}).score == 2
