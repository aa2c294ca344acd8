"""Labs in stages, and labs whose numbers differ from learner to learner."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers import lab_of, mark, sheet
from zensur.core.lab import Variable, draw_values, read_lab
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.marking.marker import Marker
from zensur.core.marking.scheme import tasks_of
from zensur.core.sheet import write_sheet

STAGED = """\
zensur: 1
id: staged
devices:
  weir: {kind: router, ports: [p1, p2]}
  gauge: {kind: host}
links: ["weir:p1 -- gauge:p1"]
given:
  gauge: |
    port p1
      address 10.64.16.20/24
    gateway 10.64.16.1
  weir: |
    port p2
      address 10.64.99.1/24
start:
  weir: |
    port p1
      address 10.64.16.2/24
stages:
  - id: build
    answer:
      weir: |
        port p1
          address 10.64.16.1/24
          on
        loopback lo0
          address 10.64.255.1/32
    pings:
      - {from: gauge, to: "weir:lo0", expect: reply}
  - id: undo
    title: Take it back
    given:
      gauge: |
        resolver 10.64.16.1
    remove:
      weir: [loopback lo0, port p2 address]
    answer:
      weir: |
        loopback lo1
          address 10.64.255.2/32
    pings:
      - {from: gauge, to: "weir:lo0", expect: no-reply}
      - {from: gauge, to: "weir:lo1", expect: reply}
    scheme:
      extras: charge
      charge_limit: 3
      tasks: auto
"""


def test_a_stage_stands_on_the_one_before() -> None:
    lab = read_lab(STAGED).lab
    assert lab is not None
    build, undo = lab.stages
    assert (build.stage, undo.stage, undo.stage_title, lab) == ("build", "undo", "Take it back", undo)
    assert write_sheet(build.blank["weir"]) == (
        "port p1\n  address 10.64.16.2/24\nport p2\n  address 10.64.99.1/24\n"
    )
    assert write_sheet(build.model["weir"]) == (
        "port p1\n  address 10.64.16.1/24\n  on\nport p2\n  address 10.64.99.1/24\nloopback lo0\n  address 10.64.255.1/32\n"
    )
    assert write_sheet(undo.model["weir"]) == (
        "port p1\n  address 10.64.16.1/24\n  on\nport p2\nloopback lo1\n  address 10.64.255.2/32\n"
    )
    assert write_sheet(undo.under["weir"]) == "port p2\n"
    assert write_sheet(undo.under["gauge"]) == (
        "port p1\n  address 10.64.16.20/24\ngateway 10.64.16.1\nresolver 10.64.16.1\n"
    )
    assert [c.id for t in tasks_of(undo) for c in t.criteria] == [
        "address:weir:lo1", "absent:weir:loopback lo0", "absent:weir:port p2 address", "ping:1", "ping:2",
    ]  # fmt: skip
    assert (undo.scheme.extras, undo.scheme.charge, undo.scheme.charge_limit) == ("charge", 1.0, 3.0)
    check = check_text(STAGED)
    assert check.errors == ()
    assert (check.pings, check.holding, check.blank) == (3, 3, 0)
    assert check.out_of == sum(Marker(stage).facts.out_of for stage in lab.stages)


@pytest.mark.parametrize(
    ("old", "new", "place", "says"),
    [
        ("loopback lo0, port", "loopback lo9, port", "stages[1].remove.weir[0]", "nothing before this stage"),
        ("[loopback lo0, port p2 address]", "[port p1]", "stages[1].remove.weir[0]", "physical port"),
        ("[loopback lo0, port p2 address]", "[port]", "stages[1].remove.weir[0]", "means several"),
        ("  - id: build\n", "  - id: build\n    remove: {weir: [x]}\n", "stages[0].remove", "nothing before"),
        ("  - id: undo", "  - id: build", "stages[1]", "another stage"),
        ("stages:", "answer: {weir: name x}\nstages:", "answer", "in them"),
        ("      tasks: auto", "      tasks: auto\n      charge: 2", "", ""),
        ("extras: charge\n", "extras: report\n", "stages[1].scheme.charge_limit", "extras: charge only"),
    ],
)
def test_what_is_wrong_with_stages(old, new, place, says) -> None:
    assert old in STAGED
    found = read_lab(STAGED.replace(old, new, 1))
    assert [e.place for e in found.errors if says in e.message] == ([place] if place else [])


VARIANTS = """\
zensur: 1
id: variants
brief: "The basin is 10.64.${site}.0/24."
variables:
  site: {from: 16, to: 47}
