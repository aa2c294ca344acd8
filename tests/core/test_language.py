"""The whole language: what each statement means, what its lines say of one another, and of their device."""

from pathlib import Path

import pytest

from tests.helpers import lab_of, sheet
from zensur.core.lab import review_sheet
from zensur.core.sheet import (
    Configuration,
    Mend,
    Severity,
    devices_named,
    read_sheet,
    read_sheets,
    sheet_of,
    write_sheet,
)
from zensur.core.sheet.concerns import concerns, remarks_on

WHOLE = (Path(__file__).parent / "whole.sheet").read_text("utf-8")


def test_the_canonical_form_of_every_statement_stays() -> None:
    read = read_sheet(WHOLE)
    assert read.diagnostics == ()
    assert write_sheet(read.configuration) == WHOLE


@pytest.mark.parametrize(
    ("typed", "canonical"),
    [
        ("resolver 10.0.0.1\nresolver 10.0.0.2 10.0.0.3", "resolver 10.0.0.1 10.0.0.2 10.0.0.3\n"),
        ("resolver 10.0.0.1\nresolver 10.0.0.2 in west", "resolver 10.0.0.1\nresolver 10.0.0.2 in west\n"),
        ("rip\n run p1\n run p2 p3\n passive p4", "rip\n  run p1 p2 p3\n  passive p4\n"),
        ("port p1\n trunk 30, 10-12 ,13 native 9", "port p1\n  trunk 10-13,30 native 9\n"),
        ("port p1\n trunk 1-4094", "port p1\n  trunk all\n"),
        ("port p1\n access 5\n trunk 7", "port p1\n  trunk 7\n"),
        ("port P1.010\n on", "port P1.10\n  on\n"),
        ("addresses a\n permit 10.0.0.9/32\n deny 0.0.0.0/0", "addresses a\n  permit 10.0.0.9\n  deny any\n"),
        ("addresses a\n permit 10.0.0.7 wildcard 0.0.0.255", "addresses a\n  permit 10.0.0.0/24\n"),
        ("pool a 10.0.0.0 mask 255.255.255.0", "pool a 10.0.0.0/24\n"),
        ("dhcp a\n exclude 10.0.0.1 to 10.0.0.1", "dhcp a\n  exclude 10.0.0.1\n"),
        ("translate from 10.0.0.0/8 to p1 shared ports 1 to 9 in west", "translate from 10.0.0.0/8 to p1 shared ports 1 to 9 in west\n"),
        ("route default via fe80::1 out p1 about x in y", "route ::/0 via fe80::1 out p1 about x in y\n"),
        ("route default via 10.0.0.1 in west preference 5 about x", "route default via 10.0.0.1 preference 5 in west about x\n"),
        ("dns\n record Page.Example. 10.0.0.1", "dns\n  record Page.Example 10.0.0.1\n"),
        ("port p1 p01\n on\n about x", "port p01\n  about x\n  on\nport p1\n  about x\n  on\n"),
        ("vlan 30 10\n label x", "vlan 10\n  label x\nvlan 30\n  label x\n"),
    ],
)  # fmt: skip
def test_what_is_typed_and_what_is_written(typed: str, canonical: str) -> None:
    assert write_sheet(read_sheet(typed).configuration) == canonical


