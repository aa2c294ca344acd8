"""Addresses completed, devices joined, gateways and routes found, subnets explained."""

from ipaddress import ip_network

import pytest

from zensur.core.authoring.addresses import (
    AddNetwork,
    SetGateways,
    complete,
)
from zensur.core.authoring.cabling import Join
from zensur.core.authoring.devices import (
    AddDevice,
)
from zensur.core.authoring.draft import CannotEdit, Draft
from zensur.core.authoring.edits import edited
from zensur.core.authoring.look import pairs
from zensur.core.authoring.routes import thoughts
from zensur.core.authoring.subnets import subnet_help
from zensur.core.authoring.texts import (
    PutStatements,
    TakeStatements,
)
from zensur.core.lab import Kind
from zensur.core.sheet import Route
from zensur.demo import lab_text

from .edits import FIRST, RING, STARTER, change, row


@pytest.mark.parametrize(
    ("typed", "prefixes", "wanted"),
    [
        ("20", ["10.64.8.0/24"], "10.64.8.20/24"),
        (".20", ["10.64.8.0/24"], "10.64.8.20/24"),
        ("17.20", ["10.64.16.0/20"], "10.64.17.20/20"),
        ("::20", ["2001:db8:8::/64"], "2001:db8:8::20/64"),
        ("10.64.8.9", ["2001:db8::/64", "10.64.8.0/24"], "10.64.8.9/24"),
        ("10.64.8.9 mask 255.255.255.192", [], "10.64.8.9/26"),
        ("10.64.8.9/26", ["10.64.8.0/24"], "10.64.8.9/26"),
    ],
)
def test_an_address_is_completed(typed: str, prefixes: list[str], wanted: str) -> None:
    assert complete(typed, [ip_network(p) for p in prefixes]) == wanted


def test_a_host_part_does_not_leave_its_network() -> None:
    with pytest.raises(CannotEdit, match="does not lie in"):
        complete("20", [ip_network("10.64.0.0/30")])


def test_a_device_is_joined_to_a_network() -> None:
    """By the switch of the network; by a new switch where there is none; alone where nobody is there yet."""
    bell = AddDevice(name="bell", kind=Kind.HOST)
    assert "+ - bell:p1 -- sw1:p4" in change(FIRST, bell, Join(device="bell", row=row(FIRST, "basin")))
    assert "+ address 10.64.8.4/24" in change(FIRST, bell, Join(device="bell", row=row(FIRST, "basin")))
    between = change(STARTER, bell, Join(device="bell", row=row(STARTER, "upper reach")))
    assert {"+ sw1: {kind: switch, ports: [p1, p2, p3]}", "+ - weir:p1 -- sw1:p1", "+ - sw1:p2 -- gauge:p1",
            "+ - bell:p1 -- sw1:p3", "- - weir:p1 -- gauge:p1"} <= set(between)  # fmt: skip
    planned = edited(Draft(STARTER), [AddNetwork(name="spare", prefix="10.64.99.0/24")])
    alone = edited(planned, [bell, Join(device="bell", row=row(planned.text, "spare"))])
    assert [(k.address, k.ports) for k in alone.chart.knots if alone.chart.rows[k.row].name == "spare"] == [
        ("10.64.99.1/24", ("p1",))
    ]
    office = lab_text("harbour-office")
    guests = edited(Draft(office), [bell, Join(device="bell", row=row(office, "guests"))])
    assert guests.text.count("access 20") == office.count("access 20") + 1


def test_gateways_of_a_network() -> None:
    bare = edited(Draft(FIRST), [TakeStatements(device="ledger", statements=("gateway 10.64.32.1",))]).text
    assert change(bare, SetGateways(row=row(bare, "office"))) == ["+ gateway 10.64.32.1"]
    with pytest.raises(CannotEdit, match="There is no host"):
        edited(Draft(FIRST), [SetGateways(row=row(FIRST, "basin"))])


