"""Marking: verdicts, guards, equivalents, and the mistake behind the lost marks."""

import random
import re
from dataclasses import replace
from ipaddress import ip_network

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.every_lab import mangled
from tests.helpers import lab_of, mark, paper_of, sheet
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.criteria.effects import forwarding
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper, full_paper
from zensur.core.marking.scheme import tasks_of
from zensur.core.marking.slips.catalogue import SLIPS
from zensur.core.sheet import OnPort, Route, Switched, read_sheet, write_sheet
from zensur.demo import LABS, demo_papers, lab_text
from zensur.work.papers import read_paper

DEMO: dict[str, Lab] = {name: lab for name in LABS if (lab := read_lab(lab_text(name)).lab) is not None}
FIRST, RING = DEMO["first-addresses"], DEMO["four-gates"]


def changed(lab: Lab, device: str, old: str, new: str) -> dict[str, str | None]:
    text = lab.answer[device].text
    assert old in text
    return {device: text.replace(old, new, 1)}


SLIPPED = [
    # lab, device, what stands there, what the learner wrote, slip, line, repair
    (FIRST, "weir", "10.64.8.2/24\n  on\n", "10.64.8.2/24\n", "port-left-off", 2, "on"),
    (FIRST, "weir", "  address 10.64.16.1/20\n", "", "address-missing", 5, "address 10.64.16.1/20"),
    (FIRST, "lock", "loopback lo0\n  address 10.64.255.1/32\n", "", "address-missing", None, "address 10.64.255.1/32"),
    (FIRST, "weir", "10.64.16.1/20", "10.64.16.2/20", "wrong-address", 6, "address 10.64.16.1/20"),
    (FIRST, "quay", "10.64.8.3/24", "10.64.8.2/24", "duplicate-address", 3, "address 10.64.8.3/24"),
    (FIRST, "weir", "10.64.16.1/20", "10.64.16.1/28", "wrong-mask", 6, "address 10.64.16.1/20"),
    (FIRST, "crane", "gateway 10.64.40.1\n", "", "gateway-missing", None, "gateway 10.64.40.1"),
    (FIRST, "crane", "gateway 10.64.40.1", "gateway 10.64.40.2", "gateway-wrong", 3, "gateway 10.64.40.1"),
    (FIRST, "crane", "gateway 10.64.40.1", "gateway 10.64.41.1", "gateway-outside-the-network", 3, "gateway 10.64.40.1"),
    (FIRST, "crane", "gateway 10.64.40.1", "gateway 10.64.40.20", "gateway-is-the-device-itself", 3, "gateway 10.64.40.1"),
    (FIRST, "weir", "  address 10.64.8.2/24\n  on\nport p2\n", "  on\nport p2\n  address 10.64.8.2/24\n", "address-on-the-wrong-port", 5,
     "address 10.64.8.2/24"),
    (RING, "lock", "route 10.64.33.0/24 via 10.64.0.6\n", "", "route-missing", None, "route 10.64.33.0/24 via 10.64.0.6"),
    (RING, "lock", "33.0/24 via 10.64.0.6", "33.0/24 via 10.64.0.1", "wrong-next-hop", 2, "route 10.64.33.0/24 via 10.64.0.6"),
    (RING, "lock", "33.0/24 via 10.64.0.6", "33.0/24 via 10.64.0.5", "next-hop-is-the-device-itself", 2,
     "route 10.64.33.0/24 via 10.64.0.6"),
    (RING, "lock", "33.0/24 via 10.64.0.6", "33.0/26 via 10.64.0.6", "route-with-the-wrong-mask", 2,
     "route 10.64.33.0/24 via 10.64.0.6"),
    (RING, "lock", "33.0/24 via 10.64.0.6", "36.0/24 via 10.64.0.6", "route-to-the-wrong-network", 2,
     "route 10.64.33.0/24 via 10.64.0.6"),
    (RING, "weir", "34.0/24 out s1", "34.0/24 out p2", "wrong-out-port", 2, "route 10.64.34.0/24 out s1"),
    (RING, "toll", "route 10.64.32.0/19 discard about nobody lives there yet\n", "", "discard-missing", None,
     "route 10.64.32.0/19 discard"),
    (RING, "lock", "route 10.64.33.0/24", "route 10.64.33.20/32 discard\nroute 10.64.33.0/24", "host-route-hides-a-wider-one", 2,
     "without route 10.64.33.20/32 discard"),
]  # fmt: skip