@pytest.mark.parametrize(
    ("text", "code", "suggestion"),
    [
        ("port p1\n access 4095", "bad-vlan", None),
        ("port p1\n trunk 10-5", "range-reversed", None),
        ("port p1.4095", "bad-vlan", None),
        ("port p1.10\n clocking 64000", "not-on-sub-port", None),
        ("vlan ten", "bad-vlan", None),
        ("vlan 10\n address auto", "bad-address", None),
        ("dhcp a\n range 10.0.0.9 to 10.0.0.1", "range-reversed", None),
        ("dhcp a\n range 10.0.0.9", "missing-word", "to"),
        ("dhcp a\n network 2001:db8::/64", "wrong-family", None),
        ("dhcp a\n network 10.0.0.5/24", "host-bits", "10.0.0.0/24"),
        ("addresses a\n permit 10.0.0.5/24", "host-bits", "10.0.0.0/24"),
        ("addresses a\n permit 10.0.0.0 mask 0.0.0.255", "wildcard-for-mask", "255.255.255.0"),
        ("addresses a\n permit 10.0.0.0 wildcard 255.255.255.0", "mask-for-wildcard", "0.0.0.255"),
        ("addresses a\n permit 10.0.0.4 0.0.0.255", "extra-words", None),
        ("translate 2001:db8::1 as 10.0.0.1", "wrong-family", None),
        ("translate tcp 10.0.0.1 as 10.0.0.2:80", "number-missing", None),
        ("translate tcp 10.0.0.1:0 as 10.0.0.2:80", "bad-number", None),
        ("translate tcp p1:80 as p2:80", "bad-address", None),
        ("translate from crew too spare", "unexpected-word", "to"),
        ("translate from crew to spare shared ports 5", "missing-word", "to"),
        ("pool a 10.0.0.1", "missing-word", "to"),
        ("service tcp 70000", "bad-number", None),
        ("service icmp 5", "unexpected-word", None),
        ("dns\n record -x 10.0.0.1", "bad-name", None),
        ("dns\n record x", "missing-word", None),
        ("rip p1", "extra-words", None),
        ("addresses a out west", "reserved-name", None),
        ("rip to west", "extra-words", None),
        ("forwarding yes", "unexpected-word", None),
        ("device x", "device-line", None),
        ("port p1\n instance a\n instance b", "port-in-two-instances", None),
        ("translate 10.0.0.1 as 10.0.0.2\ntranslate 10.0.0.1 as 10.0.0.3", "mapped-twice", None),
    ],
)
def test_what_cannot_be_read(text: str, code: str, suggestion: str | None) -> None:
    found = [(d.code, d.suggestion) for d in read_sheet(text).diagnostics]
    assert found == [(code, suggestion)]


def mended(text: str, mend: Mend) -> str:
    lines = text.split("\n")
    line = lines[mend.line - 1]
    lines[mend.line - 1] = line[: mend.column - 1] + mend.text + line[mend.end :]
    return "\n".join(lines)


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("port p1\n  adress 10.0.0.1/24", "port p1\n  address 10.0.0.1/24"),
        ("port p1\non", "port p1\n  on"),
        ("port p1 address 10.0.0.1/24 # x", "port p1\n  address 10.0.0.1/24 # x"),
        ("port p1:\n  on", "port p1\n  on"),
        ("interface p1\n  on", "port p1\n  on"),
        ("vlan10\n  on", "vlan 10\n  on"),
        ("hostname: toll", "name toll"),
        ("port p1\n  address 10.0.0.1 255.255.255.0", "port p1\n  address 10.0.0.1 mask 255.255.255.0"),
        ("port p1\n  address 10.0.0.1 /24", "port p1\n  address 10.0.0.1/24"),
        ("port p1\n  address 10,0,0,1/24", "port p1\n  address 10.0.0.1/24"),
        ("port p1\n  address 10.0.0.1\\24", "port p1\n  address 10.0.0.1/24"),
        ("port p1\n  address=10.0.0.1/24", "port p1\n  address 10.0.0.1/24"),
        ("port p1\n  ip address 10.0.0.1/24", "port p1\n  address 10.0.0.1/24"),
        ("port p1\n  address 10.0.0.1 mask 0.0.0.255", "port p1\n  address 10.0.0.1 mask 255.255.255.0"),
        ("port p1\n  enabled", "port p1\n  on"),
        ("port p1\n  realm inside", "port p1\n  realm internal"),
        ("route 10.0.0.1/24 via 10.0.1.1", "route 10.0.0.0/24 via 10.0.1.1"),
        ("route 10.0.0.0/24 10.0.1.1", "route 10.0.0.0/24 via 10.0.1.1"),
        ("route 10.0.0.0/24 out 10.0.1.1", "route 10.0.0.0/24 via 10.0.1.1"),
        ("route 10.0.0.0/24 via 10.0.1.1/24", "route 10.0.0.0/24 via 10.0.1.1"),
        ("route 10.0.0.0/24 via 10.0.1.1 metric 5", "route 10.0.0.0/24 via 10.0.1.1 preference 5"),
        ("default gateway 10.0.0.1", "gateway 10.0.0.1"),
        ("gateway 10.0.0.1 p1", "gateway 10.0.0.1 out p1"),
        ("addresses a\n  allow 10.0.0.0/24", "addresses a\n  permit 10.0.0.0/24"),
        ("addresses a\n  permit 10.0.0.9/24", "addresses a\n  permit 10.0.0.0/24"),
        ("pool a 10.0.0.1-10.0.0.9", "pool a 10.0.0.1 to 10.0.0.9"),
        ("pool a 10.0.0.1 10.0.0.9", "pool a 10.0.0.1 to 10.0.0.9"),
        ("dhcp a\n  range 10.0.0.1-9", "dhcp a\n  range 10.0.0.1 to 10.0.0.9"),
        ("dhcp a\n  exclude 10.0.0.1-9", "dhcp a\n  exclude 10.0.0.1 to 10.0.0.9"),
        ("translate 10.0.0.1 10.1.0.1", "translate 10.0.0.1 as 10.1.0.1"),
        ("translate from crew as spare", "translate from crew to spare"),
        ("translate tcp 10.0.0.1 80 as p2:80", "translate tcp 10.0.0.1:80 as p2:80"),
        ("resolver 10.0.0.1, 10.0.0.2", "resolver 10.0.0.1 10.0.0.2"),
    ],
)
def test_one_key_mends_a_typical_slip(typed: str, meant: str) -> None:
    (said,) = read_sheet(typed).diagnostics
    assert said.mend is not None, said
    assert mended(typed, said.mend) == meant
    assert read_sheet(meant).diagnostics == ()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("port p1\n  no address", "leave out what is not to be there"),
        ("port p1\n  exit", "the next line in the first column ends it"),
        ("route 10.0.0.0/24 via p1", "a port stands behind out"),
        ("route via 10.0.0.1", "The destination is missing"),
        ("addresses a\n  permit 10.0.0.0", "alone is one address"),
        ("service http", "tcp or udp is wanted here"),
    ],
)
def test_what_a_beginner_is_told(text: str, says: str) -> None:
    (said,) = read_sheet(text).diagnostics
    assert says in said.message