@pytest.mark.parametrize("name", ["first-addresses", "four-gates", "two-families", "one-cabinet"])
def test_the_routes_that_are_lacking_let_everybody_reach_everybody(name: str) -> None:
    draft = Draft(lab_text(name))
    for device, model in draft.lab.model.items():
        for item in model.all(Route):
            draft = TakeStatements(device=device, statements=(item.text(),)).apply(draft)
    for node in thoughts(draft.network, draft.chart):
        statements = tuple(n.statement for n in node.lacks)
        assert all(statements)
        draft = (
            PutStatements(device=node.node.partition("/")[0], statements=statements).apply(draft)
            if statements
            else draft
        )
    assert all(not node.lacks for node in thoughts(draft.network, draft.chart))
    hosts = {n for n, d in draft.lab.devices.items() if d.kind is Kind.HOST}
    lost = [
        r
        for r in pairs(draft)[2]
        if r.outcome != "reply" and {r.from_, r.wanted} <= hosts and r.by not in hosts  # of one family only
    ]
    assert lost == []


def test_a_summary_says_what_it_takes_in() -> None:
    """Three networks behind one neighbour, and one between them that lies elsewhere; worked out by hand."""
    text = """zensur: 1
id: hub
devices:
  hub: {kind: router, ports: [p1, p2, p3]}
  far: {kind: router, ports: [p1, p2, p3]}
  near: {kind: router, ports: [p1, p2]}
  a: {kind: host}
  b: {kind: host}
  c: {kind: host}
links: ["hub:p1 -- far:p1", "far:p2 -- a:p1", "far:p3 -- b:p1", "hub:p2 -- near:p1", "near:p2 -- c:p1"]
answer:
  hub: "port p1\\n  address 10.64.0.1/30\\n  on\\nport p2\\n  address 10.64.0.5/30\\n  on\\n"
  far: "port p1\\n  address 10.64.0.2/30\\n  on\\nport p2\\n  address 10.64.8.1/24\\n  on\\nport p3\\n  address 10.64.11.1/24\\n  on\\n"
  near: "port p1\\n  address 10.64.0.6/30\\n  on\\nport p2\\n  address 10.64.9.1/24\\n  on\\n"
"""
    draft = Draft(text)
    hub = next(t for t in thoughts(draft.network, draft.chart) if t.node == "hub")
    assert [(k.network, k.by) for k in hub.knows] == [
        ("10.64.0.0/30", "connected"), ("10.64.0.4/30", "connected"),
    ]  # fmt: skip
    assert [n.statement for n in hub.lacks] == [
        "route 10.64.8.0/24 via 10.64.0.2",
        "route 10.64.9.0/24 via 10.64.0.6",
        "route 10.64.11.0/24 via 10.64.0.2",
    ]
    (summary,) = hub.summaries
    assert summary.statement == "route 10.64.8.0/22 via 10.64.0.2"
    assert (summary.covers, summary.beside) == (("10.64.8.0/24", "10.64.11.0/24"), ("10.64.9.0/24",))
    assert summary.more == 256  # 10.64.10.0/24 belongs to nobody
    both = next(t for t in thoughts(draft.network, draft.chart, "both") if t.node == "hub")
    assert both.lacks[0].statement == "route 10.64.8.0/24 via 10.64.0.2 out p1"


def test_the_subnet_helper() -> None:
    draft = Draft(RING)
    found = subnet_help("10.64.16.200/26", draft.lab, draft.chart, 28)
    assert [(f.name, f.value) for f in found.figures] == [
        ("network", "10.64.16.192"), ("first", "10.64.16.193"), ("last", "10.64.16.254"),
        ("broadcast", "10.64.16.255"), ("usable", "62"), ("mask", "255.255.255.192"), ("wildcard", "0.0.0.63"),
    ]  # fmt: skip
    assert (found.kind, found.overlaps) == ("private", ("upper reach 10.64.16.0/24",))
    assert (found.host, found.same, found.size) == ("10.64.16.193", "10.64.17.0/26", "10.64.17.0/28")
    six = subnet_help("2001:db8:8::1/64", draft.lab, draft.chart)
    assert (six.kind, six.overlaps, six.host) == ("documentation", (), "2001:db8:8::1")
