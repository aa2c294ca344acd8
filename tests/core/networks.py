"""Sheets drawn at random for one small lab, with every statement and values that often meet."""

from hypothesis import strategies as st

from tests.helpers import lab_of

LAB = lab_of(
    "r1=router:p1,p2,p3,s1 r2=router:p1,p2,s1 r3=router:p1,p2 sw=switch:p1,p2,p3,p4 h1=host h2=host",
    "h1:p1--sw:p1 r1:p1--sw:p2 r2:p1--sw:p3 h2:p1--sw:p4 r1:p2--r3:p1 r1:s1--r2:s1 r1:p3--r2:p2",
)
PORTS = ["p1", "p2", "p3", "s1", "p1.10", "lo0", "vlan10"]
HOSTS = [f"10.0.{net}.{host}" for net in range(3) for host in (0, 1, 2, 9, 255)] + ["203.0.113.1", "10.9.9.9"]
SIXES = [f"2001:db8:{net}::{host}" for net in (0, 1) for host in ("", "1", "2", "9")] + ["fe80::1", "fe80::2"]

four, six = st.sampled_from(HOSTS), st.sampled_from(SIXES)
length = st.sampled_from([0, 8, 23, 24, 24, 24, 25, 30, 31, 32])
length_six = st.sampled_from([0, 48, 64, 64, 64, 65, 127, 128])
port, number = st.sampled_from(PORTS), st.integers(1, 4)
instance = st.sampled_from(["", "", "", " in west"])
network = st.sampled_from(
    ["10.0.0.0/24", "10.0.1.0/24", "10.0.0.0/22", "10.0.2.0/25", "203.0.113.0/29", "default"]
)
network_six = st.sampled_from(["2001:db8::/64", "2001:db8:1::/64", "2001:db8::/32"])


def _line(text: str, *values: st.SearchStrategy[object]) -> st.SearchStrategy[str]:
    return st.tuples(*values).map(lambda drawn: text.format(*drawn))


def _on_off(word: str) -> st.SearchStrategy[str]:
    return st.sampled_from([f"{word} on".strip(), f"{word} off".strip()])


ON_PORT = (
    _line("address {}/{}", four, length) | _line("address {}/{}", six, length_six) | st.sampled_from(
        ["address dhcp", "address auto", "on", "on", "on", "off", "realm internal", "realm external",
         "instance west", "clocking 64000", "about x", "relay 10.0.0.1", "access 10", "access 1",
         "trunk 10,20 native 1", "trunk all"]
    ) | _on_off("proxy") | _on_off("advertise")
)  # fmt: skip
TOP = st.one_of(
    _line("route {} via {}{}", network, four, instance),
    _line("route {} via {}", network_six, six),
    _line("route {} via {} out {}", network_six | st.just("default"), six, port),
    _line("route {} out {}{}", network | network_six, port, instance),
    _line("route {} via {} out {} preference {}", network, four, port, number),
    _line("route {} discard", network | network_six),
    _line("gateway {}", four | six) | _line("gateway {} out p1", six),
    _line("resolver {}", four | six),
    st.just("name x") | st.just("instance west") | _on_off("forwarding"),
    _line("pool spare {} to {}", st.just("203.0.113.1"), st.sampled_from(["203.0.113.1", "203.0.113.3"])),
    _line("pool spare 203.0.113.0/{}", st.sampled_from([29, 31, 32])),
    _line("translate {} as {}", four, four | port),
    _line("translate {} {}:{} as {}:{}", st.sampled_from(["tcp", "udp"]), four, number, four | port, number),
    _line("translate from {} to {}{}", st.sampled_from(["crew", "10.0.0.0/16", "10.0.1.0/24"]),
          st.sampled_from(["spare", "p1", "p2", "s1"]), st.sampled_from(["", " shared", " shared ports 1 to 2"])),
    _line("service {} {}", st.sampled_from(["tcp", "udp"]), number),
)  # fmt: skip
LISTED = _line("{} {}", st.sampled_from(["permit", "deny"]), four | st.just("10.0.0.0/16") | st.just("any"))
LEASES = st.one_of(
    st.sampled_from(["network 10.0.0.0/24", "network 10.0.1.0/24", "range 10.0.0.5 to 10.0.0.6", "order highest",
                     "duration 60", "resolver 10.0.0.1", "exclude 10.0.0.2 to 10.0.0.4"]),
    _line("gateway {}", four),
)  # fmt: skip
RIP = st.one_of(
    _line("run {}", port), _line("passive {}", port), st.sampled_from(["announce default", "announce static"])
)
DNS = st.one_of(_line("record a.example {}", four | six), _line("ask {}", four | six))


