"""Papers and labs in the standard forms: marks at their lines, repairs in their form, a lab's data for equipment."""

import io
import json
import zipfile

import pytest

from tests.core.every_lab import ALL
from tests.core.yang_models import check_valid
from tests.helpers import lab_of, sheet
from zensur.core.export import modelled
from zensur.core.formats import read_configurations, write_configuration
from zensur.core.formats.fragments import repair_in
from zensur.core.lab import Lab
from zensur.core.marking.margin import margin
from zensur.core.marking.marker import Marker
from zensur.core.sheet import SheetForm, read_sheet
from zensur.work.papers import read_paper

WEIR = "port p1; -address 10.1.0.1/24; -on; route 10.2.0.0/24 via 10.1.0.2"
ANA = "port p1; -address 10.1.0.20/24; gateway 10.1.0.1"
LAB = lab_of("weir=router:p1 ana=host", "weir:p1--ana:p1", {"weir": WEIR, "ana": ANA})


def marked(device: str, said: str, form: SheetForm, lab: Lab = LAB):
    configuration = read_sheet(sheet(said)).configuration
    text = write_configuration(configuration, form)
    files = {d: (f"{d}.sheet", s.text.encode()) for d, s in lab.full_paper.items() if d != device}
    paper = read_paper("x", {**files, device: (f"{device}.txt", text.encode())}, devices=lab.devices)
    result = Marker(lab).mark(paper)
    return result, margin(result, device, f"{device}.txt", text, True, form)


@pytest.mark.parametrize("form", ["yang-json", "yang-xml"])
def test_marks_stand_at_the_lines_of_the_data(form: SheetForm) -> None:
    result, shown = marked("weir", WEIR.replace("0.1/24", "0.1/25"), form)
    (fault,) = result.faults
    (line,) = [line for line in shown.lines if line.fault == fault.id]
    assert "10.1.0.1" in line.text
    assert line.number == fault.line
    assert line.wrong is None
    assert line.correction == "address 10.1.0.1/24"
    assert any("address:weir:p1" in own.criteria for own in shown.lines if own.number)
    assert '"prefix-length": 24' in fault.in_form or "<prefix-length>24<" in fault.in_form
    assert "state-unsaid" not in fault.in_form


@pytest.mark.parametrize("form", ["yang-json", "yang-xml"])
def test_what_is_missing_is_pencilled_in_at_the_end_in_the_form_of_the_file(form: SheetForm) -> None:
    result, shown = marked("ana", ANA.partition(";  gateway")[0].replace("; gateway 10.1.0.1", ""), form)
    (fault,) = result.faults
    pencilled = [line.text for line in shown.lines if line.number is None]
    assert "\n".join(pencilled) + "\n" == fault.in_form
    assert "10.1.0.1" in fault.in_form
    (read,) = read_configurations(fault.in_form, device=LAB.devices["ana"])
    assert [i.statement.text() for i in read.configuration.items] == ["gateway 10.1.0.1"]


def test_a_sheet_has_its_repair_in_our_own_language_alone() -> None:
    result = Marker(LAB).mark(
        read_paper("x", {"weir": ("weir.sheet", b"port p1\n  on\n")}, devices=LAB.devices)
    )
    assert {f.in_form for f in result.faults} == {""}


@pytest.mark.parametrize(
    ("said", "holds"),
    [
        ("port p1; -address 10.1.0.1/24", '"ip": "10.1.0.1"'),
        ("translate from 10.1.0.0/24 to p2 shared; pool a 10.1.0.1 to 10.1.0.2", "subscriber-match"),
        ("vlan 10", '"id": 10'),
        ("", ""),
    ],
)
def test_single_statements_in_another_form(said: str, holds: str) -> None:
    items = read_sheet(sheet(said)).configuration.items
    found = repair_in("yang-json", [], items)
    assert holds in found if holds else found == ""
    assert "only-named" not in found
    assert repair_in("sheet", [], items) == ""


NFT = "nft -f - <<END\ntable ip translation {{\n{}}}\nEND"
POST = "  chain postrouting {{\n    type nat hook postrouting priority srcnat;\n{}  }}\n"
PRE = "  chain prerouting {{\n    type nat hook prerouting priority dstnat;\n{}  }}\n"


