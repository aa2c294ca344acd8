"""The bench: it says of a paper what marking says, and on a learner's edition nothing of the model answer."""

import json
import re
from typing import Any

import pytest

from zensur.core.bench import bench_of, starting_sheets
from zensur.core.formats import learners_edition
from zensur.core.jsonable import to_json
from zensur.core.lab import ExpectedPing, ExpectedService, Lab, read_lab, starter_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.reading.pairing import meant_in
from zensur.core.sheet import OnPort
from zensur.core.sim import Network
from zensur.demo import LABS, demo_papers, lab_text
from zensur.work.papers import read_paper


def stages(name: str) -> tuple[Lab, ...]:
    lab = read_lab(lab_text(name)).lab
    assert lab is not None
    return lab.stages


@pytest.mark.parametrize("name", LABS)
def test_the_model_answer_on_the_bench_does_what_is_expected(name: str) -> None:
    for lab in stages(name):
        bench = bench_of(lab, starting_sheets(lab, "answer"), model=Network.of_lab(lab, lab.model))
        assert all(row.as_expected for row in bench.rows)
        blank = bench_of(lab, starting_sheets(lab, "given"), model=bench.network)
        assert not all(row.as_expected for row in blank.rows)


@pytest.mark.parametrize("name", ["first-addresses", "four-gates"])
def test_the_bench_says_of_a_paper_what_marking_says(name: str) -> None:
    (lab,) = stages(name)
    marker = Marker(lab)
    memo = marker.memo()
    for handed in demo_papers(name, lab):
        files = {d: (f.path, f.content) for d, f in handed.files.items()}
        paper = read_paper(handed.learner, files)
        texts = {device: sheet.text for device, sheet in paper.sheets.items()}
        bench = bench_of(lab, texts, model=marker.facts.model.network, meant=meant_in(lab))
        told = [(r.outcome, r.as_expected, r.detail) for r in bench.rows]
        result = marker.mark(paper, memo)
        assert told == [(r.outcome, r.as_expected, r.detail) for r in (*result.pings, *result.services)]


def test_a_circle_is_no_expected_failure_as_in_marking() -> None:
    """Both routers have a default route to each other; what is to fail at once goes round until it is dropped."""
    text = starter_lab("mine", "Mine") + "  - {from: gauge, to: 203.0.113.9, expect: no-reply}\n"
    lab = read_lab(text).lab
    assert lab is not None
    texts = starting_sheets(lab, "answer")
    assert bench_of(lab, texts, model=Network.of_lab(lab, lab.model)).rows[-1].as_expected
    texts["weir"] += "route default via 10.64.0.2\n"
    texts["quay"] += "route default via 10.64.0.1\n"
    marker = Marker(lab)
    bench = bench_of(lab, texts, model=marker.facts.model.network, meant=meant_in(lab))
    files = {d: (f"{d}.sheet", texts[d].encode()) for d in ("weir", "quay")}
    result = marker.mark(read_paper("mill", files), marker.memo())
    assert [r.as_expected for r in bench.rows] == [True, True, True, False]
    assert [r.as_expected for r in result.pings] == [True, True, True, False]


def test_questions_run_behind_the_lab_and_nothing_is_expected_of_them() -> None:
    (lab,) = stages("toll-house")
    asked = [
        ExpectedPing(id="a", sender="crane", to="far", expect="reply"),
        ExpectedService(id="b", sender="clerk", expect="answer", open="tcp 198.51.100.9:81"),
    ]
    bench = bench_of(lab, starting_sheets(lab, "answer"), asked)
    own = bench.rows[len(lab.expected) :]
    assert [(r.as_expected, r.expect) for r in own] == [(None, None)] * 2
    assert [r.outcome for r in own] == ["reply", "refused"]


def test_translations_fill_up_ping_by_ping() -> None:
    (lab,) = stages("toll-house")
    sheets = starting_sheets(lab, "answer")
    counts = [
        len([t for t in bench_of(lab, sheets, after=n).states["toll"].translations if not t.standing])
        for n in range(len(lab.expected) + 1)
    ]
    assert counts[0] == 0
    assert counts == sorted(counts)
    assert counts[-1] == len([t for t in bench_of(lab, sheets).states["toll"].translations if not t.standing])
    assert counts[-1] > 0


def test_a_device_has_seen_what_its_legs_tell() -> None:
    (lab,) = stages("toll-house")
    bench = bench_of(lab, starting_sheets(lab, "answer"))
    seen = list(bench.seen("toll"))
    legs = [
        (n, leg.way, leg.enters, leg.leaves)
        for n in range(1, len(bench.expected) + 1)
        for leg in bench.journey(n)
        if leg.device == "toll"
    ]
    assert [(p.run, p.way, p.enters, p.leaves) for p in seen] == legs
    inside = list(bench.seen("toll", "p1"))
    assert 0 < len(inside) < len(seen)
    assert all("p1" in (p.enters, p.leaves) for p in inside)
    assert any(p.rewritten for p in seen)


def answers(value: Any) -> str:
    return json.dumps(value, default=lambda v: json.loads(to_json(v)))


@pytest.mark.parametrize("name", LABS)
def test_a_learners_bench_holds_no_value_of_the_model_answer(name: str) -> None:
    """Every answer on the learner's edition is walked for addresses that stand in the model answer only."""
    for lab in stages(name):
        text = learners_edition(lab)
        edition = read_lab(text).lab
        assert edition is not None
        bench = bench_of(edition, starting_sheets(edition, "given"))
        told = " ".join(
            [
                answers(bench.states), answers(bench.rows),
                answers([bench.journey(n) for n in range(1, len(bench.expected) + 1)]),
                answers([list(bench.seen(device)) for device in edition.devices]),
                answers([bench.remarks(device) for device in bench.sheets]),
            ]
        )  # fmt: skip
        secret = {str(i.statement.interface.ip) for m in lab.model.values() for i in m.everywhere(OnPort)}
        for address in secret:
            if not re.search(rf"(?<![\w.:]){re.escape(address)}(?![\w:])", text):
                assert not re.search(rf"(?<![\w.:]){re.escape(address)}(?![\w:])", told), address
