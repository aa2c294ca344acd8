"""Configurations as YANG data: they come back as they were, are valid for an independent judge, and say what is wrong."""

import json
from collections import Counter
from pathlib import Path

import pytest
from hypothesis import given, settings
from yangson.exceptions import YangsonException

from tests.core.configurations import configurations
from tests.core.yang_models import check_valid
from zensur.core.formats import read_configurations, write_configuration
from zensur.core.formats.yang import read_yang, write_yang, yang_data
from zensur.core.sheet import (
    STATEMENTS,
    Configuration,
    OnPort,
    Open,
    Sheet,
    SheetForm,
    read_sheet,
    write_sheet,
)
from zensur.core.sheet.statement import folded

FORMS: tuple[SheetForm, ...] = ("yang-json", "yang-xml")
WHOLE = read_sheet((Path(__file__).parent / "whole.sheet").read_text()).configuration


def said(configuration: Configuration) -> Counter[tuple[str, str]]:
    """Every statement with its block."""
    return Counter(
        (i.block.header().lower() if i.block else "", "" if type(i.statement) is Open else i.statement.text())
        for i in configuration.items
    )


def in_order(configuration: Configuration) -> list[tuple[object, ...]]:
    """What decides by its order: lines of lists, translations, addresses, name servers; each among its own."""
    kept = [
        (type(i.statement).__name__, i.block, folded(getattr(i.statement, "instance", None)), i.statement)
        for i in configuration.items
        if i.statement.SPEC.traits.first_fits or type(i.statement).__name__ in ("Resolver", "LeaseResolver")
    ]
    kept += [
        ("address", i.block, str(i.statement.interface.version), i.statement)
        for i in configuration.everywhere(OnPort)
    ]
    return sorted(kept, key=lambda k: (k[0], str(k[1]), str(k[2])))


@settings(max_examples=150)
@given(configurations())
def test_what_is_written_comes_back_with_every_statement(configuration: Configuration) -> None:
    for form in FORMS:
        read = read_yang(write_yang(configuration, form), form)
        assert said(read.configuration) == said(configuration)
        assert in_order(read.configuration) == in_order(configuration)
        assert read.configuration.written == configuration.written or Counter(
            read.configuration.written
        ) == Counter(configuration.written)
        assert not read.errors
        assert all(i.where is not None for i in read.configuration.items)


@settings(max_examples=25)
@given(configurations())
def test_what_is_written_is_valid(configuration: Configuration) -> None:
    check_valid(yang_data(configuration))


def test_a_sheet_with_every_statement_is_valid_and_comes_back() -> None:
    assert {type(i.statement) for i in WHOLE.items} >= set(STATEMENTS)
    check_valid(yang_data(WHOLE))
    for form in FORMS:
        assert said(read_yang(write_yang(WHOLE, form), form).configuration) == said(WHOLE)


@pytest.mark.parametrize(
    "break_it",
    [
        lambda d: d["ietf-interfaces:interfaces"]["interface"][0].update({"zensur-device:access": 4095}),
        lambda d: d["ietf-interfaces:interfaces"]["interface"][0].update({"colour": "red"}),
        lambda d: d["ietf-interfaces:interfaces"]["interface"].append(
            dict(d["ietf-interfaces:interfaces"]["interface"][0])
        ),
        lambda d: d["ietf-routing:routing"]["control-plane-protocols"]["control-plane-protocol"][0][
            "static-routes"]["ietf-ipv4-unicast-routing:ipv4"]["route"][0]["next-hop"].update(
                {"outgoing-interface": "nowhere"}),
    ],
)  # fmt: skip
def test_the_judge_finds_what_is_not_valid(break_it) -> None:
    """Else its silence would say nothing."""
    data = yang_data(read_sheet("port p1\n  on\nroute 10.1.0.0/24 out p1\n").configuration)
    check_valid(data)
    break_it(data)
    with pytest.raises(YangsonException):
        check_valid(data)


def of(**top: object) -> Sheet:
    return read_yang(
        json.dumps({k.replace("__", ":").replace("_", "-"): v for k, v in top.items()}), "yang-json"
    )


