"""Snapshots of Linux machines, as the commands print them: what becomes of each line, and what is told of the rest."""

import json
from typing import Any

import pytest

from zensur.core.formats.snapshot import read_snapshot
from zensur.core.sheet import Sheet, write_sheet

PORTS = ("p1", "p2", "p3")


def link(name: str, kind: str = "veth", up: bool = True, **more: Any) -> dict[str, Any]:
    flags = ["BROADCAST", *(["UP"] if up else [])]
    return {"ifname": name, "flags": flags, "linkinfo": {"info_kind": kind}, **more}


def address(local: str, length: int, **more: Any) -> dict[str, Any]:
    return {"family": "inet6" if ":" in local else "inet", "local": local, "prefixlen": length, **more}


def snapshot(**parts: Any) -> str:
    lines = ["zensur snapshot 1"]
    for name, part in parts.items():
        lines += [f"== {name}", part if isinstance(part, str) else json.dumps(part)]
    return "\n".join(lines) + "\n"


def machine(
    links: list[Any] | None = None,
    addresses: dict[str, list[Any]] | None = None,
    forward: int = 1,
    **parts: Any,
) -> Sheet:
    held = [{"ifname": name, "addr_info": listed} for name, listed in (addresses or {}).items()]
    text = snapshot(
        hostname="weir", links=links if links is not None else [link("p1"), link("p2")], addresses=held,
        **{"routes": [], "routes6": [], "nftables": {"nftables": []}, "resolver": "", **parts},
        sysctl=f"net.ipv4.ip_forward = {forward}",
    )  # fmt: skip
    return read_snapshot(text, "weir.snapshot", PORTS)


def lines_of(sheet: Sheet, *without: str) -> list[str]:
    """The statements of a sheet, each with its block's header, but those that begin with some words."""
    found, header = [], ""
    for line in write_sheet(sheet.configuration).splitlines():
        if line.startswith(" "):
            found.append(f"{header}: {line.strip()}")
        else:
            header = line
            found.append(line)
    return [
        line for line in found if not line.startswith(("name", "forwarding", *without)) or line in without
    ]


VLANS = [
    {"ifname": "p1", "vlans": [{"vlan": 1, "flags": ["PVID", "Egress Untagged"]}]},
    {
        "ifname": "p2",
        "vlans": [{"vlan": 10, "vlanEnd": 12}, {"vlan": 20, "flags": ["PVID", "Egress Untagged"]}],
    },
    {"ifname": "p3", "vlans": [{"vlan": 10}]},
    {"ifname": "br0", "vlans": [{"vlan": 10, "flags": ["PVID", "Egress Untagged"]}]},
]


def tagged(parent: str, vlan: int, **more: Any) -> dict[str, Any]:
    """A tagged link of another, as ip -details tells of it."""
    info = {"linkinfo": {"info_kind": "vlan", "info_data": {"id": vlan}}}
    return link(f"{parent}.{vlan}", "vlan", link=parent, **more) | info


FILTERING = {"info_kind": "bridge", "info_data": {"vlan_filtering": 1}}


