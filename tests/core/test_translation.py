"""Translation: every kind, what is refused, what runs out, and errors brought back (RFC 3022, 4787, 5508)."""

from ipaddress import ip_address

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers import known, lab_of, row
from zensur.core.lab import ExpectedPing, ExpectedService, Lab
from zensur.core.sim import Network, Runs, journey
from zensur.core.sim.numbers import number_of

LINKS = "ana:p1--sw:p1 bob:p1--sw:p2 shop:p1--sw:p3 sw:p4--toll:p1 toll:p2--out:p1 out:p2--far:p1"
TOLL = (
    "port p1; -address 10.64.8.1/24; -realm internal; -on;"
    "port p2; -address 203.0.113.2/28; -realm external; -on;"
    "route default via 203.0.113.1;"
)
ANSWER = {
    "ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
    "bob": "port p1; -address 10.64.8.21/24; gateway 10.64.8.1",
    "shop": "port p1; -address 10.64.8.80/24; gateway 10.64.8.1; service tcp 80",
    "out": "port p1; -address 203.0.113.1/28; -on; port p2; -address 198.51.100.1/24; -on",
    "far": "port p1; -address 198.51.100.9/24; gateway 198.51.100.1; service tcp 80; service udp 53",
}


def toll_lab(toll: str, more: dict[str, str] | None = None) -> Lab:
    """The lab with translations of its own for the toll house."""
    return lab_of(
        "ana=host bob=host shop=host sw=switch:p1,p2,p3,p4 toll=router:p1,p2 out=router:p1,p2 far=host",
        LINKS,
        {**ANSWER, "toll": TOLL + toll, **(more or {})},
    )


def came_of(lab: Lab, *asked: str, fresh: bool = False) -> list[str]:
    """Run ``ana>198.51.100.9`` or ``far>tcp 203.0.113.2:80`` in order; each as outcome, reason and source seen."""
    network = Network.of_lab(lab, lab.model)
    listed: dict[str, ExpectedPing | ExpectedService] = {}
    for n, word in enumerate(asked):
        sender, _, to = word.partition(">")
        listed[str(n)] = (
            ExpectedService(str(n), sender, "answer", open=to)
            if " " in to
            else ExpectedPing(str(n), sender, "reply", to=to)
        )
    rows = [row(network, ran) for ran in Runs(network, network, listed, fresh).values()]
    return [" ".join(str(r[k]) for k in ("outcome", "reason", "seen_as") if r[k]) for r in rows]


ONE = "translate 10.64.8.20 as 203.0.113.4"
POOL = "pool spare 203.0.113.4 to 203.0.113.5; translate from 10.64.8.0/24 to spare"
SHARED = "translate from 10.64.8.0/24 to p2 shared"
PUBLISHED = "translate tcp 10.64.8.80:80 as p2:8080"
LISTED = "addresses crew; -deny 10.64.8.21; -permit 10.64.8.0/24;" + SHARED.replace("10.64.8.0/24", "crew")


