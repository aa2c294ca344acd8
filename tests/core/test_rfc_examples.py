"""The examples of the standards' appendices, as far as they carry what the language says, read as their text has them."""

import json

import pytest

from tests.core.yang_models import check_valid
from zensur.core.formats import read_configurations
from zensur.core.formats.yang import read_yang
from zensur.core.sheet import write_sheet

RFC8343 = """<rpc-reply xmlns="urn:ietf:params:xml:ns:netconf:base:1.0" message-id="101"><data>
<interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces"
    xmlns:ianaift="urn:ietf:params:xml:ns:yang:iana-if-type" xmlns:vlan="http://example.com/vlan">
  <interface><name>eth0</name><type>ianaift:ethernetCsmacd</type><enabled>false</enabled></interface>
  <interface><name>eth1</name><type>ianaift:ethernetCsmacd</type><enabled>true</enabled>
    <vlan:vlan-tagging>true</vlan:vlan-tagging></interface>
  <interface><name>eth1.10</name><type>ianaift:l2vlan</type><enabled>true</enabled>
    <vlan:base-interface>eth1</vlan:base-interface><vlan:vlan-id>10</vlan:vlan-id></interface>
  <interface><name>lo1</name><type>ianaift:softwareLoopback</type><enabled>true</enabled></interface>
</interfaces></data></rpc-reply>"""

RFC8344 = """<data xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">
<interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces" xmlns:ianaift="urn:ietf:params:xml:ns:yang:iana-if-type">
  <interface><name>eth0</name><type>ianaift:ethernetCsmacd</type>
    <ipv4 xmlns="urn:ietf:params:xml:ns:yang:ietf-ip">
      <address><ip>192.0.2.1</ip><prefix-length>24</prefix-length></address></ipv4>
    <ipv6 xmlns="urn:ietf:params:xml:ns:yang:ietf-ip"><mtu>1280</mtu>
      <address><ip>2001:db8::10</ip><prefix-length>32</prefix-length></address>
      <dup-addr-detect-transmits>0</dup-addr-detect-transmits></ipv6>
  </interface></interfaces></data>"""

RFC8349 = {
    "ietf-interfaces:interfaces": {"interface": [
        {"name": "eth0", "type": "iana-if-type:ethernetCsmacd", "description": "Uplink to ISP.",
         "ietf-ip:ipv4": {"forwarding": True, "address": [{"ip": "192.0.2.1", "prefix-length": 24}]},
         "ietf-ip:ipv6": {"forwarding": True, "address": [{"ip": "2001:0db8:0:1::1", "prefix-length": 64}],
                          "autoconf": {"create-global-addresses": False}}},
        {"name": "eth1", "type": "iana-if-type:ethernetCsmacd", "description": "Interface to the internal network.",
         "ietf-ip:ipv4": {"forwarding": True, "address": [{"ip": "198.51.100.1", "prefix-length": 24}]},
         "ietf-ip:ipv6": {"forwarding": True, "address": [{"ip": "2001:0db8:0:2::1", "prefix-length": 64}],
                          "autoconf": {"create-global-addresses": False},
                          "ietf-ipv6-unicast-routing:ipv6-router-advertisements": {"send-advertisements": True}}},
    ]},
    "ietf-routing:routing": {"control-plane-protocols": {"control-plane-protocol": [
        {"type": "ietf-routing:static", "name": "st0", "description": "Static routing is used for the internal network.",
         "static-routes": {
             "ietf-ipv4-unicast-routing:ipv4": {"route": [
                 {"destination-prefix": "0.0.0.0/0", "next-hop": {"next-hop-address": "192.0.2.2"}}]},
             "ietf-ipv6-unicast-routing:ipv6": {"route": [
                 {"destination-prefix": "::/0", "next-hop": {"next-hop-address": "2001:db8:0:1::2"}}]}}}]}},
}  # fmt: skip

RFC8512 = """<config xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"><nat xmlns="urn:ietf:params:xml:ns:yang:ietf-nat">
<instances><instance><id>1</id><name>NAT_Subscriber_A</name><type>napt44</type>
  <policy><id>1</id><external-ip-address-pool><pool-id>1</pool-id><external-ip-pool>198.51.100.1/32</external-ip-pool>
    </external-ip-address-pool><subscriber-match><match-id>1</match-id><subnet>192.0.2.0/24</subnet></subscriber-match>
  </policy>
  <mapping-table>
    <mapping-entry><index>1</index><type>static</type><transport-protocol>6</transport-protocol>
      <internal-src-address>192.0.2.1/32</internal-src-address>
      <internal-src-port><start-port-number>6000</start-port-number></internal-src-port>
      <external-src-address>198.51.100.1/32</external-src-address>
      <external-src-port><start-port-number>80</start-port-number></external-src-port></mapping-entry>
    <mapping-entry><index>2</index><type>dynamic-implicit</type><internal-src-address>192.0.2.9/32</internal-src-address>
      <external-src-address>198.51.100.1/32</external-src-address></mapping-entry>
  </mapping-table></instance></instances></nat></config>"""


@pytest.mark.parametrize(
    ("text", "sheet", "told"),
    [
        (RFC8343, "port eth0\n  off\nport eth1\n  on\nport eth1.10\n  on\nloopback lo1\n  on\n", {"unknown-module"}),
        (RFC8344, "port eth0\n  address 192.0.2.1/24\n  address 2001:db8::10/32\n  on\n", set()),
        (json.dumps(RFC8349),
         "port eth0\n  about Uplink to ISP.\n  address 192.0.2.1/24\n  address 2001:db8:0:1::1/64\n  on\n"
         "port eth1\n  about Interface to the internal network.\n  address 198.51.100.1/24\n  address 2001:db8:0:2::1/64\n  on\n  advertise on\n"
         "forwarding on\nroute default via 192.0.2.2\nroute ::/0 via 2001:db8:0:1::2\n", set()),
        (RFC8512, "pool pool-1 198.51.100.1 to 198.51.100.1\ntranslate tcp 192.0.2.1:6000 as 198.51.100.1:80\n"
         "translate from 192.0.2.0/24 to pool-1 shared\n", set()),
    ],
    ids=["8343", "8344", "8349", "8512"],
)  # fmt: skip
def test_the_examples_of_the_standards_are_read_as_they_say(text: str, sheet: str, told: set[str]) -> None:
    (read,) = read_configurations(text)
    assert write_sheet(read.configuration) == sheet
    assert {d.code for d in read.diagnostics} == told


@pytest.mark.parametrize("kind", ["router", "switch", "host", None])
def test_a_default_route_is_the_gateway_of_what_does_not_forward(kind: str | None) -> None:
    """What forwards would ignore a gateway, whatever kind of device it is."""
    check_valid(RFC8349)
    text = json.dumps(RFC8349)
    forwards = write_sheet(read_yang(text, "yang-json", kind=kind).configuration)
    assert "route default via 192.0.2.2\n" in forwards
    silent = write_sheet(
        read_yang(text.replace('"forwarding": true, ', ""), "yang-json", kind=kind).configuration
    )
    assert ("gateway 192.0.2.2\ngateway 2001:db8:0:1::2\n" in silent) == (kind in ("switch", "host"))
    off = write_sheet(
        read_yang(text.replace('"forwarding": true', '"forwarding": false'), "yang-json").configuration
    )
    assert "forwarding off\ngateway 192.0.2.2\n" in off