@pytest.mark.parametrize(("lab", "device", "old", "new", "slip", "line", "repair"), SLIPPED)
def test_one_slip_is_named_once_with_its_line_and_repair(lab, device, old, new, slip, line, repair) -> None:
    result = mark(lab, changed(lab, device, old, new))
    assert [(f.slip, f.device, f.line, f.repair) for f in result.faults] == [(slip, device, line, repair)]
    (fault,) = result.faults
    assert result.score < result.out_of
    assert result.carried == pytest.approx(result.out_of - fault.direct)
    lost = {c.id for c in result.criteria if c.fraction < 1}
    assert all(c.fault == 1 for c in result.criteria if c.id in lost)
    assert set(fault.consequences) <= {i for i in lost if i.startswith("ping:")}
    assert fault.title
    assert fault.said.endswith(".")


def test_a_swap_is_one_mistake() -> None:
    text = (
        FIRST.answer["quay"]
        .text.replace("port p1", "port x")
        .replace("port p2", "port p1")
        .replace("port x", "port p2")
    )
    (fault,) = mark(FIRST, {"quay": text}).faults
    assert (fault.slip, fault.direct) == ("two-ports-swapped", 4)


def test_the_way_back_is_told_from_the_way_there() -> None:
    lab = lab_of(
        "weir=router:p1,p2 quay=router:p1,p2 ana=host bob=host",
        "weir:p1--ana:p1 weir:p2--quay:p2 quay:p1--bob:p1",
        {
            "weir": "port p1; -address 10.1.0.1/24; -on; port p2; -address 10.0.0.1/30; -on; route 10.2.0.0/24 via 10.0.0.2",
            "quay": "port p1; -address 10.2.0.1/24; -on; port p2; -address 10.0.0.2/30; -on; route 10.1.0.0/24 via 10.0.0.1",
            "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
            "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1",
        },
        "ana>bob",
    )
    back = mark(lab, changed(lab, "quay", "route 10.1.0.0/24 via 10.0.0.1\n", ""))
    assert [f.slip for f in back.faults] == ["return-route-missing"]
    there = mark(lab, changed(lab, "weir", "route 10.2.0.0/24 via 10.0.0.2\n", ""))
    assert [f.slip for f in there.faults] == ["route-missing"]
    assert "no route to 10.1.0.20" in next(c for c in back.criteria if c.id == "ping:1").found


@pytest.mark.parametrize("name", LABS[:2])
def test_the_demo_papers_are_as_announced(name: str) -> None:
    lab = DEMO[name]
    marker = Marker(lab)
    results = {}
    for hand_in in demo_papers(name, lab):
        files = {d: (f.path, f.content) for d, f in hand_in.files.items()}
        results[hand_in.learner] = marker.mark(read_paper(hand_in.learner, files, devices=lab.devices))
    assert len(results) == 6
    full = [r for r in results.values() if r.score == r.out_of]
    blank = [r for r in results.values() if r.score == r.carried == 0]
    rest = [r for r in results.values() if r not in full and r not in blank]
    assert (len(full), len(blank), len(rest)) == (1, 1, 4)
    assert all(2 <= len(r.faults) <= 3 and 0 < r.score <= r.carried < r.out_of for r in rest)
    assert not full[0].faults


@pytest.mark.parametrize("name", LABS)
def test_a_blank_paper_and_the_given_handed_back_earn_nothing(name: str) -> None:
    lab = DEMO[name]
    given_back = {d: lab.given[d].text if d in lab.given else "" for d in lab.devices}
    for paper in (Paper("", {}), paper_of(lab, dict.fromkeys(lab.devices, "")), paper_of(lab, given_back)):
        result = Marker(lab).mark(paper)
        assert (result.score, result.carried) == (0, 0)