def interface(**more: object) -> Sheet:
    entry = {
        "name": "p1",
        "type": "iana-if-type:ethernetCsmacd",
        **{k.replace("__", ":").replace("_", "-"): v for k, v in more.items()},
    }
    return of(ietf_interfaces__interfaces={"interface": [entry]})


def route(kind: str | None = None, **leafs: object) -> Sheet:
    entry = {k.replace("__", ":").replace("_", "-"): v for k, v in leafs.items()}
    protocol = {
        "type": "ietf-routing:static",
        "name": "s",
        "static-routes": {"ietf-ipv4-unicast-routing:ipv4": {"route": [entry]}},
    }
    data = {"ietf-routing:routing": {"control-plane-protocols": {"control-plane-protocol": [protocol]}}}
    return read_yang(json.dumps(data), "yang-json", kind=kind)


def via(address: str, **more: str) -> dict[str, str]:
    return {"next-hop-address": address, **more}


def acl(matches: dict[str, object], forwarding: str) -> Sheet:
    ace = {
        "name": "1",
        "matches": matches,
        "actions": {"forwarding": f"ietf-access-control-list:{forwarding}"},
    }
    entry = {"name": "bank", "type": "ietf-access-control-list:ipv4-acl-type", "aces": {"ace": [ace]}}
    return of(ietf_access_control_list__acls={"acl": [entry]})


def leases(**leafs: object) -> Sheet:
    return of(zensur_device__device={"dhcp": [{"name": "bank", **leafs}]})


OUTER_TAG = {"of-some-draft:vlan": {"outer-tag": {"tag-type": "c-vlan", "vlan-id": 20}}}
ADDRESS = [{"ip": "10.1.0.1", "prefix-length": 24}]


