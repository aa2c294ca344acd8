"""The device language: what is read, what is said about the rest, and the canonical form."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.sheet import STATEMENTS, Configuration, Severity, read_sheet, write_sheet
from zensur.core.sheet.operands import OPERANDS

from .configurations import VALUES, configurations

CANONICAL = """\
name toll
port p1
  about to the basin
  address 10.64.8.1/24
  on
port p2
  address 203.0.113.2/29
  on
port p10
  off
loopback lo0
  address 10.64.255.1/32
gateway 10.64.8.2
route default via 203.0.113.1
route 10.64.16.0/20 via 10.64.8.2 out p1 preference 20 about the far bank
route 10.64.17.9/32 discard
route 10.64.18.0/24 out p2
"""

IN_OTHER_WORDS = """\
# the same, as a learner types it
ROUTE 0.0.0.0/0 VIA 203.0.113.1
Port p10
\tOFF
port P2
   address 203.0.113.2 mask 255.255.255.248
loopback lo0
 address 10.64.255.1 mask 255.255.255.255   # who we are
port p1 p2

      on
# a comment ends no block
port p1
  about "to the basin"
  address 10.64.8.1/24
gateway 10.64.8.2
route 10.64.16.0 mask 255.255.240.0 via 10.64.8.2 out p1 preference 20 about the far bank
route 10.64.17.9/32 discard
route 10.64.18.0/24 out p2 preference 10
name toll
"""


def test_the_canonical_form_stays_and_other_words_lead_to_it() -> None:
    for text in (CANONICAL, IN_OTHER_WORDS, IN_OTHER_WORDS.replace("\n", "\r\n"), "\ufeff" + IN_OTHER_WORDS):
        sheet = read_sheet(text)
        assert sheet.diagnostics == ()
        assert write_sheet(sheet.configuration).lower() == CANONICAL
    assert read_sheet(IN_OTHER_WORDS.encode("utf-16")).diagnostics == ()


def test_every_value_remembers_its_line() -> None:
    configuration = read_sheet(CANONICAL, "toll.sheet").configuration
    lines = {i.where.line: i.text() for i in configuration.items if i.where}
    assert lines == {n: line.strip() for n, line in enumerate(CANONICAL.splitlines(), 1)}
    assert {i.where.file for i in configuration.items if i.where} == {"toll.sheet"}


@pytest.mark.parametrize(
    ("text", "code", "line", "column", "end", "suggestion"),
    [
        ("port p1\n  adress 10.0.0.1/24", "unknown-word", 2, 3, 8, "address"),
        ("hostname toll", "unknown-word", 1, 1, 8, "name"),
        ("port p1\n  address 10.0.0.1", "length-missing", 2, 11, 18, None),
        ("port p1\n  address 10.0.0.300/24", "bad-address", 2, 11, 23, None),
        ("port p1\n  address 10.0.0.1 mask 0.0.0.255", "wildcard-for-mask", 2, 25, 33, "255.255.255.0"),
        ("route 10.0.0.1/24 via 10.0.1.1", "host-bits", 1, 7, 17, "10.0.0.0/24"),
        ("route 10.0.0.0/24 through 10.0.1.1", "unexpected-word", 1, 19, 25, "via"),
        ("route 10.0.0.0/24", "missing-word", 1, 17, 17, None),
        ("route 10.0.0.0/24 via 10.0.1.1 prefrence 5", "extra-words", 1, 32, 40, "preference"),
        ("route 10.0.0.0/24 via 10.0.1.1 preference 0", "bad-number", 1, 43, 43, None),
        ("route 10.0.0.0/24 via 2001:db8::1", "wrong-family", 1, 23, 33, None),
        ("  on", "indented-outside", 1, 3, 4, None),
        ("name x\n  on", "indented-outside", 2, 3, 4, None),
        ("port p1\non", "not-indented", 2, 1, 2, "  on"),
        ("port p1\n  route default via 10.0.0.1", "top-level-indented", 2, 3, 7, None),
        ("port 10.0.0.1", "name-is-address", 1, 6, 13, None),
        ("port via", "reserved-name", 1, 6, 8, None),
        ("name " + "x" * 33, "bad-name", 1, 6, 38, None),
        ("", "empty-sheet", 1, 1, 1, None),
        ("\0\1\2PNG", "not-text", 1, 1, 1, None),
    ],
)
def test_diagnostics(text, code, line, column, end, suggestion) -> None:
    found = read_sheet(text).diagnostics
    assert [(d.code, d.line, d.column, d.end, d.suggestion) for d in found] == [
        (code, line, column, end, suggestion)
    ]


def test_lines_under_a_header_that_was_not_read_are_left_out_with_it() -> None:
    sheet = read_sheet("interface p1\n  address 10.0.0.1/24\n  nonsense\nname x")
    assert [d.code for d in sheet.diagnostics] == ["unknown-word"]
    assert write_sheet(sheet.configuration) == "name x\n"


@pytest.mark.parametrize(
    ("text", "canonical"),
    [
        ("port p1\n on\n off", "port p1\n  off\n"),
        (
            "gateway 10.0.0.1\ngateway 10.0.0.2\ngateway 2001:db8::1",
            "gateway 10.0.0.2\ngateway 2001:db8::1\n",
        ),
        ("port p1\n address 10.0.0.1/24\n address 10.0.0.1/25", "port p1\n  address 10.0.0.1/24\n"),
        (
            "route 10.0.0.0/8 via 10.9.0.1\nroute 10.0.0.0/8 via 10.9.0.1 preference 7",
            "route 10.0.0.0/8 via 10.9.0.1\n",
        ),
    ],
)
def test_what_is_said_twice_counts_once_and_is_noted(text, canonical) -> None:
    sheet = read_sheet(text)
    assert write_sheet(sheet.configuration) == canonical
    assert {(d.code, d.severity) for d in sheet.diagnostics} == {("said-twice", Severity.NOTE)}


def test_bounds() -> None:
    assert [d.code for d in read_sheet("x\n" * 20_001).diagnostics] == ["too-large"]
    assert [d.code for d in read_sheet("#" * (256 * 1024 + 1)).diagnostics] == ["too-large"]
    many = read_sheet("nonsense here\n" * 1_000)
    assert (len(many.diagnostics), many.more) == (200, 801)
    assert read_sheet(b"port p1\n  about caf\xe9\n").diagnostics[0].code == "not-utf-8"


def test_a_stray_control_character_makes_no_binary_file() -> None:
    sheet = read_sheet("port p1\n  about the\x00 basin\n" + "  # a long comment\n" * 20)
    assert sheet.diagnostics == ()
    assert write_sheet(sheet.configuration) == "port p1\n  about the\ufffd basin\n"


def test_a_sheet_laid_over_what_is_given() -> None:
    given_ = read_sheet(
        "port p1\n  address 10.0.0.1/24\n  off\nroute default via 10.0.0.9\n", "given"
    ).configuration
    own = read_sheet(
        "route default via 10.0.0.9\nport p1\n  on\n  address 10.0.0.1/25\n  address 10.1.0.1/24"
    ).configuration
    both = own.over(given_)
    assert write_sheet(both) == (
        "port p1\n  address 10.0.0.1/25\n  address 10.1.0.1/24\n  on\nroute default via 10.0.0.9\n"
    )


# --- properties -------------------------------------------------------------------------------------


@given(configurations())
def test_what_is_written_is_read_as_the_same(configuration: Configuration) -> None:
    text = write_sheet(configuration)
    sheet = read_sheet(text)
    assert sheet.diagnostics == () or text == ""
    assert sheet.configuration == configuration
    assert write_sheet(sheet.configuration) == text


def test_the_generator_covers_every_statement_and_operand() -> None:
    forms = [form for kind in STATEMENTS for form in (*kind.SPEC.forms, *kind.SPEC.tails)]
    used = {e.operand for form in forms for e in form.elements if not isinstance(e, str)}
    assert {OPERANDS[name] for name in VALUES} == used == set(OPERANDS.values())


@given(st.text(max_size=400) | st.binary(max_size=400))
def test_reading_never_raises(source: str | bytes) -> None:
    sheet = read_sheet(source)
    assert read_sheet(write_sheet(sheet.configuration)).configuration == sheet.configuration


@given(st.integers(0, len(IN_OTHER_WORDS)), st.integers(0, 12), st.text(max_size=6))
def test_a_damaged_sheet_is_read_as_far_as_it_goes(at: int, cut: int, put: str) -> None:
    sheet = read_sheet(IN_OTHER_WORDS[:at] + put + IN_OTHER_WORDS[at + cut :])
    text = write_sheet(sheet.configuration)
    assert write_sheet(read_sheet(text).configuration) == text
    for diagnostic in sheet.diagnostics:
        assert diagnostic.line >= 1
        assert 1 <= diagnostic.column <= diagnostic.end
        assert diagnostic.message.endswith((".", "?"))