@pytest.mark.parametrize(
    ("read", "lines", "codes"),
    [
        (machine(), ["port p1", "port p1: on", "port p2", "port p2: on"], []),
        (machine([link("p1", up=False)]), ["port p1", "port p1: off"], []),
        (machine([link("eth7", ifalias="p1")]), ["port p1", "port p1: on"], []),  # its own name here is in the alias
        (machine([link("p1"), link("docker0", "bridge"), link("virbr0", "bridge"), link("wlan0", "")]),
         ["port p1", "port p1: on"], ["not-a-port"]),
        (machine([link("lo", ""), link("d0", "dummy")], {"lo": [address("127.0.0.1", 8), address("10.9.9.9", 32)], "d0": [address("10.9.9.8", 32)]}),
         ["loopback lo", "loopback lo: address 10.9.9.9/32", "loopback lo: on", "loopback d0", "loopback d0: address 10.9.9.8/32", "loopback d0: on"], []),
        (machine([link("p1"), tagged("p1", 10) | {"ifname": "tag"}], {"tag": [address("10.1.0.1", 24)]}),
         ["port p1", "port p1: on", "port p1.10", "port p1.10: address 10.1.0.1/24", "port p1.10: on"], []),
        (machine([link("p1")], {"p1": [address("10.1.0.7", 24, dynamic=True), address("fd00::7", 64, dynamic=True), address("fe80::7", 64)]}),
         ["port p1", "port p1: address fe80::7/64", "port p1: address dhcp", "port p1: address auto", "port p1: on"], []),
        (machine([link("p1")], {"p1": [address("10.1.0.7", 32, address="10.1.0.8")]}), ["port p1", "port p1: address 10.1.0.7/32", "port p1: on"], ["peer-address"]),
        # a filtering bridge, and one without
        (machine([link("p1", master="br0"), link("p2", master="br0"), link("p3", master="br0"), {"ifname": "br0", "flags": ["UP"], "linkinfo": FILTERING}],
                 {"br0": [address("10.1.0.2", 24)]}, 0, vlans=VLANS),
         ["port p1", "port p1: on", "port p1: access 1", "port p2", "port p2: on", "port p2: trunk 10-12 native 20", "port p3", "port p3: on", "port p3: trunk 10",
          "vlan 1", "vlan 10", "vlan 10: address 10.1.0.2/24", "vlan 11", "vlan 12", "vlan 20"], []),
        (machine([link("p1", master="vlan30"), link("vlan30", "bridge")], {"vlan30": [address("10.3.0.2", 24)]}, 0),
         ["port p1", "port p1: on", "port p1: access 30", "vlan 30", "vlan 30: address 10.3.0.2/24"], []),
        # a bridge for each VLAN, with tagged links of a port in them; the second bridge is known by its one tag
        (machine([link("p1", master="vlan20"), tagged("p1", 10, master="b"), tagged("p2", 10, up=False, master="b"), link("vlan20", "bridge"), link("b", "bridge")],
                 {"b": [address("10.1.0.2", 24)]}, 0),
         ["port p1", "port p1: on", "port p1: trunk 10 native 20", "port p2", "port p2: off", "port p2: trunk 10", "vlan 10", "vlan 10: address 10.1.0.2/24", "vlan 20"], []),
        (machine([tagged("p1", 10, master="vlan20"), link("vlan20", "bridge")], {}, 0),
         ["port p1", "port p1: on", "port p1: trunk 10", "vlan 20"], ["other-tag"]),
        (machine([link("p1", master="a"), link("p2", master="c"), link("a", "bridge"), link("c", "bridge"), tagged("p2", 1, master="c")], {}, 0),
         ["port p1", "port p1: on", "port p1: access 2", "port p2", "port p2: on", "port p2: trunk 1 native 1", "vlan 2"], []),
        # the machine itself in a VLAN of its filtering bridge
        (machine([link("p2", master="br0"), {"ifname": "br0", "flags": ["UP"], "linkinfo": FILTERING}, tagged("br0", 11)], {"br0.11": [address("10.1.0.2", 24)]}, 0, vlans=VLANS),
         ["port p2", "port p2: on", "port p2: trunk 10-12 native 20", "vlan 10", "vlan 11", "vlan 11: address 10.1.0.2/24", "vlan 11: on", "vlan 12", "vlan 20"], []),
    ],
)  # fmt: skip
def test_links_become_ports(read: Sheet, lines: list[str], codes: list[str]) -> None:
    assert lines_of(read) == lines
    assert [d.code for d in read.diagnostics if d.code != "part-missing"] == codes


def test_a_switch_finds_its_gateway_in_a_vlan() -> None:
    routes = [
        {"dst": "default", "gateway": "10.3.0.1", "dev": "vlan30", "flags": ["onlink"]},
        {"dst": "default", "gateway": "10.9.0.1", "dev": "vlan30", "flags": ["onlink"]},
    ]
    for route, wanted in zip(routes, (["gateway 10.3.0.1"], []), strict=True):
        read = machine(
            [link("p1", master="vlan30"), link("vlan30", "bridge")],
            {"vlan30": [address("10.3.0.2", 24)]},
            0,
            routes=[route],
        )
        assert [line for line in lines_of(read) if line.startswith("gateway")] == wanted
        assert [d.code for d in read.diagnostics] == [[], ["not-read"]][not wanted]


TO = {"dst": "10.2.0.0/24", "gateway": "10.1.0.2", "dev": "p1", "protocol": "static"}
HELD = {"p1": [address("10.1.0.1", 24)]}


