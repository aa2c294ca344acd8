"""Leases (RFC 2131), learned routes (RFC 2453), and network instances with a link inside the box."""

from itertools import pairwise

import pytest

from tests.helpers import known, lab_of, row
from zensur.core.lab import ExpectedPing, ExpectedService, Lab
from zensur.core.sim import Network, Runs

SERVER = "port p1; -address 10.64.8.1/24; -on; dhcp crew; -network 10.64.8.0/24; -gateway 10.64.8.1; -resolver 10.64.8.1;"


def leased(server: str, hosts: str = "ana bob", **more: str) -> list[list[str]]:
    """The addresses that hosts have on one switch with a server and what else there is."""
    names = hosts.split()
    devices = " ".join(["weir=router:p1,p2", *(f"{n}=host" for n in (*names, *more))])
    ports = ",".join(f"p{n}" for n in range(len(names) + len(more) + 1))
    links = ["weir:p1 -- sw:p0", *(f"{n}:p1 -- sw:p{i}" for i, n in enumerate((*names, *more), 1))]
    lab = lab_of(
        f"{devices} sw=switch:{ports}",
        links,
        {"weir": server, **more} | dict.fromkeys(names, "port p1; -address dhcp"),
    )
    network = Network.of_lab(lab, lab.model)
    found = known(network, Runs(network, network, {}))
    return [found[n]["ports"][0]["addresses"] for n in names]


@pytest.mark.parametrize(
    ("more", "wanted"),
    [
        ("", ["10.64.8.2", "10.64.8.3"]),
        ("-order highest", ["10.64.8.254", "10.64.8.253"]),
        ("-exclude 10.64.8.1 to 10.64.8.9; -exclude 10.64.8.11", ["10.64.8.10", "10.64.8.12"]),
        ("-range 10.64.8.0 to 10.64.8.2", ["10.64.8.2", None]),
        ("-range 10.64.8.254 to 10.64.8.255", ["10.64.8.254", None]),
        (
            "-order highest; -range 10.64.8.40 to 10.64.8.50; -exclude 10.64.8.50",
            ["10.64.8.49", "10.64.8.48"],
        ),
    ],
)
def test_what_is_given(more, wanted) -> None:
    given = [[f"{w}/24"] if w else [] for w in wanted]
    assert leased(SERVER + more) == given


def test_what_somebody_has_is_not_given() -> None:
    assert leased(SERVER, "ana", bob="port p1; -address 10.64.8.2/24") == [["10.64.8.3/24"]]
    assert leased(SERVER.replace("network 10.64.8.0", "network 10.64.9.0"), "ana") == [[]]
    assert leased(SERVER.replace("-on; dhcp", "-off; dhcp"), "ana") == [[]]


RELAYED = {
    "weir": "port p1; -address 10.64.8.1/24; -relay 10.64.99.2; -on; port p2; -address 10.64.99.1/24; -on",
    "lock": (
        "port p1; -address 10.64.99.2/24; -on; route 10.64.8.0/24 via 10.64.99.1;"
        "dhcp crew; -network 10.64.8.0/24; -gateway 10.64.8.1; -resolver 10.64.99.2; dns; -record page.example 10.64.99.2;"
        "service tcp 80"
    ),
    "ana": "port p1; -address dhcp",
}


def relayed(**more: str) -> Lab:
    return lab_of(
        "ana=host weir=router:p1,p2 lock=router:p1", "ana:p1--weir:p1 weir:p2--lock:p1", {**RELAYED, **more}
    )


def test_a_relay_passes_requests_on_and_the_lease_brings_gateway_and_resolver() -> None:
    lab = relayed()
    network = Network.of_lab(lab, lab.model)
    asked = ExpectedService("1", "ana", "answer", open="tcp page.example:80")
    runs = Runs(network, network, {"1": asked})
    assert row(network, runs["1"])["outcome"] == "answer"
    found = known(network, runs)
    assert found["ana"]["leased"] == [{"port": "p1", "address": "10.64.8.2/24", "server": "lock"}]
    assert found["lock"]["leases"] == [{"pool": "crew", "address": "10.64.8.2", "client": "ana:p1"}]
    default = next(r for r in found["ana"]["routes"] if r["prefix"] == "0.0.0.0/0")
    assert (default["origin"], default["next_hop"], default["preference"]) == ("leased", "10.64.8.1", 20)


@pytest.mark.parametrize(
    ("device", "old", "new"),
    [
        ("lock", "route 10.64.8.0/24 via 10.64.99.1;", ""),  # the offer finds no way back
        ("weir", "-relay 10.64.99.2; ", ""),
        ("weir", "-relay 10.64.99.2; ", "-relay 10.64.99.3; "),
        ("lock", "-network 10.64.8.0/24", "-network 10.64.99.0/24"),
    ],
)
def test_nobody_answers(device, old, new) -> None:
    lab = relayed(**{device: RELAYED[device].replace(old, new)})
    network = Network.of_lab(lab, lab.model)
    assert known(network, Runs(network, network, {}))["ana"]["leased"] == []


