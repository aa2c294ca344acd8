"""One mistake, one name: papers by hand whose single mistake breaks much, or is spread over several lines."""

import pytest

from tests.helpers import lab_of, mark, paper_of
from zensur.core.lab import read_lab
from zensur.core.marking.charged import NOT_CARRIED
from zensur.core.marking.differences import headers
from zensur.core.marking.differences.found import MOST_NEEDLESS
from zensur.core.marking.making.papers import sample_class
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.sheet import Sheet, read_sheets
from zensur.demo import lab_text

ROUTES = (
    "route 10.64.16.0/24 via 10.64.0.2\nroute 10.64.24.0/24 via 10.64.0.2\nroute 10.64.0.4/30 via 10.64.0.2\n"
    "route 198.51.100.0/24 via 10.64.0.2\n"
)
LEASES = "dhcp crew\n  network 10.64.8.0/24\n  range 10.64.8.100 to 10.64.8.120\n  gateway 10.64.8.1\n  resolver 10.64.16.20\n"
NAMES = "dns\n  record shop.example 198.51.100.20\n  record cia.example 10.64.24.20\n"
TWO_HOSTS = "  permit 10.64.8.20\n  permit 10.64.16.20\n"
LIST = "  permit 10.64.8.0/24\n  permit 10.64.16.0/24\n"
PUBLISHED = "translate tcp 10.64.24.20:80 as 203.0.113.2:8080"
SHARED = "translate from crew to p3 shared\n"
CIA = "port p1\n  address 10.64.24.20/24\ngateway 10.64.24.1\nservice tcp 80\n"
LAB = lab_of(
    "weir=router:p1,p2,p3 quay=router:p1,p2,p3 toll=router:p1,p2,p3 far=router:p1,p2 ana=host bob=host cia=host shop=host "
    "sw=switch:p1,p2,p3,p4 dan=host",
    "weir:p1--sw:p1 sw:p2--ana:p1 sw:p3--dan:p1 weir:p2--quay:p1 quay:p2--bob:p1 quay:p3--toll:p1 toll:p2--cia:p1 toll:p3--far:p1 "
    "far:p2--shop:p1",
    {
        "weir": "port p1\n  address 10.64.8.1/24\n  on\nport p2\n  address 10.64.0.1/30\n  on\n"
        + ROUTES
        + LEASES,
        "quay": "port p1\n  address 10.64.0.2/30\n  on\nport p2\n  address 10.64.16.1/24\n  on\nport p3\n  address 10.64.0.5/30\n  on\n"
        "route 10.64.8.0/24 via 10.64.0.1\nroute 10.64.24.0/24 via 10.64.0.6\nroute default via 10.64.0.6\n",
        "toll": "port p1\n  address 10.64.0.6/30\n  realm internal\n  on\nport p2\n  address 10.64.24.1/24\n  realm internal\n  on\n"
        "port p3\n  address 203.0.113.2/29\n  realm external\n  on\nroute 10.64.0.0/19 via 10.64.0.5\nroute default via 203.0.113.1\n"
        "addresses crew\n" + LIST + SHARED + PUBLISHED + "\n",
        "ana": "port p1\n  address 10.64.8.20/24\ngateway 10.64.8.1\nresolver 10.64.16.20\n",
        "dan": "port p1\n  address dhcp\n",
        "bob": "port p1\n  address 10.64.16.20/24\ngateway 10.64.16.1\n" + NAMES,
        "cia": CIA,
        "sw": "vlan 10\nport p1\n  access 10\nport p2\n  access 10\nport p3\n  access 10\n",
    },
    "ana>bob ana>cia bob>cia ana>shop bob>shop dan>bob",
    given={
        "far": "port p1\n  address 203.0.113.1/29\n  on\nport p2\n  address 198.51.100.1/24\n  on\n",
        "shop": "port p1\n  address 198.51.100.20/24\ngateway 198.51.100.1\n",
    },
    services=[
        {"from": "shop", "open": "tcp 203.0.113.2:8080", "expect": "answer"},
        {"from": "ana", "resolve": "cia.example", "expect": "10.64.24.20"},
    ],
)
MARKER = Marker(LAB)
MISNUMBERED = {
    "weir": [("10.64.0.1/30", "10.64.0.9/30"), (ROUTES, ROUTES.replace("10.64.0.2", "10.64.0.10"))],
    "quay": [("10.64.0.2/30", "10.64.0.10/30"), ("via 10.64.0.1", "via 10.64.0.9")],
}