@pytest.mark.parametrize(
    ("forward", "routes", "lines", "codes"),
    [
        (1, [TO], ["route 10.2.0.0/24 via 10.1.0.2"], []),
        (1, [{**TO, "metric": 200}, {**TO, "gateway": "10.1.0.3", "metric": 50}],
         ["route 10.2.0.0/24 via 10.1.0.3 preference 50", "route 10.2.0.0/24 via 10.1.0.2 preference 200"], []),
        (1, [{**TO, "metric": 1024}, {**TO, "gateway": "10.1.0.3", "metric": 20}],
         ["route 10.2.0.0/24 via 10.1.0.3", "route 10.2.0.0/24 via 10.1.0.2 preference 11"], []),
        (1, [{**TO, "metric": 50}], ["route 10.2.0.0/24 via 10.1.0.2"], []),
        (1, [{**TO, "dst": "default"}], ["route default via 10.1.0.2"], []),
        (0, [{**TO, "dst": "default"}], ["gateway 10.1.0.2"], []),
        (1, [{**TO, "gateway": "10.77.0.2", "flags": ["onlink"]}], ["route 10.2.0.0/24 via 10.77.0.2 out p1"], []),
        (1, [{"dst": "10.2.0.0/24", "dev": "p1"}], ["route 10.2.0.0/24 out p1"], []),
        (1, [{"type": "blackhole", "dst": "10.2.0.0/24"}, {"type": "prohibit", "dst": "10.3.0.0/24"}],
         ["route 10.2.0.0/24 discard", "route 10.3.0.0/24 discard"], ["like-discard"]),
        (1, [{"dst": "10.1.0.0/24", "dev": "p1", "protocol": "kernel"}, {"type": "local", "dst": "10.1.0.1", "dev": "p1", "table": "local"},
             {"dst": "10.5.0.0/24", "gateway": "10.1.0.9", "dev": "p1", "protocol": "dhcp"}], [], []),
        (1, [{**TO, "table": "77"}], [], ["other-table"]),
        (1, [{**TO, "tos": "0x10"}], [], ["not-read"]),
        (1, [{**TO, "prefsrc": "10.1.0.1"}], ["route 10.2.0.0/24 via 10.1.0.2"], ["source-ignored"]),
        (1, [{"dst": "10.2.0.0/24", "nexthops": [{"gateway": "10.1.0.2", "dev": "p1"}, {"gateway": "10.1.0.3", "dev": "p1"}]}],
         ["route 10.2.0.0/24 via 10.1.0.2"], ["first-next-hop"]),
        (1, [{"dst": "10.2.0.0/24", "via": {"family": "inet6", "host": "fe80::2"}, "dev": "p1"}], [], ["not-read"]),
        (1, [{"dst": "nonsense"}, {"dst": 7}, {}], [], []),
    ],
)  # fmt: skip
def test_tables_become_routes(forward: int, routes: list[Any], lines: list[str], codes: list[str]) -> None:
    read = machine([link("p1")], HELD, forward, routes=routes)
    assert lines_of(read, "port") == lines
    assert [d.code for d in read.diagnostics] == codes
    assert all(i.where is not None for i in read.configuration.items)


def rules(*told: list[Any], chain: str = "post", hook: str = "postrouting", **more: Any) -> dict[str, Any]:
    listed: list[Any] = [
        {"table": {"family": "ip", "name": "nat", **more}},
        {"chain": {"family": "ip", "table": "nat", "name": chain, "type": "nat", "hook": hook, "prio": 100}},
        {
            "set": {
                "family": "ip",
                "table": "nat",
                "name": "crew",
                "elem": ["10.1.0.5", {"prefix": {"addr": "10.1.0.64", "len": 26}}],
            }
        },
    ]
    listed += [{"rule": {"family": "ip", "table": "nat", "chain": chain, "expr": expr}} for expr in told]
    return {"nftables": listed}


def match(left: str, right: Any, op: str = "==") -> dict[str, Any]:
    return {"match": {"op": op, "left": keyed(left), "right": right}}


def keyed(words: str) -> dict[str, Any]:
    """What nftables compares or looks up by: oifname, ip saddr, or several with a dot between."""
    keys = [
        {"meta": {"key": first}} if not more else {"payload": {"protocol": first, "field": more[0]}}
        for first, *more in (key.split() for key in words.split(" . "))
    ]
    return keys[0] if len(keys) == 1 else {"concat": keys}


