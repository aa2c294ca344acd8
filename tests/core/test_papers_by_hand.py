"""Papers written by hand, as learners write them, with the mistakes that an instructor names: an oracle beside the generator.

One lab: two routers on a serial link, a switch with two VLANs, a translation to the outside, leases, names. Each paper is
the model answer with some lines written otherwise; nothing here shares code with what makes slips.
"""

import pytest

from tests.helpers import lab_of, mark
from zensur.core.marking.charged import NOT_CARRIED
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.sheet import read_sheet

DEVICES = "weir=router:p1,p2,s1 quay=router:p1,s1 sw=switch:p1,p2,p3 ana=host bob=host cia=host far=router:p1,p2 shop=host"
LINKS = [
    "weir:p1--sw:p1", "sw:p2--ana:p1", "sw:p3--bob:p1", "weir:s1--quay:s1 clock weir", "quay:p1--cia:p1",
    "weir:p2--far:p1", "far:p2--shop:p1",
]  # fmt: skip
WEIR = """port p1
  on
port p1.10
  address 10.64.10.1/24
  realm internal
port p1.20
  address 10.64.20.1/24
  realm internal
port p2
  address 203.0.113.2/29
  realm external
  on
port s1
  address 10.64.0.1/30
  clocking 64000
  on
route default via 203.0.113.1
route 10.64.40.0/24 via 10.64.0.2
addresses crew
  deny 10.64.10.66
  permit 10.64.10.0 wildcard 0.0.0.255
pool spare 203.0.113.4 to 203.0.113.5
translate from crew to spare shared
translate 10.64.20.20 as 203.0.113.6
"""
QUAY = """port p1
  address 10.64.40.1/24
  on
port s1
  address 10.64.0.2/30
  on
route 10.64.10.0/24 via 10.64.0.1
route 10.64.20.0/24 via 10.64.0.1
"""
SW = """vlan 10
vlan 20
port p1
  trunk 10,20
port p2
  access 10
port p3
  access 20
"""
ANA = "port p1\n  address 10.64.10.20/24\ngateway 10.64.10.1\n"
BOB = "port p1\n  address 10.64.20.20/24\ngateway 10.64.20.1\n"
CIA = "port p1\n  address 10.64.40.20/24\ngateway 10.64.40.1\n"
FAR = "port p1\n  address 203.0.113.1/29\n  on\nport p2\n  address 198.51.100.1/24\n  on\n"
SHOP = "port p1\n  address 198.51.100.20/24\ngateway 198.51.100.1\n"
ANSWER = {"weir": WEIR, "quay": QUAY, "sw": SW, "ana": ANA, "bob": BOB, "cia": CIA}
PINGS = "ana>bob ana>cia cia>bob ana>shop bob>shop shop>203.0.113.6 cia>198.51.100.20=no-reply"
LAB = lab_of(DEVICES, LINKS, ANSWER, PINGS, given={"far": FAR, "shop": SHOP})
MARKER = Marker(LAB)