@pytest.mark.parametrize(
    ("toll", "asked", "wanted"),
    [
        (ONE, ["ana>198.51.100.9", "far>203.0.113.4"], ["reply 203.0.113.4", "reply 198.51.100.9"]),
        (ONE, ["bob>198.51.100.9"], ["timeout no-route 10.64.8.21"]),  # far off, nobody knows the way back
        (ONE, ["toll>198.51.100.9", "out>203.0.113.2"], ["reply 203.0.113.2", "reply 203.0.113.1"]),
        (ONE, ["bob>203.0.113.4"], ["timeout no-session"]),  # not turned round
        ("translate 10.64.8.20 as p2", ["far>203.0.113.2", "toll>198.51.100.9"], ["reply 198.51.100.9", "reply 203.0.113.2"]),
        (POOL, ["far>203.0.113.4", "ana>198.51.100.9", "far>203.0.113.4"],
         ["timeout no-session", "reply 203.0.113.4", "reply 198.51.100.9"]),
        (POOL, ["bob>198.51.100.9", "ana>198.51.100.9", "ana>198.51.100.9", "shop>198.51.100.9"],
         ["reply 203.0.113.4", "reply 203.0.113.5", "reply 203.0.113.5", "unreachable pool-empty"]),
        (SHARED, ["ana>198.51.100.9", "bob>198.51.100.9", "bob>tcp 198.51.100.9:80"],
         ["reply 203.0.113.2", "reply 203.0.113.2", "answer 203.0.113.2"]),
        (SHARED + " ports 2000 to 2001", ["ana>198.51.100.9"] * 3,
         ["reply 203.0.113.2", "reply 203.0.113.2", "unreachable pool-empty"]),
        (SHARED, ["far>203.0.113.2"], ["reply 198.51.100.9"]),  # the router itself answers
        (PUBLISHED, ["far>tcp 203.0.113.2:8080", "far>tcp 203.0.113.2:80", "far>udp 203.0.113.2:8080"],
         ["answer 198.51.100.9", "refused refused 198.51.100.9", "refused refused 198.51.100.9"]),
        (PUBLISHED.replace("p2", "203.0.113.6"), ["far>tcp 203.0.113.6:8080", "far>203.0.113.6"],
         ["answer 198.51.100.9", "timeout no-session"]),
        (LISTED, ["ana>198.51.100.9", "bob>198.51.100.9"], ["reply 203.0.113.2", "timeout no-route 10.64.8.21"]),
        ("translate from nobody to p2 shared", ["ana>198.51.100.9"], ["timeout no-route 10.64.8.20"]),
        ("translate from 10.64.8.0/24 to nowhere shared", ["ana>198.51.100.9"], ["timeout no-route 10.64.8.20"]),
        # errors come back through the translation
        (SHARED, ["ana>198.51.100.77", "ana>192.0.2.1"], ["unreachable no-neighbour", "unreachable no-route"]),
    ],
)  # fmt: skip
def test_what_is_translated(toll, asked, wanted) -> None:
    assert came_of(toll_lab(toll), *asked) == wanted


TWO_WAYS = "ana:p1--sw:p1 bob:p1--sw:p2 sw:p3--toll:p1 toll:p2--east:p1 toll:p3--west:p1"
BOTH = {
    "toll": TOLL
    + "port p3; -address 203.0.113.34/28; -realm external; -on; route 192.0.2.0/24 via 203.0.113.33;",
    "east": "port p1; -address 203.0.113.1/28; -on; loopback lo0; -address 198.51.100.9/32",
    "west": "port p1; -address 203.0.113.33/28; -on; loopback lo0; -address 192.0.2.9/32",
}
EAST, WEST = "198.51.100.9", "192.0.2.9"
EACH = "translate from 10.64.8.0/24 to p2 shared out p2; translate from 10.64.8.0/24 to p3 shared out p3"


@pytest.mark.parametrize(
    ("toll", "asked", "wanted"),
    [
        (EACH, [f"ana>{EAST}", f"ana>{WEST}", f"ana>{EAST}"], ["reply 203.0.113.2", "reply 203.0.113.34", "reply 203.0.113.2"]),
        # out one way only: the other way nothing is translated, and nobody knows the way back
        ("translate from 10.64.8.0/24 to p2 shared out p2", [f"ana>{EAST}", f"ana>{WEST}"],
         ["reply 203.0.113.2", "timeout no-route 10.64.8.20"]),
        # the first that fits decides, so that what is for all ways stands last
        ("translate from 10.64.8.0/24 to p3 shared out p3; pool few 203.0.113.4 to 203.0.113.4; translate from 10.64.8.0/24 to few",
         [f"ana>{WEST}", f"bob>{EAST}", f"ana>{EAST}"], ["reply 203.0.113.34", "reply 203.0.113.4", "unreachable pool-empty"]),
        ("translate from 10.64.8.0/24 to p2 shared; translate from 10.64.8.0/24 to p3 shared out P3",
         [f"ana>{WEST}"], ["timeout no-route 203.0.113.2"]),
        # a host has an address for each way out
        ("pool a 203.0.113.4 to 203.0.113.4; pool b 203.0.113.36 to 203.0.113.36;"
         "translate from 10.64.8.0/24 to a out p2; translate from 10.64.8.0/24 to b out p3",
         [f"ana>{EAST}", f"ana>{WEST}", f"ana>{EAST}", "east>203.0.113.4", "west>203.0.113.36", "west>203.0.113.4"],
         ["reply 203.0.113.4", "reply 203.0.113.36", "reply 203.0.113.4", "reply 203.0.113.1", "reply 203.0.113.33", "no-route no-route"]),
        ("translate 10.64.8.20 as 203.0.113.4 out p2; translate 10.64.8.20 as 203.0.113.36 out p3",
         [f"ana>{EAST}", f"ana>{WEST}", "east>203.0.113.4", "west>203.0.113.36"],
         ["reply 203.0.113.4", "reply 203.0.113.36", "reply 203.0.113.1", "reply 203.0.113.33"]),
        # from outside it is for what comes in by the port, and the other way nobody is behind the address
        ("translate 10.64.8.20 as 203.0.113.36 out p2", ["west>203.0.113.36", f"ana>{EAST}"],
         ["timeout no-session", "timeout no-route 203.0.113.36"]),
        ("translate tcp 10.64.8.20:80 as p2:8080 out p2; translate tcp 10.64.8.20:80 as p3:80 out p3",
         ["east>tcp 203.0.113.2:8080", "west>tcp 203.0.113.34:80", "west>tcp 203.0.113.34:8080"],
         ["answer 203.0.113.1", "answer 203.0.113.33", "refused refused 203.0.113.33"]),
    ],
)  # fmt: skip
def test_a_router_with_two_ways_out_translates_for_each(toll, asked, wanted) -> None:
    sheets = {**{n: ANSWER[n] for n in ("ana", "bob")}, **BOTH, "toll": BOTH["toll"] + toll}
    sheets["ana"] += "; service tcp 80"
    lab = lab_of(
        "ana=host bob=host sw=switch:p1,p2,p3 toll=router:p1,p2,p3 east=router:p1 west=router:p1",
        TWO_WAYS,
        sheets,
    )
    assert came_of(lab, *asked) == wanted


