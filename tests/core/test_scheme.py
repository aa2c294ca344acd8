"""The scheme that is derived from a model answer: which statements count, in which tasks, for how much."""

from tests.helpers import lab_of
from zensur.core.marking.scheme import is_on, tasks_of
from zensur.core.sheet import Block

LAB = lab_of(
    "weir=router:p1,p2 sw=switch:p1,p2 ana=host bob=host",
    "ana:p1--sw:p1 sw:p2--weir:p1 weir:p2--bob:p1",
    {
        "weir": "name weir; port p1; -about in; -address 10.1.0.1/24; -realm internal; -on; port p2; -address 10.2.0.1/24; "
        "-address 10.3.0.1/24; -realm external; -on; loopback lo0; -address 10.9.0.1/32; route 10.4.0.0/16 via 10.2.0.20; "
        "route 10.4.0.0/16 via 10.2.0.21 preference 20; gateway 10.2.0.20; translate 10.1.0.20 as 10.2.0.99",
        "sw": "port p1; -access 10; port p2; -access 1; -off; vlan 10; -off",
        "ana": "port p1; -address 10.1.0.20/24; dhcp spare; -network 10.1.0.0/24; -range 10.1.0.50 to 10.1.0.60; gateway 10.1.0.1; resolver 10.2.0.20 10.2.0.21",
        "bob": "port p1; -on; -address 10.2.0.20/24; gateway 10.2.0.1; service tcp 80",
    },
    "ana>bob bob>ana",
    services=[{"from": "ana", "open": "tcp bob:80", "expect": "answer"}],
)


def derived(lab) -> dict[str, dict[str, float]]:
    for task in tasks_of(lab):
        assert len({c.id for c in task.criteria}) == len(task.criteria)
        assert all(c.device == "" for c in task.criteria if c.is_run or c.key == "joins")
    return {task.title: {c.id: c.marks for c in task.criteria} for task in tasks_of(lab)}


def test_who_is_joined_counts_once_where_learners_cable() -> None:
    links = "box:p1--sw:p1 sw:p2--box:p2 box:t1--box:t2 ana:p1--sw:p3"
    lab = lab_of(
        "ana=host box=router:p1,p2,t1,t2 sw=switch:p1,p2,p3", links, cabling="asked",
        stages=[{"id": "one", "answer": {"ana": "port p1\n  address 10.0.0.2/24"}}, {"id": "two", "answer": {"box": "service tcp 80"}}],
    )  # fmt: skip
    assert lab.before is not None
    assert derived(lab.before) == {
        "Cabling": {"joins:box sw": 1, "joins:box box": 1, "joins:ana sw": 1}, "Addresses and ports of ana": {"address:ana:p1": 2},
    }  # fmt: skip
    assert list(derived(lab.before)) == ["Cabling", "Addresses and ports of ana"]
    assert list(derived(lab)) == ["Other settings"]


def test_every_statement_beyond_what_is_given_counts_once_in_its_task() -> None:
    """Defaults go without saying: a port of a host that is on, the first VLAN, a gateway where routes are used."""
    assert derived(LAB) == {
        "Addresses and ports of weir": {
            "enabled:weir:p1": 1, "enabled:weir:p2": 1, "address:weir:p1": 2, "address:weir:p2": 2, "address:weir:lo0": 2,
        },
        "Addresses and ports of sw": {"disabled:sw:p2": 1, "disabled:sw:vlan10": 1},
        "Addresses and ports of ana": {"address:ana:p1": 2},
        "Addresses and ports of bob": {"address:bob:p1": 2},
        "Routes": {"route:weir:10.4.0.0/16": 2, "route:weir:10.4.0.0/16:backup": 2},
        "Gateways": {"gateway:ana": 1, "gateway:bob": 1},
        "Translation": {"realm:weir:p1": 1, "realm:weir:p2": 1, "translation:weir:10.1.0.20": 3},
        "Other settings": {"access:sw:p1": 1, "vlan:sw:10": 1, "resolver:ana": 1, "dhcp:ana:10.1.0.0/24": 1, "service:bob:tcp 80": 1},
        "Pings": {"ping:1": 1, "ping:2": 1},
        "Services": {"check:1": 1},
    }  # fmt: skip
    assert list(derived(LAB)) == [
        "Addresses and ports of weir", "Addresses and ports of sw", "Addresses and ports of ana", "Addresses and ports of bob",
        "Routes", "Gateways", "Translation", "Other settings", "Pings", "Services",
    ]  # fmt: skip