@pytest.mark.parametrize(
    ("remove", "add", "lines"),
    [
        ("", "port p1; -on", "ip link set p1 up"),
        ("port p1; -off", "port p1; -on", "ip link set p1 up"),
        ("", "port p1; -address 10.1.0.1/24; -address fd00::1/64", "ip address add 10.1.0.1/24 dev p1\nip address add fd00::1/64 dev p1"),
        ("port p1; -address 10.1.0.1/25", "port p1; -address 10.1.0.1/24", "ip address add 10.1.0.1/24 dev p1\nip address del 10.1.0.1/25 dev p1"),
        ("port p1; -address 10.1.0.9/24", "port p1; -address 10.1.0.1/24",
         "ip address add 10.1.0.1/24 dev p1\nsysctl -w net.ipv4.conf.p1.promote_secondaries=1\nip address del 10.1.0.9/24 dev p1"),
        ("port p1; -address 10.1.0.1/24", "port p2; -address 10.1.0.1/24", "ip address add 10.1.0.1/24 dev p2\nip address del 10.1.0.1/24 dev p1"),
        ("gateway 10.1.0.9", "gateway 10.1.0.1", "ip route del default via 10.1.0.9\nip route add default via 10.1.0.1"),
        ("", "gateway fd00::1 out p1", "ip -6 route add default via fd00::1 dev p1"),
        ("route 10.2.0.0/24 via 10.1.0.2 preference 30", "route 10.2.0.0/24 discard", "ip route del 10.2.0.0/24 via 10.1.0.2 metric 30\nip route add blackhole 10.2.0.0/24"),
        ("", "route default out p2", "ip route add default dev p2"),
        ("", "forwarding on", "sysctl -w net.ipv4.ip_forward=1 net.ipv6.conf.all.forwarding=1"),
        ("forwarding off", "", "sysctl -w net.ipv4.ip_forward=1 net.ipv6.conf.all.forwarding=1"),
        ("", "name weir", "hostname weir"),
        ("resolver 10.1.0.53", "resolver 10.1.0.54", "sed -i '/^nameserver 10.1.0.53$/d' /etc/resolv.conf\necho nameserver 10.1.0.54 >> /etc/resolv.conf"),
        ("", "port p1.10; -address 10.1.0.1/24; -proxy off", "ip link add link p1 name p1.10 type vlan id 10\nip address add 10.1.0.1/24 dev p1.10\nsysctl -w net.ipv4.conf.p1/10.proxy_arp=0"),
        ("loopback l1", "", "ip link delete l1"),
        ("", "loopback lo; -address 10.9.0.1/32", "ip address add 10.9.0.1/32 dev lo"),
        ("", "vlan 10", "ip link add vlan10 type bridge\nip link set vlan10 up"),
        ("port p1; -access 20", "port p1; -access 10", "ip link set p1 master vlan10"),
        ("", "port p1; -trunk 10-11 native 11", "ip link add link p1 name p1.10 type vlan id 10\nip link set p1.10 up master vlan10\nip link set p1 master vlan11"),
        ("", "port p1; -address auto", "sysctl -w net.ipv6.conf.p1.autoconf=1 net.ipv6.conf.p1.accept_ra=2"),
        # translations
        ("", "translate from 10.1.0.0/24 to p2 shared", NFT.format(POST.format('    oifname "p2" ip saddr 10.1.0.0/24 masquerade\n'))),
        ("", "pool a 203.0.113.4 to 203.0.113.6; addresses l; -deny 10.1.0.7; -permit 10.1.0.0/24; translate from l to a out p3",
         NFT.format(POST.format('    oifname "p3" ip saddr 10.1.0.7/32 return\n    oifname "p3" ip saddr 10.1.0.0/24 snat to 203.0.113.4-203.0.113.6 persistent\n'))),
        ("", "translate 10.1.0.8 as 203.0.113.8; translate udp 10.1.0.9:53 as 203.0.113.9:5353 out p3; translate tcp 10.1.0.9:80 as p2:8080",
         NFT.format(PRE.format('    iifname { "p2", "p3" } ip daddr 203.0.113.8 dnat to 10.1.0.8\n    iifname "p3" ip daddr 203.0.113.9 udp dport 5353 dnat to 10.1.0.9:53\n    iifname "p2" tcp dport 8080 dnat to 10.1.0.9:80\n')
                    + POST.format('    oifname { "p2", "p3" } ip saddr 10.1.0.8 snat to 203.0.113.8\n'))),
        # what no command says, or not these statements alone: nothing, and not a part of it
        ("", "port p1; -on; -about the quay", ""), ("", "port p1; -clocking 64000", ""), ("", "rip; -run p1", ""),
        ("translate 10.1.0.8 as 203.0.113.8", "translate 10.1.0.8 as 203.0.113.9", ""), ("", "port p2; -realm external", ""),
        ("", "translate from l to p2 shared", ""), ("", "translate from 10.1.0.0/24 to p2", ""), ("", "translate from 10.1.0.0/24 to p2 shared ports 2000 to 3000", ""),
        ("", "port p1; -trunk all", ""), ("", "route 10.2.0.0/24 via 10.1.0.2 instance red", ""), ("", "", ""),
    ],
)  # fmt: skip
def test_repairs_as_commands(remove: str, add: str, lines: str) -> None:
    gone, new = (read_sheet(sheet(said)).configuration.items for said in (remove, add))
    assert repair_in("snapshot", gone, new, ("p2", "p3")) == (lines + "\n" if lines else "")


