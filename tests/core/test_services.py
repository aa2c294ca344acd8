"""Service checks and names, what a ping is seen as, and the clock of a serial link."""

from dataclasses import replace

import pytest

from tests.helpers import lab_of, pinged, rows, sheet
from zensur.core.lab import EMPTY, ExpectedPing, read_lab
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, Runs, run_any

SERVED = """\
zensur: 1
id: served
devices:
  weir: {kind: router, ports: [p1, p2]}
  gauge: {kind: host}
  shop: {kind: host}
links: ["weir:p1 -- gauge:p1", "weir:p2 -- shop:p1"]
hidden: [shop]
given:
  weir: |
    port p1
      address 10.64.16.1/24
      on
    port p2
      address 10.64.40.1/24
      on
    route 10.64.77.0/24 discard
  shop: |
    port p1
      address 10.64.40.80/24
    gateway 10.64.40.1
    dns
      record shop.example 10.64.40.80
    service tcp 80
answer:
  gauge: |
    port p1
      address 10.64.16.20/24
    gateway 10.64.16.1
    resolver 10.64.77.9 10.64.40.80
services:
  - {from: gauge, open: "tcp 10.64.40.80:80", expect: answer, answered_by: shop, seen_as: own}
  - {from: gauge, open: "tcp shop:81", expect: no-answer}
  - {from: gauge, open: "tcp shop.example:80", expect: answer}
  - {from: gauge, resolve: SHOP.example., expect: 10.64.40.80}
  - {from: gauge, resolve: nobody.example, expect: no-answer}
  - {from: gauge, resolve: shop.example, expect: answer}
  - {from: shop, open: "udp 10.64.99.9:53", expect: no-answer}
"""


def test_services_and_names() -> None:
    lab = read_lab(SERVED).lab
    assert lab is not None
    network = Network.of_lab(lab, lab.model)
    found = rows(network, network, lab.services)
    assert [(r["outcome"], r["answered_by"], r["as_expected"]) for r in found] == [
        ("answer", "shop", True),
        ("refused", "shop", True),
        ("answer", "shop", True),
        ("answer", "shop", True),
        ("no-name", "shop", True),
        ("answer", "shop", True),
        ("unreachable", None, True),
    ]
    assert found[1]["reason"] == "refused"
    assert found[1]["by"] == "shop"
    assert found[3]["address"] == "10.64.40.80"
    assert check_text(SERVED).errors == ()
    assert check_text(SERVED).services == 7
    blank = Network.of_lab(lab, lab.blank)
    assert rows(blank, network, lab.services)[3]["outcome"] == "no-name"


@pytest.mark.parametrize(
    ("old", "new", "place", "says"),
    [
        ('open: "tcp shop:81"', 'open: "tcp shop"', "services[1].open", "tcp TARGET:N"),
        ('open: "tcp shop:81"', 'open: "tcp shap:81"', "services[1].open", "There is no device shap"),
        ("expect: answer, answered", "expect: reply, answered", "services[0].expect", "answer, no-answer"),
        ("answered_by: shop", "answered_by: shap", "services[0].answered_by", "Did you mean shop?"),
        ("seen_as: own", "seen_as: mine", "services[0].seen_as", "pool NAME"),
        ("seen_as: own", "seen_as: pool x", "services[0].seen_as", "no pool x"),
        ("resolve: nobody.example", "resolve: -x", "services[4].resolve", "no name to look up"),
        ("expect: 10.64.40.80}", "expect: yes}", "services[3].expect", "no address"),
        ("resolve: nobody.example,", "", "services[4]", "either open or resolve"),
        ("hidden: [shop]", "hidden: [gauge]", "hidden[0]", "no given sheet to hide"),
        ("weir:p2 -- shop:p1", "weir:p2 -- shop:p1 clock weir", "links[1]", "Only a serial link"),
    ],
)
def test_what_is_wrong_with_services(old, new, place, says) -> None:
    assert old in SERVED
    errors = read_lab(SERVED.replace(old, new, 1)).errors
    assert any(e.place == place and says in e.message for e in errors), errors


def test_what_a_ping_is_seen_as_counts() -> None:
    lab = lab_of(
        "weir=router:p1 ana=host bob=host:p1",
        "weir:p1--ana:p1",
        answer={
            "weir": "port p1; -address 10.0.0.1/24; -on",
            "ana": "port p1; -address 10.0.0.2/24; -address 10.0.0.3/24",
        },
    )
    network = Network.of_lab(lab, lab.model)
    asked = ExpectedPing("1", "ana", "reply", to="weir", distinct="a")
    for seen_as, fits in (
        ("own", True), ("10.0.0.2", True), ("10.0.0.0/24", True), ("10.0.0.1 to 10.0.0.9", True),
        ("not 10.0.0.9", True), ("not 10.0.0.2", False), ("10.0.0.3", False), ("pool spare", False),
    ):  # fmt: skip
        ran = run_any(network, network, replace(asked, seen_as=seen_as))
        assert (ran.outcome_fits, ran.as_expected) == (True, fits), seen_as
    other = replace(asked, id="2", source="10.0.0.3")
    assert Runs(network, network, {"a": asked, "b": other})["a"].as_expected
    assert not Runs(network, network, {"a": asked, "b": replace(asked, id="3")})["a"].as_expected
    assert run_any(network, network, replace(asked, answered_by="bob")).as_expected is False


def test_a_serial_link_needs_its_clock() -> None:
    lab = lab_of(
        "weir=router:s1 quay=router:s1",
        answer={
            "weir": "port s1; -address 10.0.0.1/30; -clocking 64000; -on",
            "quay": "port s1; -address 10.0.0.2/30; -on",
        },
        pings="weir>quay=reply",
        links=["weir:s1 -- quay:s1 clock weir"],
    )
    assert [r["outcome"] for r in pinged(lab)] == ["reply"]
    without = {"weir": "port s1; -address 10.0.0.1/30; -on"}
    assert [r["outcome"] for r in pinged(lab, without)] == ["no-route"]
    at_wrong_end = without | {"quay": "port s1; -address 10.0.0.2/30; -clocking 64000; -on"}
    assert [r["outcome"] for r in pinged(lab, at_wrong_end)] == ["no-route"]
    network = Network.of_lab(lab, lab.model)
    mended = Network.of_lab(lab, {**lab.model, "weir": EMPTY}).with_device("weir", lab.model["weir"])
    for each in (network, mended):
        assert [each.why_down(p) for d in each.devices for p in d.ports] == [None, None]
    stopped = network.with_device("weir", read_sheet(sheet(without["weir"])).configuration)
    assert [stopped.why_down(p) for d in stopped.devices for p in d.ports] == ["no clock", "no clock"]


@pytest.mark.parametrize(
    ("first", "outcome"),
    [
        ("10.64.77.9", "answer"),  # discarded: silence
        ("10.64.78.9", "answer"),  # weir says that it cannot be reached: a hint
        ("10.64.40.1", "refused"),  # weir itself answers, that it has no names
    ],
)
def test_who_does_not_answer_passes_on_to_the_next_resolver(first, outcome) -> None:
    lab = read_lab(SERVED.replace("resolver 10.64.77.9", f"resolver {first}")).lab
    assert lab is not None
    network = Network.of_lab(lab, lab.model)
    assert rows(network, network, lab.services)[5]["outcome"] == outcome