@pytest.mark.parametrize(
    ("read", "sheet", "codes"),
    [
        # RFC 8343: enabled is true where nothing is said
        (interface(), "port p1\n  on\n", []),
        (interface(enabled=False), "port p1\n  off\n", []),
        (interface(enabled="true"), "port p1\n", ["wrong-type"]),
        (interface(description="to\nthe basin", enabled=True), "port p1\n  about to the basin\n  on\n", []),
        (interface(name="10.1.0.1"), "", ["name-is-address"]),
        (interface(enabled=True, oper_status="up", statistics={}, phys_address="x"), "port p1\n  on\n", []),
        (interface(enabled=True, colour="red"), "port p1\n  on\n", ["not-read"]),
        (interface(enabled=True, acme__colour="red"), "port p1\n  on\n", ["unknown-module"]),
        # RFC 8344
        (interface(enabled=True, ietf_ip__ipv4={"address": ADDRESS}), "port p1\n  address 10.1.0.1/24\n  on\n", []),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{"ip": "10.1.0.1", "prefix-length": "24"}]}), "port p1\n  on\n", ["wrong-type"]),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{"ip": "10.1.0.1", "prefix-length": 33}]}), "port p1\n  on\n", ["bad-number"]),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{"ip": "10.1.0.1"}]}), "port p1\n  on\n", ["length-missing"]),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{"ip": "10.1.0.257", "prefix-length": 24}]}), "port p1\n  on\n", ["bad-address"]),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{"ip": "10.1.0.1", "netmask": "255.255.0.255"}]}), "port p1\n  on\n", ["mask-not-contiguous"]),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{"ip": "fd00::1", "prefix-length": 64}]}), "port p1\n  on\n", ["wrong-family"]),
        (interface(enabled=True, ietf_ip__ipv4={"enabled": False, "address": ADDRESS}), "port p1\n  on\n", ["family-off"]),
        (interface(enabled=True, ietf_ip__ipv4={"address": [{**ADDRESS[0], "origin": "dhcp"}]}), "port p1\n  on\n", []),
        (interface(enabled=True, ietf_ip__ipv6={"autoconf": {"create-global-addresses": True}}), "port p1\n  address auto\n  on\n", []),
        (interface(enabled=True, ietf_ip__ipv6={"autoconf": {"create-global-addresses": False}}), "port p1\n  on\n", []),
        (interface(enabled=True, ietf_ip__ipv4={"forwarding": True}, ietf_ip__ipv6={"forwarding": False}), "port p1\n  on\nforwarding on\n", ["forwarding-by-family"]),
        # tagged sub-ports, loopbacks, interfaces of VLANs
        (interface(name="p1.10", type="iana-if-type:l2vlan"), "port p1.10\n  on\n", []),
        (interface(name="tagged", type="iana-if-type:l2vlan"), "", ["no-parent"]),
        (interface(name="tagged", type="iana-if-type:l2vlan", ietf_if_extensions__parent_interface="p1",
                   ietf_if_extensions__encapsulation=OUTER_TAG),
         "port p1.20\n  on\n", []),
        (interface(name="tagged", type="iana-if-type:l2vlan", zensur_device__parent="a b", zensur_device__vlan=20), "", ["bad-name"]),
        (interface(name="lo0", type="iana-if-type:softwareLoopback"), "loopback lo0\n  on\n", []),
        (interface(name="t1", type="iana-if-type:tunnel"), "port t1\n  on\n", ["unknown-type"]),
        (interface(name="vlan10", type="iana-if-type:l3ipvlan"), "vlan 10\n  on\n", []),
        # RFC 8349
        (route(destination_prefix="10.2.0.0/24", next_hop=via("10.1.0.2"), description="far"), "route 10.2.0.0/24 via 10.1.0.2 about far\n", []),
        (route(destination_prefix="10.2.0.7/24", next_hop=via("10.1.0.2")), "route 10.2.0.0/24 via 10.1.0.2\n", ["host-bits"]),
        (route(destination_prefix="10.2.0.0/24", next_hop={"outgoing-interface": "s1"}), "route 10.2.0.0/24 out s1\n", []),
        (route(destination_prefix="10.2.0.0/24", next_hop={"special-next-hop": "blackhole"}), "route 10.2.0.0/24 discard\n", []),
        (route(destination_prefix="10.2.0.0/24", next_hop={"special-next-hop": "prohibit"}), "route 10.2.0.0/24 discard\n", ["like-discard"]),
        (route(destination_prefix="10.2.0.0/24", next_hop={"next-hop-list": {"next-hop": [{"index": "a", **via("10.1.0.2")}, {"index": "b", **via("10.1.0.3")}]}}),
         "route 10.2.0.0/24 via 10.1.0.2\n", ["first-next-hop"]),
        (route(destination_prefix="10.2.0.0/24"), "", ["next-hop-missing"]),
        (route(destination_prefix="10.2.0.0/24", next_hop=via("fd00::1")), "", ["wrong-family"]),
        (route(kind="router", destination_prefix="0.0.0.0/0", next_hop=via("10.1.0.1")), "route default via 10.1.0.1\n", []),
        (route(kind="host", destination_prefix="0.0.0.0/0", next_hop=via("10.1.0.1")), "gateway 10.1.0.1\n", []),
        (route(kind="host", destination_prefix="0.0.0.0/0", next_hop=via("10.1.0.1"), zensur_device__gateway=False), "route default via 10.1.0.1\n", []),
        (of(ietf_routing__routing={"control-plane-protocols": {"control-plane-protocol": [{"type": "ietf-ospf:ospfv2", "name": "o"}]}}), "", ["not-read"]),
        (route(destination_prefix="10.2.0.0/24", next_hop=via("10.1.0.257", **{"outgoing-interface": "p1"})), "", ["bad-address"]),
        (route(destination_prefix="10.2.0.0/24", next_hop={"special-next-hop": "elsewhere"}), "", ["bad-value"]),
        (route(destination_prefix="10.2.0.0/24", next_hop=via("10.1.0.2"), zensur_device__preference=0), "", ["bad-number"]),
        # RFC 8519: a source by its prefix is read, and nothing that asks for more
        (acl({"ipv4": {"source-ipv4-network": "10.1.0.0/24"}}, "accept"), "addresses bank\n  permit 10.1.0.0/24\n", []),
        (acl({"ipv4": {"source-ipv4-network": "10.1.0.0/24"}}, "reject"), "addresses bank\n  deny 10.1.0.0/24\n", []),
        (acl({"ipv4": {"source-ipv4-network": "10.1.0.0/24"}}, "ponder"), "addresses bank\n", ["no-action"]),
        (acl({"ipv4": {"source-ipv4-network": "10.1.0.0/24", "protocol": 6}}, "accept"), "addresses bank\n", ["not-read"]),
        (acl({"ipv4": {"source-ipv4-network": "10.1.0.0/24"}, "tcp": {}}, "accept"), "addresses bank\n", ["not-read"]),
        (acl({}, "accept"), "addresses bank\n", ["not-read"]),
        # RFC 7317
        (of(ietf_system__system={"hostname": "weir", "dns-resolver": {"server": [{"name": "a", "udp-and-tcp": {"address": "10.1.0.9"}}]}}),
         "name weir\nresolver 10.1.0.9\n", []),
        (of(zensur_device__device={"name": "weir/2"}), "name weir/2\n", []),
        (leases(network="10.1.0.0/24", order="highest"), "dhcp bank\n  network 10.1.0.0/24\n  order highest\n", []),
        (leases(network="fd00::/64", order="middle"), "dhcp bank\n", ["wrong-family", "bad-value"]),
        (leases(resolver=["10.1.0.9", "fd00::9"]), "dhcp bank\n  resolver 10.1.0.9\n", ["wrong-family"]),
        (leases(range={"first": "10.1.0.9", "last": "10.1.0.2"}), "dhcp bank\n", ["range-reversed"]),
        (of(acme_things__things={}), "", ["unknown-module"]),
    ],
)  # fmt: skip
def test_what_is_read_of_data(read: Sheet, sheet: str, codes: list[str]) -> None:
    assert write_sheet(read.configuration) == sheet
    assert [d.code for d in read.diagnostics] == codes
    assert all(
        d.path and d.path.startswith("/") for d in read.diagnostics if d.code != "forwarding-by-family"
    )