def together(*parts: Any) -> dict[str, Any]:
    return {"concat": [*parts]}


def mapped(by: str, *elements: tuple[Any, Any]) -> dict[str, Any]:
    return {"map": {"key": keyed(by), "data": {"set": [[*pair] for pair in elements]}}}


OUT, INSIDE = match("oifname", "p2"), match("ip saddr", {"prefix": {"addr": "10.1.0.0", "len": 24}})
MASQUERADE: dict[str, Any] = {"masquerade": None}
BOTH = {
    "p1": [address("10.1.0.1", 24)],
    "p2": [address("203.0.113.2", 28)],
    "p3": [address("203.0.113.18", 28)],
}


@pytest.mark.parametrize(
    ("ruleset", "lines", "refused"),
    [
        (rules([OUT, INSIDE, MASQUERADE]), ["translate from 10.1.0.0/24 to p2 shared"], 0),
        (rules([OUT, MASQUERADE]), ["translate from 0.0.0.0/0 to p2 shared"], 0),
        (rules([OUT, INSIDE, {"masquerade": {"port": {"range": [2000, 3000]}}}]), ["translate from 10.1.0.0/24 to p2 shared ports 2000 to 3000"], 0),
        (rules([OUT, INSIDE, {"counter": {"packets": 1, "bytes": 2}}, {"snat": {"addr": "203.0.113.2"}}]), ["translate from 10.1.0.0/24 to p2 shared"], 0),
        (rules([OUT, INSIDE, {"snat": {"addr": {"range": ["203.0.113.4", "203.0.113.6"]}, "flags": "persistent"}}]),
         ["pool pool-1 203.0.113.4 to 203.0.113.6", "translate from 10.1.0.0/24 to pool-1 shared"], 0),
        (rules([OUT, INSIDE, {"snat": {"addr": {"prefix": {"addr": "203.0.113.4", "len": 30}}}}]),
         ["pool pool-1 203.0.113.4 to 203.0.113.7", "translate from 10.1.0.0/24 to pool-1 shared"], 0),
        (rules([OUT, match("ip saddr", "@crew"), MASQUERADE]),
         ["addresses sources-1", "addresses sources-1: permit 10.1.0.5", "addresses sources-1: permit 10.1.0.64/26", "translate from sources-1 to p2 shared"], 0),
        (rules([OUT, match("ip saddr", "10.1.0.66", "!="), MASQUERADE]),
         ["addresses sources-1", "addresses sources-1: deny 10.1.0.66", "addresses sources-1: permit any", "translate from sources-1 to p2 shared"], 0),
        (rules([match("ip saddr", "10.1.0.66"), {"return": None}], [OUT, INSIDE, MASQUERADE]),
         ["addresses sources-1", "addresses sources-1: deny 10.1.0.66", "addresses sources-1: permit 10.1.0.0/24", "translate from sources-1 to p2 shared"], 0),
        (rules([{"accept": None}], [OUT, INSIDE, MASQUERADE]), [], 0),  # nothing comes to the second
        (rules([OUT, INSIDE, MASQUERADE], [match("oifname", "p3"), INSIDE, MASQUERADE]),
         ["translate from 10.1.0.0/24 to p2 shared out p2", "translate from 10.1.0.0/24 to p3 shared out p3"], 0),
        (rules([match("oifname", {"set": ["p2", "p3"]}), INSIDE, MASQUERADE]),
         ["translate from 10.1.0.0/24 to p2 shared out p2", "translate from 10.1.0.0/24 to p3 shared out p3"], 0),
        # published services
        (rules([match("iifname", "p2"), match("tcp dport", 8080), {"dnat": {"addr": "10.1.0.80", "port": 80}}], hook="prerouting"),
         ["translate tcp 10.1.0.80:80 as p2:8080"], 0),
        (rules([match("iifname", "p2"), match("ip daddr", "203.0.113.2"), match("udp dport", {"set": [53, 54]}), {"dnat": {"addr": "10.1.0.80"}}], hook="prerouting"),
         ["translate udp 10.1.0.80:53 as 203.0.113.2:53", "translate udp 10.1.0.80:54 as 203.0.113.2:54"], 0),
        # maps, verdict maps and concatenations; demands that are made twice
        (rules([match("iifname", "p2"), {"dnat": {"family": "ip", "addr": mapped("tcp dport", (8080, together("10.1.0.80", 80)), (444, "10.1.0.81"))}}], hook="prerouting"),
         ["translate tcp 10.1.0.80:80 as p2:8080", "translate tcp 10.1.0.81:444 as p2:444"], 0),
        (rules([match("iifname", "p2"), match("tcp dport", {"range": [80, 81]}), match("tcp dport", {"set": [{"range": [1, 80]}, {"range": [82, 99]}]}), {"dnat": {"addr": "10.1.0.80", "port": mapped("tcp dport", (80, 8080), (90, 9090))}}], hook="prerouting"),
         ["translate tcp 10.1.0.80:8080 as p2:80"], 0),
        (rules([match("iifname", "p2"), match("meta l4proto", "udp"), {"dnat": {"addr": mapped("ip daddr . udp dport", (together("203.0.113.5", 53), "10.1.0.80"), ({"elem": {"val": together("203.0.113.6", 53)}}, "10.1.0.81"))}}], hook="prerouting"),
         ["translate udp 10.1.0.80:53 as 203.0.113.5:53", "translate udp 10.1.0.81:53 as 203.0.113.6:53"], 0),
        (rules([match("iifname", "p2"), match("udp dport", 80), match("tcp dport", 80), {"dnat": {"addr": "10.1.0.80"}}], hook="prerouting"), [], 0),
        (rules([OUT, {"snat": {"addr": mapped("ip saddr", ("10.1.0.9", "203.0.113.9"), ({"prefix": {"addr": "10.1.0.64", "len": 26}}, {"range": ["203.0.113.4", "203.0.113.5"]}))}}]),
         ["pool pool-1 203.0.113.9 to 203.0.113.9", "pool pool-2 203.0.113.4 to 203.0.113.5", "translate from 10.1.0.9/32 to pool-1 shared", "translate from 10.1.0.64/26 to pool-2 shared"], 0),
        (rules([{"vmap": {"key": keyed("oifname . ip saddr"), "data": {"set": [[together("p2", "10.1.0.66"), {"accept": None}]]}}}], [OUT, INSIDE, MASQUERADE]),
         ["addresses sources-1", "addresses sources-1: deny 10.1.0.66", "addresses sources-1: permit 10.1.0.0/24", "translate from sources-1 to p2 shared"], 0),
        (rules([{"match": {"op": "==", "left": keyed("oifname . ip saddr"), "right": {"set": [together("p2", "10.1.0.7"), together("p3", "10.1.0.8")]}}}, MASQUERADE]),
         ["translate from 10.1.0.7/32 to p2 shared out p2", "translate from 10.1.0.8/32 to p3 shared out p3"], 0),
        (rules([{"match": {"op": "!=", "left": keyed("oifname . ip saddr"), "right": {"set": [together("p2", "10.1.0.7")]}}}, MASQUERADE]), [], 1),
        (rules([{"match": {"op": "==", "left": keyed("oifname . ip saddr"), "right": {"set": [together("p2")]}}}, MASQUERADE]), [], 1),
        (rules([match("iifname", "p2"), {"dnat": {"addr": mapped("tcp dport", *((n, "10.1.0.80") for n in range(1, 300)))}}], hook="prerouting"), [], 1),
        (rules([OUT, {"vmap": {"key": keyed("ip saddr"), "data": {"set": [7, ["10.1.0.7", {"return": None}]]}}}, MASQUERADE]), [], 1),
        (rules([OUT, match("iifname", "p1"), match("iifname", "p3"), MASQUERADE], [OUT, match("oifname", "p3"), MASQUERADE]), [], 0),  # no packet fits
        # told, and left out
        (rules([match("iifname", "p2"), match("ip saddr", "198.51.100.9"), match("tcp dport", 80), {"dnat": {"addr": "10.1.0.80"}}], hook="prerouting"), [], 1),
        (rules([match("iifname", "p2"), match("ip saddr", "198.51.100.9", "!="), match("tcp dport", 80), {"dnat": {"addr": "10.1.0.80"}}], hook="prerouting"), [], 1),
        (rules([INSIDE, MASQUERADE]), [], 1),
        (rules([OUT, match("ip daddr", "198.51.100.9"), MASQUERADE]), [], 1),
        (rules([OUT, match("tcp dport", 80), MASQUERADE]), [], 1),
        (rules([OUT, {"xt": {"type": "match"}}, MASQUERADE]), [], 1),
        (rules([match("oifname", "p*"), MASQUERADE]), [], 1),
        (rules([match("oifname", "wlan0"), MASQUERADE]), [], 1),
        (rules([match("iifname", "p2"), match("ip daddr", "203.0.113.5"), {"dnat": {"addr": "10.1.0.80"}}], hook="prerouting"), [], 1),
        (rules([match("iifname", "p2"), match("tcp dport", {"range": [1, 9000]}), {"dnat": {"addr": "10.1.0.80"}}], hook="prerouting"), [], 1),
        # not for what is translated
        (rules([OUT, INSIDE, MASQUERADE], flags=["dormant"]), [], 0),
        (rules([OUT, INSIDE, MASQUERADE], hook="output"), [], 0),
        (rules(["nonsense"], [7], [[]], [{}], [{"match": 3}], [{"match": {"op": "==", "left": [], "right": {}}}]), [], 6),
    ],
)  # fmt: skip
def test_rules_become_translations_or_are_told_by_their_words(
    ruleset: Any, lines: list[str], refused: int
) -> None:
    read = machine([link("p1"), link("p2"), link("p3")], BOTH, nftables=ruleset)
    assert lines_of(read, "port") == lines
    told = [d for d in read.diagnostics if d.code == "rule-not-read"]
    assert len(told) == refused
    text = write_sheet(read.configuration)
    assert ("realm external" in text) == any(line.startswith("translate") for line in lines)


