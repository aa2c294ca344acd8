"""What a lab leaves to its learners: host parts and subnets of their own choice, and what depends on them."""

import random
from ipaddress import ip_address, ip_network

import pytest
import yaml

from tests.helpers import lab_of, paper_of, sheet
from zensur.core.formats import learners_edition
from zensur.core.lab import Lab, OwnChoice, read_lab
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.marking.marker import Marker
from zensur.core.marking.reading.chosen import another_choice, choice_of, read_chosen
from zensur.demo import lab_text
from zensur.pages.hand_out import hand_out_page

DEVICES = "weir=router:p1,p2 quay=router:p1,p2 ana=host bob=host cia=host sw=switch:p1,p2,p3"
LINKS = "weir:p1--sw:p1 sw:p2--ana:p1 sw:p3--bob:p1 weir:p2--quay:p1 quay:p2--cia:p1"
ANSWER = {
    "weir": "port p1; -address 10.64.8.1/24; -realm internal; -on; port p2; -address 203.0.113.1/29; -realm external; -on;"
    "loopback lo0; -address 10.64.255.1/32; route default via 203.0.113.2;"
    "translate 10.64.8.20 as 203.0.113.4; translate tcp 10.64.8.21:80 as p2:8080;"
    "addresses crew; -permit 10.64.8.0 wildcard 0.0.0.255; translate from crew to p2 shared;"
    "dhcp spare; -network 10.64.8.0 mask 255.255.255.0; -range 10.64.8.100 to 10.64.8.110; -gateway 10.64.8.1",
    "quay": "port p1; -address 203.0.113.2/29; -on; port p2; -address 198.51.100.1/24; -on;"
    "route 10.64.0.0/16 via 203.0.113.1",
    "ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
    "bob": "port p1; -address 10.64.8.21/24; gateway 10.64.8.1; service tcp 80",
    "cia": "port p1; -address 198.51.100.9/24; gateway 198.51.100.1",
}


def made(*free: object, **more: str) -> Lab:
    return lab_of(
        DEVICES, LINKS, ANSWER | more, "ana>cia bob>cia cia>weir:lo0 ana>bob cia>ana",
        services=[{"from": "cia", "open": "tcp 203.0.113.1:8080", "expect": "answer", "answered_by": "bob"},
                  {"from": "ana", "open": "tcp 10.64.8.21:80", "expect": "answer"}],
        networks={"basin": {"prefix": "10.64.8.0/24"}, "loops": {"prefix": "10.64.255.0/28"}}, free=list(free),
    )  # fmt: skip


BASIN = {"network": "basin", "from": "10.64.0.0/16", "length": 24}
HOSTS = made("ana:p1", "bob:p1", "weir:lo0")
SUBNET = made(BASIN)


def on(host: str, gateway: str = "10.64.8.1") -> str:
    return f"port p1; -address {host}; gateway {gateway}"


def translated(*pairs: tuple[str, str]) -> str:
    text = ANSWER["weir"]
    for old, new in pairs:
        assert old in text
        text = text.replace(old, new)
    return text


ANA_33 = translated(("translate 10.64.8.20 ", "translate 10.64.8.33 "))


@pytest.mark.parametrize(
    ("changes", "slips"),
    [
        ({"ana": on("10.64.8.33/24"), "weir": ANA_33}, []),
        ({"ana": on("10.64.8.33/24")}, ["one-to-one-onto-a-wrong-address"]),  # the translation has to follow
        ({"ana": on("10.64.8.33/25"), "weir": ANA_33}, ["wrong-mask"]),
        ({"ana": on("10.64.9.33/24")}, ["wrong-address"]),
        ({"ana": on("10.64.8.0/24")}, ["network-or-broadcast-address"]),
        ({"ana": on("10.64.8.1/24")}, ["duplicate-address"]),  # the router's is not free
        ({"ana": on("10.64.8.21/24")}, ["duplicate-address"]),  # bob keeps what is planned for him
        ({"ana": on("10.64.8.21/24"), "bob": on("10.64.8.20/24") + "; service tcp 80",
          "weir": translated(("ate 10.64.8.20 ", "ate 10.64.8.99 "), ("tcp 10.64.8.21:", "tcp 10.64.8.20:"), ("ate 10.64.8.99 ", "ate 10.64.8.21 "))}, []),
        ({"ana": on("10.64.8.33/24", "10.64.8.2"), "weir": ANA_33}, ["gateway-wrong"]),
        ({"weir": translated(("10.64.255.1/32", "10.64.255.14/32"))}, []),
        ({"weir": translated(("10.64.255.1/32", "10.64.255.15/32"))}, ["wrong-address"]),  # the named network's last
        ({"weir": translated(("10.64.255.1/32", "10.64.254.1/32"))}, ["wrong-address"]),
    ],
)  # fmt: skip
def test_a_host_part_of_ones_own(changes, slips) -> None:
    result = Marker(HOSTS).mark(paper_of(HOSTS, changes))
    assert [fault.slip for fault in result.faults] == slips
    assert (result.carried == result.out_of) is (not slips)