def test_what_is_given_counts_nothing() -> None:
    given = {"weir": "port p1; -address 10.1.0.1/24; -on; route 10.4.0.0/16 via 10.2.0.20"}
    lab = lab_of(
        "weir=router:p1,p2", "", {"weir": "port p1; -off; port p2; -address 10.2.0.1/24; -on; route 10.5.0.0/16 discard"}, given=given
    )  # fmt: skip
    assert derived(lab) == {
        "Addresses and ports of weir": {"disabled:weir:p1": 1, "enabled:weir:p2": 1, "address:weir:p2": 2},
        "Routes": {"route:weir:10.5.0.0/16": 2},
    }


def test_a_strict_scheme_asks_for_the_form_of_the_model_answer() -> None:
    answer = {
        "weir": "port p1; -address 10.1.0.1/24; -on; route 10.4.0.0/16 via 10.1.0.20; route 10.5.0.0/16 out p1; "
        "route 10.6.0.0/16 discard; route 10.7.0.0/16 via 10.1.0.20 out p1; translate 10.1.0.20 as 10.2.0.99; "
        "route 10.7.0.0/16 discard preference 60",
        "sw": "vlan 10; port p1; -trunk 10 native 10",
    }
    forms = {
        "route:weir:10.4.0.0/16": "via", "route:weir:10.5.0.0/16": "out", "route:weir:10.6.0.0/16": "discard",
        "route:weir:10.7.0.0/16": "both", "route:weir:10.7.0.0/16:backup": "discard", "trunk:sw:p1": "form", "vlan:sw:10": None, "translation:weir:10.1.0.20": "form",
        "address:weir:p1": None, "enabled:weir:p1": None,
    }  # fmt: skip
    strict = lab_of("weir=router:p1 sw=switch:p1", "", answer, scheme={"strictness": "form"})
    assert [task.title for task in tasks_of(strict)] == [
        "Addresses and ports of weir",
        "Routes",
        "Translation",
        "Other settings",
    ]
    assert {c.id: c.form for task in tasks_of(strict) for c in task.criteria} == forms
    loose = lab_of("weir=router:p1 sw=switch:p1", "", answer)
    assert {c.form for task in tasks_of(loose) for c in task.criteria} == {None}
    own = {"route": "weir", "dest": "10.4.0.0/16", "form": "any"}
    said = lab_of(
        "weir=router:p1 sw=switch:p1",
        "",
        answer,
        scheme={"strictness": "form", "tasks": [{"title": "T", "criteria": [own]}]},
    )
    assert [c.form for task in tasks_of(said) for c in task.criteria] == ["any"]


def test_what_a_header_makes_is_on_by_default_and_off_where_it_is_not_there() -> None:
    lab = lab_of(
        "weir=router:p1 ana=host",
        "",
        {"weir": "port p1; -on; loopback lo0; -address 10.9.0.1/32", "ana": "port p1; -off"},
    )
    weir, ana = lab.devices["weir"], lab.devices["ana"]
    loopback, port = Block("loopback", "lo0"), Block("port", "p1")
    assert is_on(lab.model["weir"], loopback, weir)
    assert not is_on(lab.blank["weir"], loopback, weir)
    assert is_on(lab.model["weir"], port, weir)
    assert not is_on(lab.blank["weir"], port, weir)
    assert is_on(lab.blank["ana"], port, ana)
    assert not is_on(lab.model["ana"], port, ana)


def test_what_a_stage_takes_away_counts() -> None:
    loopbacks = {"weir": "loopback lo0\n  address 10.9.0.1/32\nloopback lo1\n  address 10.9.0.2/32\n"}
    stages = [
        {"id": "one", "answer": loopbacks},
        {
            "id": "two",
            "remove": {"weir": ["loopback lo1"]},
            "answer": {"weir": "route 10.4.0.0/16 discard\n"},
        },
    ]
    assert derived(lab_of("weir=router:p1", stages=stages)) == {
        "Routes": {"route:weir:10.4.0.0/16": 2}, "Taken away": {"absent:weir:loopback lo1": 1},
    }  # fmt: skip