@pytest.mark.parametrize(
    ("realms", "wanted"),
    [
        (("realm internal", "realm external"), ["reply 203.0.113.2", "answer 198.51.100.9"]),
        (("", "realm external"), ["timeout no-route 10.64.8.20", "refused refused 198.51.100.9"]),
        (("realm internal", ""), ["timeout no-route 10.64.8.20", "refused refused 198.51.100.9"]),
        (
            ("realm external", "realm internal"),
            ["timeout no-route 10.64.8.20", "refused refused 198.51.100.9"],
        ),
    ],
)
def test_realms_that_are_missing_or_swapped_translate_nothing(realms, wanted) -> None:
    toll = (
        (TOLL + SHARED + "; " + PUBLISHED)
        .replace("realm internal", "@")
        .replace("realm external", realms[1] or "on")
    )
    lab = toll_lab("", {"toll": toll.replace("@", realms[0] or "on")})
    assert came_of(lab, "ana>198.51.100.9", "far>tcp 203.0.113.2:8080") == wanted


def test_a_flow_that_began_untranslated_stays_so() -> None:
    lab = toll_lab(
        ONE + "; " + SHARED,
        {"out": ANSWER["out"] + "; route 10.64.8.0/24 via 203.0.113.2"},
    )
    assert came_of(lab, "far>10.64.8.20", "far>10.64.8.21") == ["reply 198.51.100.9"] * 2


def test_each_run_begins_with_empty_tables() -> None:
    lab = toll_lab(POOL)
    three = ["ana>198.51.100.9", "bob>198.51.100.9", "shop>198.51.100.9"]
    assert came_of(lab, *three)[2] == "unreachable pool-empty"
    assert came_of(lab, *three, fresh=True) == ["reply 203.0.113.4"] * 3


def test_the_journey_shows_both_ends_of_a_translation() -> None:
    lab = toll_lab(SHARED)
    network = Network.of_lab(lab, lab.model)
    runs = Runs(network, network, {"1": ExpectedPing("1", "ana", "reply", to="far")})
    legs = journey(network, runs["1"].result)
    assert [
        (leg.way, leg.source, leg.destination, done.end, done.before, done.after)
        for leg in legs
        if leg.device == "toll"
        for done in leg.rewritten
    ] == [
        ("there", "10.64.8.20", "198.51.100.9", "source", "10.64.8.20", "203.0.113.2"),
        ("back", "198.51.100.9", "203.0.113.2", "destination", "203.0.113.2", "10.64.8.20"),
    ]
    there = next(leg for leg in legs if leg.device == "toll")
    assert [line.text for line in there.lines] == [
        "translate from 10.64.8.0/24 to p2 shared", "route default via 203.0.113.1", "address 203.0.113.2/28",
    ]  # fmt: skip
    found = known(network, runs)["toll"]["translations"]
    assert [(t["kind"], t["protocol"], t["internal"], t["external"], t["remote"]) for t in found] == [
        ("shared", "icmp", "10.64.8.20:1", "203.0.113.2:1024", "198.51.100.9")
    ]