TRANSLATES = "port p1; -address 10.1.0.1/24; -realm internal; -on; port p2; -address 203.0.113.2/28; -realm external; -on"
LISTED = "addresses inner; -permit 10.1.0.0/24; pool outer 203.0.113.4 to 203.0.113.5; translate from inner to outer shared"


@pytest.mark.parametrize(
    ("rule", "typed"),
    [
        ("translate from 10.1.0.0/24 to p2 shared", ['oifname "p2" ip saddr 10.1.0.0/24 masquerade']),
        (LISTED, ['oifname "p2" ip saddr 10.1.0.0/24 snat to 203.0.113.4-203.0.113.5']),
        ("translate 10.1.0.20 as 203.0.113.5", ['iifname "p2" ip daddr 203.0.113.5 dnat to 10.1.0.20', 'oifname "p2" ip saddr 10.1.0.20 snat to 203.0.113.5']),
    ],
)  # fmt: skip
def test_a_missing_translation_of_a_machine_is_one_mistake_with_all_that_its_rule_says(
    rule: str, typed: list[str]
) -> None:
    answer = {"weir": f"{TRANSLATES}; {rule}", "ana": ANA, "far": "port p1; -address 203.0.113.1/28"}
    lab = lab_of("weir=router:p1,p2 ana=host far=host", "weir:p1--ana:p1 weir:p2--far:p1", answer, "ana>far")
    ports = [{"ifname": f"p{n}", "flags": ["UP"], "linkinfo": {"info_kind": "veth"}} for n in (1, 2)]
    held = [
        {"ifname": name, "addr_info": [{"local": local, "prefixlen": length}]}
        for name, local, length in (("p1", "10.1.0.1", 24), ("p2", "203.0.113.2", 28))
    ]
    parts = {"links": ports, "addresses": held, "routes": [], "routes6": [], "nftables": {"nftables": []}}
    text = "\n".join(
        ["zensur snapshot 1", *(f"== {name}\n{json.dumps(part)}" for name, part in parts.items())]
    )
    text += "\n== sysctl\nnet.ipv4.ip_forward = 1\n"
    files = {name: (f"{name}.sheet", own.text.encode()) for name, own in lab.full_paper.items()}
    files["weir"] = ("weir.snapshot", text.encode())
    result = Marker(lab).mark(read_paper("x", files, devices=lab.devices))
    (fault,) = result.faults
    assert [
        line.strip() for line in fault.in_form.split("\n") if "ip " in line and "table" not in line
    ] == typed
    assert {c.fault for c in result.criteria if c.fraction < 1} == {1}
    assert {c.key for c in result.criteria if c.fraction < 1} >= {"realm"}


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_a_lab_as_data_is_valid_and_says_what_is_left_to_do(lab: Lab) -> None:
    with zipfile.ZipFile(io.BytesIO(modelled(lab, lab.model))) as archive:
        files = {name.rpartition("/")[2]: archive.read(name).decode() for name in archive.namelist()}
    assert set(files) == {"README.txt", *(f"{name}.json" for name in lab.devices)}
    for name, device in lab.devices.items():
        text = files[f"{name}.json"]
        check_valid(json.loads(text))
        (read,) = read_configurations(text, device=device)
        assert not read.errors
        for item in lab.model[name].items:
            assert item in read.configuration.items, item.text()
        noted = f"\n{name}: " in files["README.txt"]
        assert noted == any(word in text for word in ("zensur-device:" + w for w in (
            "access", "trunk", "clocking", "realm", "preference", "dhcp", "out", "sources", "device", "relay", "parent",
            "external-interface",
        )))  # fmt: skip
