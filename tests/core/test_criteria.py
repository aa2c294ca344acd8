"""Criteria about single statements: what is half right, what a lab file may ask for, and what it may not."""

import pytest
import yaml

from tests.helpers import lab_of, mark, paper_of, sheet
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.marking.marker import Marker

LAB = {
    "zensur": 1,
    "id": "asked",
    "devices": {
        "weir": {"kind": "router", "ports": ["p1", "p2", {"name": "s1", "medium": "serial"}]},
        "quay": {"kind": "router", "ports": ["p1", {"name": "s1", "medium": "serial"}]},
        "sw1": {"kind": "switch", "ports": ["p1", "p2", "p3"]},
        "ana": {"kind": "host"},
        "bob": {"kind": "host"},
    },
    "links": ["weir:p1 -- sw1:p1", "sw1:p2 -- ana:p1", "sw1:p3 -- bob:p1", "weir:s1 -- quay:s1 clock weir"],
}
ANSWER = {
    "weir": (
        "name weir; instance east; port p1; -on; port p1.10; -address 10.1.0.1/24; -realm internal; -about to the reach;"
        "port p2; -instance east; port s1; -address 203.0.113.1/29; -realm external; -clocking 64000; -on;"
        "addresses crew; -permit 10.1.0.0/24; pool few 203.0.113.4 to 203.0.113.5; translate 10.1.0.9 as 203.0.113.3;"
        "translate tcp 10.1.0.9:80 as s1:8080; translate from crew to few shared;"
        "dhcp crew; -network 10.1.0.0/24; -exclude 10.1.0.1; -gateway 10.1.0.1; -resolver 10.1.0.1 10.1.0.2;"
        "rip; -run s1; -passive p1.10; dns; -record page.example 10.1.0.9; -record page.example 10.1.0.8; service tcp 80;"
        "route 10.9.0.0/24 discard about nobody there"
    ),
    "quay": "port s1; -address 203.0.113.2/29; -on; rip; -run s1",
    "sw1": "port p1; -trunk 10,20; port p2; -access 10; port p3; -off; vlan 10; vlan 20",
    "ana": "port p1; -address dhcp; resolver 10.1.0.1 10.1.0.2",
    "bob": "port p1; -address 10.1.0.7/24; forwarding on",
}


def lab_with(*criteria: dict[str, object]) -> Lab:
    document = LAB | {
        "answer": {d: sheet(t) for d, t in ANSWER.items()},
        "scheme": {"tasks": [{"title": "T", "criteria": list(criteria)}]},
    }
    read = read_lab(yaml.safe_dump(document, sort_keys=False))
    assert read.lab is not None, read.errors
    return read.lab