@pytest.mark.parametrize("name", LABS)
def test_the_model_answer_has_full_marks(name: str) -> None:
    lab = DEMO[name]
    result = Marker(lab).mark(full_paper(lab))
    assert result.score == result.out_of > 0
    assert not result.faults


def test_a_ping_that_must_fail_counts_when_it_fails_as_it_should() -> None:
    lab = lab_of(
        "weir=router:p1 ana=host",
        "weir:p1--ana:p1",
        {
            "weir": "port p1; -address 10.1.0.1/24; -on",
            "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
        },
        "ana>10.9.9.9=no-reply",
    )

    def ping(changes: dict[str, str | None]) -> float:
        return next(c.fraction for c in mark(lab, changes).criteria if c.id == "ping:1")

    assert ping({}) == 1
    assert ping({"ana": "port p1; -address 10.1.0.20/24"}) == 0  # it never leaves ana
    assert ping({"weir": None, "ana": None}) == 0


@pytest.mark.parametrize(
    ("lab", "device", "text"),
    [
        (RING, "weir", "route 10.64.32.0/24 via 10.64.0.2; route 10.64.33.0/24 via 10.64.0.2 out p2; route 10.64.34.0/24 via 10.64.0.13"),
        (RING, "weir", "route default out s1; route 10.64.32.0/23 via 10.64.0.2"),
        (RING, "weir", "route 10.64.0.0/16 via 10.64.0.2; route 10.64.34.0/24 via 10.64.0.13 preference 3"),
        (RING, "weir", "route 10.64.32.0/23 via 10.64.99.1; route 10.64.99.0/24 via 10.64.0.2; route 10.64.34.0/24 out s1"),
        (RING, "lock", "route 10.64.32.0/20 via 10.64.0.6; route 10.64.0.0/19 via 10.64.0.1; route 10.64.255.0/24 via 10.64.0.1"),
        (RING, "quay", "route 0.0.0.0/1 via 10.64.0.10; route 128.0.0.0/1 via 10.64.0.10; route 10.64.32.0/24 out p2"),
        (RING, "toll", "route 10.64.16.0/24 out s1; route 10.64.255.0/24 via 10.64.0.14; route 10.64.32.0/24 via 10.64.0.9; "
                       "route 10.64.33.0/24 via 10.64.0.9; route 10.64.32.0/20 discard; route 10.64.48.0/20 discard"),
        (RING, "gauge", "route default via 10.64.16.1"),
        (FIRST, "lock", "loopback who-i-am; -address 10.64.255.1 mask 255.255.255.255; port P2 p1; -on; "
                        "port p1; -address 10.64.8.1/24; port p2; -address 10.64.32.1/26"),
        (FIRST, "gauge", "port p1; -address 10.64.16.20 mask 255.255.240.0; -on; gateway 10.64.16.1"),
        (FIRST, "weir", "loopback a; -address 10.64.254.9/32; loopback b; -address 10.64.255.2/32; port p1 p2; -on; "
                        "port p1; -address 10.64.8.2/24; port p2; -address 10.64.16.1/20; -address 10.64.99.1/24"),
    ],
)  # fmt: skip
def test_another_right_answer_is_never_marked_wrong(lab, device, text) -> None:
    result = mark(lab, {device: sheet(text)})
    own = [c for c in result.criteria if c.device == device]
    assert {c.fraction for c in own} == {1.0}, [(c.id, c.found) for c in own if c.fraction < 1]


def test_partial_credit() -> None:
    result = mark(FIRST, changed(FIRST, "weir", "10.64.16.1/20", "10.64.16.1/24"))
    (criterion,) = [c for c in result.criteria if c.id == "address:weir:p2"]
    assert (criterion.verdict, criterion.fraction) == ("partly", 0.5)
    assert (criterion.required, criterion.found) == ("10.64.16.1/20", "10.64.16.1/24")
    assert [(w.file, w.line) for w in criterion.lines] == [("weir.sheet", 6)]