# Each: what an instructor says of the paper; per device what was written for what; the mistakes as slip, device and line.
PAPERS = [
    ("all right", {}, []),
    ("serial port never turned on", {"weir": [("  clocking 64000\n  on\n", "  clocking 64000\n")]}, [("port-left-off", "weir", 13)]),
    ("the parent of the sub-ports is off", {"weir": [("port p1\n  on\n", "port p1\n")]}, [("port-left-off", "weir", 1)]),
    ("no clock", {"weir": [("  clocking 64000\n", "")]}, [("clock-missing", "weir", 13)]),
    ("clock at the other end", {"weir": [("  clocking 64000\n", "")], "quay": [("10.64.0.2/30\n", "10.64.0.2/30\n  clocking 64000\n")]},
     [("clock-on-the-wrong-end", "weir", 13)]),
    ("an octet mistyped", {"ana": [("10.64.10.20", "10.64.11.20")]}, [("wrong-address", "ana", 2)]),
    ("a header misspelt", {"ana": [("port p1", "prot p1")]}, [("line-not-understood", "ana", 1)]),
    ("a header misspelt above a wrong address", {"ana": [("port p1", "prot p1"), ("10.64.10.20", "10.64.11.20")]},
     [("line-not-understood", "ana", 1), ("wrong-address", "ana", 2)]),
    ("the sheet of another, with a header misspelt", {"weir": QUAY.replace("port s1", "prot s1"), "quay": [("port s1", "prot s1")]},
     [("sheet-handed-in-for-the-wrong-device", "weir", None), ("line-not-understood", "quay", 4)]),
    ("/25 for /24", {"cia": [("20/24", "20/25")]}, [("wrong-mask", "cia", 2)]),
    ("the neighbour's address", {"quay": [("10.64.0.2/30", "10.64.0.1/30")]}, [("duplicate-address", "quay", 5)]),
    ("no gateway", {"bob": [("gateway 10.64.20.1\n", "")]}, [("gateway-missing", "bob", None)]),
    ("a gateway in another network", {"bob": [("10.64.20.1\n", "10.64.10.1\n")]}, [("gateway-outside-the-network", "bob", 3)]),
    ("its own address as gateway", {"cia": [("gateway 10.64.40.1", "gateway 10.64.40.20")]}, [("gateway-is-the-device-itself", "cia", 3)]),
    ("the way there was forgotten", {"weir": [("route 10.64.40.0/24 via 10.64.0.2\n", "")]}, [("route-missing", "weir", None)]),
    ("the way back was forgotten", {"quay": [("route 10.64.10.0/24 via 10.64.0.1\n", "")]}, [("return-route-missing", "quay", None)]),
    ("own address as next hop", {"quay": [("10.64.10.0/24 via 10.64.0.1", "10.64.10.0/24 via 10.64.0.2")]}, [("next-hop-is-the-device-itself", "quay", 7)]),
    ("half of the network only", {"weir": [("route 10.64.40.0/24", "route 10.64.40.128/25")]}, [("route-with-the-wrong-mask", "weir", 18)]),
    ("another network", {"weir": [("route 10.64.40.0/24", "route 10.64.41.0/24")]}, [("route-to-the-wrong-network", "weir", 18)]),
    ("one summary in place of two routes", {"quay": [("route 10.64.10.0/24 via 10.64.0.1\nroute 10.64.20.0/24 via 10.64.0.1\n", "route 10.64.0.0/19 via 10.64.0.1\n")]}, []),
    ("out of the port in place of via", {"weir": [("10.64.40.0/24 via 10.64.0.2", "10.64.40.0/24 out s1")]}, []),
    ("a host in another VLAN", {"sw": [("access 20", "access 10")]}, [("wrong-vlan", "sw", 8)]),
    ("one VLAN not let through", {"sw": [("trunk 10,20", "trunk 10")]}, [("vlan-missing-on-the-trunk", "sw", 4)]),
    ("a VLAN not declared", {"sw": [("vlan 20\n", "")]}, [("vlan-not-declared", "sw", None)]),
    ("inside and outside exchanged", {"weir": [("203.0.113.2/29\n  realm external", "203.0.113.2/29\n  realm internal"), ("10.64.10.1/24\n  realm internal", "10.64.10.1/24\n  realm external")]},
     [("realms-swapped", "weir", 5)]),
    ("no side given", {"weir": [("10.64.10.1/24\n  realm internal\n", "10.64.10.1/24\n")]}, [("realm-missing", "weir", 3)]),
    ("mapping turned round", {"weir": [("translate 10.64.20.20 as 203.0.113.6", "translate 203.0.113.6 as 10.64.20.20")]}, [("translated-addresses-swapped", "weir", 24)]),
    ("a pool that is not there", {"weir": [("to spare shared", "to spares shared")]}, [("undefined-name", "weir", 23)]),
    ("mask for a wildcard", {"weir": [("wildcard 0.0.0.255", "wildcard 255.255.255.0")]}, [("mask-and-wildcard-confused", "weir", 21)]),
    ("the order of the list", {"weir": [("  deny 10.64.10.66\n  permit 10.64.10.0 wildcard 0.0.0.255\n", "  permit 10.64.10.0 wildcard 0.0.0.255\n  deny 10.64.10.66\n")]},
     [("lines-in-the-wrong-order", "weir", 20)]),
    ("other names for list and pool", {"weir": [("addresses crew", "addresses inside"), ("from crew", "from inside"), ("pool spare", "pool few"), ("to spare", "to few")]}, []),
    ("a keyword mistyped", {"quay": [("route 10.64.20.0", "rout 10.64.20.0")]}, [("line-not-understood", "quay", 8)]),
    ("a keyword mistyped, and the same network once more by a wrong way",
     {"quay": [("route 10.64.20.0/24 via 10.64.0.1\n", "rout 10.64.20.0/24 via 10.64.0.1\nroute 10.64.20.0/24 via 10.64.40.77\n")]},
     [("line-not-understood", "quay", 8), ("route-where-none-should-be", "quay", 9)]),
    ("an address with a keyword mistyped, and a wrong one", {"ana": [("address 10.64.10.20/24", "adress 10.64.10.20/24\n  address 10.64.11.20/24")]},
     [("line-not-understood", "ana", 2), ("address-where-none-should-be", "ana", 3)]),
    ("a sheet not handed in", {"quay": None}, [("sheet-missing", "quay", None)]),
    ("two sheets under each other's name", {"weir": QUAY, "quay": WEIR}, [("two-sheets-exchanged", "weir", None)]),
    ("two hosts with each other's address", {"ana": [("10.64.10.20", "10.64.20.20")], "bob": [("10.64.20.20/24", "10.64.10.20/24")]},
     [("two-ports-swapped", "ana", 2)]),
    ("the route on the other router", {"weir": [("route 10.64.40.0/24 via 10.64.0.2\n", "")], "quay": [("route 10.64.20", "route 10.64.40.0/24 via 10.64.0.2\nroute 10.64.20")]},
     [("statement-on-the-wrong-device", "weir", None)]),
    ("nothing but the addresses", {"ana": [("gateway 10.64.10.1\n", "")], "bob": [("gateway 10.64.20.1\n", "")], "cia": [("gateway 10.64.40.1\n", "")]},
     [("gateway-missing", "ana", None), ("gateway-missing", "bob", None), ("gateway-missing", "cia", None)]),
    ("a port off and a mask wrong", {"quay": [("10.64.0.2/30\n  on", "10.64.0.2/30")], "ana": [("20/24", "20/16")]}, [("port-left-off", "quay", 4), ("wrong-mask", "ana", 2)]),
    ("three at once", {"weir": [("  clocking 64000\n", ""), ("to spare shared", "to spare")], "bob": [("20.1\n", "20.2\n")]},
     [("clock-missing", "weir", 13), ("shared-missing", "weir", 22), ("gateway-wrong", "bob", 3)]),
]  # fmt: skip