@pytest.mark.parametrize(
    ("criterion", "ident", "device", "old", "new", "fraction"),
    [
        ({"realm": "weir:s1"}, "realm:weir:s1", "weir", "-realm external", "-realm internal", 0),
        ({"clocking": "weir:s1"}, "clocking:weir:s1", "weir", "clocking 64000", "clocking 128000", 0.5),
        ({"clocking": "weir:s1"}, "clocking:weir:s1", "weir", "-clocking 64000;", "", 0),
        ({"access": "sw1:p2"}, "access:sw1:p2", "sw1", "access 10", "access 20", 0),
        ({"trunk": "sw1:p1"}, "trunk:sw1:p1", "sw1", "trunk 10,20", "trunk 10", 0.5),
        ({"trunk": "sw1:p1"}, "trunk:sw1:p1", "sw1", "trunk 10,20", "trunk all", 1),
        ({"trunk": "sw1:p1"}, "trunk:sw1:p1", "sw1", "trunk 10,20", "trunk all; vlan 30", 2 / 3),
        ({"trunk": "sw1:p1"}, "trunk:sw1:p1", "sw1", "trunk 10,20", "trunk 10,20,30,40", 0.5),
        ({"trunk": "sw1:p1"}, "trunk:sw1:p1", "sw1", "trunk 10,20", "trunk 10,20 native 10", 2 / 3),
        ({"vlan": "sw1 20"}, "vlan:sw1:20", "sw1", "; vlan 20", "", 0),
        ({"disabled": "sw1:p3"}, "disabled:sw1:p3", "sw1", "-off", "-on", 0),
        ({"up": "weir:s1"}, "up:weir:s1", "weir", "-clocking 64000;", "", 0),
        ({"absent": "weir loopback lo0"}, "absent:weir:loopback lo0", "weir", "name weir;", "loopback lo0; ", 0),
        ({"name": "weir"}, "name:weir", "weir", "name weir;", "name wier;", 0),
        ({"about": "weir:p1.10"}, "about:weir:p1.10", "weir", "-about to the reach;", "-about to the mole;", 0),
        ({"about": "weir:p1.10", "like": "reach$"}, "about:weir:p1.10", "weir", "to the reach", "up the reach", 1),
        ({"about": "weir route 10.9.0.0/24"}, "about:weir:route 10.9.0.0/24", "weir", " about nobody there", "", 0),
        ({"resolver": "ana"}, "resolver:ana", "ana", "10.1.0.1 10.1.0.2", "10.1.0.1", 0.5),
        ({"resolver": "ana"}, "resolver:ana", "ana", "10.1.0.1 10.1.0.2", "10.1.0.1 10.1.0.3", 1 / 3),
        ({"forwarding": "bob"}, "forwarding:bob", "bob", "forwarding on", "forwarding off", 0),
        ({"lease": "ana:p1"}, "lease:ana:p1", "ana", "address dhcp", "address 10.1.0.2/24", 0),
        ({"service": "weir", "port": "tcp 80"}, "service:weir:tcp 80", "weir", "service tcp 80", "service tcp 81", 0),
        ({"instance": "weir", "of": "p2"}, "instance:weir:p2", "weir", "-instance east;", "", 0),
        ({"instance": "weir", "of": "p2"}, "instance:weir:p2", "weir", "instance east; port", "port", 0),
        ({"dns": "weir", "record": "PAGE.example."}, "dns:weir:page.example", "weir", "page.example 10.1.0.8", "page.example 10.1.0.6", 1 / 3),
        ({"dhcp": "weir", "network": "10.1.0.0/24"}, "dhcp:weir:10.1.0.0/24", "weir", "-exclude 10.1.0.1;", "", 2 / 3),
        ({"dhcp": "weir", "network": "10.1.0.0/24"}, "dhcp:weir:10.1.0.0/24", "weir", "-exclude 10.1.0.1;", "-range 10.1.0.2 to 10.1.0.254; -order lowest;", 1),
        ({"name": "weir"}, "name:weir", "weir", "name weir;", "name WEIR;", 1),
        ({"trunk": "sw1:p1"}, "trunk:sw1:p1", "sw1", "trunk 10,20", "trunk 20 native 10", 2 / 3),
        ({"instance": "weir", "of": "p2"}, "instance:weir:p2", "weir", "-instance east;", "-instance EAST;", 1),
        ({"rip": "weir"}, "rip:weir", "weir", "-passive p1.10;", "", 0.5),
        ({"translation": "weir", "of": "10.1.0.9"}, "translation:weir:10.1.0.9", "weir", "as 203.0.113.3", "as 203.0.113.6", 0),
        ({"translation": "weir", "of": "tcp 10.1.0.9:80"}, "translation:weir:tcp 10.1.0.9:80", "weir", "as s1:8080", "as 203.0.113.1:8080", 1),
        ({"translation": "weir", "of": "crew"}, "translation:weir:crew", "weir", "-permit 10.1.0.0/24", "-deny 10.1.0.7; -permit 10.1.0.0/24", 0.5),
        ({"translation": "weir", "of": "crew"}, "translation:weir:crew", "weir", "to few shared", "to few", 0),
        ({"translation": "weir", "of": "crew"}, "translation:weir:crew", "weir", "few", "plenty", 1),
        ({"translation": "weir", "of": "crew", "name": "strict"}, "translation:weir:crew", "weir", "few", "plenty", 0.5),
        ({"dhcp": "weir", "network": "10.1.0.0/24", "name": "strict"}, "dhcp:weir:10.1.0.0/24", "weir", "dhcp crew", "dhcp gang", 0.5),
        ({"address": "weir:p1.10", "mask": "dotted"}, "address:weir:p1.10", "weir", "10.1.0.1/24", "10.1.0.1/24 ", 0.5),
        ({"address": "weir:p1.10", "mask": "dotted"}, "address:weir:p1.10", "weir", "10.1.0.1/24", "10.1.0.1 mask 255.255.255.0", 1),
        ({"address": "weir:p1.10", "mask": "dotted"}, "address:weir:p1.10", "weir", "10.1.0.1/24", "10.1.0.2 mask 255.255.255.0", 0),
        ({"address": "weir:p1.10", "accept": ["address 10.1.0.254/24"]}, "address:weir:p1.10", "weir", "10.1.0.1/24", "10.1.0.254/24", 1),
        ({"address": "weir:p1.10", "accept": ["address 10.1.0.254/24"]}, "address:weir:p1.10", "weir", "10.1.0.1/24", "10.1.0.254/25", 0.5),
        ({"translation": "weir", "of": "10.1.0.9", "accept": ["translate 10.1.0.9 as 203.0.113.6"]}, "translation:weir:10.1.0.9", "weir", "as 203.0.113.3", "as 203.0.113.6", 1),
        ({"route": "weir", "dest": "10.9.0.0/24", "preference": 10}, "route:weir:10.9.0.0/24", "weir", "discard", "discard preference 20", 0.5),
    ],
)  # fmt: skip
def test_what_a_criterion_earns(criterion, ident, device, old, new, fraction) -> None:
    lab = lab_with(criterion)
    marker = Marker(lab)
    full = marker.mark(paper_of(lab))
    assert [(c.id, c.fraction) for c in full.criteria] == [(ident, 0.5 if "mask" in criterion else 1.0)]
    assert old in ANSWER[device]
    (found,) = marker.mark(paper_of(lab, {device: ANSWER[device].replace(old, new)})).criteria
    assert found.fraction == pytest.approx(fraction), (found.required, found.found)
    assert found.required
    if 0 < fraction < 1:
        assert found.lines, "what earned something is shown where it stands"