def nat(instance: dict[str, object]) -> Sheet:
    ports = [
        {"name": name, "type": "iana-if-type:ethernetCsmacd", "ietf-ip:ipv4": {"address": [{"ip": ip, "prefix-length": 24}]}}
        for name, ip in (("p1", "10.1.0.1"), ("p2", "203.0.113.2"))
    ]  # fmt: skip
    return of(
        ietf_interfaces__interfaces={"interface": ports},
        ietf_nat__nat={"instances": {"instance": [{"id": 1, **instance}]}},
    )


MATCH = [{"match-id": 1, "subnet": "10.1.0.0/24"}]
OUT = {"external-interface": "p2"}


@pytest.mark.parametrize(
    ("instance", "lines", "codes"),
    [
        # RFC 8512, appendix A.2 (NAPT) and A.10 (a static mapping with port numbers), with addresses of our own
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "subscriber-match": MATCH, "external-realm": OUT}]},
         ["translate from 10.1.0.0/24 to p2 shared"], []),
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "external-ip-address-pool": [{"pool-id": 1, "external-ip-pool": "198.51.100.4/31"}]}]},
         ["pool pool-1 198.51.100.4 to 198.51.100.5", "translate from 0.0.0.0/0 to pool-1 shared"], []),
        ({"type": "ietf-nat:napt44", "mapping-table": {"mapping-entry": [
            {"index": 1, "type": "static", "transport-protocol": 6, "internal-src-address": "10.1.0.80/32",
             "internal-src-port": {"start-port-number": 80}, "external-src-address": "203.0.113.2/32",
             "external-src-port": {"start-port-number": 8080}}]}},
         ["translate tcp 10.1.0.80:80 as 203.0.113.2:8080"], []),
        ({"type": "ietf-nat:basic-nat44", "mapping-table": {"mapping-entry": [
            {"index": 1, "type": "static", "internal-src-address": "10.1.0.80/32", "external-src-address": "203.0.113.8/32"},
            {"index": 2, "type": "dynamic-implicit", "internal-src-address": "10.1.0.81/32", "external-src-address": "203.0.113.9/32"}]}},
         ["translate 10.1.0.80 as 203.0.113.8"], []),
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "subscriber-match": [*MATCH, {"match-id": 2, "subnet": "10.2.0.0/24"}],
           "port-set-restrict": {"start-port-number": 2000, "end-port-number": 3000}, "external-realm": OUT}]},
         ["translate from sources-1-1 to p2 shared ports 2000 to 3000"], []),
        ({"type": "ietf-nat:napt44", "enable": False, "policy": [{"id": 1, "external-realm": OUT}]}, [], ["not-enabled"]),
        ({"type": "ietf-nat:nat64", "policy": [{"id": 1}]}, [], ["not-read"]),
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1}]}, [], ["pool-missing"]),
        # A translation is read whole or not at all: without its sources it would be about all
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "subscriber-match": [{"match-id": 1, "subnet": "10.1.0.0/240"}], "external-realm": OUT}]},
         [], ["bad-length"]),
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "subscriber-match": [*MATCH, {"match-id": 2, "subnet": "fd00::/64"}], "external-realm": OUT}]},
         [], ["wrong-family"]),
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "subscriber-match": MATCH, "external-realm": OUT,
           "port-set-restrict": {"start-port-number": 3000, "end-port-number": 2000}}]}, [], ["range-reversed"]),
        ({"type": "ietf-nat:napt44", "policy": [{"id": 1, "subscriber-match": MATCH, "external-realm": OUT,
           "port-set-restrict": {"start-port-number": 2000}}]}, ["translate from 10.1.0.0/24 to p2 shared"], []),
        ({"type": "ietf-nat:basic-nat44", "policy": [{"id": 4, "external-ip-address-pool": [
            {"pool-id": 1, "external-ip-pool": "198.51.100.4/31"}, {"pool-id": 2, "external-ip-pool": "198.51.100.6/32"}]}]},
         ["pool pool-4 198.51.100.4 to 198.51.100.6", "translate from 0.0.0.0/0 to pool-4"], []),
        ({"type": "ietf-nat:basic-nat44", "policy": [{"id": 4, "external-ip-address-pool": [
            {"pool-id": 1, "external-ip-pool": "198.51.100.4/31"}, {"pool-id": 2, "external-ip-pool": "198.51.100.7/32"}]}]},
         ["pool pool-4 198.51.100.4 to 198.51.100.5", "translate from 0.0.0.0/0 to pool-4"], ["pool-with-gaps"]),
        ({"type": "ietf-nat:basic-nat44", "policy": [{"id": 4, "zensur-device:pool": "wharf", "external-ip-address-pool": [
            {"pool-id": 1, "external-ip-pool": "198.51.100.4/31"}]}]},
         ["pool wharf 198.51.100.4 to 198.51.100.5", "translate from 0.0.0.0/0 to wharf"], ["pools-disagree"]),
        ({"type": "ietf-nat:napt44", "mapping-table": {"mapping-entry": [{"index": 1, "type": "static", "internal-src-address": "10.1.0.80/32"}]}},
         [], ["mapping-incomplete"]),
        ({"type": "ietf-nat:napt44", "mapping-table": {"mapping-entry": [{"index": 1, "type": "static", "internal-src-address": "10.1.0.80/24",
           "external-src-address": "203.0.113.8/32"}]}}, [], ["not-one-address"]),
        ({"type": "ietf-nat:napt44", "mapping-table": {"mapping-entry": [{"index": 1, "type": "static", "internal-src-address": "10.1.0.80/32",
           "external-src-address": "203.0.113.8/32", "transport-protocol": 1}]}}, [], ["mapping-incomplete"]),
        ({"type": "ietf-nat:napt44", "mapping-table": {"mapping-entry": [{"index": 1, "type": "static", "internal-src-address": "10.1.0.80/32",
           "external-src-address": "203.0.113.8/32", "transport-protocol": 17, "internal-src-port": {"start-port-number": 53}}]}},
         ["translate udp 10.1.0.80:53 as 203.0.113.8:53"], []),
        ({"type": "ietf-nat:napt44", "mapping-table": {"mapping-entry": [{"index": 1, "type": "fixed", "internal-src-address": "10.1.0.80/32",
           "external-src-address": "203.0.113.8/32"}]}}, [], ["bad-value"]),
    ],
)  # fmt: skip
def test_translations_of_the_standard_module_are_read(instance, lines, codes) -> None:
    read = nat(instance)
    written = [
        line
        for line in write_sheet(read.configuration).splitlines()
        if line.startswith(("pool", "translate"))
    ]
    assert written == lines
    assert [d.code for d in read.diagnostics] == codes
    outside = "realm external" in write_sheet(read.configuration)
    assert outside == ("external-realm" in str(instance) and "enable" not in instance)


