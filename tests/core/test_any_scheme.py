"""Whatever a scheme asks and whatever papers hold: nothing raises, totals hold together, a blank paper earns nothing."""

import random
from dataclasses import replace

import pytest

from tests.core.every_lab import ALL, mangled, mangled_paper
from zensur.core.lab import Criterion, Lab, Task, counted_by
from zensur.core.marking.adding import sum_of
from zensur.core.marking.checking.lab_check import check_lab
from zensur.core.marking.making.made import sheets_with
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.scheme import tasks_of
from zensur.core.marking.shapes import Result
from zensur.core.marking.slips.catalogue import slips_in
from zensur.core.sheet import read_sheet

NAMED = ("address", "enabled", "up", "translation", "dhcp", "instance")
FORMS = ("via", "out", "both", "discard", "any")
WORDS = [
    "port", "address", "route", "via", "out", "on", "off", "trunk", "vlan", "10", "10.64.8.1/24", "default", "gateway",
    "translate", "as", "to", "shared", "pool", "permit", "dhcp", "instance", "in", "lo0", "p1", "mask", "wildcard", "::/0",
]  # fmt: skip


def any_scheme(lab: Lab, chance: random.Random) -> Lab:
    """Ask for a few things that the lab has, in any form, some of them twice."""
    pool = [c for task in tasks_of(lab) for c in task.criteria]
    for name, model in lab.model.items():
        pool += [by for i in model.items if (by := counted_by(name, i, model)) is not None]
        pool += [Criterion(key, name, b.port_name, 1.0) for b in model.bearers() for key in ("up", "enabled")]
        pool.append(Criterion("name", name, "", 1.0))
    chosen: list[Criterion] = []
    for picked in chance.sample(pool, min(len(pool), chance.randint(1, 12))):
        criterion = picked
        if criterion.key == "route":
            criterion = replace(criterion, form=chance.choice([None, *FORMS]))
        if criterion.key == "translation":
            criterion = replace(criterion, form=chance.choice([None, "form"]))
        if criterion.key in NAMED:
            criterion = replace(criterion, own_name=chance.random() < 0.2, dotted=chance.random() < 0.2)
        chosen += [criterion] * chance.choice([1, 1, 1, 2])
    scheme = replace(
        lab.scheme, tasks=(Task("T", tuple(chosen)),), strictness=chance.choice(["effect", "form"]),
        carry_forward=chance.random() < 0.7, extras=chance.choice(["ignore", "report", "charge"]),
    )  # fmt: skip
    return replace(lab, scheme=scheme)


def mistyped(text: str, chance: random.Random) -> str:
    """Letters lost, doubled, moved and mistaken, and words of the language where they do not belong."""
    letters = list(text)
    for _ in range(chance.choice([1, 1, 2, 3, 8, 30])):
        if not letters:
            break
        at, kind = chance.randrange(len(letters)), chance.random()
        if kind < 0.3:
            del letters[at]
        elif kind < 0.6:
            letters[at] = chance.choice('abcxyz0123456789./: \n\t#"\\ü')
        elif kind < 0.8:
            letters[at:at] = f" {chance.choice(WORDS)} "
        else:
            moved = letters[at : at + 60]
            del letters[at : at + 60]
            to = chance.randrange(len(letters) + 1)
            letters[to:to] = moved
    return "".join(letters)


def marked(marker: Marker, texts: dict[str, str]) -> Result:
    sheets = {d: read_sheet(t, f"{d}.sheet") for d, t in texts.items()}
    result = marker.mark(Paper("0417", sheets, {d: f"{d}.sheet" for d in texts}))
    assert 0 <= result.score <= result.carried <= result.out_of
    assert all(f.said and f.told and f.repair and f.direct >= 0 for f in result.faults)
    numbers = {f.id for f in result.faults}
    assert all(c.fault is None or c.fault in numbers for c in result.criteria)
    assert {i for f in result.faults for i in f.consequences} <= {c.id for c in result.criteria}
    left = result.out_of - sum(line.marks for line in sum_of(result, marker.lab.scheme))
    assert left == pytest.approx(result.carried, abs=0.005001)
    return result


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_any_scheme_holds_together(lab: Lab) -> None:
    chance, slips = random.Random(lab.id), slips_in(lab)
    for _ in range(12):
        asked = any_scheme(lab, chance)
        check_lab(asked)
        marker = Marker(asked)
        marked(marker, mangled(asked, chance))
        marked(marker, sheets_with(asked, [chance.choice(slips)]))
        assert marked(marker, dict.fromkeys(asked.devices, "")).score == 0
        assert marked(marker, {}).score == 0


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_mistyped_papers_are_marked_and_explained(lab: Lab) -> None:
    chance, marker = random.Random(lab.id), Marker(lab)
    for _ in range(25):
        texts = {d: s.text for d, s in lab.full_paper.items()}
        for device in chance.sample(sorted(texts), max(1, len(texts) // 2)):
            texts[device] = mistyped(texts[device], chance)
        result = marked(marker, texts)
        lost = [c for c in result.criteria if c.fraction < 1 and not c.note]
        assert all(c.fault is not None for c in lost), [(c.id, c.found) for c in lost if c.fault is None]


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_what_others_handed_in_decides_nothing(lab: Lab) -> None:
    """Papers behind each other in one memo, in two orders, each as with a memo of its own."""
    chance, marker = random.Random(lab.id), Marker(lab)
    slips = slips_in(lab)
    papers = [mangled_paper(lab, chance) for _ in range(5)]
    for _ in range(5):
        texts = sheets_with(
            lab, [chance.choice(slips), *([chance.choice(slips)] if chance.random() < 0.5 else [])]
        )
        papers.append(Paper("0417", {d: read_sheet(t, f"{d}.sheet") for d, t in texts.items()}))
    alone = [marker.mark(paper).text() for paper in papers]
    memo = marker.memo()
    assert [marker.mark(paper, memo).text() for paper in papers] == alone
    memo = marker.memo()
    assert [marker.mark(paper, memo).text() for paper in reversed(papers)] == alone[::-1]