def moved(to: str, **more: str) -> dict[str, str]:
    """The model answer's sheets with the basin elsewhere."""
    return {name: sheet(text).replace("10.64.8.", to) for name, text in ANSWER.items()} | more


@pytest.mark.parametrize(
    ("changes", "slips"),
    [
        (moved("10.64.77."), []),
        (moved("10.64.77.", ana=on("10.64.77.20/24", "10.64.77.9")), ["gateway-wrong"]),
        (moved("10.64.77.", ana=on("10.64.78.20/24", "10.64.77.1")), ["wrong-address"]),
        (moved("10.64.77.", ana=on("10.64.77.150/24", "10.64.77.1"),
               weir=sheet(ANSWER["weir"]).replace("10.64.8.20 ", "10.64.77.150 ").replace("10.64.8.", "10.64.77.")), []),
    ],
)  # fmt: skip
def test_a_subnet_of_ones_own(changes, slips) -> None:
    result = Marker(SUBNET).mark(paper_of(SUBNET, changes))
    assert [fault.slip for fault in result.faults] == slips
    assert result.remarks[0].startswith(
        "Chosen by the learner, as the lab allows: 10.64.77.0/24 (model answer: 10.64.8.0/24)"
    )


def test_what_may_not_be_chosen_is_a_mistake() -> None:
    for to in ("10.65.77.", "203.0.113."):  # outside of what is left free, and another network of the lab
        result = Marker(SUBNET).mark(paper_of(SUBNET, moved(to)))
        assert result.faults[0].slip == "network-misnumbered"
        assert not result.remarks


@pytest.mark.parametrize(
    ("lab", "planned", "subnets"),
    [
        (HOSTS, {"10.64.8.20": "10.64.8", "10.64.8.21": "10.64.8", "10.64.255.1": "10.64.255"}, ["10.64.8"]),
        (SUBNET, {"10.64.8.1": "10.64.8", "10.64.8.20": "10.64.8"}, ["10.64.0", "10.64.9", "10.64.254"]),
    ],
)
def test_every_right_choice_has_full_marks(lab: Lab, planned: dict[str, str], subnets: list[str]) -> None:
    chance = random.Random(11)
    for _ in range(20):
        subnet = chance.choice(subnets)
        networks = (
            () if subnet == "10.64.8" else ((ip_network("10.64.8.0/24"), ip_network(f"{subnet}.0/24")),)
        )
        numbers = chance.sample([2, 3, 5, 7, 11, 13], len(planned))
        hosts = [
            (own, net.replace("10.64.8", subnet), n)
            for (own, net), n in zip(planned.items(), numbers, strict=True)
        ]
        choice = OwnChoice(
            tuple((ip_address(own), ip_address(f"{net}.{n}")) for own, net, n in hosts), networks
        )
        other = read_chosen(lab.text, "", {}, choice)
        assert other is not None
        sheets = {name: answer.text for name, answer in other.answer.items()}
        assert f"address {choice.addresses[0][1]}/" in "".join(sheets.values())
        result = Marker(lab).mark(paper_of(lab, sheets))
        assert (result.carried, result.faults) == (result.out_of, ()), choice