@pytest.mark.parametrize(
    ("text", "codes"),
    [
        ("zensur snapshot 1\n", ["part-missing"] * 8),
        ("zensur snapshot 9\n== hostname\nweir\n", ["snapshot-version", *["part-missing"] * 7]),
        (snapshot(links="[{", addresses="{}", routes="7", colours="red"), None),
        (snapshot(links="! ip failed", hostname="we ir"), None),
        (snapshot(links="[" * 50_000), None),
        (snapshot(links=[[1], 2, None, {"ifname": 3, "flags": 4, "linkinfo": 5}], addresses=[{"ifname": "p1", "addr_info": 7}],
                  routes=[{"dst": {}, "gateway": [], "metric": "x"}], vlans=[{"vlans": {}}], nftables={"nftables": [{"rule": 1}, {"chain": {}}, 5]}), None),
        ("\ufeff" + snapshot(hostname="weir").replace("\n", "\r\n"), ["part-missing"] * 7),
    ],
)  # fmt: skip
def test_whatever_a_snapshot_holds_is_read(text: str, codes: list[str] | None) -> None:
    read = read_snapshot(text.encode(), "x", PORTS)
    assert read.form == "snapshot"
    if codes is not None:
        assert sorted(d.code for d in read.diagnostics) == sorted(codes)
    else:
        assert read.diagnostics