def test_another_language_is_recognised() -> None:
    foreign = '{\n "system": {\n  "host-name": "toll",\n  "services": {}\n }\n}\n'
    for text in (foreign, "<config>\n <system>\n </system>\n</config>\n<a/>", "set x 1\n" * 6):
        first = read_sheet(text).diagnostics[0]
        assert (first.code, first.line) == ("other-language", 1)
    mistyped = "prot p1\n  address 10.0.0.1/24\n  on\nroute default via 10.0.0.2\nnmae x\n"
    assert "other-language" not in [d.code for d in read_sheet(mistyped).diagnostics]


# --- several sheets in one file ---------------------------------------------------------------------

SEVERAL = "# hosts\ndevice ana\nport p1\n  address 10.0.0.1/24\nDEVICE bob # the second\nport p1\n  adress 10.0.0.2/24\n"


def test_several_sheets_in_one_file() -> None:
    ana, bob = read_sheets(SEVERAL, "hosts")
    assert (ana.device, bob.device) == ("ana", "bob")
    assert write_sheet(ana.configuration) == "port p1\n  address 10.0.0.1/24\n"
    assert [(d.code, d.line) for d in bob.diagnostics] == [("unknown-word", 7)]
    assert [i.where.line for i in bob.configuration.items if i.where] == [6]
    assert sheet_of((ana, bob), "BOB") is bob
    assert sheet_of((ana, bob), "cho") is ana
    assert devices_named(SEVERAL.encode()) == ("ana", "bob")
    assert devices_named(b"port p1\ndevice x") == ()


@pytest.mark.parametrize(
    ("text", "codes"),
    [
        ("name x\ndevice ana\nname ana", [["before-device"]]),
        ("device\nname ana", [["missing-word"]]),
        ("device via\nname ana", [["reserved-name"]]),
        ("device a b\ndevice c", [["extra-words"], []]),
    ],
)
def test_device_lines_that_are_not_right(text: str, codes: list[list[str]]) -> None:
    assert [[d.code for d in s.diagnostics] for s in read_sheets(text)] == codes


# --- cross-checks within a sheet --------------------------------------------------------------------


