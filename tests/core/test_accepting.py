"""Another right answer accepted for everybody: the lab's file accepts it, and nothing else of the file changes."""

import pytest

from zensur.core.authoring.accepting import AcceptAnswer
from zensur.core.authoring.draft import CannotEdit, Draft
from zensur.core.authoring.edits import edited
from zensur.core.authoring.scheming import WriteScheme
from zensur.core.lab import Lab, read_lab
from zensur.demo import lab_text

from ..helpers import mark

LAB = lab_text("first-addresses")
CASES = [
    ("address:lock:p1:10.64.8.1/24", "lock", "address 10.64.8.1/24", "address 10.64.8.77/24"),
    ("gateway:gauge", "gauge", "gateway 10.64.16.1", "gateway 10.64.16.2"),
]


def read(text: str) -> Lab:
    found = read_lab(text)
    assert found.lab is not None, found.errors
    return found.lab


def accepted(text: str, criterion: str, line: str) -> str:
    return edited(Draft(text), [AcceptAnswer(criterion=criterion, text=line)]).text


def criteria(lab: Lab, device: str, model: str, line: str) -> dict[str, float]:
    """Return the fractions of a paper that is the model answer but for one line."""
    sheet = lab.answer[device].text
    assert model in sheet
    return {c.id: c.fraction for c in mark(lab, {device: sheet.replace(model, line)}).criteria}


@pytest.mark.parametrize(("criterion", "device", "model", "line"), CASES)
def test_what_was_accepted_has_its_marks_and_the_model_answer_keeps_them(
    criterion: str, device: str, model: str, line: str
) -> None:
    before = criteria(read(LAB), device, model, line)
    name = next(own for own in before if own == criterion or criterion.startswith(f"{own}:"))
    text = accepted(LAB, name, line)
    assert before[name] == 0
    after = criteria(read(text), device, model, line)
    assert after[name] == 1
    assert set(after) == set(before)
    assert mark(read(text)).carried == mark(read(LAB)).carried == mark(read(text)).out_of
    written = edited(Draft(LAB), [WriteScheme()]).text.splitlines()
    ((old, new),) = [pair for pair in zip(written, text.splitlines(), strict=True) if pair[0] != pair[1]]
    assert new.replace(f", accept: [{line}]", "") == old


def test_a_second_answer_stands_beside_the_first() -> None:
    name = next(
        own
        for own in criteria(read(LAB), "gauge", "gateway 10.64.16.1", "gateway 10.64.16.2")
        if own.startswith("gateway:gauge")
    )
    twice = accepted(accepted(LAB, name, "gateway 10.64.16.2"), name, "  gateway 10.64.16.3\n\n")
    for line in ("gateway 10.64.16.1", "gateway 10.64.16.2", "gateway 10.64.16.3"):
        assert criteria(read(twice), "gauge", "gateway 10.64.16.1", line)[name] == 1
    assert criteria(read(twice), "gauge", "gateway 10.64.16.1", "gateway 10.64.16.4")[name] == 0


@pytest.mark.parametrize(
    ("criterion", "line", "said"),
    [
        ("ping:1", "reply", "stands in the file in one entry with others"),
        ("address:nobody", "address 10.64.8.9/24", "has no criterion address:nobody"),
        ("gateway:gauge", " \n ", "Write the lines of a sheet"),
        ("gateway:gauge", "port p9", "With that the lab could not be read"),
        ("gateway:gauge", "gatewy 10.64.16.9", "With that the lab could not be read"),
    ],
)
def test_what_cannot_be_accepted_is_said(criterion: str, line: str, said: str) -> None:
    with pytest.raises(CannotEdit, match=said):
        accepted(LAB, criterion, line)
