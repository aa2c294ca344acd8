"""Names, numbers and statements are carried along wherever they stand; each edit is undone by its inverse."""

import re

import pytest

from tests.core.test_stages import VARIANTS
from zensur.core.authoring.addresses import (
    Renumber,
    SetAddress,
)
from zensur.core.authoring.asked import Expect, Forget, MoveAsked
from zensur.core.authoring.devices import (
    RemoveDevice,
    RemovePort,
    RenameDevice,
    RenamePort,
)
from zensur.core.authoring.draft import CannotEdit, Draft
from zensur.core.authoring.edits import edited
from zensur.core.authoring.look import ran
from zensur.core.authoring.scheming import WriteScheme
from zensur.core.authoring.texts import (
    PutStatements,
    TakeStatements,
)
from zensur.core.lab import Kind
from zensur.core.marking.scheme import tasks_of
from zensur.demo import lab_text

from .edits import STARTER, change, every_stage, row


def named(text: str, name: str) -> int:
    return text.lower().count(name.lower())


@pytest.mark.parametrize(("name", "text", "stage"), list(every_stage()))
def test_a_name_is_carried_along_and_back(name: str, text: str, stage: str) -> None:
    """Devices and ports renamed and renamed back leave the text as it was; in between the lab does the same."""
    draft = Draft(text, stage)
    before = [(r.outcome, r.as_expected) for r in ran(draft).rows]
    for device in draft.lab.devices.values():
        other = edited(draft, [RenameDevice(device=device.name, to="renamed-box")])
        assert [(r.outcome, r.as_expected) for r in ran(other).rows] == before
        assert edited(other, [RenameDevice(device="renamed-box", to=device.name)]).text == text
        for port in device.ports if device.kind is not Kind.HOST else ():
            end = f"{device.name}:{port.name}"
            other = edited(draft, [RenamePort(end=end, to="Renamed9")])
            assert [(r.outcome, r.as_expected) for r in ran(other).rows] == before, end
            assert edited(other, [RenamePort(end=f"{device.name}:Renamed9", to=port.name)]).text == text


@pytest.mark.parametrize(("name", "text", "stage"), list(every_stage()))
def test_a_device_goes_with_all_that_names_it(name: str, text: str, stage: str) -> None:
    draft = Draft(text, stage)
    for device in draft.lab.devices:
        left = edited(draft, [RemoveDevice(device=device)])
        assert device not in left.lab.devices
        assert all(device not in link.devices for link in left.lab.links)
        assert not any(device in (p.sender, p.to.split(":")[0]) for p in left.lab.pings)


@pytest.mark.parametrize(("name", "text", "stage"), list(every_stage()))
def test_criteria_by_number_ask_for_the_same_pings_when_a_device_goes(
    name: str, text: str, stage: str
) -> None:
    draft = Draft(text, stage)
    scheme = f"{draft.stage_place}scheme"
    draft = draft.remove(scheme) if scheme in draft.entries else draft
    every = [{"ping": str(n), "marks": str(n)} for n in range(1, len(draft.lab.pings) + 1)]
    draft = draft.add(f"{scheme}.tasks", [{"title": "T", "criteria": every}])
    for device in draft.lab.devices:
        left = edited(draft, [RemoveDevice(device=device)]).lab
        asked = [
            p for p in draft.lab.pings if device not in (p.sender.split("/")[0], re.split("[:/]", p.to)[0])
        ]
        assert [(p.sender, p.to, p.source) for p in left.pings] == [(p.sender, p.to, p.source) for p in asked]
        criteria = [c for task in left.scheme.tasks or () for c in task.criteria]
        assert [c.operand for c in criteria] == [str(n) for n in range(1, len(asked) + 1)]
        assert [c.marks for c in criteria] == [draft.lab.pings.index(p) + 1 for p in asked]


@pytest.mark.parametrize(("name", "text", "stage"), list(every_stage()))
def test_a_written_scheme_asks_what_the_derived_one_does(name: str, text: str, stage: str) -> None:
    draft = Draft(text, stage)
    if draft.lab.scheme.tasks is not None:
        return
    written = edited(draft, [WriteScheme()])
    assert written.lab.scheme.tasks is not None
    assert [(t.title, t.criteria) for t in tasks_of(written.lab)] == [
        (t.title, t.criteria) for t in tasks_of(draft.lab)
    ]


@pytest.mark.parametrize(("name", "text", "stage"), list(every_stage()))
def test_statements_taken_out_and_put_back_make_the_same_lab(name: str, text: str, stage: str) -> None:
    draft = Draft(text, stage)
    for device, model in draft.lab.model.items():
        for item in model.items:
            if item.block is not None and item.text() == item.block.header():
                continue
            header = item.block.header() if item.block else ""
            try:
                without = TakeStatements(device=device, header=header, statements=(item.text(),)).apply(draft)
                side = "given" if "given." in draft.place_of(item)[0] else "answer"
                back = PutStatements(side=side, device=device, header=header, statements=(item.text(),))  # type: ignore[arg-type]
                after = back.apply(without)
            except CannotEdit as why:
                assert any(
                    w in str(why) for w in ("shares its line", "written together", "stage", "variable")
                ), why
                continue
            assert {i.slot: i.statement for i in after.lab.model[device].items} == {
                i.slot: i.statement for i in model.items
            }