def many(told: list[list[Any]]) -> dict[str, Any]:
    """Rules that may name a set of 250 networks."""
    found = rules(*told)
    elements = [f"10.77.{n}.0/24" for n in range(250)]
    found["nftables"].insert(0, {"set": {"family": "ip", "table": "nat", "name": "many", "elem": elements}})
    return found


def chains() -> dict[str, Any]:
    """Fourteen chains, each of which jumps twenty times to the next."""
    listed: list[Any] = [
        {
            "chain": {
                "family": "ip",
                "table": "nat",
                "name": f"c{n}",
                "type": "nat" if n == 0 else "",
                "hook": "postrouting",
            }
        }
        for n in range(14)
    ]
    listed += [
        {
            "rule": {
                "family": "ip",
                "table": "nat",
                "chain": f"c{n}",
                "expr": [{"jump": {"target": f"c{n + 1}"}}],
            }
        }
        for n in range(13)
        for _ in range(20)
    ]
    return {"nftables": listed}


@pytest.mark.parametrize(
    ("ruleset", "why"),
    [
        (chains(), "more than 2,000 rules"),
        (rules([OUT, match("ip saddr", {"set": [f"10.9.{n // 256}.{n % 256}" for n in range(300)]}), MASQUERADE]), "more than 256 networks"),
        (rules(*[[match("ip saddr", f"10.9.{n // 256}.{n % 256}"), {"return": None}] for n in range(2100)]), "more than 2,000 rules"),
        (rules([OUT, match("ip saddr", {"set": [f"10.9.{n // 256}.{n % 256}" for n in range(2_000)]}), MASQUERADE]), "more than 1,024 elements"),
        (rules([OUT, {"snat": {"addr": mapped("ip saddr", *((f"10.9.{n // 256}.{n % 256}", "203.0.113.2") for n in range(300)))}}]), "more than 256 rules"),
        (many([[match("ip saddr", "@many"), {"return": None}]] * 600), "more than 2,000 rules"),  # each looks at 250 networks
        (rules(*[[match("ip saddr", {"set": [f"10.{k}.{n}.0/24" for n in range(250)]}), {"return": None}] for k in range(5)], [OUT, INSIDE, MASQUERADE]), "more than 1,024 networks"),
    ],
)  # fmt: skip
def test_rules_without_end_are_told_and_left(ruleset: Any, why: str) -> None:
    read = machine([link("p1"), link("p2")], BOTH, nftables=ruleset)
    assert [why in d.message for d in read.diagnostics if d.code == "rule-not-read"] == [True]
    assert lines_of(read, "port") == []


