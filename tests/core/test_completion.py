"""What the editor offers: statements, ports and addresses in sheets; keys, devices and ports in lab files."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.lab import read_lab, starter_lab
from zensur.core.lab.completion import complete_lab, surroundings
from zensur.core.sheet import read_sheet
from zensur.core.sheet.completion import Surroundings, complete

LAB = read_lab(starter_lab("mine", "Mine")).lab
TEXT = starter_lab("mine", "Mine")


def offered(text: str, around: Surroundings | None = None) -> set[str]:
    """What is offered at the ¦ in a sheet."""
    before, _, after = text.partition("¦")
    number, column = before.count("\n") + 1, len(before.rpartition("\n")[2]) + 1
    assert LAB is not None
    return {
        o.text for o in complete(before + after, number, column, around or surroundings(LAB, "weir")).options
    }


@pytest.mark.parametrize(
    ("text", "some", "none"),
    [
        ("¦", {"port", "loopback", "route", "name", "translate", "rip"}, {"on", "address", "vlan"}),
        ("po¦", {"port", "pool"}, {"route"}),
        ("port ¦", {"p1", "p2"}, set()),
        ("port p1\n  ¦", {"address", "on", "off", "realm", "clocking"}, {"route", "permit"}),
        ("port p1.10\n  ¦", {"address", "on"}, {"clocking", "trunk"}),
        ("port p1\n  address ¦", {"dhcp", "auto", "10.64.16.1/24", "10.64.0.1/30"}, {"10.64.0.2"}),
        ("route ¦", {"default", "10.64.40.0/24"}, {"10.64.0.2"}),
        ("route default ¦", {"via", "out", "discard"}, {"preference"}),
        ("route default via ¦", {"10.64.0.2", "10.64.16.20"}, {"p1"}),
        ("route default via 10.64.0.2 ¦", {"out", "preference", "in", "about"}, {"via"}),
        ("route default via 10.64.0.2 out ¦", {"p1", "p2"}, {"preference"}),
        ("route 10.0.0.0 mask 255.0.0.0 ¦", {"via", "out", "discard"}, set()),
        ("addresses crew\n  ¦", {"permit", "deny"}, {"on"}),
        ("addresses crew\npool spare 10.0.0.1 to 10.0.0.2\ntranslate from ¦", {"crew"}, {"spare"}),
        (
            "addresses crew\npool spare 10.0.0.1 to 10.0.0.2\ntranslate from crew to ¦",
            {"spare", "p1"},
            {"crew"},
        ),
        ("loopback lo0\n  ¦", {"address", "on", "off", "about"}, {"trunk"}),
        ("  ¦", set(), {"on"}),
        ("nonsense ¦", set(), {"on"}),
        ("name x # ¦", set(), {"port"}),
    ],
)
def test_in_a_sheet(text, some, none) -> None:
    found = offered(text)
    assert some <= found
    assert not none & found


def in_lab(old: str, new: str) -> set[str]:
    """What is offered at the ¦ of ``new``, which takes the place of ``old`` in the starter lab."""
    text = TEXT.replace(old, new, 1)
    before, _, after = text.partition("¦")
    number, column = before.count("\n") + 1, len(before.rpartition("\n")[2]) + 1
    return {o.text.strip() for o in complete_lab(before + after, number, column, LAB).options}


@pytest.mark.parametrize(
    ("old", "new", "some"),
    [
        ("topics:", "to¦\ntopics:", {"topics:"}),
        ("devices:\n", "s¦\ndevices:\n", {"scheme:", "stages:", "start:", "services:"}),
        ("{kind: router", "{kind: ¦", {"router", "switch", "host"}),
        ("{kind: router, ports", "{ki¦nd: router, ports", {"kind:"}),
        ("  - weir:p1 --", "  - ¦\n  - weir:p1 --", set()),
        ("  - {from: gauge, to: weir", "  - {from: ¦gauge, to: weir", {"weir", "quay", "gauge", "crane"}),
        ("to: weir,", "to: w¦,", {"weir", "weir:p1", "weir:p2"}),
        ("expect: reply, shown", "expect: ¦, shown", {"reply", "no-reply", "timeout"}),
        ("shown: true", "shown: ¦", {"true", "false"}),
        ("{from: gauge, to: weir,", "{from: gauge, ¦to: weir,", {"source:", "seen_as:", "expect:"}),
        ("  quay: |\n    port p1\n      address 10.64.40.1/24", "  quay: |\n    port ¦", {"p1", "p2"}),
        ("    route 10.64.16.0/24 via 10.64.0.1", "    route 10.64.16.0/24 ¦", {"via", "out", "discard"}),
        ("pings:\n", "scheme:\n  ¦\npings:\n", {"tasks:", "extras:", "strictness:"}),
        ("pings:\n", "scheme:\n  extras: ¦\npings:\n", {"report", "charge", "ignore"}),
        ("pings:\n", "scheme:\n  tasks: ¦\npings:\n", {"auto"}),
    ],
)
def test_in_a_lab_file(old, new, some) -> None:
    assert old in TEXT
    assert some <= in_lab(old, new)


@given(st.text(max_size=60), st.integers(1, 50), st.integers(1, 60))
def test_whatever_is_typed_completing_never_raises(put: str, number: int, column: int) -> None:
    lines = TEXT.split("\n")
    text = "\n".join([*lines[:number], put, *lines[number:]])
    complete_lab(text, number + 1, column, LAB)
    complete(put, 1, column, Surroundings())


def test_what_is_offered_is_understood() -> None:
    assert LAB is not None
    around = surroundings(LAB, "weir")
    for place, header in (("", ""), ("port p1\n  ", "port p1\n  "), ("loopback lo0\n  ", "loopback lo0\n  ")):
        for option in complete(place, place.count("\n") + 1, 3 if place else 1, around).options:
            said = read_sheet(header + option.text).diagnostics
            assert all(d.code != "unknown-word" for d in said), option