@pytest.mark.parametrize(
    ("name", "old", "new"),
    [("first-addresses", "basin", "10.64.96.0/22"), ("four-gates", "upper cut", "10.64.7.8/30"),
     ("two-families", "office", "10.64.96.0/24"), ("toll-house", "office", "10.64.99.0/24")],
)  # fmt: skip
def test_a_network_is_renumbered_and_back(name: str, old: str, new: str) -> None:
    text = lab_text(name)
    at = row(text, old)
    before = Draft(text)
    prefix = before.chart.rows[at].prefix.split(", ")[0]
    moved = edited(before, [Renumber(row=at, prefix=new)])
    there = next(n for n, r in enumerate(moved.chart.rows) if new in r.prefix)
    assert [r.outcome for r in ran(moved).rows] == [r.outcome for r in ran(before).rows]
    assert prefix not in moved.text
    assert edited(moved, [Renumber(row=there, prefix=prefix)]).text == text


def test_lengths_in_every_form_are_renumbered() -> None:
    """Of the network itself they become the new one's; a summary and a part keep theirs."""
    forms = {
        "address 10.64.16.1 mask 255.255.255.0": "address 10.64.96.1 mask 255.255.252.0",
        "permit 10.64.16.0 wildcard 0.0.0.255": "permit 10.64.96.0 wildcard 0.0.3.255",
        "permit 10.64.16.8 mask 255.255.255.248": "permit 10.64.96.8 mask 255.255.255.248",
        "permit 10.64.0.0 wildcard 0.0.63.255": "permit 10.64.0.0 wildcard 0.0.63.255",
    }
    lists = "\n".join(f"      {line}" for line in list(forms)[1:])
    text = STARTER.replace("address 10.64.16.1/24", next(iter(forms))).replace(
        "  weir: |\n", f"  weir: |\n    list inner\n{lists}\n", 1
    )
    moved = edited(Draft(text), [Renumber(row=row(text, "upper reach"), prefix="10.64.96.0/22")])
    for old, new in forms.items():
        assert (old in text, new in moved.text) == (True, True), old
    with pytest.raises(CannotEdit, match=r"has 10\.64\.16\.1 by a variable"):
        edited(Draft(VARIANTS), [Renumber(row=0, prefix="10.77.96.0/24")])


def test_a_port_goes_with_the_pings_that_leave_by_it() -> None:
    """Ports by themselves count, too: ``out`` and ``source`` are of the device that asks."""
    draft = Draft(lab_text("two-families"))
    left = edited(draft, [RemovePort(end="weir:p1")]).lab
    gone = [p for p in draft.lab.pings if p.sender == "weir" and "p1" in (p.out, p.source)]
    assert gone
    assert [(p.sender, p.to, p.out) for p in left.pings] == [
        (p.sender, p.to, p.out) for p in draft.lab.pings if p not in gone
    ]
    two = [
        Expect(pings=({"from": "weir", "to": "fe80::9", "out": port, "expect": "timeout"},))
        for port in ("p2", "p3")
    ]
    assert len(edited(draft, list(two)).lab.pings) == len(draft.lab.pings) + 2


def test_a_variable_keeps_standing_where_its_host_part_changes() -> None:
    at = SetAddress(device="weir", port="p1", typed="9", prefixes=("10.64.16.0/24",))
    assert change(VARIANTS, at) == ["- address 10.64.${site}.1/24", "+ address 10.64.${site}.9/24"]


def test_criteria_name_the_same_pings_where_numbers_change() -> None:
    text = STARTER + "scheme:\n  tasks:\n    - {title: T, criteria: [{ping: 1}, {ping: 3, marks: 2}]}\n"
    fewer = edited(Draft(text), [Forget(numbers=(1,))]).lab
    assert fewer.scheme.tasks is not None
    assert [(c.operand, c.marks) for c in fewer.scheme.tasks[0].criteria] == [("1", 1), ("2", 2)]
    moved = edited(Draft(text), [MoveAsked(number=2, to=0)]).lab
    assert moved.scheme.tasks is not None
    assert [(c.operand, c.marks) for c in moved.scheme.tasks[0].criteria] == [("2", 1), ("1", 2)]
    assert [(p.sender, p.to) for p in moved.pings] == [
        ("crane", "gauge"),
        ("gauge", "weir"),
        ("gauge", "crane"),
    ]
    gone = edited(Draft(text), [Forget(numbers=(0,))]).lab
    assert gone.scheme.tasks is not None
    assert [c.operand for c in gone.scheme.tasks[0].criteria] == ["2"]