# Each: what an instructor says of the paper, what was written for what, the mistake as slip, device and line.
PAPERS = [
    ("a default in the place of four routes", {"weir": [(ROUTES, "route default via 10.64.0.2\n")]}, None),
    ("it leads nowhere", {"weir": [(ROUTES, "route default via 10.64.0.3\n")]}, ("wrong-next-hop", "weir", 7)),
    ("it leads to the device itself", {"weir": [(ROUTES, "route default via 10.64.0.1\n")]}, ("next-hop-is-the-device-itself", "weir", 7)),
    ("it leaves by the wrong port", {"weir": [(ROUTES, "route default out p1\n")]}, ("wrong-next-hop", "weir", 7)),
    ("out of the port, and the neighbour answers for others", {"weir": [(ROUTES, "route default out p2\n")]}, None),
    ("but it has been told not to", {"weir": [(ROUTES, "route default out p2\n")], "quay": [("port p1\n", "port p1\n  proxy off\n")]},
     ("statement-where-none-should-be", "quay", 2)),
    ("no leases at all", {"weir": [(LEASES, "")]}, ("lease-block-missing", "weir", None)),
    ("no names at all", {"bob": [(NAMES, "")]}, ("names-missing", "bob", None)),
    ("the names on another device", {"bob": [(NAMES, "")], "cia": [(CIA, CIA + NAMES)]}, ("statement-on-the-wrong-device", "bob", None)),
    ("a port mistyped", {"quay": [("port p2\n", "port 2\n")]}, ("line-not-understood", "quay", 4)),
    ("a blank in its name", {"quay": [("port p2\n", "port p 2\n")]}, ("line-not-understood", "quay", 4)),
    ("a header indented", {"quay": [("port p2\n", "  port p2\n")]}, ("line-not-understood", "quay", 4)),
    ("a reserved word for the list", {"toll": [("addresses crew", "addresses any"), ("from crew", "from any")]},
     ("line-not-understood", "toll", 15)),
    ("in capitals", {"toll": [("addresses crew", "addresses ANY"), ("from crew", "from Any")]}, ("line-not-understood", "toll", 15)),
    ("no translation at all", {"toll": [("addresses crew\n" + LIST, ""), (SHARED, "")]}, ("translation-missing", "toll", None)),
    ("a list of the two hosts only", {"toll": [(LIST, TWO_HOSTS)]}, ("list-does-not-permit-the-sources", "toll", 16)),
    ("one-to-one in the place of a service", {"toll": [(PUBLISHED, "translate 10.64.24.20 as 203.0.113.4")]}, ("translation-wrong", "toll", 19)),
    ("another router's address", {"quay": [("  address 10.64.16.1/24\n", "")], "weir": [("port p2\n", "port p3\n  address 10.64.16.1/24\n  on\nport p2\n")]},
     ("statement-on-the-wrong-device", "quay", 4)),
    ("a host with another's sheet", {"ana": [("port p1\n  address 10.64.8.20/24\ngateway 10.64.8.1\nresolver 10.64.16.20\n", CIA)]},
     ("sheet-handed-in-for-the-wrong-device", "ana", None)),
    ("it does not forward", {"quay": [("port p1\n", "forwarding off\nport p1\n")]}, ("forwarding-off", "quay", 1)),
    ("the network's own address", {"ana": [("10.64.8.20/24", "10.64.8.0/24")]}, ("network-or-broadcast-address", "ana", 2)),
    ("the broadcast address", {"ana": [("10.64.8.20/24", "10.64.8.255/24")]}, ("network-or-broadcast-address", "ana", 2)),
    ("both ends agree on another network", MISNUMBERED, ("network-misnumbered", "weir", 5)),
    ("a realm on the wrong port", {"toll": [("  realm internal\n  on\nport p3\n", "  on\nport p3\n"), ("address 203.0.113.2/29\n", "address 203.0.113.2/29\n")]},
     ("realm-missing", "toll", 5)),
]  # fmt: skip


@pytest.mark.parametrize(("changes", "mistake"), [p[1:] for p in PAPERS], ids=[p[0] for p in PAPERS])
def test_one_mistake_has_one_name_and_is_charged_once(changes, mistake) -> None:
    texts: dict[str, str | None] = {}
    for device, lines in changes.items():
        text = LAB.answer[device].text
        for old, new in lines:
            assert old in text, old
            text = text.replace(old, new, 1)
        texts[device] = text
    paper = paper_of(LAB, texts)
    result = MARKER.mark(paper)
    assert [(f.slip, f.device, f.line) for f in result.faults] == ([] if mistake is None else [mistake])
    direct = sum(f.direct for f in result.faults)
    not_carried = sum(c.marks * (1 - c.fraction) for c in result.criteria if c.note == NOT_CARRIED)
    assert direct + not_carried == pytest.approx(result.out_of - result.carried)
    assert not any(e.changes for e in result.extras if mistake is not None)
    mended = {d: Sheet(c, (), 0, "") for d, c in MARKER.repaired(paper).items()}
    again = MARKER.mark(Paper("0417", mended))
    assert [(c.id, c.found) for c in again.criteria if c.fraction < 1] == []


