"""The simulator: outcomes with reason and place, the way there and back, and journeys."""

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.reference import Reference, Unsettled
from tests.helpers import lab_of, pinged, sheet
from zensur.core.lab import ExpectedPing, Lab, read_lab
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, Wiring, journey, neighbours_to_find, ping, run, written
from zensur.demo import lab_text

# ana -- weir == quay -- bob, and a spare port p3 on weir
TWO = "weir=router:p1,p2,p3 quay=router:p1,p2 ana=host bob=host"
LINKS = "weir:p1--ana:p1 weir:p2--quay:p2 quay:p1--bob:p1"
ANSWER = {
    "weir": "port p1; -address 10.1.0.1/24; -on; port p2; -address 10.0.0.1/30; -on; route 10.2.0.0/24 via 10.0.0.2",
    "quay": "port p1; -address 10.2.0.1/24; -on; port p2; -address 10.0.0.2/30; -on; route 10.1.0.0/24 via 10.0.0.1",
    "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
    "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1",
}


def two(pings: str = "ana>bob", **more: object) -> Lab:
    return lab_of(TWO, LINKS, ANSWER, pings, **more)


CASES = [
    # what is changed, ping, outcome, reason, by
    ({}, "ana>bob", "reply", None, None),
    ({}, "ana>quay", "reply", None, None),
    ({}, "ana>10.1.0.20", "reply", None, None),
    ({}, "ana>10.9.9.9", "unreachable", "no-route", "weir"),
    ({}, "ana>10.2.0.77", "unreachable", "no-neighbour", "quay"),
    ({}, "ana>10.1.0.77", "unreachable", "no-neighbour", "ana"),
    ({}, "ana>10.2.0.255", "timeout", "not-an-address", "quay"),
    ({}, "ana>10.2.0.0", "timeout", "not-an-address", "quay"),
    ({}, "ana>10.1.0.255", "timeout", "not-an-address", "ana"),
    ({}, "ana>224.0.0.1", "timeout", "not-an-address", "ana"),
    ({"ana": "port p1; -address 10.1.0.20/24"}, "ana>bob", "no-route", "no-route", "ana"),
    ({"ana": "gateway 10.1.0.1"}, "ana>bob", "no-route", "no-route", "ana"),
    ({"ana": "port p1; -address 10.1.0.20/24; -off; gateway 10.1.0.1"}, "ana>bob", "no-route", "no-route", "ana"),
    ({"bob": "port p1; -address 10.2.0.20/24"}, "ana>bob", "timeout", "no-route", "bob"),
    ({"quay": ANSWER["quay"].rpartition(";")[0]}, "ana>bob", "timeout", "no-route", "quay"),
    ({"weir": ANSWER["weir"].rpartition(";")[0]}, "ana>bob", "unreachable", "no-route", "weir"),
    ({"weir": ANSWER["weir"] + "; route 10.2.0.20/32 discard"}, "ana>bob", "timeout", "discard", "weir"),
    ({"quay": ANSWER["quay"] + "; route 10.1.0.20/32 discard"}, "ana>bob", "timeout", "discard", "quay"),
    ({"ana": ANSWER["ana"] + "; route 10.2.0.0/16 discard"}, "ana>bob", "timeout", "discard", "ana"),
    ({"quay": ANSWER["quay"].replace("0.2/30; -on", "0.2/30")}, "ana>bob", "unreachable", "no-route", "weir"),
    # the gateway is another host, which does not forward
    ({"weir": ANSWER["weir"].replace("10.2.0.0/24 via 10.0.0.2", "10.9.0.0/24 via 10.1.0.20")}, "weir>10.9.0.1",
     "timeout", "not-forwarding", "ana"),
    # two routers send it to each other: the router that it started from knows its own source again
    ({"quay": ANSWER["quay"] + "; route 10.9.0.0/24 via 10.0.0.1", "weir": ANSWER["weir"] + "; route 10.9.0.0/24 via 10.0.0.2"},
     "weir>10.9.0.1", "timeout", "own-source", "weir"),
    ({"quay": ANSWER["quay"] + "; route 10.9.0.0/24 via 10.0.0.1", "weir": ANSWER["weir"] + "; route 10.9.0.0/24 via 10.0.0.2"},
     "ana>10.9.0.1", "unreachable", "ttl", "quay"),
    ({"weir": ANSWER["weir"] + "; loopback lo0; -address 10.7.0.1/24"}, "ana>10.7.0.9", "unreachable", "not-an-address", "weir"),
    # a mask too wide: weir answers for what lies behind it, but bob's packets come back all the same
    ({"ana": "port p1; -address 10.1.0.20/8"}, "ana>bob", "reply", None, None),
    ({"ana": "port p1; -address 10.1.0.20/8", "weir": ANSWER["weir"].replace("-on", "-about x; -on")}, "ana>10.1.0.77",
     "unreachable", "no-neighbour", "ana"),
    # by out-port on ethernet: only what quay answers for
    ({"weir": ANSWER["weir"].replace("via 10.0.0.2", "out p2")}, "ana>bob", "reply", None, None),
    ({"weir": ANSWER["weir"].replace("10.2.0.0/24 via 10.0.0.2", "default out p2")}, "ana>10.9.9.9", "unreachable",
     "no-neighbour", "weir"),
    # a next hop that is found by another route, that is the device's own address, that leads to itself
    ({"weir": ANSWER["weir"].replace("via 10.0.0.2", "via 10.8.0.1") + "; route 10.8.0.0/24 via 10.0.0.2"}, "ana>bob", "reply", None, None),
    ({"weir": ANSWER["weir"].replace("via 10.0.0.2", "via 10.0.0.1")}, "ana>bob", "unreachable", "no-route", "weir"),
    ({"weir": ANSWER["weir"].replace("via 10.0.0.2", "via 10.2.0.1")}, "ana>bob", "unreachable", "no-route", "weir"),
    ({"weir": ANSWER["weir"] + "; route 10.0.0.2/32 discard"}, "ana>bob", "unreachable", "no-route", "weir"),
    # the better preference wins, then the first in the sheet
    ({"weir": ANSWER["weir"] + "; route 10.2.0.0/24 discard preference 5"}, "ana>bob", "timeout", "discard", "weir"),
    ({"weir": ANSWER["weir"] + "; route 10.2.0.0/24 discard"}, "ana>bob", "reply", None, None),
]  # fmt: skip