def test_a_port_left_off_does_not_also_lose_the_routes_through_it() -> None:
    text = "port p2; -off; " + "; ".join(RING.answer["weir"].text.strip().split("\n"))
    result = mark(RING, {"weir": text})
    assert all(c.fraction == 1 for c in result.criteria if not c.id.startswith("ping:"))
    assert [(f.slip, f.line) for f in result.faults] == [("port-left-off", 2)]
    # nothing asks for the port itself, so its first consequence is what it costs
    (fault,) = result.faults
    assert (fault.direct, result.out_of - result.carried) == (1, 1)


def test_totals_without_carry_forward() -> None:
    lab = replace(RING, scheme=replace(RING.scheme, carry_forward=False))
    result = mark(lab, changed(lab, "toll", "route 10.64.16.0/24 out s1\n", ""))
    assert result.carried == result.score < result.out_of
    assert result.faults[0].consequences


def test_a_derived_scheme_counts_what_goes_beyond_the_given() -> None:
    tasks = tasks_of(FIRST)
    assert [t.title for t in tasks][-3:] == ["Addresses and ports of crane", "Gateways", "Pings"]
    assert "enabled:gauge:p1" not in {c.id for t in tasks for c in t.criteria}  # on by itself
    assert not [c for t in tasks for c in t.criteria if c.key == "route"]  # all routes are given


def test_every_slip_of_the_catalogue_has_its_words() -> None:
    assert len({s.keyword for s in SLIPS}) == len(SLIPS)
    assert all(s.keyword == s.keyword.lower().replace(" ", "-") and s.title for s in SLIPS)


@st.composite
def _ways_of_lock(draw):
    """Routes of lock in the ring, of any width, by any of its neighbours, out of a port or nowhere."""
    dests = st.sampled_from(
        ["default", "10.64.0.0/16", "10.64.32.0/22", "10.64.33.0/24", "10.64.33.0/25", "10.64.33.128/25", "10.64.33.20/32",
         "10.64.34.0/24", "10.64.34.64/26", "10.64.16.0/20", "10.64.255.0/24"]
    )  # fmt: skip
    ways = st.sampled_from(
        ["via 10.64.0.1", "via 10.64.0.6", "via 10.64.0.5", "via 10.64.34.1", "out p3", "out p2", "discard"]
    )
    lines = draw(st.lists(st.tuples(dests, ways), max_size=7))
    return read_sheet("".join(f"route {d} {w}\n" for d, w in lines), "lock.sheet").configuration


@given(
    _ways_of_lock(), st.sampled_from(["10.64.33.0/24", "10.64.34.0/24", "10.64.16.0/24", "10.64.255.1/32"])
)
def test_a_route_is_judged_on_every_single_address(own, dest: str) -> None:
    facts = Marker(RING).facts
    classes = facts.classes["lock", dest]
    number = facts.wiring.device["lock"]
    model = facts.model.network
    learner = model.with_device("lock", own.over(RING.blank["lock"]))
    network = ip_network(dest)
    others = [r.statement.dest for r in RING.model["lock"].all(Route) if r.statement.dest != network]
    elsewhere = {
        forwarding(model, number, int(other[1] if other.num_addresses > 1 else other[0])) for other in others
    }
    within: dict[bool, set[bool | None]] = {True: set(), False: set()}
    for address in network:
        if address in (network[0], network[-1]) and network.prefixlen <= 30:
            continue
        goes = forwarding(learner, number, int(address))
        route = learner.table(number).find(int(address))
        forgiven = (
            route is not None
            and route.length > network.prefixlen
            and (route.out is None or goes in elsewhere)
        )
        in_lab = any(address in ip_network((first, length)) for first, length in classes.networks)
        right = goes == forwarding(model, number, int(address))
        within[in_lab].add(None if forgiven and not right and not in_lab else right)
    rest = not within[False] or (True in within[False] and False not in within[False])
    expected = 0.0 if False in within[True] else 1.0 if rest else 0.5 if within[True] else 0.0
    assert classes.earned(model, learner) == expected


# --- properties -------------------------------------------------------------------------------------


