"""What stays as it is when papers are marked anew: erased ones, and those of another desk's decision."""

from pathlib import Path

import pytest

from zensur.core.formats import File, HandIn
from zensur.core.sittings import Learner, Rules
from zensur.demo import lab_text
from zensur.store import By, Database, Settings
from zensur.work.desk import Desk
from zensur.work.erasing import erase_learner
from zensur.work.numbers import seat_newcomers
from zensur.work.occasion import Occasion
from zensur.work.progress import moving

LAB = "first-addresses"


def sitting_on(path: Path) -> tuple[Desk, Occasion]:
    """Return a desk with a sitting of three learners, two of whom have handed in."""
    desk = Desk(Database(path))
    desk.labs.add(LAB, lab_text(LAB))
    version = desk.labs.newest(LAB)
    assert version is not None
    settings = Settings(title="Week 3", rules=Rules())
    sitting = desk.sittings.get(desk.sittings.add(version.key, desk.lab(version).stage, settings))
    assert sitting is not None
    learners = [Learner(code=str(4711 + n), name=name) for n, name in enumerate(("Ana", "Ben", "Eva"))]
    sitting = seat_newcomers(desk, sitting, [("", own) for own in learners])
    occasion = desk.occasion_of(sitting)
    files = {d: File(f"{d}.sheet", s.text.encode()) for d, s in desk.lab(version).answer.items()}
    desk.hand_in(occasion, [HandIn("4711", files), HandIn("4712", {"weir": files["weir"]})])
    desk.workers.settle()
    return desk, occasion


def totals(desk: Desk, occasion: Occasion) -> dict[str, float]:
    found, _ = desk.results_of(occasion, want=True)
    desk.workers.settle()
    found, waiting = desk.results_of(occasion)
    assert not waiting
    return {result.learner: result.carried for _, result in found}


def test_an_erased_paper_keeps_its_figures_under_a_later_version(tmp_path: Path) -> None:
    desk, occasion = sitting_on(tmp_path / "x.db")
    before = totals(desk, occasion)
    assert len(set(before.values())) == 2
    assert erase_learner(desk, "4711", By(reason="asked for it")) == 1
    assert occasion.sitting is not None
    again = desk.sittings.get(occasion.sitting.id)
    assert again is not None
    assert sorted(totals(desk, desk.occasion_of(again)).values()) == sorted(before.values())
    text = lab_text(LAB).replace("title: First addresses", "title: First addresses again", 1)
    assert desk.labs.save(LAB, text, 1) == 2
    newest = desk.labs.newest(LAB)
    assert newest is not None
    desk.sittings.move(again.id, newest)
    moved = desk.sittings.get(again.id)
    assert moved is not None
    assert sorted(totals(desk, desk.occasion_of(moved)).values()) == sorted(before.values())


def test_a_paper_that_another_version_cannot_mark_is_counted(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk, occasion = sitting_on(tmp_path / "x.db")
    text = lab_text(LAB).replace("title: First addresses", "title: First addresses again", 1)
    desk.labs.save(LAB, text, 1)
    newest = desk.labs.newest(LAB)
    assert newest is not None
    first = desk.papers_of(occasion)[0]
    monkeypatch.setattr(desk.workers, "want", lambda *_args, **_more: None)  # nobody marks meanwhile
    told = moving(desk, occasion, newest.key)
    assert (told.papers, told.waiting, told.failed, told.changed) == (2, 2, 0, ())
    engine = desk.queue.runs.database.connection().execute("SELECT engine FROM result").fetchone()[0]
    desk._results.keep_failure(first.id, newest.key, engine, "It takes more than 60 seconds.")
    told = moving(desk, occasion, newest.key)
    assert (told.papers, told.waiting, told.failed) == (2, 1, 1)