@pytest.mark.parametrize(("changed", "asked", "outcome", "reason", "by"), CASES)
def test_outcomes(changed, asked, outcome, reason, by) -> None:
    (row,) = pinged(two(asked), changed)
    assert (row["outcome"], row["reason"], row["by"]) == (outcome, reason, by)


def test_only_the_way_back_is_missing() -> None:
    changed = {"quay": ANSWER["quay"].rpartition(";")[0]}
    (row,) = pinged(two(), changed)
    assert row["outcome"] == "timeout"
    assert row["detail"] == "the request arrives, the answer ends at quay: no route to 10.1.0.20"
    assert (row["there"], row["back"]) == (["ana", "weir", "quay", "bob"], ["bob", "quay"])
    assert (row["seen_as"], row["answered_by"]) == ("10.1.0.20", "bob")


def test_an_error_that_is_lost_is_a_timeout() -> None:
    changed = {"quay": ANSWER["quay"].rpartition(";")[0]}
    (row,) = pinged(two("ana>10.2.0.77"), changed)
    assert (row["outcome"], row["reason"], row["by"]) == ("timeout", "no-neighbour", "quay")
    assert "the error about it is lost at quay: no route to 10.1.0.20" in str(row["detail"])


def test_two_devices_with_one_address_are_reported_and_not_as_expected() -> None:
    lab = lab_of(
        "sw=switch:p1,p2,p3 ana=host bob=host eve=host",
        "sw:p1--ana:p1 sw:p2--bob:p1 sw:p3--eve:p1",
        {n: f"port p1; -address 10.0.0.{k}/24" for n, k in (("ana", 1), ("bob", 2), ("eve", 3))},
        "ana>bob ana>eve",
    )
    rows = pinged(lab, {"eve": "port p1; -address 10.0.0.2/24"})
    assert (rows[0]["outcome"], rows[0]["as_expected"], rows[0]["warnings"]) == (
        "reply",
        False,
        ["duplicate-address"],
    )
    assert rows[0]["answered_by"] == "bob"
    assert rows[1]["outcome"] == "unreachable"