RFC8529 = """{"ietf-network-instance:network-instances": {"network-instance": [{"name": "vrf-red", "vrf-root": {
 "ietf-routing:routing": {"control-plane-protocols": {"control-plane-protocol": [{"type": "ietf-routing:static",
 "name": "red", "static-routes": {"ietf-ipv4-unicast-routing:ipv4": {"route": [{"destination-prefix": "192.0.2.0/24",
 "next-hop": {"next-hop-address": "10.1.0.2"}}]}}}]}}}}]}, "ietf-interfaces:interfaces": {"interface": [{"name": "eth1",
 "type": "iana-if-type:ethernetCsmacd", "enabled": true, "ietf-network-instance:bind-ni-name": "vrf-red"}]}}"""
RFC8695 = """{"ietf-interfaces:interfaces": {"interface": [{"name": "eth1", "type": "iana-if-type:ethernetCsmacd"},
 {"name": "eth2", "type": "iana-if-type:ethernetCsmacd"}]}, "ietf-routing:routing": {"control-plane-protocols":
 {"control-plane-protocol": [{"type": "ietf-rip:ripv2", "name": "rip", "ietf-rip:rip": {"redistribute": {"static": {}},
 "interfaces": {"interface": [{"interface": "eth1"}, {"interface": "eth2", "passive": [null]}]}}}]}}}"""


