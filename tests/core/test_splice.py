"""Saving from the browser: a lab's text differs only where something was changed."""

import difflib

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_docs import examples
from zensur.core.lab import read_lab, starter_lab
from zensur.core.lab.splice import CannotSplice, put, take
from zensur.demo import LABS, lab_text

TEXTS = [starter_lab("mine", "Mine"), *map(lab_text, LABS), *examples("lab-file.md", "yaml")]


def scalars(text: str) -> dict[str, str]:
    """Every scalar of a text by its place."""
    found: dict[str, str] = {}

    def walk(place: str, node: yaml.Node) -> None:
        if isinstance(node, yaml.ScalarNode):
            found[place] = node.value
        elif isinstance(node, yaml.SequenceNode):
            for number, value in enumerate(node.value):
                walk(f"{place}[{number}]", value)
        elif isinstance(node, yaml.MappingNode):
            for key, value in node.value:
                walk(f"{place}.{key.value}" if place else key.value, value)

    document = yaml.compose(text, Loader=yaml.SafeLoader)
    assert document is not None
    walk("", document)
    return found


def comments(text: str) -> list[str]:
    return [line.strip() for line in text.split("\n") if line.strip().startswith("#")]


values = st.sampled_from(
    ["x", "a: b", "it's", '"quoted"', "- list", "# no comment", "{a}", "on", "12", "a, b", "ends ", "é", "a\nb\n",
     "port p1\n  on\n", "  indented\nfirst\n", "no final line\nbreak", "two\n\n", "tab\there", "\x00", "", "\n"]
)  # fmt: skip


@given(st.sampled_from(TEXTS), st.data())
def test_another_value_changes_nothing_else(text: str, data: st.DataObject) -> None:
    before = scalars(text)
    place = data.draw(st.sampled_from(sorted(before)))
    value = data.draw(
        values
        | st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc", "Zl", "Zp")), max_size=40)
    )
    assert put(text, place, before[place]) == text
    changed = put(text, place, value)
    assert scalars(changed) == before | {place: value}
    assert comments(changed) == comments(text)
    gone = [line for line in difflib.ndiff(text.split("\n"), changed.split("\n")) if line.startswith("- ")]
    assert len(gone) <= before[place].count("\n") + 1


def test_sheets_are_added_and_taken_away() -> None:
    text = TEXTS[1]
    more = put(put(text, "start.weir", "name weir\n"), "answer.new-device", "name x\n")
    assert scalars(more) == scalars(text) | {"start.weir": "name weir\n", "answer.new-device": "name x\n"}
    assert comments(more) == comments(text)
    assert scalars(take(more, "answer.new-device")) == scalars(text) | {"start.weir": "name weir\n"}
    assert read_lab(put(text, "start.weir", "name weir\n")).lab is not None
    for name in ("gate.1", "0417", "on"):  # names of devices may hold dots, or read as something else
        added = put(put(text, f"given.{name}", "name a\n"), f"start.{name}", "name b\n")
        assert scalars(added) == scalars(text) | {f"given.{name}": "name a\n", f"start.{name}": "name b\n"}
        assert scalars(take(added, f"start.{name}")).keys() == scalars(text).keys() | {
            f"given.{name}",
            "start",
        }


@pytest.mark.parametrize(
    ("text", "place", "says"),
    [
        ("a: [", "a", "not YAML"),
        ("", "answer.weir", "not there"),
        ("links: [a]", "links", "no text"),
        ("devices: {a: {kind: host}}", "devices.b", "by hand"),
        ("stages: []", "stages[0].answer", "not there"),
    ],
)
def test_what_cannot_be_changed_is_said(text: str, place: str, says: str) -> None:
    with pytest.raises(CannotSplice, match=says):
        put(text, place, "x")