devices:
  weir: {kind: router, ports: [p1]}
  gauge: {kind: host}
links: ["weir:p1 -- gauge:p1"]
answer:
  weir: |
    port p1
      address 10.64.${site}.1/24
      on
  gauge: |
    port p1
      address 10.64.${site}.20/24
    gateway 10.64.${site}.1
pings:
  - {from: gauge, to: "10.64.${site}.1", expect: reply}
"""


def test_variables_are_put_into_every_text() -> None:
    for values, address in ((None, "10.64.16.1"), ({"site": 40}, "10.64.40.1")):
        lab = read_lab(VARIANTS, values).lab
        assert lab is not None
        assert lab.pings[0].to == address
        assert f"address {address}/24" in write_sheet(lab.model["weir"])
    check = check_text(VARIANTS)
    assert check.findings == ()
    assert 4 <= check.variants <= 6
    wrong = check_text(VARIANTS.replace("to: 47", "to: 256"))
    assert any(f.message.startswith("With site = 256: 10.64.256.1 is no address") for f in wrong.errors)
    for old, new, says in (
        ("${site}.20", "${sit}.20", "There is no variable sit. There are site."),
        ("from: 16", "from: 99", "at most"),
        ("  site:", "  si te:", "no name of a variable"),
    ):
        found = read_lab(VARIANTS.replace(old, new, 1))
        assert any(says in e.message for e in found.errors), found.errors
    assert "unused-variable" in {f.code for f in check_text(VARIANTS.replace("${site}", "16")).findings}


@given(st.lists(st.text(min_size=1, max_size=8), unique=True, max_size=40), st.integers(0, 50))
def test_values_differ_as_long_as_there_are_enough_and_never_change(learners: list[str], more: int) -> None:
    variables = {"site": Variable(10, 10 + 39)}
    drawn = draw_values("lab", "sitting", learners, variables)
    assert len({v["site"] for v in drawn.values()}) == len(learners)
    assert all(10 <= v["site"] <= 49 for v in drawn.values())
    later = draw_values("lab", "sitting", [*learners, *map(str, range(more))], variables, drawn)
    assert {name: later[name] for name in drawn} == drawn


def test_a_mistake_of_an_earlier_stage_is_not_charged_again() -> None:
    """Stage two pings over an address that stage one counts: with it wrong, its pings are carried."""
    first = {
        "weir": "port p1; -address 10.1.0.1/24; -on",
        "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
    }
    second = {
        "weir": "port p2; -address 10.2.0.1/24; -on",
        "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1",
    }
    lab = lab_of(
        "weir=router:p1,p2 ana=host bob=host", "weir:p1--ana:p1 weir:p2--bob:p1", stages=[
            {"id": "one", "answer": {d: sheet(t) for d, t in first.items()}, "pings": [{"from": "ana", "to": "weir", "expect": "reply"}]},
            {"id": "two", "answer": {d: sheet(t) for d, t in second.items()}, "pings": [{"from": "ana", "to": "bob", "expect": "reply"}]},
        ],
    )  # fmt: skip
    whole = {d: s.text for d, s in lab.full_paper.items()}
    result = mark(lab, {**whole, "ana": whole["ana"].replace("10.1.0.20/24", "10.3.0.20/24")})
    (fault,) = result.faults
    assert (fault.slip, fault.direct, fault.consequences) == ("wrong-address", 0, ("ping:1",))
    assert (result.score, result.carried) == (result.out_of - 1, result.out_of)
    own = mark(lab, {**whole, "bob": whole["bob"].replace("10.2.0.20/24", "10.2.0.20/30")})
    assert own.faults[0].direct == 1
    assert own.carried == own.out_of - 1