@st.composite
def slipped_papers(draw):
    """A lab, and its model answer with up to three statements lost or changed."""
    lab = draw(st.sampled_from([FIRST, RING]))  # faults of other statements are not searched for yet
    own = {name: s.configuration for name, s in lab.answer.items()}
    for _ in range(draw(st.integers(1, 3))):
        name = draw(st.sampled_from(sorted(own)))
        items = [i for i in own[name].items if isinstance(i.statement, OnPort | Route | Switched)]
        if not items:
            continue
        item = draw(st.sampled_from(items))
        if isinstance(item.statement, Route) and item.statement.next_hop is not None and draw(st.booleans()):
            hop = item.statement.next_hop + draw(st.integers(1, 3))
            own[name] = own[name].changed(
                [item], [replace(item, statement=replace(item.statement, next_hop=hop))]
            )
        else:
            own[name] = own[name].changed([item], [])
    return lab, {name: write_sheet(c) for name, c in own.items()}


@given(slipped_papers())
def test_all_repairs_together_give_full_marks(slipped) -> None:
    lab, texts = slipped
    marker = Marker(lab)
    paper = paper_of(lab, texts)
    result = marker.mark(paper)
    assert 0 <= result.score <= result.carried <= result.out_of
    assert (result.score == result.out_of) == (not result.faults)
    repaired = dict(texts)
    for fault in result.faults:
        block = fault.port and f"{'loopback' if fault.port.startswith('lo') else 'port'} {fault.port}\n  "
        lines = repaired[fault.device].splitlines()
        if fault.line is not None and fault.found is not None:
            lines[fault.line - 1] = f"# {lines[fault.line - 1]}"
        repair = fault.repair
        if fault.slip == "sheet-missing":
            lines = [lab.answer[fault.device].text]
        else:
            lines.append(f"{block or ''}{repair}")
        repaired[fault.device] = "\n".join(lines)
    mended = marker.mark(paper_of(lab, repaired))
    assert mended.score == mended.out_of, ([(f.slip, f.repair) for f in result.faults], repaired)


@given(st.dictionaries(st.sampled_from(sorted(FIRST.devices)), st.text(max_size=120) | st.sampled_from(
    ["port p1\n address 10.64.8.1/24\n on", "gateway 10.64.8.1\nroute default via 10.64.8.1", "loopback lo0\nloopback lo1"]
)))  # fmt: skip
def test_marking_never_raises_and_is_the_same_again(texts) -> None:
    marker = Marker(FIRST)
    paper = Paper("x", {d: read_sheet(t, f"{d}.sheet") for d, t in texts.items()})
    first = marker.mark(paper)
    assert first.json() == Marker(FIRST).mark(paper).json()
    assert 0 <= first.score <= first.carried <= first.out_of


def test_a_sheet_of_a_device_that_the_lab_lost_is_left_out_and_said() -> None:
    paper = paper_of(FIRST)
    strange = replace(paper, sheets={**paper.sheets, "mill": read_sheet("name mill")})
    result = Marker(FIRST).mark(strange)
    assert result.score == result.out_of
    assert result.remarks == ("The lab has no device mill: its sheet was not marked.",)


def test_ports_that_are_not_there_and_words_that_are_not_known_are_reported() -> None:
    result = mark(FIRST, {"gauge": "port p7; -address 10.64.16.20/20; gatway 10.64.16.1"})
    assert [(d.device, d.file, d.line, d.code) for d in result.diagnostics] == [
        ("gauge", "gauge.sheet", 1, "unknown-port"),
        ("gauge", "gauge.sheet", 3, "unknown-word"),
    ]
    assert {(f.slip, f.repair) for f in result.faults} == {
        ("line-not-understood", "port p1"),
        ("line-not-understood", "gateway 10.64.16.1"),
    }


