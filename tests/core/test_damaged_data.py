"""Data with one value that cannot be: it is told by its path and line, and nothing that was not said is read of it."""

import json
from collections.abc import Iterator
from copy import deepcopy
from typing import Any

import pytest

from tests.core.test_yang import WHOLE, said
from zensur.core.formats.yang import read_yang, yang_data
from zensur.core.sheet import Sheet

DATA = yang_data(WHOLE)
Steps = tuple[str | int, ...]
SAYS_NOTHING = {
    *("server/name", "control-plane-protocol/name", "ace/name", "instance/id", "policy/id", "acl/type"),
    *(
        "external-ip-address-pool/pool-id",
        "subscriber-match/match-id",
        "mapping-entry/index",
        "instance/type",
    ),
}
"""Keys that an entry has to have and that tell nothing, and types of what is told by its contents."""
FREE_TEXT = ("description", "label", "about")
NAMES = ("interface/type", "protocol/type", "mapping-entry/type", "interface/name", "interface/parent")


def steps_of(value: Any, above: Steps = ()) -> Iterator[Steps]:
    """The way to every member of every object."""
    if isinstance(value, dict):
        for key, member in value.items():
            yield (*above, key)
            yield from steps_of(member, (*above, key))
    elif isinstance(value, list):
        for n, entry in enumerate(value):
            yield from steps_of(entry, (*above, n))


def at(data: Any, steps: Steps) -> Any:
    for step in steps:
        data = data[step]
    return data


def of_another_type(value: Any) -> Any:
    match value:
        case bool():
            return "true"
        case str():
            return 7
        case int():
            return str(value)
        case [None]:
            return [True]
        case [str(), *_]:
            return [7]
        case _:
            return "a word"


def damaged(steps: Steps, value: Any) -> tuple[Sheet, str]:
    data = deepcopy(DATA)
    at(data, steps[:-1])[steps[-1]] = value
    text = json.dumps(data, indent=1)
    return read_yang(text, "yang-json"), text


def place(steps: Steps) -> str:
    """A member's name with that of what it is in, without their modules."""
    return "/".join(str(step).rpartition(":")[2] for step in [s for s in steps if type(s) is str][-2:])


EVERYWHERE = list(steps_of(DATA))
LEAFS = [steps for steps in EVERYWHERE if type(at(DATA, steps)) is str]


def test_a_value_of_another_type_is_told_by_its_path_and_line() -> None:
    for steps in EVERYWHERE:
        read, text = damaged(steps, of_another_type(at(DATA, steps)))
        if place(steps) in SAYS_NOTHING:
            assert not read.errors or steps[-1] == "type", steps
            continue
        member = str(steps[-1])
        told = [d for d in read.errors if (d.path or "").endswith(f"/{member}")]
        assert told, steps
        assert any(f'"{member}"' in text.split("\n")[d.line - 1] for d in told), steps
        assert all(d.message for d in read.diagnostics)


def test_damage_loses_statements_and_makes_none() -> None:
    """A statement is read whole or not at all: half a route leads elsewhere, half a translation is about others.

    What may come out otherwise: a state that is not said is that of the standard, an interface of no known type is a
    port, remarks are lost alone, and the addresses of a pool stand in the standard part, too.
    """
    whole = said(WHOLE)
    for steps in EVERYWHERE:
        read, _ = damaged(steps, of_another_type(at(DATA, steps)))
        made = [line for block, line in said(read.configuration) - whole]
        kind = place(steps).rpartition("/")[2]
        if place(steps) in NAMES:
            continue
        if kind == "state-unsaid":
            assert made == ["on"]
        elif kind in FREE_TEXT:
            assert [line for line in made if not any(other.startswith(line) for _, other in whole)] == []
        elif "pool" in place(steps):
            assert set(made) <= {"pool wide 198.51.100.1 to 198.51.100.14"}
        else:
            assert not made, steps


@pytest.mark.parametrize("text", ["?!", "", " ", "10.64.8.300", "\x00", "a" * 4000, "\u202e\U0001f6a2"])
def test_words_that_cannot_be_lose_statements_and_make_none(text: str) -> None:
    whole = said(WHOLE)
    for steps in LEAFS:
        if place(steps).rpartition("/")[2] in FREE_TEXT or place(steps) in NAMES:
            damaged(steps, text)
            continue
        read, _ = damaged(steps, text)
        made = {line for _, line in said(read.configuration) - whole}
        assert made <= {"pool wide 198.51.100.1 to 198.51.100.14"}, steps
        lost = whole - said(read.configuration)
        assert read.diagnostics or not lost, steps