@pytest.mark.parametrize(
    ("toll", "asked", "line"),
    [
        (
            POOL,
            ["ana>198.51.100.9", "bob>198.51.100.9", "shop>198.51.100.9"],
            "translate from 10.64.8.0/24 to spare",
        ),
        (ONE, ["bob>203.0.113.4"], "translate 10.64.8.20 as 203.0.113.4"),
        (POOL, ["far>203.0.113.5"], "translate from 10.64.8.0/24 to spare"),
    ],
)
def test_the_line_behind_a_refusal_is_named(toll, asked, line) -> None:
    lab = toll_lab(toll)
    network = Network.of_lab(lab, lab.model)
    pings = [
        ExpectedPing(str(n), word.split(">")[0], "reply", to=word.split(">")[1])
        for n, word in enumerate(asked)
    ]
    runs = Runs(network, network, {p.id: p for p in pings})
    last = journey(network, runs[pings[-1].id].result)
    ended = next(leg for leg in last if leg.ended)
    assert ended.device == "toll"
    assert ended.lines[0].text == line
    assert not ended.rewritten


def test_the_line_that_denies_a_source_is_named() -> None:
    lab = toll_lab(LISTED)
    network = Network.of_lab(lab, lab.model)
    for host, more, lines in (
        ("bob", "does not translate 10.64.8.21, which is denied, ", ["deny 10.64.8.21"]),
        ("ana", "translates its source 10.64.8.20 to 203.0.113.2, ", ["translate from crew to p2 shared"]),
    ):
        runs = Runs(network, network, {"1": ExpectedPing("1", host, "reply", to="far")})
        leg = next(leg for leg in journey(network, runs["1"].result) if leg.device == "toll")
        assert leg.sentence == f"toll takes it in at p1, {more}sends it out of p2 to out"
        assert [line.text for line in leg.lines] == [
            *lines,
            "route default via 203.0.113.1",
            "address 203.0.113.2/28",
        ]


HOSTS = ("ana", "bob", "shop")


@settings(max_examples=80, deadline=None)
@given(
    st.sampled_from(
        [POOL, SHARED, SHARED.replace("p2", "203.0.113.0/29") + " ports 1 to 3", f"{ONE};{POOL}"]
    ),
    st.lists(
        st.tuples(st.sampled_from(HOSTS), st.sampled_from(["198.51.100.9", "203.0.113.1", "198.51.100.1"])),
        max_size=14,
    ),
)
def test_no_two_hosts_are_one_outside(toll, asked) -> None:
    """Tables are bijective: an external address and number belongs to one host, and a kept address to one host."""
    toll = toll.replace("203.0.113.0/29", "few").replace(
        "translate from 10.64.8.0/24 to few",
        "pool few 203.0.113.4 to 203.0.113.6;translate from 10.64.8.0/24 to few",
    )
    lab = toll_lab(toll)
    network = Network.of_lab(lab, lab.model)
    runs = Runs(
        network, network, {str(n): ExpectedPing(str(n), s, "reply", to=to) for n, (s, to) in enumerate(asked)}
    )
    list(runs.values())
    table = runs.sessions.tables.get(network.wiring.device["toll"]) if runs.sessions else None
    sessions = table.sessions if table else []
    outside = [(s.protocol, s.external, s.external_number) for s in sessions]
    inside = [(s.protocol, s.internal, s.internal_number) for s in sessions]
    assert len(set(outside)) == len(outside) == len(set(inside))
    if ONE in toll:
        assert number_of(ip_address("203.0.113.4")) not in {s.external for s in sessions}
    for ran in runs.values():
        if ran.result.outcome.value == "reply":
            seen = ran.result.seen_as
            assert seen is not None
            assert seen >> 8 != 0x0A4008  # nobody outside sees an internal address