def within(text: str) -> list[tuple[str, int]]:
    read = read_sheet(sheet(text))
    return [(d.code, d.line) for d in remarks_on(read, concerns(read.configuration, ["p1", "p2"]))]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("translate from crew to p1", [("undefined-name", 1)]),
        (
            "addresses crew in west;-permit any;instance west;translate from crew to p1",
            [("undefined-name", 4)],
        ),
        ("addresses crew;-permit any;translate from crew to spare shared", [("undefined-name", 3)]),
        ("port p1;-instance west", [("undefined-name", 2)]),
        ("service tcp 80 in west", [("undefined-name", 1)]),
        ("rip in west;-run p1", [("undefined-name", 1)]),
        ("rip;-run p1 lo0 p3", [("undefined-name", 2), ("undefined-name", 2)]),
        ("translate 10.0.0.5 as p9", [("undefined-name", 1)]),
        ("translate tcp 10.0.0.5:80 as p2:80", []),
        ("pool p1 10.0.0.1 to 10.0.0.2", [("pool-named-like-port", 1)]),
        ("translate 10.0.0.5 as 10.1.0.1;translate 10.0.0.6 as 10.1.0.1", [("mapped-twice", 2)]),
        ("translate tcp 10.0.0.5:80 as p2:80;translate tcp 10.0.0.6:80 as p2:80", [("mapped-twice", 2)]),
        # one way out and another go beside each other, and the rest behind them; behind all ways nothing has an effect
        (
            "port p2;port p3;translate 10.0.0.5 as 10.1.0.1 out p2;translate 10.0.0.5 as 10.1.0.2 out p3;translate 10.0.0.5 as 10.1.0.3",
            [],
        ),
        (
            "port p2;translate 10.0.0.5 as 10.1.0.1;translate 10.0.0.5 as 10.1.0.2 out p2",
            [("mapped-twice", 3)],
        ),
        (
            "port p2;translate 10.0.0.5 as 10.1.0.1 out p2;translate 10.0.0.6 as 10.1.0.1 out P2",
            [("mapped-twice", 3)],
        ),
        ("translate tcp 10.0.0.5:80 as p2:80;translate udp 10.0.0.6:80 as p2:80", []),
        ("port p1;-address 10.0.0.0/24", [("address-is-network", 2)]),
        ("port p1;-address 10.0.0.255/24", [("address-is-broadcast", 2)]),
        ("port p1;-address 10.0.0.0/31;port p2;-address 10.0.0.255/32", []),
        ("port p1;-address 10.0.0.1/24;port p2;-address 10.0.0.129/25", [("networks-overlap", 4)]),
        ("port p1;-address 10.0.0.1/24;port p2;-address 10.0.0.1/24", [("address-twice", 4)]),
        ("instance w;port p1;-address 10.0.0.1/24;port p2;-address 10.0.0.2/24;-instance w", []),
        ("port p1;-address fe80::1/64;port p2;-address fe80::1/64", []),
        ("port p1;-address 10.0.0.1/24;gateway 10.0.0.1", [("gateway-is-own", 3)]),
        ("port p1;-address 10.0.0.1/24;gateway 10.0.1.1", [("gateway-not-connected", 3)]),
        ("port p1;-address dhcp;gateway 10.0.1.1", []),
        ("port p1;-address 10.0.0.1/24;route 10.9.0.0/16 via 10.0.0.1", [("next-hop-is-own", 3)]),
        ("port p1;-address 10.0.0.1/24;route 10.9.0.0/16 via 10.1.0.1", [("next-hop-not-connected", 3)]),
        ("port p1;-address 10.0.0.1/24;route 10.9.0.0/16 via 10.1.0.1;route 10.1.0.0/16 via 10.0.0.2", []),
        ("dhcp a;-range 10.0.0.1 to 10.0.0.9", [("lease-without-network", 1)]),
        ("dhcp a;-network 10.0.0.0/24;-range 10.0.0.1 to 10.0.1.9", [("range-outside-network", 3)]),
        ("dhcp a;-network 10.0.0.0/24;-gateway 10.0.1.1", [("gateway-not-connected", 3)]),
        ("port p1;-access 10;port p1.10;-on", [("sub-port-of-switch-port", 3)]),
    ],
)
def test_what_lines_say_of_one_another(text: str, found: list[tuple[str, int]]) -> None:
    assert within(text) == found


# --- cross-checks against the lab -------------------------------------------------------------------

