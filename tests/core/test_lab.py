"""Lab files: read strictly, every error with its place and what would be right."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers import lab_of, mark
from zensur.core.lab import read_lab, review_sheet, starter_lab
from zensur.core.marking.checking.lab_check import check_lab, check_text
from zensur.core.sheet import read_sheet
from zensur.demo import LABS, lab_text

GOOD = """\
zensur: 1
id: two-banks
devices:
  weir: {kind: router, ports: [p1, {name: s1, medium: serial}]}
  sw1: {kind: switch, ports: [p1, p2]}
  ana: {kind: host}
links:
  - weir:p1 -- sw1:p1
  - sw1:p2 -- ana:p1
answer:
  weir: |
    port p1
      address 10.64.8.1/24
      on
    loopback lo0
      address 10.64.255.1/32
    route default discard
  ana: |
    port p1
      address 10.64.8.20/24
    gateway 10.64.8.1
pings:
  - {from: ana, to: "weir:lo0", expect: reply}
scheme:
  tasks:
    - title: All
      criteria: [{address: weir:p1}, {enabled: weir:p1}, {gateway: ana}, {route: weir, dest: default}, {pings: all}]
"""


def test_a_good_lab_is_read() -> None:
    lab = read_lab(GOOD).lab
    assert lab is not None
    assert [d.name for d in lab.devices.values()] == ["weir", "sw1", "ana"]
    assert lab.scheme.tasks is not None
    assert [c.id for c in lab.scheme.tasks[0].criteria] == [
        "address:weir:p1",
        "enabled:weir:p1",
        "gateway:ana",
        "route:weir:0.0.0.0/0",
        "ping:1",
    ]


@pytest.mark.parametrize(
    ("old", "new", "place", "line", "says"),
    [
        ("zensur: 1", "zensur: 2", "zensur", 1, "2 is not known here: 1."),
        ("id: two-banks", "id: Two Banks", "id", 2, "is not an id"),
        ("devices:", "divices:", "divices", 3, "Did you mean devices?"),
        ("kind: host", "kind: hosts", "devices.ana.kind", 6, "router, switch, host"),
        (
            "  ana: {kind: host}",
            "  ana: {kind: host}\n  ANA: {kind: host}",
            "devices.ANA",
            7,
            "other capitals",
        ),
        ("[p1, p2]", "[p1, P1]", "devices.sw1.ports[1]", 5, "has a port P1 already"),
        ("sw1:p2 -- ana:p1", "sw1:p9 -- ana:p1", "links[1]", 9, "sw1 has no port p9; it has p1, p2"),
        ("sw1:p2 -- ana:p1", "sw2:p2 -- ana:p1", "links[1]", 9, "There is no device sw2. Did you mean sw1?"),
        ("sw1:p2 -- ana:p1", "sw1:p1 -- ana:p1", "links[1]", 9, "sw1:p1 is linked already, by links[0]"),
        ("sw1:p2 -- ana:p1", "sw1:p2 - ana:p1", "links[1]", 9, "write DEVICE:PORT -- DEVICE:PORT"),
        ("sw1:p2 -- ana:p1", "weir:s1 -- ana:p1", "links[1]", 9, "weir:s1 is serial and ana:p1 is ethernet"),
        ("  ana: |", "  anna: |", "answer.anna", 18, "There is no device anna. Did you mean ana?"),
        ("from: ana", "from: sw1", "pings[0].from", 23, "switch without an address"),
        ('to: "weir:lo0"', 'to: "weir:lo1"', "pings[0].to", 23, "gives weir:lo1 no address"),
        ('to: "weir:lo0"', "to: 10.64.8.300", "pings[0].to", 23, "300 is not"),
        ('to: "weir:lo0"', 'to: "fe80::1", family: 4', "pings[0].to", 23, "IPv6: leave out family"),
        ("expect: reply", "expect: replies", "pings[0].expect", 23, "reply, no-reply"),
        (", expect: reply", "", "pings[0]", 23, "The key expect is missing"),
        ("{gateway: ana}", "{gateway: weir}", "scheme.tasks[0].criteria[2].gateway", 27, "weir no gateway"),
        (
            "dest: default",
            "dest: 10.0.0.0/8",
            "scheme.tasks[0].criteria[3].dest",
            27,
            "no route to 10.0.0.0/8",
        ),
        ("{address: weir:p1}", "{address: weir:s1}", "scheme.tasks[0].criteria[0].address", 27, "no address"),
        ("{pings: all}", "{pings: all, marks: x}", "scheme.tasks[0].criteria[4].marks", 27, "A number"),
        ("{pings: all}", "{}", "scheme.tasks[0].criteria[4]", 27, "A criterion has one of"),
        ("id: two-banks", "id: two-banks\nid: again", "id", 3, "stands here twice"),
        ("  ana: {kind: host}", "  [ana, bo]: {kind: host}", "devices.?", 6, "has to be a text"),
        ("{pings: all}", "{{pings: all}: 1}", "scheme.tasks[0].criteria[4].?", 27, "has to be a text"),
        ("links:", "links: &a", "", 8, ""),
        ("  - weir:p1 -- sw1:p1", "  - [", "", 9, "not YAML"),
    ],
)
def test_what_is_wrong_is_said_at_its_place(old, new, place, line, says) -> None:
    assert old in GOOD
    found = read_lab(GOOD.replace(old, new, 1))
    if says == "":
        assert found.lab is not None  # an anchor that nothing uses does no harm
        return
    assert found.lab is None
    assert any(e.place == place and e.line == line and says in e.message for e in found.errors), found.errors


def test_yaml_is_read_within_bounds() -> None:
    for text in ("a: " + "[" * 50_000, "a: &x [1]\nb: *x", "x" * 2_000_000, "- a\n" * 60_000, "\0", ""):
        found = read_lab(text)
        assert found.lab is None
        assert found.errors


YAML = [
    "{",
    "}",
    "[",
    "]",
    "? ",
    ": ",
    "- ",
    ", ",
    "|",
    "&a ",
    "*a",
    "!!set ",
    "'",
    '"',
    "${n}",
    "\n",
    "  ",
    "a",
]


@settings(max_examples=400)
@given(
    st.text(max_size=200) | st.lists(st.sampled_from(YAML), max_size=12).map("".join),
    st.integers(0, len(GOOD)), st.integers(0, 30),
)  # fmt: skip
def test_reading_a_lab_never_raises(put: str, at: int, cut: int) -> None:
    found = read_lab(GOOD[:at] + put + GOOD[at + cut :])
    assert (found.lab is None) == bool(found.errors)


def test_the_starter_and_the_demo_labs_pass_their_check() -> None:
    for text in (starter_lab("mine", 'It\'s "mine"'), starter_lab("two", "Two"), *map(lab_text, LABS)):
        check = check_text(text)
        assert not check.errors
        assert {f.code for f in check.findings} <= {
            "guarded-criterion",
            "not-counted",
            "overlap-elsewhere",
            "next-hop-is-own",
        }
        assert check.holding == check.pings + check.services > 0
        assert check.blank == 0


@pytest.mark.parametrize(
    ("old", "new", "code", "severity"),
    [
        ("expect: reply", "expect: no-reply", "expectation-fails", "error"),
        ("10.64.8.20/24", "10.64.8.1/24", "duplicate-address", "error"),
        ("    gateway 10.64.8.1", "    gatway 10.64.8.1\n    gateway 10.64.8.1", "unknown-word", "error"),
        (
            "    port p1\n      address 10.64.8.20/24",
            "    port p7\n      address 10.64.8.20/24",
            "unknown-port",
            "error",
        ),
    ],
)
def test_the_lab_check_finds(old, new, code, severity) -> None:
    assert (code, severity) in {
        (f.code, f.severity.value) for f in check_text(GOOD.replace(old, new, 1)).findings
    }


@pytest.mark.parametrize(
    ("device", "text", "code"),
    [
        ("weir", "port p3\n  on", "unknown-port"),
        ("weir", "route default out p3", "undefined-name"),
        ("weir", "loopback p1", "name-twice"),
        ("weir", "port p1\nloopback p1", "name-twice"),
        ("sw1", "port p1\n  address 10.0.0.1/24", "address-on-switch-port"),
        ("weir", "gateway 10.0.0.1", "gateway-ignored"),
    ],
)
def test_a_sheet_against_its_device(device, text, code) -> None:
    lab = read_lab(GOOD).lab
    assert lab is not None
    found = [d.code for d in review_sheet(read_sheet(text, "own"), lab, device)]
    assert [c for c in found if "not-connected" not in c] == ([code] if code else [])


def test_checks_find_what_only_counts_in_the_whole() -> None:
    more = GOOD.replace("    gateway 10.64.8.1", "    gateway 10.64.8.1\n    resolver 10.64.8.9", 1)
    found = {(f.code, f.severity.value) for f in check_text(more).findings}
    assert ("not-counted", "note") in found
    odd = GOOD.replace("address 10.64.8.20/24", "address 10.64.8.20/25")
    assert ("overlapping-networks", "error") in {(f.code, f.severity.value) for f in check_text(odd).findings}
    loose = GOOD.replace("  - sw1:p2 -- ana:p1\n", "")
    assert "not-linked" in {f.code for f in check_text(loose).findings}
    broken = check_text(GOOD.replace("gateway 10.64.8.1", "gatway 10.64.8.1")).findings
    (edit,) = [f.edit for f in broken if f.edit]
    line = GOOD.split("\n")[edit.line - 1]
    assert line[: edit.column - 1].strip() == ""
    assert edit.text == "gateway"


@pytest.mark.parametrize(
    ("lengths", "other", "found"),
    [
        ((24, 24, 24), "10.1.0.1/24", []),
        ((24, 25, 24), "10.1.0.1/24", [("overlapping-networks", "b:p1")]),
        ((24, 25, 26), "10.1.0.1/24", [("overlapping-networks", "b:p1"), ("overlapping-networks", "c:p1")]),
        ((24, 24, 24), "10.0.0.9/24", [("overlap-elsewhere", "d:p1")]),
        ((24, 24, 24), "10.0.0.9/0", [("overlap-elsewhere", "a:p1"), ("overlap-elsewhere", "b:p1"), ("overlap-elsewhere", "c:p1")]),
    ],
)  # fmt: skip
def test_prefixes_that_overlap_are_told_once_for_each_port(lengths, other, found) -> None:
    own = {
        n: f"port p1; -address 10.0.0.{i}/{length}"
        for i, (n, length) in enumerate(zip("abc", lengths, strict=True), 1)
    }
    lab = lab_of(
        "sw=switch:p1,p2,p3 a=host b=host c=host d=host e=host",
        "sw:p1--a:p1 sw:p2--b:p1 sw:p3--c:p1 d:p1--e:p1",
        answer=own | {"d": f"port p1; -address {other}"},
    )
    said = [(f.code, f.message) for f in check_lab(lab).findings if "overlap" in f.code]
    assert [code for code, _ in said] == [code for code, _ in found]
    for (_, message), (_, place) in zip(said, found, strict=True):
        assert place in message


def test_a_name_of_a_port_may_hold_a_stroke() -> None:
    lab = lab_of(
        "weir=router:g0/0,s0/1 quay=router:s0/1 ana=host:e0/0",
        ["weir:g0/0 -- ana:e0/0", "weir:s0/1 -- quay:s0/1 clock weir"],
        {
            "weir": "port g0/0; -on; port g0/0.10; -on; port s0/1; -address 10.64.0.1/30; -clocking 64000; -on; "
            "route 10.64.9.0/24 out s0/1",
            "quay": "port s0/1; -address 10.64.0.2/30; -on",
            "ana": "port e0/0; -address 10.64.8.20/24",
        },
        "weir@s0/1>quay:s0/1",
    )
    result = mark(lab)
    assert (result.score, [c.id for c in result.criteria if "s0/1" in c.id][:2]) == (
        result.out_of, ["address:weir:s0/1", "enabled:weir:s0/1"],
    )  # fmt: skip
    (fault,) = mark(lab, {"quay": "port s0/1; -address 10.64.0.2/30"}).faults
    assert (fault.slip, fault.port) == ("port-left-off", "s0/1")
    assert (
        read_lab("zensur: 1\nid: x\ndevices: {cab/west: {kind: router}}\n").lab is None
    )  # a device's may not
