"""Cabling as part of the exercise: papers by hand, ports of the learner's own, and what learners see of it."""

from dataclasses import replace

import pytest
import yaml

from tests.helpers import lab_of, paper_of
from zensur.core.formats import CABLING, File, learners_edition, read_cabling, sort_papers
from zensur.core.lab import Lab, read_lab
from zensur.core.lab.port_names import in_sheet, put_ports
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.marking.marker import Marker
from zensur.core.marking.reading.chosen import as_handed_in
from zensur.core.marking.scheme import tasks_of
from zensur.core.marking.shapes import Result
from zensur.core.sim import Network, run_any
from zensur.pages.hand_out import hand_out_page

TASKS = [
    {"title": "Cables", "criteria": [{"joins": "weir sw1"}, {"joins": "sw1 ana"}, {"joins": "bob sw1"},
                                     {"link": "weir:s1 -- quay:s1", "marks": 2}]},
    {"title": "Addresses", "criteria": [{"address": "weir:p1", "marks": 2}, {"address": "ana:p1", "marks": 2},
                                        {"access": "sw1:p2"}, {"access": "sw1:p3"}, {"gateway": "ana"}]},
    {"title": "Pings", "criteria": [{"pings": "all", "each": 1}]},
]  # fmt: skip
ANSWER = {
    "weir": "port p1; -address 10.64.8.1/24; -on; port s1; -address 10.64.0.1/30; -clocking 64000; -on",
    "quay": "port s1; -address 10.64.0.2/30; -on; route default via 10.64.0.1",
    "sw1": "vlan 10; port p1; -access 10; port p2; -access 10; port p3; -access 10",
    "ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
    "bob": "port p1; -address 10.64.8.21/24; gateway 10.64.8.1",
}
LINKS = ["weir:p1 -- sw1:p1", "sw1:p2 -- ana:p1", "sw1:p3 -- bob:p1", "weir:s1 -- quay:s1 clock weir"]


def made(**more: object) -> Lab:
    return lab_of(
        "weir=router:p1,p2,s1,s2 quay=router:p1,s1 sw1=switch:p1,p2,p3,p4 ana=host bob=host", LINKS, ANSWER,
        "ana>bob ana>quay quay>ana weir>10.64.99.9=no-reply", cabling="asked", **more,
    )  # fmt: skip


LAB = made(scheme={"tasks": TASKS})
MARKER = Marker(LAB)
FULL = "# from left to right\nweir:p1 -- sw1:p1\nsw1:p2 -- ana:p1  # here\nbob:p1 -- sw1:p3\n\nweir:s1 -- quay:s1\n"


def mark(cabling: str | None, changes: dict[str, str] | None = None, marker: Marker = MARKER) -> Result:
    handed_in = None if cabling is None else read_cabling(cabling.encode())
    return marker.mark(replace(paper_of(marker.lab, changes), cabling=handed_in))


def without(line: str) -> str:
    assert line in FULL
    return FULL.replace(line, "")


def with_(old: str, new: str, text: str = FULL) -> str:
    assert old in text
    return text.replace(old, new)


def sheet(device: str, old: str, new: str) -> dict[str, str]:
    return {device: with_(old, new, LAB.answer[device].text)}


BESIDE = {
    **sheet("weir", "10.64.8.1/24", "10.64.8.1/24\n  address 10.64.8.9/24"),
    **sheet("ana", "gateway 10.64.8.1", "gateway 10.64.8.9"),
}
"""The router has a second address, and its host goes by that."""