SENTENCES = [
    ("weir", [(ROUTES, "route default via 10.64.0.3\n")], "route default via 10.64.0.3 sends packets for all other networks to the wrong neighbour."),
    ("weir", [("route 10.64.16.0/24 via 10.64.0.2", "route 10.64.16.0/24 discard")], "route 10.64.16.0/24 discard drops packets for 10.64.16.0/24 at weir."),
    ("weir", [("route 10.64.16.0/24 via 10.64.0.2", "route 10.64.16.0/24 out p1")],
     "route 10.64.16.0/24 out p1 sends packets for 10.64.16.0/24 out of p1, where the neighbour is not the one that is wanted."),
    ("weir", [("route 10.64.16.0/24 via 10.64.0.2", "route 10.64.16.0/24 via 10.65.0.2")],
     "route 10.64.16.0/24 via 10.65.0.2 is not in use: weir has no port by which it reaches 10.65.0.2."),
    ("quay", [("route default via 10.64.0.6\n", "")], "quay has no default route."),
    ("quay", [("port p1\n", "forwarding off\nport p1\n")], "quay has to forward packets between its ports."),
    ("quay", [("route 10.64.8.0/24 via 10.64.0.1\n", "")],
     "Packets arrive, but quay has no route back to 10.64.8.0/24: route default via 10.64.0.6 takes the answers elsewhere."),
    ("toll", [("route 10.64.0.0/19 via 10.64.0.5\n", "")], "Packets arrive, but toll has no route back to 10.64.0.0/19: route default via 203.0.113.1 takes the answers elsewhere."),
    ("ana", [("gateway 10.64.8.1\n", "")], "Without a gateway ana reaches its own network and nothing else."),
    ("ana", [("gateway 10.64.8.1\n", "gateway 10.64.8.9\n")], "gateway 10.64.8.9 is no router's address."),
    ("cia", [("gateway 10.64.24.1\n", "gateway 10.64.24.20\n")], "gateway 10.64.24.20 is cia's own address; the gateway is the router on its network."),
    ("toll", [("  permit 10.64.8.0/24\n", "")], "The list on toll lets fewer sources pass than planned: permit 10.64.8.0/24 is missing."),
    ("toll", [("addresses crew\n", "addresses crew\n  deny 10.64.8.20\n")], "The list on toll lets fewer sources pass than planned: deny 10.64.8.20 does not belong there."),
    ("quay", [("route 10.64.8.0/24", "rout 10.64.8.0/24")],
     "Line 10 of quay was not understood, so nothing of it counts: rout is not a word that can stand here."),
]  # fmt: skip


@pytest.mark.parametrize(("device", "lines", "said"), SENTENCES, ids=[s[2] for s in SENTENCES])
def test_the_sentence_is_true_of_the_paper(device: str, lines: list[tuple[str, str]], said: str) -> None:
    text = LAB.answer[device].text
    for old, new in lines:
        text = text.replace(old, new, 1)
    (fault,) = MARKER.mark(paper_of(LAB, {device: text})).faults
    assert fault.said == said


TO_AND_FRO = lab_of(
    "ana=host weir=router:p1,p2 hub=router:p1,p2 bob=host",
    "ana:p1--weir:p1 weir:p2--hub:p1 hub:p2--bob:p1",
    {
        "ana": "port p1; -address 10.64.1.20/24; gateway 10.64.1.1",
        "weir": "port p1; -address 10.64.1.1/24; -on; port p2; -address 10.64.0.1/30; -on; route default via 10.64.0.2",
        "hub": "port p1; -address 10.64.0.2/30; -proxy off; -on; port p2; -address 10.64.2.1/24; -on; "
        "route 10.64.1.0/24 via 10.64.0.1",
        "bob": "port p1; -address 10.64.2.20/24; gateway 10.64.2.1",
    },
    "ana>bob bob>10.64.9.9=no-reply",
)