def test_texts_are_renumbered_where_an_address_stands() -> None:
    """By hand: summaries, names and other numbers stay."""
    choice = OwnChoice(
        ((ip_address("10.64.8.20"), ip_address("10.64.9.7")),),
        (
            (ip_network("10.64.8.0/24"), ip_network("10.64.9.0/24")),
            (ip_network("2001:db8:8::/64"), ip_network("2001:db8:9::/64")),
        ),
    )
    for before, after in (
        ("address 10.64.8.20/24", "address 10.64.9.7/24"),
        ("tcp 10.64.8.20:80", "tcp 10.64.9.7:80"),
        ("route 10.64.8.0/24 via 10.64.8.1", "route 10.64.9.0/24 via 10.64.9.1"),
        ("route 10.64.8.0/23 via 10.0.0.1", "route 10.64.8.0/23 via 10.0.0.1"),  # a summary
        ("permit 10.64.8.0 wildcard 0.0.0.255", "permit 10.64.9.0 wildcard 0.0.0.255"),
        ("permit 10.64.8.0 wildcard 0.0.3.255", "permit 10.64.8.0 wildcard 0.0.3.255"),
        ("route 10.64.8.0 mask 255.255.255.128 discard", "route 10.64.9.0 mask 255.255.255.128 discard"),
        ("address 10.64.8.1/16", "address 10.64.9.1/16"),  # host bits: an address, not a summary
        (
            "110.64.8.20 10.64.8.201 x10.64.8.20 10.64.8.20.1",
            "110.64.8.20 10.64.9.201 x10.64.8.20 10.64.8.20.1",
        ),
        (
            "via 2001:db8:8::1 out p1, tcp [2001:db8:8::80]:80",
            "via 2001:db8:9::1 out p1, tcp [2001:db8:9::80]:80",
        ),
    ):
        node = yaml.compose(f"answer: {{weir: '{before}'}}", Loader=yaml.SafeLoader)
        assert node is not None
        choice.put_into(node)
        assert node.value[0][1].value[0][1].value == after


@pytest.mark.parametrize(
    ("free", "says"),
    [
        ("ana", "write DEVICE:PORT"),
        ("anna:p1", "Did you mean ana?"),
        ("ana:p9", "no address, so that there is nothing to choose. There are p1."),
        ("given:p1", "is given"),
        ({**BASIN, "network": "basen"}, "Did you mean basin?"),
        ({**BASIN, "from": "10.64.0.1/16"}, "host bits"),
        ({**BASIN, "from": "10.65.0.0/16"}, "does not lie in 10.65.0.0/16"),
        ({**BASIN, "from": "10.64.8.128/25"}, "does not lie in"),
        ({**BASIN, "length": 25}, "10.64.8.0/24, not a /25"),
        ({**BASIN, "network": "far"}, "is given"),
        ({"network": "basin"}, "from"),
    ],
)
def test_what_is_wrong_with_free(free, says) -> None:
    document = yaml.safe_load(HOSTS.text) | {"free": [free]}
    document["devices"]["given"] = {"kind": "host"}
    document["given"] = {"given": "port p1\n  address 10.64.77.5/24\n"}
    document["networks"]["far"] = {"prefix": "10.64.77.0/24"}
    if isinstance(free, dict) and free.get("network") == "far":
        free["from"] = "10.64.0.0/16"
    errors = read_lab(yaml.safe_dump(document)).errors
    assert any(says in error.message for error in errors), errors


def test_an_address_on_two_ports_is_not_free_on_one_of_them() -> None:
    """In a box with instances the same address may stand twice: a choice could not be told for one of them."""
    text = lab_text("one-cabinet")
    assert read_lab(text.replace("\ndevices:", "\nfree: ['cab:p2']\ndevices:", 1)).errors == ()
    (error,) = read_lab(text.replace("\ndevices:", "\nfree: ['cab:p1']\ndevices:", 1)).errors
    assert "cab p1 and cab p3 have the same address" in error.message
    assert error.place == "free"


def test_the_lab_check_tries_another_choice() -> None:
    assert check_text(SUBNET.text).errors == ()
    narrow = ANSWER["quay"].replace(
        "route 10.64.0.0/16", "route 10.64.255.0/24 via 203.0.113.1; route 10.64.8.0/22"
    )
    errors = check_text(
        made(BASIN, quay=narrow).text
    ).errors  # which holds for the model answer's subnet only
    assert errors
    assert all(
        error.message.startswith("Where a learner chooses 10.64.254.0/24 for 10.64.8.0/24")
        for error in errors
    )
    assert another_choice(HOSTS).addresses[1] == (ip_address("10.64.8.20"), ip_address("10.64.8.254"))


def test_learners_see_what_they_may_choose_and_not_what_was_chosen() -> None:
    lab = made(BASIN, "weir:lo0")
    edition, page = learners_edition(lab), hand_out_page(lab)
    for text in (edition, page):
        assert "10.64.8." not in text
        assert "10.64.0.0/16" in text
    assert "the address of weir lo0, within its network" in page
    read = read_lab(edition).lab
    assert read is not None
    assert not choice_of(read, read.model, None)