def test_the_learners_lease_counts_where_it_lies_in_the_models_network() -> None:
    lab = relayed()
    model = Network.of_lab(lab, lab.model)
    asked = {"1": ExpectedPing("1", "lock", "reply", to="ana")}
    other = relayed(lock=RELAYED["lock"].replace("-gateway", "-order highest; -gateway"))
    network = Network.of_lab(lab, other.model)
    assert row(network, Runs(network, model, asked)["1"])["address"] == "10.64.8.254"
    elsewhere = relayed(
        weir=RELAYED["weir"].replace("10.64.8.", "10.64.7."),
        lock=RELAYED["lock"].replace("10.64.8.", "10.64.7."),
    )
    network = Network.of_lab(lab, elsewhere.model)
    assert row(network, Runs(network, model, asked)["1"])["as_expected"] is False


RIP = {
    "a": "port p1; -address 10.64.1.1/24; -on; port p2; -address 10.64.12.1/30; -on; rip; -run p2; -passive p1",
    "b": "port p1; -address 10.64.12.2/30; -on; port p2; -address 10.64.23.2/24; -on; rip; -run p1 p2",
    "c": (
        "port p1; -address 10.64.23.3/24; -on; port p2; -address 10.64.3.1/24; -on; rip; -run p1 p2; -announce default;"
        "-announce static; route default via 10.64.3.9; route 10.64.77.0/24 discard"
    ),
    "x": "port p1; -address 10.64.3.9/24; -on; route default discard",
}


def ring(**more: str) -> dict[str, list[tuple[str, str, int | None]]]:
    """The learned routes of every router on a line, as prefix, next hop and port."""
    lab = lab_of(
        "a=router:p1,p2 b=router:p1,p2 c=router:p1,p2 x=router:p1 h=host",
        "h:p1--a:p1 a:p2--b:p1 b:p2--c:p1 c:p2--x:p1",
        {**RIP, **more},
    )
    network = Network.of_lab(lab, lab.model)
    found = known(network, Runs(network, network, {}))
    return {
        name: [
            (r["prefix"], r["next_hop"], r["active"])
            for r in found[name]["routes"]
            if r["origin"] == "learned"
        ]
        for name in "abc"
    }


def test_routes_are_learned_to_the_ends() -> None:
    found = ring()
    assert found["a"] == [
        ("10.64.3.0/24", "10.64.12.2", True), ("10.64.23.0/24", "10.64.12.2", True),
        ("10.64.77.0/24", "10.64.12.2", True), ("0.0.0.0/0", "10.64.12.2", True),
    ]  # fmt: skip
    assert found["c"] == [("10.64.12.0/30", "10.64.23.2", True), ("10.64.1.0/24", "10.64.23.2", True)]


@pytest.mark.parametrize(
    ("router", "old", "new", "missing"),
    [
        ("c", "-announce default;", "", "0.0.0.0/0"),
        ("c", "-announce static;", "", "10.64.77.0/24"),
        ("c", "-run p1 p2", "-run p1", "10.64.3.0/24"),
        ("c", "route default via 10.64.3.9;", "", "0.0.0.0/0"),
        ("b", "-run p1 p2", "-run p1; -passive p2", "10.64.12.0/30"),
    ],
)
def test_what_is_not_announced_is_not_learned(router, old, new, missing) -> None:
    found = ring(**{router: RIP[router].replace(old, new)})
    heard_by = "c" if router == "b" else "a"
    assert missing not in [prefix for prefix, _, _ in found[heard_by]]


def test_neighbours_are_of_one_network_and_forward() -> None:
    assert ring(b=RIP["b"].replace("10.64.12.2/30", "10.64.12.6/30"))["a"] == []
    assert ring(b="forwarding off; " + RIP["b"]) == {"a": [], "b": [], "c": []}


def test_infinity_is_sixteen() -> None:
    """Of seventeen routers on a line the last but one from the first still learns its network, the last does not."""
    names = [f"r{n:02}" for n in range(17)]
    links = [f"{a}:p2 -- {b}:p1" for a, b in pairwise(names)]
    sheets = {
        name: f"port p1; -address 10.64.{n}.2/24; -on; port p2; -address 10.64.{n + 1}.1/24; -on; rip; -run p1 p2"
        for n, name in enumerate(names)
    }
    sheets["r00"] = (
        "loopback lo0; -address 10.65.0.1/32; port p2; -address 10.64.1.1/24; -on; rip; -run p2; -passive lo0"
    )
    lab = lab_of(" ".join(f"{n}=router:p1,p2" for n in names), links, sheets)
    network = Network.of_lab(lab, lab.model)
    knows = [
        any(r.network == 0x0A410001 and r.origin == "learned" for r in network.table(number).routes())
        for number in range(17)
    ]
    assert knows == [False, *[True] * 14, False, False]