@pytest.mark.parametrize(
    ("device", "old", "new", "slip", "said"),
    [
        ("hub", "via 10.64.0.1\n", "via 10.64.0.1\nroute default via 10.64.0.1\n", "circle",
         "route default via 10.64.0.1 sends packets back to where they come from: they go round hub and weir."),
        ("hub", "via 10.64.0.1\n", "via 10.64.0.1\nroute 10.64.0.0/16 via 10.64.0.1\n", "circle",
         "route 10.64.0.0/16 via 10.64.0.1 sends packets back to where they come from: they go round hub and weir."),
        ("weir", "via 10.64.0.2", "out p2", "works-only-where-a-neighbour-answers",
         "route default out p2 names no next hop, so that weir asks on p2 for each address itself: that works only "
         "where a neighbour answers for others."),
        ("hub", "via 10.64.0.1", "out p2", "wrong-next-hop", None),
        ("hub", "via 10.64.0.1", "via 10.64.2.20", "wrong-next-hop",
         "route 10.64.1.0/24 via 10.64.2.20 sends packets for 10.64.1.0/24 back to where they come from: they go round bob and hub."),
    ],
)  # fmt: skip
def test_routes_that_lead_back_or_ask_for_everybody(device, old, new, slip, said) -> None:
    text = TO_AND_FRO.answer[device].text
    assert old in text
    result = Marker(TO_AND_FRO).mark(paper_of(TO_AND_FRO, {device: text.replace(old, new)}))
    assert result.pings[1].as_expected is (slip != "circle")  # what has to fail does not fail in a circle
    (fault,) = result.faults
    assert (fault.slip, fault.line) == (slip, 1 + text.replace(old, new).split("\n").index(fault.found or ""))
    assert said in (None, fault.said)


WIDE = lab_of(
    "ana=host weir=router:p1,p2 hub=router:p1,p2 quay=router:p1,p2 bob=host",
    "ana:p1--weir:p1 weir:p2--hub:p1 hub:p2--quay:p1 quay:p2--bob:p1",
    {
        "ana": "port p1; -address 10.64.1.20/24; gateway 10.64.1.1",
        "bob": "port p1; -address 10.64.2.20/24; gateway 10.64.2.1",
        "weir": "port p1; -address 10.64.1.1/24; -on; port p2; -address 10.64.0.1/30; -on; route 10.64.2.0/24 via 10.64.0.2",
        "hub": "port p1; -address 10.64.0.2/30; -on; port p2; -address 10.64.0.5/30; -on; route 10.64.1.0/24 via 10.64.0.1; "
        "route 10.64.2.0/24 via 10.64.0.6",
        "quay": "port p1; -address 10.64.0.6/30; -on; port p2; -address 10.64.2.1/24; -on; route 10.64.1.0/24 via 10.64.0.5",
    },
    "ana>bob bob>ana",
)


def test_a_summary_that_leads_back_is_told_as_a_circle() -> None:
    text = WIDE.answer["hub"].text.replace("10.64.2.0/24 via 10.64.0.6", "10.64.0.0/16 via 10.64.0.1")
    (fault,) = Marker(WIDE).mark(paper_of(WIDE, {"hub": text})).faults
    assert fault.said == (
        "route 10.64.0.0/16 via 10.64.0.1 sends packets for 10.64.0.0/16 back to where they come from: they go round weir and "
        "hub."
    )


BOXES = lab_of(
    "cab=router:p1,p2,p3 weir=router:p1 ana=host",
    "cab:p1--ana:p1 cab:p2--weir:p1",
    {
        "cab": "instance west; port p1; -instance west; -address 2001:db8:8::1/64; -on; port p2; -instance west; "
        "-address fe80::1/64; -address 2001:db8:1::1/64; -on; port p3; -address 2001:db8:9::1/64; -on; "
        "route 2001:db8:16::/64 via fe80::2 out p2 in west; route 2001:db8:17::/64 via 2001:db8:1::2 in west",
        "weir": "port p1; -address 2001:db8:1::2/64; -address fe80::2/64; -on; route ::/0 via 2001:db8:1::1",
        "ana": "port p1; -address 2001:db8:8::20/64; gateway 2001:db8:8::1",
    },
    "ana>2001:db8:1::2",
)


