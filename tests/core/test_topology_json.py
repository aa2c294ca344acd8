"""A lab's topology in the standard's form: out and in again, and what others write."""

import json

import pytest

from zensur.core.formats import NoTopology, is_json, lab_of_topology, plan_csv, topology_json
from zensur.core.lab import Lab, read_lab
from zensur.demo import LABS, lab_text


def lab_of(text: str) -> Lab:
    read = read_lab(text)
    assert read.lab is not None, read.errors
    return read.lab


@pytest.mark.parametrize("name", LABS)
def test_devices_ports_and_links_come_back(name: str) -> None:
    lab = lab_of(lab_text(name))
    told = topology_json(lab)
    assert is_json(told)
    assert not is_json(lab_text(name))
    back = lab_of(lab_of_topology(told))
    assert back.id == lab.id
    assert back.title == lab.title
    assert dict(back.devices) == dict(lab.devices)
    assert back.links == lab.links
    assert json.loads(told)["ietf-network:networks"]["network"][0]["network-id"] == lab.id


def test_what_others_write_is_read() -> None:
    """Members without their modules, a link told in one direction, ids that are no names, ends that are not there."""
    told = {"networks": {"network": [{"network-id": "Canal / North", "node": [
        {"node-id": "10.0.0.1", "termination-point": [{"tp-id": "ge 0/0"}, {"tp-id": "ge-0.1"}]},
        {"node-id": "weir (old)", "termination-point": [{"tp-id": "x"}]},
        {"node-id": "weir [old]"},
    ], "link": [
        {"link-id": "1", "source": {"source-node": "10.0.0.1", "source-tp": "ge 0/0"},
         "destination": {"dest-node": "weir (old)", "dest-tp": "x"}},
        {"link-id": "2", "source": {"source-node": "nobody", "source-tp": "y"},
         "destination": {"dest-node": "weir (old)", "dest-tp": "x"}},
        {"link-id": "3", "source": "broken"},
    ]}]}}  # fmt: skip
    lab = lab_of(lab_of_topology(json.dumps(told)))
    assert lab.id == "canal-north"
    assert {n: (d.kind.value, [p.name for p in d.ports]) for n, d in lab.devices.items()} == {
        "10.0.0.1": ("router", ["ge-0/0", "ge-0-1"]),
        "weir--old": ("host", ["x"]),
        "weir--old-2": ("router", []),
    }
    assert list(map(str, lab.links)) == ["10.0.0.1:ge-0/0 -- weir--old:x"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "This is no JSON"),
        ("{}", "ietf-network:networks"),
        ("[]", "ietf-network:networks"),
        ('{"networks": {"network": []}}', "no network with nodes"),
        ('{"networks": {"network": [{"node": "x"}]}}', "no network with nodes"),
        ("[" * 100_000, "This is no JSON"),
    ],
)
def test_what_is_no_topology_is_said(text: str, said: str) -> None:
    with pytest.raises(NoTopology, match=said):
        lab_of_topology(text)


def test_the_address_plan_as_csv() -> None:
    lines = plan_csv(lab_of(lab_text("first-addresses"))).split("\r\n")
    assert lines[0] == "device,port,address,mask,gateway"
    assert "lock,p1,10.64.8.1,255.255.255.0," in lines
    assert "lock,lo0,10.64.255.1,255.255.255.255," in lines
    assert "ledger,p1,10.64.32.10,255.255.255.192,10.64.32.1" in lines
    assert "lamp,p1,2001:db8:48::20,/64,2001:db8:48::1" in plan_csv(lab_of(lab_text("two-families"))).split(
        "\r\n"
    )
