"""IPv6: link-local addresses, neighbours, sources, advertisements (RFC 4291, 4861, 4862, 4007, 6724)."""

import pytest

from tests.helpers import known, lab_of, row
from zensur.core.lab import ExpectedPing, Lab, read_lab
from zensur.core.sim import Network, Runs, journey
from zensur.core.sim.hardware import mac_of
from zensur.core.sim.numbers import written

DEVICES = "weir=router:p1,p2 lock=router:p1,p2 ana=host bob=host"
LINKS = "ana:p1--weir:p1 weir:p2--lock:p1 lock:p2--bob:p1"
WEIR = (
    "port p1; -address 2001:db8:8::1/64; -advertise on; -on;"
    "port p2; -address fe80::1/64; -on; route 2001:db8:40::/64 via fe80::2 out p2"
)
LOCK = (
    "port p1; -address fe80::2/64; -on; port p2; -address 2001:db8:40::1/64; -on;"
    "route default via fe80::1 out p1"
)
ANSWER = {
    "weir": WEIR,
    "lock": LOCK,
    "ana": "port p1; -address auto",
    "bob": "port p1; -address 2001:db8:40::9/64; gateway fe80::40",
}


def six_lab(more: dict[str, str] | None = None) -> Lab:
    lock = LOCK.replace("2001:db8:40::1/64;", "2001:db8:40::1/64; -address fe80::40/64;")
    return lab_of(DEVICES, LINKS, {**ANSWER, "lock": lock, **(more or {})})


def came_of(lab: Lab, sender: str, to: str, out: str | None = None, source: str | None = None) -> str:
    network = Network.of_lab(lab, lab.model)
    asked = ExpectedPing("1", sender, "reply", source, to=to, out=out)
    found = row(network, Runs(network, network, {"1": asked})["1"])
    return " ".join(str(found[k]) for k in ("outcome", "reason", "by", "seen_as") if found[k])


def own_link(device: str, port: str) -> str:
    """The link-local address of a port by the appendix of RFC 4291, worked out digit by digit."""
    digits = f"{mac_of(device, port):012x}"
    first = f"{int(digits[:2], 16) ^ 2:02x}{digits[2:4]}"
    groups = [first, f"{digits[4:6]}ff", f"fe{digits[6:8]}", digits[8:]]
    return "fe80::" + ":".join(f"{int(g, 16):x}" for g in groups)


ANA = "2001:db8:8:0" + own_link("ana", "p1").removeprefix("fe80:")


@pytest.mark.parametrize(
    ("sender", "to", "out", "wanted"),
    [
        ("ana", "2001:db8:40::9", None, f"reply {ANA}"),
        ("bob", "ana", None, "reply 2001:db8:40::9"),
        ("weir", "bob", None, "reply 2001:db8:8::1"),  # out of a port that only has a link-local one
        ("weir", "fe80::2", "p2", "reply fe80::1"),
        ("weir", "fe80::2", "p1", "unreachable no-neighbour weir"),
        ("weir", "fe80::1", "p2", "reply fe80::1"),
        ("ana", own_link("weir", "p1"), None, f"reply {own_link('ana', 'p1')}"),
        ("bob", "2001:db8:40::", None, "timeout not-an-address bob"),
        ("bob", "2001:db8:8::", None, "timeout not-an-address weir"),
        ("bob", "2001:db8:8::77", None, "unreachable no-neighbour weir"),
        ("bob", "2001:db8:99::1", None, "unreachable no-route weir"),
        ("ana", "ff02::1", None, "timeout not-an-address ana"),
    ],
)
def test_pings(sender, to, out, wanted) -> None:
    assert came_of(six_lab(), sender, to, out) == wanted


def test_a_link_local_gateway_needs_its_port_where_there_are_several() -> None:
    without = {"weir": WEIR.replace("fe80::2 out p2", "fe80::2")}
    assert came_of(six_lab(without), "ana", "bob") == "unreachable no-route weir"


def test_without_a_global_address_nothing_is_forwarded() -> None:
    lab = six_lab({"ana": f"port p1; -address fe80::20/64; gateway {own_link('weir', 'p1')}"})
    assert came_of(lab, "ana", "bob") == "unreachable beyond-scope weir"
    assert came_of(lab, "ana", "2001:db8:8::1") == "reply fe80::20"


def test_the_source_has_most_in_common_with_the_destination() -> None:
    lab = six_lab(
        {"bob": "port p1; -address 2001:db8:77::9/64; -address 2001:db8:40::9/64; gateway 2001:db8:40::1"}
    )
    assert came_of(lab, "bob", "2001:db8:40::1") == "reply 2001:db8:40::9"