def test_a_name_that_is_asked_for_has_to_be_that_name() -> None:
    lab = lab_of("weir=router:p1", "", {"weir": "loopback lo0; -address 10.9.0.1/32; port p1; -on"})
    tasks = [{"title": "T", "criteria": [{"address": "weir:lo0", "name": "strict"}]}]
    strict = lab_of("weir=router:p1", "", {"weir": lab.answer["weir"].text}, scheme={"tasks": tasks})
    other = {"weir": "loopback lo7; -address 10.9.0.1/32; port p1; -on"}
    assert mark(lab, other).score == mark(lab, {}).score
    result = mark(strict, other)
    assert result.score == 0
    assert [(f.slip, f.repair) for f in result.faults] == [
        ("address-on-the-wrong-port", "address 10.9.0.1/32")
    ]
    assert mark(strict).score == 1


@pytest.mark.parametrize(
    ("old", "new", "fraction"),
    [
        ("crew", "gang", 1),
        ("few", "plenty", 1),
        ("-permit 10.1.0.0/24", "-permit 10.1.0.0 wildcard 0.0.0.255", 1),
        ("-permit 10.1.0.0/24", "-permit 10.1.0.0/25; -permit 10.1.0.128/25", 0.5),
        ("to few shared", "to few shared ports 1024 to 65535", 0.5),
    ],
)
def test_a_translation_may_be_asked_for_in_its_form(old, new, fraction) -> None:
    document = yaml.safe_load(yaml.safe_dump(LAB)) | {
        "answer": {d: sheet(t) for d, t in ANSWER.items()},
        "scheme": {"strictness": "form", "tasks": [{"title": "T", "criteria": [{"translation": "weir", "of": "crew"}]}]},
    }  # fmt: skip
    lab = read_lab(yaml.safe_dump(document, sort_keys=False)).lab
    assert lab is not None
    weir = ANSWER["weir"].replace("dhcp crew", "dhcp ship").replace(old, new)
    (found,) = Marker(lab).mark(paper_of(lab, {"weir": weir})).criteria
    assert found.fraction == fraction, found.found


EACH_WAY = [f"translate from 10.1.0.0/24 to {port} shared out {port}" for port in ("p2", "p3")]


@pytest.mark.parametrize(
    ("lines", "fraction", "mistakes"),
    [
        (EACH_WAY[::-1], 1, []),
        ([EACH_WAY[1], "translate from 10.1.0.0/24 to p2 shared"], 1, []),  # what is left goes out of p2
        (EACH_WAY[:1], 0.5, [("translation-missing", EACH_WAY[1])]),
        ([EACH_WAY[0].removesuffix(" out p2"), EACH_WAY[1]], 0.5, [("translation-wrong", EACH_WAY[0])]),
        ([line.replace("to p2", "to p3") for line in EACH_WAY], 0.5, [("translation-wrong", EACH_WAY[0])]),
        ([], 0, [("translation-missing", EACH_WAY[0]), ("translation-missing", EACH_WAY[1])]),
    ],
)
def test_translations_for_each_way_out_are_judged_each_for_its_own(lines, fraction, mistakes) -> None:
    ports = (
        "port p1; -address 10.1.0.1/24; -realm internal; -on; port p2; -address 203.0.113.2/30; -realm external; -on;"
        "port p3; -address 203.0.113.6/30; -realm external; -on;"
    )
    tasks = [{"title": "T", "criteria": [{"translation": "weir", "of": "10.1.0.0/24"}]}]
    weir = ports + ";".join(EACH_WAY)
    links = "weir:p1--ana:p1 weir:p2--bob:p1 weir:p3--cid:p1"
    devices = "weir=router:p1,p2,p3 ana=host bob=host cid=host"
    lab = lab_of(devices, links, {"weir": weir}, scheme={"tasks": tasks})
    result = mark(lab, {"weir": ports + ";".join(lines)})
    assert [c.fraction for c in result.criteria] == [fraction]
    assert [(f.slip, f.repair) for f in result.faults] == mistakes