@pytest.mark.parametrize(
    ("form", "written", "fraction"),
    [
        ("both", "via 10.64.0.1 out p2", 1.0),
        ("both", "via 10.64.0.1", 0.5),
        ("via", "via 10.64.0.1", 1.0),
        ("out", "out p2", 1.0),
        ("out", "via 10.64.0.1", 0.5),
        ("any", "out P2", 1.0),
        ("any", "via 10.64.0.1", 1.0),
        ("any", "via 10.64.0.6", 0.0),
        ("both", "via 10.64.0.6 out p3", 0.0),
        (None, "out p2", 1.0),
    ],
)
def test_a_route_may_be_asked_for_in_a_form(form: str | None, written: str, fraction: float) -> None:
    """The model's route on lock is `route 10.64.16.0/24 via 10.64.0.1 out p2`, on a link of two."""
    asked = f"dest: 10.64.16.0/24, form: {form}" if form else "dest: 10.64.16.0/24"
    text = re.sub(r"\{route: lock, dest: 10\.64\.16\.0/24", f"{{route: lock, {asked}", lab_text("four-gates"))
    lab = read_lab(text).lab
    assert lab is not None
    model = lab.answer["lock"].text
    assert "route 10.64.16.0/24 via 10.64.0.1 out p2" in model
    result = mark(lab, {"lock": model.replace("via 10.64.0.1 out p2", written)})
    (judged,) = [c for c in result.criteria if c.id == "route:lock:10.64.16.0/24"]
    assert judged.fraction == fraction
    slips = [(f.slip, f.repair) for f in result.faults]
    if fraction == 0.5:
        assert slips == [("route-in-another-form", "route 10.64.16.0/24 via 10.64.0.1 out p2")]
        assert result.carried == result.score
    assert (slips == []) == (fraction == 1)


def test_a_scheme_may_ask_every_route_for_the_models_form() -> None:
    text = lab_text("four-gates").replace("scheme:\n", "scheme:\n  strictness: form\n", 1)
    lab = read_lab(text).lab
    assert lab is not None
    assert mark(lab).score == mark(lab).out_of
    forms = {c.id: c.form for task in tasks_of(lab) for c in task.criteria if c.key == "route"}
    assert {"both", "via", "out", "discard"} <= set(forms.values())
    other = lab.answer["lock"].text.replace("via 10.64.0.1 out p2", "via 10.64.0.1")
    assert mark(lab, {"lock": other}).score < mark(lab).score


@pytest.mark.parametrize("name", LABS)
def test_mangled_papers_of_every_lab_are_marked(name: str) -> None:
    """Lines lost, out of order, or out of other sheets: nothing raises, and what is told holds together."""
    lab, chance = DEMO[name], random.Random(name)
    marker = Marker(lab)
    for _ in range(4):
        sheets = {d: read_sheet(t, f"{d}.sheet") for d, t in mangled(lab, chance).items()}
        result = marker.mark(Paper("0417", sheets))
        assert 0 <= result.score <= result.carried <= result.out_of
        assert all(f.repair and f.said for f in result.faults)
        numbers = {f.id for f in result.faults}
        assert all(c.fault in numbers for c in result.criteria if c.fault is not None)
        assert marker.mark(Paper("0417", sheets)).json() == result.json()


@pytest.mark.parametrize(
    ("lost", "grade", "percent"),
    [([], "good", 100.0), (["ana"], "fair", 62.5), (["ana", "weir"], None, 0.0)],
)
def test_bounds_turn_the_percentage_into_a_grade(lost, grade, percent) -> None:
    answer = {
        "weir": "port p1; -address 10.1.0.1/24; -on",
        "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
    }
    scheme = {"grades": {"fair": "62.5", "good": "90"}, "carry_forward": "false", "tasks": [
        {"title": "T", "criteria": [{"address": "weir:p1", "marks": 4}, {"enabled": "weir:p1"}, {"address": "ana:p1", "marks": 2}, {"gateway": "ana"}]}
    ]}  # fmt: skip
    lab = lab_of("weir=router:p1 ana=host", "weir:p1--ana:p1", answer, scheme=scheme)
    result = mark(lab, dict.fromkeys(lost, ""))
    assert (result.grade, result.percent) == (grade, percent)
    assert {"percent", "grade"} <= result.json().keys()
