"""The weave: which networks there are, and an order that keeps them short."""

from dataclasses import replace

from tests.helpers import lab_of
from zensur.core.lab import Lab, read_lab
from zensur.core.sim import Network
from zensur.core.weave import Weave, weave
from zensur.demo import lab_text

TOLL = lab_of(
    "gauge=host ledger=host sw1=switch:p1,p2,p3,p4 notice=host gate=host weir=router:p1,s1 "
    "toll=router:p1,p2,p3,s1 carrier=router:p1,p2 far=host",
    "gate:p1--weir:p1 weir:s1--toll:s1 gauge:p1--sw1:p1 ledger:p1--sw1:p2 sw1:p3--toll:p1 notice:p1--toll:p3 "
    "toll:p2--carrier:p1 carrier:p2--far:p1",
    {
        "gate": "port p1; -address 10.64.16.20/20",
        "weir": "port p1; -address 10.64.16.1/20; -on; port s1; -address 10.64.255.2/30; -on; loopback lo0; -address 10.64.255.66/32",
        "gauge": "port p1; -address 10.64.8.20/24",
        "ledger": "port p1; -address 10.64.8.21/24",
        "notice": "port p1; -address 10.64.9.10/28",
        "toll": "port p1; -address 10.64.8.1/24; -on; port p2; -address 203.0.113.2/29; -on; port p3; -address 10.64.9.1/28; -on; "
                "port s1; -address 10.64.255.1/30; -on",
        "carrier": "port p1; -address 203.0.113.1/29; -on; port p2; -address 198.51.100.1/24; -on",
        "far": "port p1; -address 198.51.100.9/24",
    },
    networks={"basin": {"prefix": "10.64.8.0/24"}, "bridge": {"prefix": "10.64.255.0/30"}},
)  # fmt: skip


def chart(lab: Lab) -> Weave:
    return weave(lab, Network.of_lab(lab, lab.model))


def test_the_toll_house_runs_like_a_staircase() -> None:
    found = chart(TOLL)
    assert [c.device for c in found.columns] == [
        "gate",
        "weir",
        "gauge",
        "ledger",
        "sw1",
        "notice",
        "toll",
        "carrier",
        "far",
    ]
    assert [(r.name, r.prefix, r.serial, r.first, r.last) for r in found.rows] == [
        ("gate – weir", "10.64.16.0/20", False, 0, 1),
        ("bridge", "10.64.255.0/30", True, 1, 6),
        ("basin", "10.64.8.0/24", False, 2, 6),
        ("notice – toll", "10.64.9.0/28", False, 5, 6),
        ("toll – carrier", "203.0.113.0/29", False, 6, 7),
        ("carrier – far", "198.51.100.0/24", False, 7, 8),
    ]  # fmt: skip
    at = {
        (found.columns[k.column].device, found.rows[k.row].name): (k.label, k.host, k.up) for k in found.knots
    }
    assert at["sw1", "basin"] == ("p1–3", "", True)
    assert at["gate", "gate – weir"] == ("p1", "16.20", True)
    assert at["toll", "toll – carrier"] == ("p2", ".2", True)
    assert [(x.name, x.address) for c in found.columns for x in c.loopbacks] == [("lo0", "10.64.255.66")]
    assert (found.links, found.down) == (8, ())


def test_links_that_are_down_are_said() -> None:
    answer = dict(TOLL.answer)
    answer.pop("carrier")
    found = chart(replace(TOLL, answer=answer))
    assert found.down == ("toll:p2 -- carrier:p1", "carrier:p2 -- far:p1")


def test_every_device_has_one_column_and_rows_hold_their_knots() -> None:
    demo = [read_lab(lab_text(name)).lab for name in ("first-addresses", "four-gates")]
    ring = lab_of(
        " ".join(f"r{n}=router:p1,p2" for n in range(32)),
        " ".join(f"r{n}:p1--r{(n + 1) % 32}:p2" for n in range(32)),
    )
    for lab in [*demo, ring, lab_of("ana=host"), lab_of("ana=host bob=host", "ana:p1--bob:p1")]:
        assert lab is not None
        found = chart(lab)
        assert sorted(c.device for c in found.columns) == sorted(lab.devices)
        for number, row in enumerate(found.rows):
            columns = [k.column for k in found.knots if k.row == number]
            assert (row.first, row.last) == (min(columns), max(columns))
    longest = max((r.last or 0) - (r.first or 0) for r in chart(ring).rows)
    assert longest <= 2  # a ring folds flat: no network spans more than one column between