def _block(
    header: st.SearchStrategy[str], inside: st.SearchStrategy[str], most: int
) -> st.SearchStrategy[str]:
    return st.tuples(header, st.lists(inside, max_size=most)).map(
        lambda drawn: "\n".join([drawn[0], *(f"  {line}" for line in drawn[1])])
    )


BLOCKS = st.one_of(
    _block(port.filter(lambda p: p[0] in "ps").map("port {}".format), ON_PORT, 5),
    _block(port.filter(lambda p: p[0] in "ps").map("port {}".format), ON_PORT, 5),
    _block(st.sampled_from(["loopback lo0", "loopback lo1"]), ON_PORT, 3),
    _block(st.sampled_from(["vlan 10", "vlan 20"]), ON_PORT | st.just("label x"), 3),
    _block(instance.map("addresses crew{}".format), LISTED, 3),
    _block(instance.map("dhcp crew{}".format), LEASES, 4),
    _block(instance.map("rip{}".format), RIP, 3),
    _block(instance.map("dns{}".format), DNS, 3),
)
PLAN = {
    "r1": """\
forwarding on
port p1
  address 10.0.0.1/24
  address 2001:db8::1/64
  advertise on
  realm internal
  relay 10.0.1.2
  on
port p2
  address 203.0.113.1/29
  realm external
  on
port p3
  address 10.0.2.1/25
  on
port s1
  address 2001:db8:1::1/64
  clocking 64000
  on
route default via 203.0.113.2
route default via fe80::2 out s1
addresses crew
  permit 10.0.0.0/16
pool spare 203.0.113.3 to 203.0.113.4
translate 10.0.0.9 as 203.0.113.5
translate from crew to spare shared ports 1 to 2
rip
  run p1 p3""",
    "r2": """\
port p1
  address 10.0.0.2/24
  on
port p2
  address 10.0.2.2/25
  on
port s1
  address 2001:db8:1::2/64
  address fe80::2/64
  on
loopback lo0
  address 10.0.1.2/32
route default via 10.0.0.1
dhcp crew
  network 10.0.0.0/24
  range 10.0.0.5 to 10.0.0.6
  gateway 10.0.0.1
  resolver 10.0.1.2
dns
  record a.example 10.0.1.2
  record a.example 203.0.113.2
service tcp 1
rip
  run p1 p2
  passive lo0
  announce default""",
    "r3": """\
port p1
  address 203.0.113.2/29
  on
loopback lo0
  address 10.9.9.9/32
service tcp 1
service udp 2""",
    "sw": "",
    "h1": """\
port p1
  address dhcp
  address auto""",
    "h2": """\
port p1
  address 10.0.0.9/24
  address 2001:db8::9/64
gateway 10.0.0.1
gateway 2001:db8::1
resolver 10.0.1.2
service tcp 3""",
}
"""A plan in which most things work; a line that is missing, or one more, spoils some of them."""


@st.composite
def sheets(draw, name):
    """Draw a sheet: the plan's without some lines, and some lines more, before or behind it."""
    lines = PLAN[name].split("\n")
    lost = draw(st.sets(st.integers(0, len(lines) - 1), max_size=2))
    kept = [line for n, line in enumerate(lines) if n not in lost or not line.startswith(" ")]
    more = draw(st.lists(BLOCKS | TOP, max_size=3))
    return "\n".join([*kept, *more] if draw(st.booleans()) else [*more, *kept])


NETWORKS = st.fixed_dictionaries({name: sheets(name) for name in LAB.devices})
"""A sheet for every device, by its name."""