CABINET = {
    "cab": (
        "instance west; instance east; port p1; -instance west; -address 10.64.1.1/24; -on;"
        "port p2; -instance east; -address 10.64.1.1/24; -on; port t1; -instance west; -address 10.64.12.1/30; -on;"
        "port t2; -instance east; -address 10.64.12.2/30; -on; route 10.64.2.0/24 via 10.64.12.2 in west"
    ),
    "ana": "port p1; -address 10.64.1.20/24; gateway 10.64.1.1",
    "bob": "port p1; -address 10.64.1.30/24; gateway 10.64.1.1",
}


def test_instances_know_nothing_of_each_other() -> None:
    lab = lab_of(
        "cab=router:p1,p2,t1,t2 ana=host bob=host", "cab:p1--ana:p1 cab:p2--bob:p1 cab:t1--cab:t2", CABINET
    )
    network = Network.of_lab(lab, lab.model)

    def came(sender: str, to: str, source: str | None = None) -> tuple[object, ...]:
        asked = ExpectedPing("1", sender, "reply", source, to=to)
        found = row(network, Runs(network, network, {"1": asked})["1"])
        return found["outcome"], found["reason"], found["there"], found["answered_by"]

    assert came("ana", "10.64.1.1") == ("reply", None, ["ana", "cab/west"], "cab")
    assert came("ana", "cab/east:t2") == ("timeout", "no-neighbour", ["ana", "cab/west", "cab/east"], "cab")
    assert came("cab/west", "10.64.12.2") == ("reply", None, ["cab/west", "cab/east"], "cab")
    assert came("cab", "10.64.1.30", "p2") == ("reply", None, ["cab/east", "bob"], "bob")
    assert came("cab/west", "10.64.1.30") == ("unreachable", "no-neighbour", ["cab/west"], None)
    found = known(network, Runs(network, network, {}))["cab"]
    assert found["instances"] == ["west", "east"]
    assert {r["instance"] for r in found["routes"]} == {"west", "east"}


def backups(
    order: str, links: str, routers: dict[str, tuple[int, str, str]]
) -> dict[str, tuple[str, str | None]]:
    """What routers hold for 10.5.0.0/24: origin and next hop of the route in use.

    ``routers`` have the preference of their own route, 0 for none, and the ports that announce and that listen only.
    Each link is a network of its own, in which a router's address ends in the number of its letter.
    """
    sheets = dict.fromkeys(order, "")
    for number, link in enumerate(links.split(), 1):
        for name, port in (end.split(":") for end in link.split("--")):
            sheets[name] += f"port {port}; -address 10.64.{number}.{ord(name) - 96}/24; -on;"
    for name, (preference, run, passive) in routers.items():
        sheets[name] += f"route 10.5.0.0/24 discard preference {preference};" if preference else ""
        sheets[name] += f"rip; -run {run}; -announce static" + (f"; -passive {passive}" if passive else "")
    lab = lab_of(" ".join(f"{name}=router:p1,p2" for name in order), links, sheets)
    network = Network.of_lab(lab, lab.model)
    rows = known(network, Runs(network, network, {}))
    return {
        name: next(
            (r["origin"], r["next_hop"])
            for r in rows[name]["routes"]
            if r["prefix"] == "10.5.0.0/24" and r["active"]
        )
        for name in sorted(order)
    }


BOTH = {"a": (60, "p1", ""), "b": (60, "p1", "")}
STANDS = ("static", None)
RING = {"a": (60, "p1", "p2"), "b": (0, "p2", "p1"), "c": (0, "p2", "p1")}
"""Each hears one neighbour only, so that the first hears its own route come back: there is no state of rest."""


@pytest.mark.parametrize(
    ("order", "links", "routers", "expected"),
    [
        ("ab", "a:p1--b:p1", BOTH, [STANDS, ("learned", "10.64.1.1")]),
        ("ba", "a:p1--b:p1", BOTH, [("learned", "10.64.1.2"), STANDS]),
        ("ab", "a:p1--b:p1", BOTH | {"b": (50, "p1", "")}, [("learned", "10.64.1.2"), STANDS]),  # equal: the sheet's own
        ("ab", "a:p1--b:p1", {"a": (49, "p1", ""), "b": (49, "p1", "")}, [STANDS, STANDS]),
        ("acb", "a:p1--c:p1 c:p2--b:p1", BOTH | {"c": (0, "p1 p2", "")},
         [STANDS, ("learned", "10.64.2.3"), ("learned", "10.64.1.1")]),
        ("cba", "a:p1--c:p1 c:p2--b:p1", BOTH | {"c": (0, "p1 p2", "")},
         [STANDS, ("learned", "10.64.2.3"), ("learned", "10.64.1.1")]),  # the lowest neighbour
        ("abc", "a:p1--b:p1 b:p2--c:p1 c:p2--a:p2", RING, [STANDS, ("learned", "10.64.1.1"), ("learned", "10.64.2.2")]),
    ],
)  # fmt: skip
def test_backup_routes_come_to_rest(order, links, routers, expected) -> None:
    """Of two that announce the same backup one stands: of the router that settles first in the order of the lab."""
    assert list(backups(order, links, routers).values()) == expected