@pytest.mark.parametrize(
    ("old", "new", "slip"),
    [
        ("2001:db8:17::/64 via 2001:db8:1::2 in west", "2001:db8:17::/64 via 2001:db8:1::2 in wets", "route-in-the-wrong-instance"),
        ("2001:db8:17::/64 via 2001:db8:1::2 in west", "2001:db8:17::/64 via 2001:db8:1::2", "route-in-the-wrong-instance"),
        ("2001:db8:17::/64 via 2001:db8:1::2 in west", "2001:db8:17::/64 via 2001:db8:9::1 in west", "wrong-next-hop"),
        ("2001:db8:17::/64 via 2001:db8:1::2 in west", "2001:db8:17::/64 via 2001:db8:1::1 in west", "next-hop-is-the-device-itself"),
        ("via fe80::2 out p2 in west", "via fe80::2 in west", "link-local-gateway-without-its-port"),
    ],
)  # fmt: skip
def test_what_is_wrong_within_an_instance(old: str, new: str, slip: str) -> None:
    text = BOXES.answer["cab"].text
    assert old in text
    (fault,) = Marker(BOXES).mark(paper_of(BOXES, {"cab": text.replace(old, new)})).faults
    assert fault.slip == slip


def test_addresses_of_the_first_network_are_ordinary_but_for_the_first() -> None:
    lab = lab_of(
        "weir=router:p1 ana=host",
        "weir:p1--ana:p1",
        {
            "weir": "port p1; -address 0.9.0.1/24; -on",
            "ana": "port p1; -address 0.9.0.20/24; gateway 0.9.0.1",
        },
        "ana>weir ana>0.0.0.0=no-reply",
    )
    assert all(run.as_expected for run in Marker(lab).facts.model.runs.values())


def test_a_class_is_made_where_a_slip_left_out_one_of_the_sheets_to_exchange() -> None:
    lab = read_lab(lab_text("toll-house")).lab
    assert lab is not None
    assert len(sample_class(lab, 150, 3)) == 150


def test_where_no_line_alone_mends_a_ping_the_device_is_named() -> None:
    """More needless lines than are tried hide the one that matters; the device that differs is found all the same."""
    idle = "".join(f"loopback idle{n}\n  address 172.16.{n}.1/32\n" for n in range(MOST_NEEDLESS + 1))
    texts = {
        "weir": LAB.answer["weir"].text.replace(ROUTES, "route default out p2\n") + idle,
        "quay": LAB.answer["quay"].text.replace("port p1\n", "port p1\n  proxy off\n"),
    }
    result = MARKER.mark(paper_of(LAB, texts))
    (fault,) = result.faults
    assert (fault.slip, fault.device, fault.found, fault.repair) == (
        "device-as-a-whole", "quay", None, "go through the sheet of quay",
    )  # fmt: skip
    assert not any(c.fault is None for c in result.criteria if c.fraction < 1)


@pytest.mark.parametrize(
    "lines", ["addresses any\n  permit 10.0.0.0/8\n", "  port p2\n  address 10.64.16.1/24\n"]
)
def test_a_sheet_is_not_read_anew_for_each_of_many_headers(
    lines: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    read: list[int] = []

    def counted(text: str, file: str) -> object:
        read.append(text.count("\n"))
        return read_sheets(text, file)

    monkeypatch.setattr(headers, "read_sheets", counted)
    text = "port p1\n" + lines * 180 + "nothing known\n" * 5_000
    result = MARKER.mark(paper_of(LAB, {"toll": text, "quay": text}))
    assert result.faults
    assert sum(read[:-1]) <= MARKER.facts.budget  # the last one may use up what is left


def test_what_another_mistake_hides_is_named_with_it() -> None:
    """A router that has a host's address answers for it, so that the host's discard shows only once that is gone."""
    lab = lab_of(
        "weir=router:p1,p2 ana=host bob=host",
        "weir:p1--ana:p1 weir:p2--bob:p1",
        {
            "weir": "port p1; -address 10.1.0.1/24; -on; port p2; -address 10.2.0.1/24; -on",
            "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
            "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1; service tcp 80",
        },
        "ana>bob",
        services=[{"from": "weir", "open": "tcp bob:80", "expect": "answer"}],
    )
    weir, ana, bob = (lab.answer[name].text for name in ("weir", "ana", "bob"))
    taken = weir.replace("10.1.0.1/24\n", "10.1.0.1/24\n  address 10.2.0.20/32\n")
    discards = f"{bob}route 10.1.0.0/24 discard\n"
    result = mark(lab, {"weir": taken, "ana": ana.replace("gateway 10.1.0.1", ""), "bob": discards})
    assert [(f.repair, f.device) for f in result.faults] == [
        ("without address 10.2.0.20/32", "weir"),
        ("gateway 10.1.0.1", "ana"),
        ("without route 10.1.0.0/24 discard", "bob"),
    ]