def test_a_translation_for_one_way_out_is_not_one_for_all() -> None:
    ports = (
        "port p1; -address 10.1.0.1/24; -realm internal; -on; port p2; -address 203.0.113.2/30; -realm external; -on;"
        "port p3; -address 203.0.113.6/30; -realm external; -on;"
    )
    tasks = [{"title": "T", "criteria": [{"translation": "weir", "of": "10.1.0.0/24"}]}]
    links = "weir:p1--ana:p1 weir:p2--bob:p1 weir:p3--cid:p1"
    devices = "weir=router:p1,p2,p3 ana=host bob=host cid=host"
    lab = lab_of(devices, links, {"weir": ports + EACH_WAY[0]}, scheme={"tasks": tasks})
    assert [
        c.fraction for c in mark(lab, {"weir": ports + EACH_WAY[0].removesuffix(" out p2")}).criteria
    ] == [0]


def test_a_lease_that_nobody_gives_is_half() -> None:
    lab = lab_with({"lease": "ana:p1"})
    cut = lab_with({"lease": "ana:p1"})
    assert (
        Marker(cut)
        .mark(paper_of(lab, {"weir": ANSWER["weir"].replace("-network 10.1.0.0/24", "-network 10.2.0.0/24")}))
        .score
        == 1.0
    )
    (found,) = Marker(lab).mark(paper_of(lab, {"ana": "port p1; -address dhcp; -off"})).criteria
    assert found.fraction == 1.0  # one slip is lost once: the port that is off is another's matter


@pytest.mark.parametrize(
    ("criterion", "says"),
    [
        ({"realm": "weir:p2"}, "gives weir no realm p2"),
        ({"clocking": "quay:s1"}, "gives quay no clocking s1"),
        ({"trunk": "sw1:p2"}, "gives sw1 no trunk p2"),
        ({"vlan": "sw1 30"}, "gives sw1 no vlan 30"),
        ({"vlan": "sw1"}, "such as sw1 10"),
        ({"absent": "weir pool few"}, "has pool few"),
        ({"about": "weir:p2"}, "describes no p2"),
        ({"about": "weir:p2", "like": "("}, "like is no pattern"),
        ({"translation": "weir", "of": "10.1.0.8"}, "gives weir no translation 10.1.0.8"),
        ({"translation": "weir"}, "needs its of"),
        ({"service": "weir", "port": "tcp 81"}, "Did you mean tcp 80?"),
        ({"dhcp": "weir", "network": "10.1.0.0/25"}, "Did you mean 10.1.0.0/24?"),
        ({"resolver": "weir"}, "gives weir no resolver"),
        ({"setting": "weir:s1 proxy"}, "gives weir no setting s1 proxy"),
        ({"gateway": "ana", "family": "6"}, "no IPv6 gateway"),
        ({"realm": "weir:s1", "of": "x"}, "of goes with translation and instance only"),
        ({"name": "nobody"}, "There is no device nobody"),
        ({"address": "weir:p1.10", "accept": ["adress 10.1.0.2/24"]}, "adress"),
        ({"address": "weir:p1.10", "accept": ["off"]}, "is no other answer to address:weir:p1.10"),
        ({"up": "weir:s1", "accept": ["on"]}, "There is no statement behind"),
        ({"realm": "weir:s1", "mask": "dotted"}, "mask goes with address only"),
        ({"route": "weir", "dest": "10.9.0.0/24", "preference": 0}, "from 1 to 255"),
    ],
)
def test_what_a_lab_file_may_not_ask_for(criterion, says) -> None:
    document = LAB | {
        "answer": {d: sheet(t) for d, t in ANSWER.items()},
        "scheme": {"tasks": [{"title": "T", "criteria": [criterion]}]},
    }
    read = read_lab(yaml.safe_dump(document, sort_keys=False))
    assert read.lab is None
    assert says in str(read.errors[0]), read.errors[0]
    assert read.errors[0].place.startswith("scheme.tasks[0].criteria[0]")


def test_a_model_answer_that_names_what_is_not_there_is_marked_all_the_same() -> None:
    """The lab check says what is wrong; nothing raises."""
    for wrong in (
        "translate from nobody to p1 shared",
        "translate from 10.1.0.0/24 to nowhere",
        "route 10.8.0.0/24 via 10.1.0.2 in nowhere",
        "rip in nowhere; -run p1",
        "resolver 10.1.0.1 in nowhere",
        "dhcp x in nowhere; -network 10.1.0.0/24",
        "port p2; -instance nowhere",
    ):
        answer = {
            "weir": f"port p1; -address 10.1.0.1/24; -on; {wrong}",
            "ana": "gateway 10.1.0.1 in nowhere",
        }
        document = LAB | {"answer": {d: sheet(t) for d, t in answer.items()}}
        found = check_text(yaml.safe_dump(document, sort_keys=False))
        assert "undefined-name" in {f.code for f in found.errors}, wrong
