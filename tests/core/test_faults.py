"""Slips put into the model answers, at every place where one can be: they are the faults, and nothing else is."""

import random
from pathlib import Path

import pytest

from zensur.core.lab import Lab, read_lab
from zensur.core.marking import Marker, Paper, Result
from zensur.core.marking.making.made import LabSlip, sheets_with, slips_in
from zensur.core.marking.searching.edits import said
from zensur.core.sheet import read_sheet, write_sheet
from zensur.demo import LABS, lab_text

TOLL_HOUSE = (Path(__file__).parents[1] / "labs" / "toll-house.lab.yaml").read_text("utf-8")
ALL = [lab for text in (*map(lab_text, LABS), TOLL_HOUSE) if (lab := read_lab(text).lab) is not None]


def marked(marker: Marker, slips: list[LabSlip]) -> Result:
    sheets = {d: write_sheet(c) for d, c in sheets_with(marker.lab, slips).items()}
    return marker.mark(Paper("0417", {d: read_sheet(t, f"{d}.sheet") for d, t in sheets.items()}))


def told(slips: list[LabSlip], result: Result) -> tuple[object, ...]:
    return [(d, s.what, said(s.item)) for d, s in slips], [
        (f.slip, f.device, f.repair) for f in result.faults
    ]


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_every_single_slip_is_found_and_nothing_else(lab: Lab) -> None:
    marker, tried, unseen = Marker(lab), 0, 0
    for device, slip in slips_in(lab):
        result = marked(marker, [(device, slip)])
        if result.score == result.out_of:
            unseen += 1  # nothing asks for it, and no ping shows it
            continue
        assert [(f.device, f.repair) for f in result.faults] == [(device, said(slip.item))], told(
            [(device, slip)], result
        )
        (fault,) = result.faults
        assert not slip.slips or fault.slip in slip.slips, told([(device, slip)], result)
        assert fault.direct > 0, told([(device, slip)], result)
        assert result.score < result.carried + fault.direct <= result.out_of + 0.011, told(
            [(device, slip)], result
        )
        tried += 1
    assert tried > 15
    assert unseen <= 5


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_several_slips_at_once_are_all_found_and_nothing_else(lab: Lab) -> None:
    chance, marker, tried = random.Random(7), Marker(lab), 0
    seen = [one for one in slips_in(lab) if (r := marked(marker, [one])).score < r.out_of]
    for size in [2, 3] * 6:
        chosen = chance.sample(seen, size)
        if len({(device, slip.item.slot) for device, slip in chosen}) < size:
            continue  # two slips of one statement
        result = marked(marker, chosen)
        wanted = {(device, said(slip.item)) for device, slip in chosen}
        assert {(f.device, f.repair) for f in result.faults} == wanted, told(chosen, result)
        tried += 1
    assert tried > 4