def test_switch_loops_are_harmless_and_switches_off_cut() -> None:
    lab = lab_of(
        "sw1=switch:p1,p2,p3 sw2=switch:p1,p2,p3 ana=host bob=host",
        "sw1:p1--sw2:p1 sw1:p2--sw2:p2 sw1:p3--ana:p1 sw2:p3--bob:p1",
        {"ana": "port p1; -address 10.0.0.1/24", "bob": "port p1; -address 10.0.0.2/24"},
        "ana>bob",
    )
    assert pinged(lab)[0]["outcome"] == "reply"
    assert pinged(lab, {"sw1": "port p1; -off"})[0]["outcome"] == "reply"
    assert pinged(lab, {"sw1": "port p1 p2; -off"})[0]["reason"] == "no-neighbour"


def test_a_serial_link_needs_no_neighbour_and_a_port_without_address_borrows_one() -> None:
    lab = lab_of(
        "weir=router:s1 quay=router:s1",
        "weir:s1--quay:s1",
        {
            "weir": "port s1; -on; loopback lo0; -address 10.0.1.1/32; route 10.0.2.2/32 out s1",
            "quay": "port s1; -on; loopback lo0; -address 10.0.2.2/32; route default out s1",
        },
        "weir>quay:lo0 weir@lo0>quay:lo0 weir>10.9.9.9",
    )
    rows = pinged(lab)
    assert [r["outcome"] for r in rows] == ["reply", "reply", "no-route"]
    assert rows[0]["seen_as"] == "10.0.1.1"


@pytest.mark.parametrize(
    ("changed", "source", "reason"),
    [
        ({}, "p2", None),
        ({}, "10.0.0.1", None),
        ({"weir": ANSWER["weir"].replace("-address 10.0.0.1/30; ", "")}, "p2", "no-source"),
        ({}, "10.2.0.1", "no-source"),
        ({"weir": ANSWER["weir"].replace("10.1.0.1/24; -on", "10.1.0.1/24")}, "p1", "port-down"),
    ],
)
def test_a_ping_from_a_named_port(changed, source, reason) -> None:
    (row,) = pinged(two(f"weir@{source}>10.0.0.2"), changed)
    assert (row["outcome"], row["reason"]) == ("no-route" if reason else "reply", reason)


@pytest.mark.parametrize(("steps", "outcome"), [(1, "reply"), (8, "reply"), (9, "unreachable")])
def test_a_next_hop_is_found_in_eight_steps_at_most(steps: int, outcome: str) -> None:
    chain = [f"route 10.{50 + n}.0.0/16 via 10.{49 + n}.0.1" for n in range(1, steps)]
    last = f"10.{49 + steps}.0.1" if steps > 1 else "10.0.0.2"
    routes = ["route 10.50.0.0/16 via 10.0.0.2", *chain][: steps - 1]
    weir = ANSWER["weir"].rpartition(";")[0]
    text = "; ".join(
        [weir, *routes, f"route 10.2.0.0/24 via {last if steps < 2 else f'10.{48 + steps}.0.1'}"]
    )
    assert pinged(two(), {"weir": text})[0]["outcome"] == outcome