@pytest.mark.parametrize(
    ("text", "sheet"),
    [
        (
            RFC8529,
            "instance vrf-red\nport eth1\n  instance vrf-red\n  on\nroute 192.0.2.0/24 via 10.1.0.2 in vrf-red\n",
        ),
        (
            RFC8695,
            "port eth1\n  on\nport eth2\n  on\nrip\n  run eth1 eth2\n  passive eth2\n  announce static\n",
        ),
    ],
)
def test_instances_and_rip_are_read_as_their_standards_have_them(text: str, sheet: str) -> None:
    check_valid(json.loads(text))
    read = read_yang(text, "yang-json")
    assert write_sheet(read.configuration) == sheet
    assert not read.diagnostics


PLAIN = {"ietf-system:system": {"hostname": "weir"}}
XML = "<system xmlns='urn:ietf:params:xml:ns:yang:ietf-system'><hostname>weir</hostname></system>"
BASE = "xmlns='urn:ietf:params:xml:ns:netconf:base:1.0'"


@pytest.mark.parametrize(
    "source",
    [
        json.dumps(PLAIN), json.dumps({"ietf-restconf:data": PLAIN}), json.dumps({"data": PLAIN}),
        json.dumps({"ietf-yang-instance-data:instance-data-set": {"name": "a", "content-data": PLAIN}}),
        "\ufeff" + json.dumps(PLAIN, indent=4).replace("\n", "\r\n"), json.dumps(PLAIN, separators=(" ,", " : ")),
        json.dumps({"ietf-system:system": {"ietf-system:hostname": "weir"}}),
        json.dumps({"ietf-system:system": {"hostname": "weir", "@hostname": {"ietf-origin:origin": "ietf-origin:intended"}}}),
        json.dumps(PLAIN).replace("hostname", "host\\u006eame"),
        XML, f"<config {BASE}>{XML}</config>", f"<data {BASE}>{XML}</data>",
        f"<?xml version='1.0'?>\n<rpc-reply message-id='1' {BASE}><data>{XML}</data></rpc-reply>]]>]]>",
        f"<rpc {BASE}><edit-config><target><running/></target><config>{XML}</config></edit-config></rpc>",
        f"<?xml version='1.0' encoding='UTF-16'?>{XML}".encode("utf-16"),
    ],
)  # fmt: skip
def test_data_is_read_in_whatever_it_comes_wrapped(source: str | bytes) -> None:
    (read,) = read_configurations(source if isinstance(source, bytes) else source.encode())
    assert (write_sheet(read.configuration), read.diagnostics) == ("name weir\n", ())