def paper(changes: dict[str, object]) -> Paper:
    texts = dict(ANSWER)
    for device, change in changes.items():
        if change is None:
            del texts[device]
        elif isinstance(change, str):
            texts[device] = change
        else:
            assert isinstance(change, list)
            for old, new in change:
                assert old in texts[device], (device, old)
                texts[device] = texts[device].replace(old, new, 1)
    sheets = {name: read_sheet(text, f"{name}.sheet") for name, text in texts.items()}
    return Paper("0417", sheets, {name: f"{name}.sheet" for name in sheets})


@pytest.mark.parametrize(("changes", "mistakes"), [p[1:] for p in PAPERS], ids=[p[0] for p in PAPERS])
def test_an_instructor_names_the_same_mistakes(changes, mistakes) -> None:
    result = MARKER.mark(paper(changes))
    assert [(f.slip, f.device, f.line) for f in result.faults] == mistakes
    assert (result.carried == result.out_of) is (not mistakes)
    direct = sum(f.direct for f in result.faults)
    not_carried = sum(c.marks * (1 - c.fraction) for c in result.criteria if c.note == NOT_CARRIED)
    assert direct + not_carried == pytest.approx(result.out_of - result.carried)


def test_a_ping_that_finds_the_pool_empty_is_a_consequence_of_the_narrow_pool() -> None:
    toll = (
        "port p1; -address 10.64.8.1/24; -realm internal; -on; port p2; -address 203.0.113.2/29; -realm external; -on; "
        "addresses crew; -permit 10.64.8.0/24; pool spare 203.0.113.4 to 203.0.113.5; translate from crew to spare"
    )
    lab = lab_of(
        "toll=router:p1,p2 sw=switch:p1,p2,p3 ana=host bob=host shop=host",
        "toll:p1--sw:p1 sw:p2--ana:p1 sw:p3--bob:p1 toll:p2--shop:p1",
        {
            "toll": toll,
            "ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
            "bob": "port p1; -address 10.64.8.21/24; gateway 10.64.8.1",
            "shop": "port p1; -address 203.0.113.1/29",
        },
        "ana>shop bob>shop",
    )
    result = mark(lab, {"toll": toll.replace("to 203.0.113.5", "to 203.0.113.4")})
    (fault,) = result.faults
    assert (fault.slip, fault.consequences) == ("pool-wrong", ("ping:2",))