@pytest.mark.parametrize(
    ("cabling", "changes", "slips", "lost"),
    [
        (FULL, {}, [], 0),
        (FULL + "weir:p2 -- sw1:p4\n", {}, [], 0),  # harms nobody
        (None, {}, [("cabling-missing", None)], 5),
        ("nonsense", {}, [("cabling-missing", None)], 5),
        (without("sw1:p2 -- ana:p1  # here\n"), {}, [("cable-missing", None)], 1),
        (without("weir:s1 -- quay:s1\n"), {}, [("cable-missing", None)], 2),
        (with_("sw1:p2 -- ana:p1", "sw1:p2 -- quay:p1"), {}, [("cable-in-the-wrong-port", 3)], 1),
        (with_("weir:s1 -- quay:s1", "weir:s2 -- quay:s1"), {}, [("cable-in-the-wrong-port", 6)], 2),  # exactly that port
        # ports of the learner's own are right where the sheets are about them
        (with_("weir:p1", "weir:p2"), sheet("weir", "port p1", "port p2"), [], 0),
        (with_("sw1:p2", "sw1:p4"), sheet("sw1", "port p2", "port p4"), [], 0),
        (with_("sw1:p2", "sw1:p4"), sheet("sw1", "port p2\n  access 10\n", "port p4\n  access 20\n"), [("wrong-vlan", None)], 1),
        ("sw1:p3 -- ana:p1\nbob:p1 -- sw1:p1\nsw1:p2 -- weir:p1\nweir:s1 -- quay:s1", {}, [], 0),
        # else the cable is the mistake: it joins the right devices, and a ping pays for it
        (with_("sw1:p2", "sw1:p4"), {}, [("cable-in-the-wrong-port", 3)], 1),
        (with_("weir:p1", "weir:p2"), {}, [("cable-in-the-wrong-port", 2)], 1),
        # whom a gateway leads to is seen among the learner's own devices, joined as planned: one mistake, or none
        (FULL, BESIDE, [], 0),
        ("quay:s1 -- weir:s1\nbob:p1 -- sw1:p3\nana:p1 -- sw1:p2\nsw1:p1 -- weir:p1\n", BESIDE, [], 0),
        (FULL + "weir:p2 -- sw1:p4\n", BESIDE, [], 0),
        (without("weir:s1 -- quay:s1\n"), BESIDE, [("cable-missing", None)], 2),
        # a cable and a sheet: two mistakes
        (without("weir:s1 -- quay:s1\n"), sheet("ana", "10.64.8.20/24", "10.64.8.20/25"), [("wrong-mask", None), ("cable-missing", None)], 3),
        (with_("sw1:p2 -- ana", "sw1:p3 -- ana", with_("bob:p1 -- sw1:p3", "bob:p1 -- weir:p2")), {}, [("cable-in-the-wrong-port", 4)], 1),
    ],
)  # fmt: skip
def test_one_cable_is_one_mistake(cabling, changes, slips, lost) -> None:
    result = mark(cabling, changes)
    named = [(f.slip, f.line if f.device == "links.cabling" else None) for f in result.faults]
    assert named == slips
    assert result.out_of - result.carried == lost
    paper = replace(paper_of(LAB, changes), cabling=read_cabling((cabling or "").encode()))
    for fault in result.faults if cabling else ():
        then = MARKER.mended(paper, fault)
        assert then.carried == result.carried + fault.direct
        assert [f.slip for f in then.faults] == [f.slip for f in result.faults if f is not fault]


def test_the_paper_says_what_was_cabled_otherwise_and_what_was_not_read() -> None:
    result = mark(with_("sw1:p2", "sw1:p4"), sheet("sw1", "port p2", "port p4"))
    assert result.remarks == ("Chosen by the learner, as the lab allows: sw1 p4 (model answer: p2).",)
    assert {"access:sw1:p4", "address:weir:p1"} <= {c.id for c in result.criteria}
    result = mark(FULL + "weir:p9 -- quay:p1\nweir:p2 -- sw1:p1\nweir:s2 -- quay:p1\nweir to quay\n")
    assert [remark.partition(": no cable was read. ")[2] for remark in result.remarks] == [
        "weir has no port p9; it has p1, p2, s1, s2.", "sw1:p1 has a cable already.",
        "weir:s2 is serial and quay:p1 is ethernet: both have to be the same.",
        "'weir to quay' is no link: write DEVICE:PORT -- DEVICE:PORT.",
    ]  # fmt: skip
    assert mark("x\n" * 99).remarks[-1] == "79 more lines hold no cable."
    (criterion,) = (c for c in result.criteria if c.key == "link")
    assert [(w.file, w.line) for w in criterion.lines] == [("links.cabling", 6)]


def test_an_empty_paper_earns_nothing_and_the_model_answer_all() -> None:
    """Without a cable every ping fails, so that one which has to fail is guarded."""
    blank = MARKER.mark(replace(paper_of(LAB, dict.fromkeys(ANSWER)), cabling=None))
    assert (blank.score, blank.carried) == (0, 0)
    check = check_text(LAB.text)
    assert (check.errors, check.blank, check.out_of) == ((), 0, 16)


def test_a_derived_scheme_asks_who_is_joined() -> None:
    lab = made()
    assert [c.id for c in tasks_of(lab)[0].criteria] == [
        "joins:weir sw1", "joins:sw1 ana", "joins:sw1 bob", "joins:weir quay",
    ]  # fmt: skip
    result = mark(without("bob:p1 -- sw1:p3\n"), marker=Marker(lab))
    assert [(f.slip, f.direct) for f in result.faults] == [("cable-missing", 1)]