LAB = lab_of(
    "weir=router:p1,p2,s1 sw1=switch:p1,p2 ana=host",
    "weir:p1--sw1:p1 sw1:p2--ana:p1",
    answer={"weir": "port p1; -address 10.0.0.1/24; -on", "ana": "port p1; -address 10.0.0.2/24; gateway 10.0.0.1"},
    networks={"yard": {"prefix": "10.0.0.0/24"}},
)  # fmt: skip


@pytest.mark.parametrize(
    ("device", "text", "found"),
    [
        ("weir", "port p7;-on", [("unknown-port", "error", 1, "p2")]),
        ("weir", "port p7.10;-on", [("unknown-port", "error", 1, "p2")]),
        ("weir", "port p1.10;-on", []),
        ("weir", "port s1.10;-on", [("sub-port-of-serial", "error", 1, None)]),
        ("weir", "port s1;-clocking 64000;port p1;-clocking 64000", [("clocking-on-ethernet", "error", 4, None)]),
        ("weir", "port p1;-access 10", [("not-on-this-kind", "error", 2, None)]),
        ("ana", "port p1;-trunk all", [("not-on-this-kind", "error", 2, None)]),
        ("ana", "vlan 10", [("not-on-this-kind", "error", 1, None)]),
        ("ana", "translate 10.0.0.5 as p1", [("forwarding-off", "note", 1, None)]),
        ("ana", "forwarding on;gateway 10.0.0.9", [("gateway-not-connected", "warning", 2, None), ("gateway-ignored", "note", 2, None)]),
        ("sw1", "port p1;-realm internal", [("not-on-this-kind", "error", 2, None)]),
        ("sw1", "port p1.10;-on", [("sub-port-of-switch-port", "error", 1, None)]),
        ("sw1", "port p1;-access 10", [("vlan-not-declared", "warning", 2, None)]),
        ("sw1", "port p1;-trunk 10,20 native 30;vlan 10;vlan 20", [("vlan-not-declared", "warning", 2, None)]),
        ("sw1", "vlan 10;-address 10.0.0.9/24;port p1;-trunk all", []),
        ("weir", "route ::/0 via fe80::1", [("link-local-without-port", "error", 1, None)]),
        ("weir", "route ::/0 via fe80::1 out p1", []),
        ("ana", "gateway fe80::1", []),
        ("weir", "port p1;-address 10.0.0.1", [("length-missing", "error", 2, "10.0.0.1/24")]),
        ("weir", "port p1;-address 10.0.0.2/24", [("another-devices-sheet", "warning", 1, None)]),
        ("weir", "loopback p1", [("name-twice", "error", 1, None)]),
    ],
)  # fmt: skip
def test_what_the_lab_says_of_a_sheet(
    device: str, text: str, found: list[tuple[str, str, int, str | None]]
) -> None:
    said = review_sheet(read_sheet(sheet(text), "own"), LAB, device)
    assert [(d.code, d.severity.value, d.line, d.suggestion) for d in said] == found


def test_a_learners_block_replaces_a_given_one_whole() -> None:
    given = read_sheet(
        "addresses crew\n  permit any\npool spare 10.0.0.1 to 10.0.0.9\nrip\n  run p1\n", "given"
    )
    own = read_sheet("addresses CREW\n  deny 10.0.0.9\npool spare 10.0.1.0/24\nrip\n  run p2\n", "own")
    both = own.configuration.over(given.configuration)
    assert write_sheet(both) == (
        "addresses CREW\n  deny 10.0.0.9\npool spare 10.0.1.0/24\nrip\n  run p1 p2\n"
    )


def test_first_words_name_what_a_stage_takes_away() -> None:
    whole = read_sheet(WHOLE).configuration
    assert isinstance(whole, Configuration)
    assert [i.text() for i in whole.named_by("loopback lo0")] == ["loopback lo0"]
    assert [i.text() for i in whole.named_by("port p1 about")] == ["about to the basin"]
    assert "loopback" not in write_sheet(whole.without(["loopback"]))
    assert len(whole.named_by("route")) > 1
    assert whole.without([]) == whole


def test_severities_are_what_they_say() -> None:
    """An error left something out; what is only doubtful is read and kept."""
    read = read_sheet("addresses a\n  permit 10.0.0.5/24\nroute 10.0.0.5/24 discard\n")
    assert [d.severity for d in read.diagnostics] == [Severity.WARNING, Severity.ERROR]
    assert write_sheet(read.configuration) == "addresses a\n  permit 10.0.0.0/24\n"