def test_values_remember_their_lines_in_every_layout() -> None:
    sheet = "name weir\nport p1\n  address 10.1.0.1/24\n  on\nroute 10.2.0.0/24 via 10.1.0.2\n"
    text = write_yang(read_sheet(sheet).configuration, "yang-json")
    lines = text.split("\n")
    for spaced in (text, text.replace('":', '" :'), text.replace("\n", "\n\n")):
        read = read_yang(spaced, "yang-json", "weir.json")
        for word, part in (
            ("address", '"ip"'),
            ("on", '"enabled"'),
            ("route", '"destination-prefix"'),
            ("name", "hostname"),
        ):
            item = next(
                i
                for i in read.configuration.items
                if type(i.statement) is not Open and i.statement.text().startswith(word)
            )
            assert item.where is not None
            assert part in spaced.split("\n")[item.where.line - 1], word
    xml = read_yang(write_yang(read_sheet(sheet).configuration, "yang-xml"), "yang-xml")
    address = next(i for i in xml.configuration.everywhere(OnPort))
    assert address.where is not None
    assert "<ip>" in xml.text.split("\n")[address.where.line - 1]
    broken = read_yang("\n".join(lines[:7]), "yang-json")
    assert [(d.code, d.line) for d in broken.diagnostics] == [("broken-json", 7)]


DEEP = 100_000


@pytest.mark.parametrize(
    ("source", "code"),
    [
        ('{"a":' * DEEP, "too-deep"), ('{"a":' * 200 + "1" + "}" * 200, "too-deep"), ("[" * DEEP, "too-deep"),
        ('{"ietf-interfaces:interfaces":{"interface":[' + "{}," * 30_000 + "{}]}}", "too-large"),
        ('{"ietf-interfaces:interfaces":{"interface":' + "9" * 5_000 + "}}", "broken-json"),
        ('{"ietf-interfaces:interfaces":NaN}', "broken-json"), ('{"a" 1}', "broken-json"), ("{" + " " * (1024 * 1024), "too-large"),
        ('{"some": "thing"}', "not-modelled"),
        ("<a>" * DEEP, "too-deep"), ("<a>" + "<b/>" * 100_000 + "</a>", "too-large"), ("<a><b></a>", "broken-xml"),
        ('<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>', "xml-entities"),
        ('<!DOCTYPE a SYSTEM "file:///etc/passwd"><a/>', "xml-entities"),
        ("<a xmlns='x'>&#0;</a>", "broken-xml"), ("<?xml version='1.0' encoding='no-such'?><a/>", "broken-xml"),
        ("<html><body/></html>", "not-a-configuration"), ("#!/bin/sh\n", "not-a-configuration"),
        ("zensur: 1\nid: x\n", "not-a-configuration"), (b"PK\x03\x04...", "not-a-configuration"), (b"%PDF-1.7", "not-a-configuration"),
    ],
)  # fmt: skip
def test_hostile_files_are_refused_with_one_clear_error(source: str | bytes, code: str) -> None:
    (read,) = read_configurations(source if isinstance(source, bytes) else source.encode())
    assert [d.code for d in read.errors] == [code]
    assert not read.configuration.items


def test_every_form_converts_into_every_other() -> None:
    for one in ("sheet", *FORMS):
        for other in ("sheet", *FORMS):
            (first,) = read_configurations(write_configuration(WHOLE, one))
            (second,) = read_configurations(write_configuration(first.configuration, other))
            assert said(second.configuration) == said(WHOLE), (one, other)
            assert (first.form, second.form) == (one, other)


def test_ends_of_lines_are_counted_as_xml_has_them() -> None:
    text = write_configuration(read_sheet("port p1\n  address 10.1.0.1/24\n").configuration, "yang-xml")
    broken = text.replace("<ip>10.1.0.1</ip>", "<ip>10.1.0</ip>")
    for ends in ("\n", "\r\n", "\r"):
        read = read_yang(broken.replace("\n", ends), "yang-xml")
        (said,) = (d for d in read.diagnostics if d.code == "bad-address")
        assert "10.1.0<" in read.text.split("\n")[said.line - 1], repr(ends)