def test_cabling_that_nobody_asks_for_is_not_looked_at() -> None:
    lab = lab_of("weir=router:p1 ana=host", "weir:p1--ana:p1", {"ana": "port p1; -address 10.64.8.20/24"})
    result = Marker(lab).mark(replace(paper_of(lab), cabling=read_cabling(b"x")))
    assert result.carried == result.out_of
    assert result.remarks == ("The lab gives the cabling: what was handed in of it was not looked at.",)


@pytest.mark.parametrize(
    ("criterion", "says"),
    [
        ({"link": "weir:p2 -- sw1:p1"}, "none of the lab's links"),
        ({"link": "weir"}, "is no link"),
        ({"joins": "weir ana"}, "No link of the lab joins weir and ana."),
        ({"joins": "weir"}, "names two devices"),
        ({"joins": "weir sw2"}, "There is no device sw2"),
    ],
)
def test_what_is_wrong_with_criteria_of_cables(criterion, says) -> None:
    document = yaml.safe_load(LAB.text)
    document["scheme"] = {"tasks": [{"title": "x", "criteria": [criterion]}]}
    assert any(says in error.message for error in read_lab(yaml.safe_dump(document)).errors)
    del document["cabling"]
    document["scheme"]["tasks"][0]["criteria"] = [{"joins": "weir sw1"}]
    assert any(
        "goes with cabling: asked" in error.message for error in read_lab(yaml.safe_dump(document)).errors
    )


def test_learners_see_ports_and_no_links_and_try_their_own_cables() -> None:
    edition, page = learners_edition(LAB), hand_out_page(LAB)
    lab = read_lab(edition).lab
    assert lab is not None
    assert (lab.links, lab.asks_cabling) == ((), True)
    assert "links.cabling" in page
    assert "The weave" not in page
    sheets = {name: answer.configuration for name, answer in LAB.answer.items()}
    for cabling, outcome in ((FULL, "reply"), (without("weir:p1 -- sw1:p1\n"), "unreachable")):
        own, joined = as_handed_in(lab, sheets, read_cabling(cabling.encode()))
        network = Network.of_lab(joined, joined.with_sheets(sheets))
        assert own is lab
        assert run_any(network, network, LAB.pings[1]).result.outcome == outcome


def test_the_file_is_found_among_the_sheets() -> None:
    files = [
        File("ana/weir.sheet", b"name weir"),
        File("ana/Links.cabling", b"x"),
        File("bob/sw1.sheet", b"name sw1"),
    ]
    ana, bob = sort_papers(files, list(LAB.devices), "class")
    assert list(ana.files) == ["weir", CABLING]
    assert list(bob.files) == ["sw1"]
    assert not ana.remarks


def test_ports_are_exchanged_where_they_are_meant() -> None:
    names = {"p1": "p2", "p2": "p1", "s0/1": "s0/2"}
    for before, after in (
        ("port p1", "port p2"),
        ("port P1.10", "port p2.10"),
        ("port p1 p2", "port p2 p1"),
        ("route default via 10.0.0.1 out p1 about by p1", "route default via 10.0.0.1 out p2 about by p1"),
        ("translate tcp 10.0.0.1:80 as p2:8080", "translate tcp 10.0.0.1:80 as p1:8080"),
        ("  about p1", "  about p1"),
        ("run p1 s0/1  # p1", "run p2 s0/2  # p1"),
        ("pool xp1 p11 s0/1x", "pool xp1 p11 s0/1x"),
    ):
        assert in_sheet(before, names) == after
    node = yaml.compose(
        "{links: ['weir:p1 -- sw1:p1 clock weir'], pings: [{from: weir, source: p1, to: 'weir/west:p2'}, {from: sw1, source: p1}],"
        " scheme: {tasks: [{criteria: [{address: 'weir:p1'}, {instance: weir, of: p1}, {access: 'sw1:p1', accept: [access 9]}]}]},"
        " given: {weir: port p1}, stages: [{answer: {weir: port p1}}]}",
        Loader=yaml.SafeLoader,
    )
    assert node is not None
    put_ports(node, {"weir": {"p1": "p2", "p2": "p1"}})
    found = yaml.safe_load(yaml.serialize(node))
    assert found["links"] == ["weir:p2 -- sw1:p1 clock weir"]
    assert found["pings"] == [
        {"from": "weir", "source": "p2", "to": "weir/west:p1"},
        {"from": "sw1", "source": "p1"},
    ]
    (task,) = found["scheme"]["tasks"]
    assert task["criteria"][:2] == [{"address": "weir:p2"}, {"instance": "weir", "of": "p2"}]
    assert (found["given"], found["stages"]) == ({"weir": "port p1"}, [{"answer": {"weir": "port p2"}}])