def test_a_journey_names_the_line_behind_every_decision() -> None:
    lab = two()
    network = Network.of_lab(lab, lab.model)
    legs = journey(network, run(network, network, lab.pings[0]).result)
    assert [(leg.way, leg.device, leg.enters, leg.leaves) for leg in legs] == [
        ("there", "ana", None, "p1"),
        ("there", "weir", "p1", "p2"),
        ("there", "quay", "p2", "p1"),
        ("there", "bob", "p1", None),
        ("back", "bob", None, "p1"),
        ("back", "quay", "p1", "p2"),
        ("back", "weir", "p2", "p1"),
        ("back", "ana", "p1", None),
    ]
    assert [(s.file, s.line, s.text) for s in legs[1].lines] == [
        ("answer/weir", 7, "route 10.2.0.0/24 via 10.0.0.2"),
        ("answer/weir", 5, "address 10.0.0.1/30"),
    ]
    assert neighbours_to_find(legs) == 3  # on the way back they are known
    broken = Network.of_lab(
        lab,
        lab.model
        | {
            "weir": read_sheet(
                sheet(ANSWER["weir"].replace("10.0.0.1/30; -on", "10.0.0.1/30")), "w"
            ).configuration
        },
    )
    last = journey(broken, run(broken, network, lab.pings[0]).result)[1]
    assert last.ended
    assert "p2 is down: off" in last.sentence
    assert [(s.file, s.line) for s in last.lines] == [("w", 6)]


CIRCLING = {"quay": ANSWER["quay"] + "; route 10.9.0.0/24 via 10.0.0.1",
            "weir": ANSWER["weir"] + "; route 10.9.0.0/24 via 10.0.0.2"}  # fmt: skip


def test_a_loop_is_told_as_its_circle() -> None:
    """A TTL of 64 is used up at the 64th router, quay: the way there, once round, and what ended it."""
    lab = two()
    model = Network.of_lab(lab, lab.model)
    sheets = {name: read_sheet(sheet(text), name).configuration for name, text in CIRCLING.items()}
    network = Network.of_lab(lab, lab.model | sheets)
    result = run(network, model, ExpectedPing("1", "ana", "reply", to="10.9.0.1")).result
    assert result.request is not None
    assert len(result.request.steps) == 65
    legs = [leg for leg in journey(network, result) if leg.way == "there"]
    assert [(leg.number, leg.device, leg.enters) for leg in legs] == [
        (1, "ana", None), (2, "weir", "p1"), (3, "quay", "p2"), (4, "weir", "p2"), (5, "quay", "p2"),
    ]  # fmt: skip
    assert legs[-1].sentence == "quay drops it: its TTL is used up, after 31 times round weir, quay"


# --- properties over random networks ----------------------------------------------------------------

DEVICES = (
    "r1=router:p1,p2,p3 r2=router:p1,p2,p3 r3=router:p1,s1 r4=router:p1,s1 sw=switch:p1,p2,p3 h1=host h2=host"
)
CABLES = "r1:p1--sw:p1 r2:p1--sw:p2 sw:p3--h1:p1 r1:p2--r2:p2 r1:p3--r3:p1 r3:s1--r4:s1 r4:p1--h2:p1"
RANDOM = lab_of(DEVICES, CABLES)
WIRING = Wiring(RANDOM)
_addresses = st.builds(
    lambda net, host, length: f"10.0.{net}.{host}/{length}",
    st.integers(0, 3), st.integers(0, 9), st.sampled_from([22, 24, 24, 24, 29, 30, 31, 32]),
)  # fmt: skip
_dests = st.sampled_from(
    ["default", "10.0.0.0/16", "10.0.0.0/24", "10.0.1.0/24", "10.0.2.0/23", "10.0.3.0/24", "10.0.1.4/32"]
)
_hops = st.builds(lambda net, host: f"10.0.{net}.{host}", st.integers(0, 3), st.integers(0, 9))


@st.composite
def sheets(draw, device: str) -> str:
    own = RANDOM.devices[device]
    lines = []
    for port in own.ports:
        lines.append(f"port {port.name}")
        lines += [f" address {a}" for a in draw(st.lists(_addresses, max_size=2))]
        lines += draw(st.sampled_from([[" on"], [" on"], [" on"], [" off"], []]))
    if draw(st.booleans()):
        lines += ["loopback lo0", f" address {draw(_addresses)}"]
    names = [p.name for p in own.ports] + ["lo0"]
    for dest in draw(st.lists(_dests, max_size=4)):
        way = draw(st.sampled_from(["via", "via", "via", "out", "both", "discard"]))
        words = {
            "via": f"via {draw(_hops)}",
            "out": f"out {draw(st.sampled_from(names))}",
            "both": f"via {draw(_hops)} out {draw(st.sampled_from(names))}",
            "discard": "discard",
        }[way]
        lines.append(f"route {dest} {words} preference {draw(st.sampled_from([5, 10, 10]))}")
    if own.kind.value != "router" and draw(st.booleans()):
        lines.append(f"gateway {draw(_hops)}")
    return "\n".join(lines)