def test_lists_without_end_are_cut_and_told() -> None:
    """What rules before them let go is listed again for each translation to something else."""
    returns = [[match("ip saddr", "@many"), {"return": None}]]
    out = [[OUT, INSIDE, {"snat": {"addr": f"198.51.100.{n}"}}] for n in range(1, 61)]
    read = machine([link("p1"), link("p2")], BOTH, nftables=many([*returns, *out]))
    assert [
        "more than 10,000 sources" in d.message for d in read.diagnostics if d.code == "rule-not-read"
    ] == [True]
    listed = [line for line in lines_of(read, "port") if ": deny" in line or ": permit" in line]
    assert len(listed) == 10_000 // 251 * 251


def test_ports_that_carry_every_vlan_declare_as_many_as_are_read() -> None:
    vlans = [{"ifname": "p1", "vlans": [{"vlan": 1, "vlanEnd": 4094}]}]
    bridge = {"ifname": "br0", "flags": ["UP"], "linkinfo": FILTERING}
    read = machine([link("p1", master="br0"), bridge], {}, 0, vlans=vlans)
    assert "port p1: trunk all" in lines_of(read)
    assert [line for line in lines_of(read) if line.startswith("vlan")][-1] == "vlan 256"
    assert "many-vlans" in [d.code for d in read.diagnostics]


@pytest.mark.parametrize(
    ("to", "borne", "codes"),
    [
        ("203.0.113.5", [], ["not-borne"]),
        ("203.0.113.5", ["203.0.113.5"], []),
        ({"range": ["203.0.113.4", "203.0.113.6"]}, ["203.0.113.4", "203.0.113.5"], ["not-borne"]),
        ({"range": ["203.0.113.4", "203.0.113.5"]}, ["203.0.113.4", "203.0.113.5"], []),
        ("198.51.100.5", [], []),  # in no network of a port: it is routed here
        ("203.0.113.2", [], []),
    ],
)
def test_addresses_that_no_port_bears_are_told(to: Any, borne: list[str], codes: list[str]) -> None:
    for bearer in ("p2", "lo"):  # the kernel answers for its addresses whatever they are on
        held = {**BOTH, "lo": []}
        held[bearer] = [*held[bearer], *(address(a, 32) for a in borne)]
        links = [link("p1"), link("p2"), link("lo", "")]
        read = machine(links, held, nftables=rules([OUT, INSIDE, {"snat": {"addr": to}}]))
        assert [d.code for d in read.diagnostics] == codes, bearer


def test_chains_are_tried_by_their_priority() -> None:
    late = rules([OUT, INSIDE, {"snat": {"addr": "203.0.113.9"}}])["nftables"]
    early = rules([OUT, INSIDE, MASQUERADE], chain="first")["nftables"]
    early[1]["chain"]["prio"] = 50
    read = machine([link("p1"), link("p2")], BOTH, nftables={"nftables": [*late, *early]})
    translated = [line for line in lines_of(read, "port") if line.startswith("translate")]
    assert translated == ["translate from 10.1.0.0/24 to p2 shared"]
