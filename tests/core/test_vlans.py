"""VLANs: access and trunk ports, native VLANs, sub-ports, VLAN interfaces, and delivery that has a direction."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers import known, lab_of, mark, pinged, sheet
from zensur.core.lab import Lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.scheme import tasks_of
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, Runs, domains, journey, run, state
from zensur.core.sim.carrying import carrying_of
from zensur.core.weave import weave

STICK = {
    "lock": "port p1; -on; port p1.10; -address 10.0.10.1/24; port p1.20; -address 10.0.20.1/24",
    "sw1": "port p1; -trunk 10,20; port p2; -trunk all; vlan 10; -address 10.0.10.2/24; vlan 20; gateway 10.0.10.1",
    "sw2": "port p1; -trunk 10,20; port p2; -access 10; port p3; -access 20; vlan 10; vlan 20",
    "ana": "port p1; -address 10.0.10.5/24; gateway 10.0.10.1",
    "bob": "port p1; -address 10.0.20.5/24; gateway 10.0.20.1",
}


def stick(pings: str, **changed: str) -> Lab:
    """A router on one trunk, two switches, a host in each of two VLANs."""
    return lab_of(
        "lock=router:p1 sw1=switch:p1,p2 sw2=switch:p1,p2,p3 ana=host bob=host",
        "lock:p1--sw1:p1 sw1:p2--sw2:p1 sw2:p2--ana:p1 sw2:p3--bob:p1",
        answer=STICK | changed,
        pings=pings,
    )


def outcomes(lab: Lab) -> list[object]:
    return [r["outcome"] for r in pinged(lab)]


ALL = "ana>lock:p1.10 ana>bob bob>ana ana>10.0.20.1 ana>10.0.10.2 bob>10.0.10.2 sw1>bob lock>ana"


def test_a_router_on_a_trunk_joins_two_vlans() -> None:
    lab = stick(ALL)
    assert outcomes(lab) == ["reply"] * 8
    network = Network.of_lab(lab, lab.model)
    legs = journey(network, run(network, network, lab.pings[1]).result)
    assert [(leg.device, leg.enters, leg.leaves) for leg in legs[:3]] == [
        ("ana", None, "p1"), ("lock", "p1.10", "p1.20"), ("bob", "p1", None),
    ]  # fmt: skip
    assert [(s.device, s.enters, s.leaves, s.vlan) for s in legs[1].switches] == [
        ("sw1", "p1", "p2", 20), ("sw2", "p1", "p3", 20),
    ]  # fmt: skip
    assert outcomes(stick("ana>bob", lock="port p1; -on; port p1.10; -address 10.0.10.1/24")) == [
        "unreachable"
    ]


@pytest.mark.parametrize(
    ("device", "old", "new", "lost"),
    [
        ("lock", "port p1; -on;", "port p1; -off;", {0, 1, 2, 3, 5, 6, 7}),
        ("lock", "port p1.20; -address", "port p1.20; -off; -address", {1, 2, 3, 5, 6}),
        ("lock", "port p1.20", "port p1.21", {1, 2, 5, 6}),
        ("sw1", "-trunk 10,20; port p2", "-trunk 10; port p2", {1, 2, 5, 6}),
        ("sw1", "-trunk 10,20; port p2", "-access 10; port p2", {0, 1, 2, 3, 5, 6, 7}),
        ("sw1", "; vlan 20", "", {1, 2, 5, 6}),
        ("sw2", "; vlan 20", "", {1, 2, 5, 6}),
        ("sw2", "port p3; -access 20", "port p3; -access 10", {1, 2, 5, 6}),
        ("sw2", "port p3; -access 20", "", {1, 2, 5, 6}),
        ("sw1", "; gateway 10.0.10.1", "", {5, 6}),
        ("sw1", "-address 10.0.10.2/24", "-address 10.0.10.2/24; -off", {4, 5, 6}),
        ("bob", "gateway 10.0.20.1", "", {1, 2, 5, 6}),
    ],
)
def test_one_slip_cuts_what_it_should(device: str, old: str, new: str, lost: set[int]) -> None:
    assert old in STICK[device]
    lab = stick(ALL)
    found = [r["outcome"] for r in pinged(lab, {device: STICK[device].replace(old, new)})]
    assert {n for n, outcome in enumerate(found) if outcome != "reply"} == lost


@pytest.mark.parametrize(
    ("left", "right", "there", "back"),
    [
        ("access 10", "access 10", True, True),
        ("access 10", "access 20", True, True),  # untagged out, untagged in: two VLANs are joined
        ("trunk 10", "trunk 10", True, True),
        ("trunk 10", "trunk 20", False, False),
        ("trunk 10 native 10", "trunk 10 native 10", True, True),
        ("trunk 20 native 10", "access 10", True, True),
        ("trunk 10", "access 10", False, False),
        (
            "trunk 10",
            "trunk 20 native 10",
            True,
            False,
        ),  # tagged 10 is taken, untagged comes back and is dropped
        ("trunk 20 native 10", "trunk 10", False, True),
        ("trunk all", "trunk 10", True, True),
    ],
)
def test_two_switches_at_the_ends_of_a_link(left: str, right: str, there: bool, back: bool) -> None:
    lab = lab_of(
        "ana=host s1=switch:p1,p2 s2=switch:p1,p2 bob=host",
        "ana:p1--s1:p1 s1:p2--s2:p2 s2:p1--bob:p1",
        answer={
            "ana": "port p1; -address 10.0.0.1/24",
            "bob": "port p1; -address 10.0.0.2/24",
            "s1": f"vlan 10; vlan 20; port p1; -access 10; port p2; -{left}",
            "s2": f"vlan 10; vlan 20; port p1; -access {20 if right == 'access 20' else 10}; port p2; -{right}",
        },
        pings="ana>bob bob>ana",
    )
    network = Network.of_lab(lab, lab.model)
    ports = {d.name: p for d in network.devices for p in d.ports if p.kind == "port" and not d.is_switch}
    ana, bob = ports["ana"], ports["bob"]
    assert any(r.key == bob.key for r in network.receivers(ana)) == there
    assert any(r.key == ana.key for r in network.receivers(bob)) == back
    assert outcomes(lab) == (["reply"] * 2 if there and back else ["unreachable"] * 2)


def test_a_switch_may_route_between_its_vlans() -> None:
    sheets = {
        "sw1": "forwarding on; vlan 10; -address 10.0.10.1/24; vlan 20; -address 10.0.20.1/24; "
        "port p1; -access 10; port p2; -access 20",
        "ana": "port p1; -address 10.0.10.5/24; gateway 10.0.10.1",
        "bob": "port p1; -address 10.0.20.5/24; gateway 10.0.20.1",
    }
    lab = lab_of(
        "sw1=switch:p1,p2 ana=host bob=host", "sw1:p1--ana:p1 sw1:p2--bob:p1", answer=sheets,
        pings="ana>bob bob>sw1 sw1>ana",
    )  # fmt: skip
    assert outcomes(lab) == ["reply"] * 3
    off = sheets["sw1"].replace("forwarding on; ", "")
    assert [r["outcome"] for r in pinged(lab, {"sw1": off})] == ["timeout", "reply", "reply"]
    network = Network.of_lab(lab, lab.model)
    found = known(network, Runs(network, network, lab.expected))["sw1"]
    assert [(p["name"], p["kind"], p["up"], p["vlan"]) for p in found["ports"]][2:] == [
        ("vlan10", "vlan", True, 10), ("vlan20", "vlan", True, 20),
    ]  # fmt: skip
    alone = Network.of_lab(
        lab, lab.with_sheets({"sw1": read_sheet(sheet("vlan 30; -address 10.0.30.1/24")).configuration})
    )
    assert [alone.why_down(p) for p in alone.devices[0].ports if p.kind == "vlan"] == ["no member up"]


def test_a_switch_without_an_address_cannot_ping() -> None:
    lab = stick("ana>bob")
    network = Network.of_lab(lab, lab.model)
    assert not network.own(2)  # sw2 has VLANs and no address


def test_the_weave_has_a_row_for_each_vlan() -> None:
    lab = stick("ana>bob")
    chart = weave(lab, Network.of_lab(lab, lab.model))
    names = [c.device for c in chart.columns]
    rows = {
        row.prefix: {names[k.column]: (k.label, k.host) for k in chart.knots if k.row == n}
        for n, row in enumerate(chart.rows)
    }
    assert rows == {
        "10.0.10.0/24": {
            "lock": ("p1.10", ".1"), "sw1": ("p1–2", ".2"), "sw2": ("p1–2", ""), "ana": ("p1", ".5"),
        },
        "10.0.20.0/24": {"lock": ("p1.20", ".1"), "sw1": ("p1–2", ""), "sw2": ("p1,3", ""), "bob": ("p1", ".5")},
    }  # fmt: skip
    assert len(domains(Network.of_lab(lab, lab.model))) == 3  # the bare port of lock is one, and no row


def test_a_change_of_vlans_is_compiled_anew() -> None:
    lab = stick(ALL)
    whole = Network.of_lab(lab, lab.model)
    for ping in lab.pings:
        run(whole, whole, ping)
    for device, old, new in (
        ("sw2", "-access 20", "-access 10"),
        ("lock", "p1.20", "p1.30"),
        ("sw1", "vlan 20;", ""),
    ):
        changed = read_sheet(sheet(STICK[device].replace(old, new))).configuration
        again = whole.with_device(device, changed)
        fresh = Network.of_lab(lab, {**lab.model, device: changed})
        for ping in lab.pings:
            assert run(again, whole, ping).result.outcome == run(fresh, whole, ping).result.outcome
        for ping in lab.pings:
            assert run(again.with_device(device, lab.model[device]), whole, ping).result.outcome == "reply"


carried = st.sampled_from(
    ["access 1", "access 10", "access 20", "trunk all", "trunk 10", "trunk 10,20", "trunk 20 native 10", "trunk all native 1"]
)  # fmt: skip


@settings(max_examples=200)
@given(
    st.lists(carried, min_size=6, max_size=6),
    st.sets(st.sampled_from([10, 20])),
    st.sets(st.sampled_from([10, 20])),
)
def test_frames_go_where_tags_let_them(ports: list[str], first: set[int], second: set[int]) -> None:
    """Three hosts on two switches: a frame arrives exactly where following its tag by hand leads."""
    own = {
        "s1": "".join(f"vlan {v}; " for v in first)
        + "; ".join(f"port p{n + 1}; -{c}" for n, c in enumerate(ports[:3])),
        "s2": "".join(f"vlan {v}; " for v in second)
        + "; ".join(f"port p{n + 1}; -{c}" for n, c in enumerate(ports[3:])),
    }
    lab = lab_of(
        "s1=switch:p1,p2,p3 s2=switch:p1,p2,p3 a=host b=host c=host",
        "s1:p3--s2:p3 a:p1--s1:p1 b:p1--s1:p2 c:p1--s2:p1",
        answer=own | {n: f"port p1; -address 10.0.0.{i}/24" for i, n in enumerate("abc", 1)},
    )
    network = Network.of_lab(lab, lab.model)
    declared = {"s1": first | {1}, "s2": second | {1}}
    at = {"a": ("s1", "p1"), "b": ("s1", "p2"), "c": ("s2", "p1")}

    def carrying(end: tuple[str, str]):
        return carrying_of(lab.model[end[0]], end[1])

    for sender, switch in at.items():
        inside = carrying(switch).vlan_of(0)
        vlans = {switch[0]: inside if inside in declared[switch[0]] else None}
        other = "s2" if switch[0] == "s1" else "s1"
        if vlans[switch[0]] is not None:
            tag = carrying((switch[0], "p3")).tag_of(vlans[switch[0]])
            far = carrying((other, "p3")).vlan_of(tag) if tag is not None else None
            vlans[other] = far if far in declared[other] else None
        wanted = {
            name for name, end in at.items()
            if name != sender and vlans.get(end[0]) is not None and carrying(end).tag_of(vlans[end[0]]) == 0
        }  # fmt: skip
        number = network.wiring.device[sender]
        found = {network.name(r.node) for r in network.receivers(network.devices[number].ports[0])}
        assert found == wanted


def test_addresses_of_sub_ports_and_vlans_are_marked() -> None:
    lab = stick("ana>bob")
    ids = [c.id for task in tasks_of(lab) for c in task.criteria]
    assert {"address:lock:p1.10", "address:lock:p1.20", "address:sw1:vlan10", "enabled:lock:p1"} <= set(ids)
    assert mark(lab).score == mark(lab).out_of
    assert Marker(lab).mark(Paper("x", {})).score == 0
    for device, old, new, slip, place in (
        ("lock", "port p1.20; -address 10.0.20.1/24", "port p1.20; -on", "address-missing", "p1.20"),
        ("lock", "10.0.20.1/24", "10.0.20.1/25", "wrong-mask", "p1.20"),
        ("sw1", "10.0.10.2/24", "10.0.10.3/24", "wrong-address", "vlan10"),
        ("lock", "port p1; -on;", "port p1;", "port-left-off", "p1"),
        ("lock", "port p1.20; -address", "port p1.20; -off; -address", "port-left-off", "p1.20"),
    ):
        result = mark(lab, {device: STICK[device].replace(old, new)})
        assert [(f.slip, f.device, f.port) for f in result.faults] == [(slip, device, place)], result.faults
        assert result.score < result.out_of


def test_proxies_answer_where_they_are_told_to() -> None:
    sheets = {
        "r1": "port p1; -address 10.0.1.1/24; -on; port p2; -address 10.0.2.1/24; -on",
        "a": "port p1; -address 10.0.1.2/16",
        "b": "port p1; -address 10.0.2.2/16",
    }
    lab = lab_of("r1=router:p1,p2 a=host b=host", "r1:p1--a:p1 r1:p2--b:p1", answer=sheets, pings="a>b")
    assert outcomes(lab) == ["reply"]
    off = sheets["r1"].replace("port p1;", "port p1; -proxy off;")
    assert [r["outcome"] for r in pinged(lab, {"r1": off})] == ["unreachable"]


@st.composite
def switch_sheets(draw: st.DrawFn, ports: int) -> str:
    lines = [
        f"port p{n}; -{draw(carried)}{draw(st.sampled_from(['', '', '; -off']))}" for n in range(1, ports + 1)
    ]
    lines += [
        f"vlan {v}; -address 10.0.{v}.{draw(st.integers(2, 4))}/24"
        for v in draw(st.sets(st.sampled_from([10, 20])))
    ]
    return "; ".join([*lines, f"gateway 10.0.10.1; forwarding {draw(st.sampled_from(['on', 'off']))}"])


@st.composite
def router_sheets(draw: st.DrawFn) -> str:
    subs = [
        f"port p1.{v}; -address 10.0.{v}.1/24{draw(st.sampled_from(['', '; -off', '; -proxy off']))}"
        for v in draw(st.sets(st.sampled_from([10, 20, 30])))
    ]
    return "; ".join([f"port p1; -{draw(st.sampled_from(['on', 'on', 'off']))}", *subs])


@settings(max_examples=150)
@given(
    router_sheets(), switch_sheets(2), switch_sheets(3), st.sampled_from(["lock", "sw1", "sw2"]), st.data()
)
def test_compiling_one_device_again_is_compiling_all(
    lock: str, sw1: str, sw2: str, name: str, data: st.DataObject
) -> None:
    lab = stick(ALL)
    sheets = {"lock": lock, "sw1": sw1, "sw2": sw2}
    own = {n: read_sheet(sheet(t), n).configuration for n, t in sheets.items()}
    network = Network.of_lab(lab, lab.model | own)

    def told(on: Network) -> list[object]:
        rows = [run(on, network, asked).result for asked in lab.pings]
        return [(r.outcome, r.reason, r.by, r.there, r.back) for r in rows]

    before = told(network)
    strategy = router_sheets() if name == "lock" else switch_sheets(2 if name == "sw1" else 3)
    changed = read_sheet(sheet(data.draw(strategy)), name).configuration
    again = network.with_device(name, changed)
    assert told(again) == told(Network.of_lab(lab, lab.model | own | {name: changed}))
    assert told(again.with_device(name, own[name])) == before
    assert told(network) == before
    for result in (run(again, network, asked).result for asked in lab.pings):
        legs = journey(again, result)  # told without a fault, whatever was decided
        assert len(legs) <= 130
    weave(lab, again)
    state(again, Runs(again, network, lab.expected))


@pytest.mark.parametrize(
    ("port", "reason"),
    [
        ("-access 10", None),
        ("-access 20", "other-vlan"),
        ("-trunk 10", "other-vlan"),
        ("-access 10; -off", "no-neighbour"),
    ],
)
def test_who_is_in_another_vlan_is_told_from_who_is_not_there(port: str, reason: str | None) -> None:
    lab = lab_of(
        "sw=switch:p1,p2 ana=host bob=host",
        "ana:p1--sw:p1 sw:p2--bob:p1",
        {
            "sw": f"port p1; -access 10; port p2; {port}; vlan 10; vlan 20",
            "ana": "port p1; -address 10.1.0.1/24",
            "bob": "port p1; -address 10.1.0.2/24",
        },
        "ana>10.1.0.2 ana>10.1.0.3",
    )
    there, nobody = pinged(lab)
    assert there["reason"] == reason
    assert nobody["reason"] == "no-neighbour"
