"""Slips put into the model answers, at every place where one can be: they are the faults, and nothing else is."""

import random

import pytest

from tests.core.every_lab import ALL, handed_in, mangled
from zensur.core.lab import Lab
from zensur.core.marking.making.made import may_go_together, sheets_with
from zensur.core.marking.marker import Marker
from zensur.core.marking.shapes import Result
from zensur.core.marking.slips.catalogue import slips_in
from zensur.core.marking.slips.made import MadeSlip
from zensur.core.sheet import Sheet, write_sheet


def marked(marker: Marker, slips: list[MadeSlip]) -> Result:
    sheets = sheets_with(marker.lab, slips)
    return marker.mark(handed_in(marker.lab, sheets))


def is_found(result: Result, slips: list[MadeSlip]) -> bool:
    """Whether the faults are these slips, and nothing else is."""
    left = list(result.faults)
    for slip in slips:
        fault = next((f for f in left if f.device == slip.device and f.repair in slip.repairs), None)
        if fault is None or (fault.slip not in slip.slips):
            return False
        left.remove(fault)
    return not left


def told(slips: list[MadeSlip], result: Result) -> tuple[object, ...]:
    return [(s.device, s.what, *sorted(s.repairs)) for s in slips], [
        (f.slip, f.device, f.repair) for f in result.faults
    ]


def may_be_wrong(tried: int) -> int:
    """One in a hundred may be named otherwise."""
    return tried // 100


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_every_single_slip_is_found_and_nothing_else(lab: Lab) -> None:
    marker, wrong = Marker(lab), []
    tried = unseen = 0
    for slip in slips_in(lab):
        result = marked(marker, [slip])
        if result.score == result.out_of:
            unseen += 1  # nothing asks for it, and no ping shows it
            continue
        tried += 1
        if not is_found(result, [slip]):
            wrong.append(told([slip], result))
            continue
        (fault,) = result.faults
        assert fault.direct > 0, told([slip], result)
        assert result.score < result.carried + fault.direct <= result.out_of + 0.011, told([slip], result)
    assert len(wrong) <= may_be_wrong(tried), wrong
    assert tried > 15
    assert unseen <= tried / 10


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_several_slips_at_once_are_all_found_and_nothing_else(lab: Lab) -> None:
    chance, marker, tried = random.Random(7), Marker(lab), 0
    seen = [one for one in slips_in(lab) if (r := marked(marker, [one])).score < r.out_of]
    wrong = []
    for size in [2, 3] * 6:
        chosen = chance.sample(seen, size)
        if not may_go_together(chosen):
            continue
        result = marked(marker, chosen)
        if not is_found(result, chosen):
            wrong.append(told(chosen, result))
        tried += 1
    assert tried > 4
    assert not wrong


@pytest.mark.parametrize(
    ("crew", "elsewhere", "repair"),
    [
        ("", "  permit 10.64.8.0/24\n", "deny 10.64.8.99; permit 10.64.8.0/24"),
        ("addresses crew\n  permit 10.64.8.0/24\n  permit 10.64.8.98\n", "", "deny 10.64.8.99"),
        ("addresses crew\n  permit 10.64.8.0/24\n", "", "deny 10.64.8.99"),
    ],
)
def test_lines_of_a_list_are_mended_in_their_order(crew: str, elsewhere: str, repair: str) -> None:
    """The first that fits decides: what denies one of a network stands in front of what permits it."""
    lab = next(lab for lab in ALL if lab.id == "toll-house")
    texts = {name: write_sheet(sheet.configuration) for name, sheet in lab.full_paper.items()}
    planned = "addresses crew\n  deny 10.64.8.99\n  permit 10.64.8.0/24\n"
    assert planned in texts["toll"]
    texts["toll"] = (
        texts["toll"]
        .replace(planned, crew)
        .replace("permit 10.64.8.32/28\n", f"permit 10.64.8.32/28\n{elsewhere}")
    )
    marker, paper = Marker(lab), handed_in(lab, texts)
    assert [fault.repair for fault in marker.mark(paper).faults] == [repair]
    assert planned in write_sheet(marker.repaired(paper)["toll"])


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_all_repairs_together_give_full_marks(lab: Lab) -> None:
    """Of papers with slips, and of papers whose lines were lost, mixed with others' and shuffled.

    What was lost is mended in all of them; in one of a lab's a mistake may have let something pass, and nothing else.
    """
    chance, marker, slips = random.Random(lab.id), Marker(lab), slips_in(lab)
    papers = [
        sheets_with(lab, c)
        for _ in range(12)
        if may_go_together(c := chance.sample(slips, chance.randint(2, 5)))
    ]
    papers += [mangled(lab, chance) for _ in range(8)]
    passed = 0
    for texts in papers:
        paper = handed_in(lab, texts)
        before = {c.id for c in marker.mark(paper).criteria if c.fraction < 1}
        mended = {d: Sheet(c, (), 0, "") for d, c in marker.repaired(paper).items()}
        result = marker.mark(handed_in(lab, mended))
        lost = [(c.id, c.required, c.found) for c in result.criteria if c.fraction < 1]
        assert not [one for one in lost if one[0] in before], (lost, texts)
        passed += bool(lost)
    assert passed <= 1
