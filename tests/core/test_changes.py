"""What became of a lab from one version to another."""

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tests.core.test_stages import STAGED
from zensur.core.lab import Lab, read_lab, starter_lab
from zensur.core.lab.changes import changes
from zensur.demo import LABS, lab_text

TEXT = starter_lab("two-banks", "Two banks")
LISTED = (
    TEXT
    + "scheme:\n  tasks:\n    - {title: Ports, criteria: [{address: 'weir:p1', marks: 2}, {enabled: 'weir:p1'}]}\n"
)


def lab(text: str) -> Lab:
    found = read_lab(text)
    assert found.lab is not None, found.errors
    return found.lab


def told(old: str, new: str) -> list[str]:
    return [": ".join(filter(None, (c.stage, c.place, c.said))) for c in changes(lab(old), lab(new))]


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("title: Two", "title: Three", ["The title is Three banks; before, Two banks."]),
        ("topics: [addresses, static routes]\n", "", ["The topics were removed."]),
        ("gauge: {kind: host}", "gauge: {kind: host, about: up}", ["gauge: The note was added: up."]),
        ("ports: [p1, p2]}\n  quay", "ports: [p1, p2, p3]}\n  quay", ["weir: The port p3 was added."]),
        ("  - quay:p1 -- crane:p1\n", "", ["links: quay:p1 -- crane:p1 was removed."]),
        (
            "cut: {prefix: 10.64.0.0/30}", "cut: {prefix: 10.64.0.0/29}",
            ["networks: The network cut is 10.64.0.0/29; before, 10.64.0.0/30."],
        ),
        (
            "10.64.16.1/24\n      on", "10.64.16.1/25\n      on",
            ["weir: port p1: address 10.64.16.1/25; before, address 10.64.16.1/24 (model answer)"],
        ),
        (
            "    route 10.64.40.0/24 via 10.64.0.2\n", "    route default via 10.64.0.2\n    route 10.0.0.0/8 discard\n",
            [
                "weir: route 10.64.40.0/24 via 10.64.0.2 was removed (model answer)",
                "weir: route default via 10.64.0.2 was added (model answer)",
                "weir: route 10.0.0.0/8 discard was added (model answer)",
            ],
        ),
        ("    gateway 10.64.16.1\n", "    gateway  10.64.16.1  # up\n", ["gauge: Only how it is written was changed (given)"]),
        (
            "to: crane, expect: reply", "to: crane, expect: timeout",
            ["pings: The ping gauge to crane expects timeout; before, reply."],
        ),
        (
            "  - {from: crane, to: gauge, expect: reply}\n", "  - {from: crane, to: weir, expect: no-reply}\n",
            ["pings: The ping crane to gauge was removed.", "pings: The ping crane to weir was added, no-reply."],
        ),
        (
            "to: crane, expect: reply, shown: true", "to: crane, expect: reply",
            ["pings: What else the ping gauge to crane expects, or its note, was changed."],
        ),
        ("pings:\n", "scheme: {carry_forward: false}\npings:\n", ["scheme: Each mistake is charged wherever it shows."]),
    ],
)  # fmt: skip
def test_a_change_is_said_in_a_sentence(old: str, new: str, said: list[str]) -> None:
    assert old in TEXT
    assert told(TEXT, TEXT.replace(old, new, 1)) == said


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("marks: 2", "marks: 3", ["scheme: address weir p1 has 3 marks; before, 2."]),
        (", {enabled: 'weir:p1'}", "", ["scheme: enabled weir p1 was removed, 1 mark."]),
        (
            "{title: Ports,", "{title: Addresses,",
            [
                "scheme: address weir p1 belongs to Addresses; before, to Ports.",
                "scheme: enabled weir p1 belongs to Addresses; before, to Ports.",
            ],
        ),
        (LISTED[len(TEXT):], "", ["scheme: The tasks are worked out of the model answer; before, they were listed."]),
    ],
)  # fmt: skip
def test_changes_of_the_scheme(old: str, new: str, said: list[str]) -> None:
    assert told(LISTED, LISTED.replace(old, new, 1)) == said


def test_changes_of_stages() -> None:
    assert told(STAGED, STAGED.replace("Take it back", "Undo")) == [
        "undo: The stage is called Undo; before, Take it back."
    ]
    assert told(STAGED, STAGED.replace(", port p2 address]", "]")) == [
        "undo: weir: port p2 address is not taken away any more."
    ]
    assert told(STAGED, STAGED.replace("10.64.255.2/32", "10.64.255.3/32")) == [
        "undo: weir: loopback lo1: address 10.64.255.3/32; before, address 10.64.255.2/32 (model answer)"
    ]
    first = STAGED[: STAGED.index("  - id: undo")]
    assert told(first, STAGED) == ["undo: The stage Take it back was added."]
    assert told(STAGED, first) == ["The stage Take it back was removed."]


@pytest.mark.parametrize("name", LABS)
@settings(max_examples=60, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_nothing_changes_unsaid(name: str, data: st.DataObject) -> None:
    """Whatever line goes, or is another line's: where the lab is another one there is a sentence, else there is none."""
    lines = lab_text(name).split("\n")
    at = data.draw(st.integers(0, len(lines) - 1))
    more = data.draw(
        st.sampled_from([[], [lines[data.draw(st.integers(0, len(lines) - 1))]], [lines[at], lines[at]]])
    )
    old, new = read_lab("\n".join(lines)).lab, read_lab("\n".join([*lines[:at], *more, *lines[at + 1 :]])).lab
    assume(old is not None and new is not None)
    assert old is not None
    assert new is not None
    said, back = changes(old, new), changes(new, old)
    assert (bool(said), bool(back)) == (bool(other := differs(old, new)), bool(other)), other
    assert changes(old, old) == ()


def differs(old: Lab, new: Lab) -> list[object]:
    """Return what differs in two labs, but for the order of devices and links."""
    pairs = zip(old.stages, new.stages, strict=False)
    found = [pair for one, other in pairs for pair in zip(_plain(one), _plain(other), strict=True)]
    return [pair for pair in found if pair[0] != pair[1]] + [0] * (len(old.stages) != len(new.stages))


def _plain(one: Lab) -> tuple[object, ...]:
    sheets = [
        {name: sheet.text for name, sheet in side.items()} for side in (one.given, one.start, one.answer)
    ]
    return (
        one.title, one.brief, one.level, one.minutes, one.topics, dict(one.variables), dict(one.devices),
        set(one.links), one.networks, sheets, one.hidden & set(one.devices), one.asks_cabling, one.free, one.pings,
        one.services, one.scheme, one.stage, one.stage_title, dict(one.removed),
    )  # fmt: skip