@st.composite
def random_configurations(draw):
    return {name: read_sheet(draw(sheets(name)), name).configuration for name in RANDOM.devices}


def outcomes(network: Network) -> list[tuple[object, ...]]:
    targets = [(10 << 24) + (net << 8) + host for net in range(4) for host in range(0, 10, 2)]
    found: list[tuple[object, ...]] = []
    for sender in range(len(network.devices)):
        for address in targets:
            result = ping(network, sender, address)
            found.append(
                (result.outcome, result.reason, result.by, result.seen_as, result.there, result.back)
            )
    return found


@given(random_configurations(), st.sampled_from(list(RANDOM.devices)), st.data())
def test_compiling_one_device_again_is_compiling_all(configurations, name, data) -> None:
    network = Network.of_lab(RANDOM, configurations, WIRING)
    before = outcomes(network)
    changed = read_sheet(data.draw(sheets(name)), name).configuration
    again = network.with_device(name, changed)
    assert outcomes(again) == outcomes(Network.of_lab(RANDOM, configurations | {name: changed}, WIRING))
    assert outcomes(network) == before


@settings(max_examples=60)
@given(random_configurations(), st.lists(st.integers(0, 1023), min_size=3, max_size=3))
def test_a_second_simulator_agrees(configurations, offsets) -> None:
    network = Network.of_lab(RANDOM, configurations, WIRING)
    reference = Reference(RANDOM, configurations)
    owned = sorted({a for d in range(len(network.devices)) for a in network.own(d)})
    for sender, name in enumerate(WIRING.names):
        if network.devices[sender].is_switch:
            continue
        for target in [*owned[sender % 3 :: 3], *((10 << 24) + o for o in offsets)]:
            result = ping(network, sender, target)
            by = None if result.by is None else WIRING.names[result.by]
            ours = (result.outcome.value, result.reason and result.reason.value, by)
            try:
                theirs = reference.ping(name, target)
            except Unsettled:
                continue
            assert ours == theirs, (name, written(target))


@given(random_configurations())
def test_what_holds_for_every_journey(configurations) -> None:
    network = Network.of_lab(RANDOM, configurations, WIRING)
    for sender in range(len(network.devices)):
        for address in range((10 << 24), (10 << 24) + 1024, 77):
            result = ping(network, sender, address)
            legs = journey(network, result)
            assert len(result.steps) <= 2 * 66
            told = len(legs) == len(result.steps)
            assert told or "times round" in next(leg.sentence for leg in legs if leg.ended)
            if result.outcome == "reply":
                assert result.reason is None
                assert result.answer is None or result.back[-1] == sender
            else:
                assert result.reason is not None
                assert result.by is not None
            for one, two_ in pairwise(legs):
                if one.way == two_.way:
                    assert one.arrives is not None
                    assert (one.arrives.device, one.arrives.port) == (two_.device, two_.enters)


def test_the_order_of_devices_in_the_file_does_not_matter() -> None:
    text = lab_text("four-gates")
    lab = read_lab(text).lab
    assert lab is not None
    order = dict(reversed(list(lab.devices.items())))
    turned = replace(lab, devices=order)
    there = Network.of_lab(lab, lab.model)
    back = Network.of_lab(turned, turned.model)
    for asked in lab.pings:
        a, b = run(there, there, asked).result, run(back, back, asked).result
        assert [there.wiring.names[d] for d in (*a.there, *a.back)] == [
            back.wiring.names[d] for d in (*b.there, *b.back)
        ]
        assert (a.outcome, a.reason, written(a.destination)) == (b.outcome, b.reason, written(b.destination))