def test_the_first_router_that_forwards_is_the_default() -> None:
    two = lab_of(
        "aaa=router:p1 weir=router:p1 sw=switch:p1,p2,p3 ana=host",
        "aaa:p1--sw:p1 weir:p1--sw:p2 ana:p1--sw:p3",
        {
            "aaa": "forwarding off; port p1; -address 2001:db8:1::1/64; -advertise on; -on",
            "weir": "port p1; -address 2001:db8:2::1/64; -address 2001:db8:3::1/48; -advertise on; -on",
            "ana": "port p1; -address auto",
        },
    )
    network = Network.of_lab(two, two.model)
    found = known(network, Runs(network, network, {}))["ana"]
    formed = own_link("ana", "p1")
    host = formed.removeprefix("fe80:")
    assert found["ports"][0]["addresses"] == [
        f"{formed}/64", f"2001:db8:1:0{host}/64", f"2001:db8:2:0{host}/64",
    ]  # fmt: skip
    default = [r for r in found["routes"] if r["prefix"] == "::/0"]
    assert [(r["origin"], r["preference"], r["next_hop"], r["active"]) for r in default] == [
        ("advertised", 20, own_link("weir", "p1"), True)
    ]
    on_link = [r for r in found["routes"] if r["prefix"] == "2001:db8:3::/48"]
    assert [(r["origin"], r["preference"], r["next_hop"], r["port"]) for r in on_link] == [
        ("advertised", 0, None, "p1")
    ]


@pytest.mark.parametrize(("length", "there"), [(48, "ana bob"), (80, "ana bob"), (126, "ana weir")])
def test_what_is_advertised_is_on_link(length, there) -> None:
    """A network of another length than 64 gives no address, and its hosts are reached without the router."""
    lab = lab_of(
        "weir=router:p1,p2 sw=switch:p1,p2,p3 ana=host bob=host",
        "weir:p1--sw:p1 ana:p1--sw:p2 bob:p1--sw:p3",
        {
            "weir": f"port p1; -address 2001:db8:3::1/{length}; -address 2001:db8:4::1/64; -advertise on; -on",
            "ana": "port p1; -address auto",
            "bob": "port p1; -address 2001:db8:3::9/48; gateway 2001:db8:3::1",
        },
    )
    network = Network.of_lab(lab, lab.model)
    asked = ExpectedPing("1", "ana", "reply", to="2001:db8:3::9")
    found = row(network, Runs(network, network, {"1": asked})["1"])
    assert found["there"] == there.split()
    assert found["as_expected"] is (there == "ana bob")


def test_the_target_is_what_the_port_holds_in_the_run() -> None:
    lab = six_lab()
    model = Network.of_lab(lab, lab.model)
    asked = ExpectedPing("1", "bob", "reply", to="ana")
    silent = Network.of_lab(
        lab, {**lab.model, "weir": six_lab({"weir": WEIR.replace("-advertise on;", "")}).model["weir"]}
    )
    found = row(silent, Runs(silent, model, {"1": asked})["1"])
    assert (found["outcome"], found["address"], found["as_expected"]) == ("no-route", None, False)


def test_a_lab_asks_for_a_family() -> None:
    text = """\
zensur: 1
id: both
devices:
  weir: {kind: router, ports: [p1]}
  ana: {kind: host}
links: ["weir:p1 -- ana:p1"]
answer:
  weir: |
    port p1
      address 10.64.8.1/24
      address 2001:db8::1/64
      on
  ana: |
    port p1
      address 10.64.8.2/24
      address 2001:db8::2/64
pings:
  - {from: ana, to: weir}
  - {from: ana, to: "weir:p1", family: 6}
"""
    lab = read_lab(text.replace("weir}", "weir, expect: reply}").replace("6}", "6, expect: reply}")).lab
    assert lab is not None
    network = Network.of_lab(lab, lab.model)
    runs = Runs(network, network, lab.expected)
    assert [written(r.result.destination) for r in runs.values()] == ["10.64.8.1", "2001:db8::1"]
    assert all(r.as_expected for r in runs.values())
    legs = journey(network, runs["ping:2"].result)
    assert [(leg.way, leg.device, leg.source) for leg in legs] == [
        ("there", "ana", "2001:db8::2"), ("there", "weir", "2001:db8::2"),
        ("back", "weir", "2001:db8::1"), ("back", "ana", "2001:db8::1"),
    ]  # fmt: skip
