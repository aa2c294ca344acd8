"""The queue and the desk in the store: what waits for whom, and who is seen to hold it."""

import time
from pathlib import Path

import pytest

from zensur.store import Database, Labs, NewPaper, Papers, Queued, Results, RunKey, Runs, Scope, Summary

FILES = {"weir": ("weir.sheet", b"name weir\n")}
FULL = Summary(3, 3, 3, None, ())
LAB, SITTING = RunKey("lab one", 1, "e"), RunKey("sitting 1", 1, "e")


@pytest.fixture
def runs(tmp_path: Path) -> Runs:
    """A database with a lab of two versions and four papers."""
    database = Database(tmp_path / "x.db")
    Labs(database).add("one", "text")
    Labs(database).save("one", "more", 1)
    papers = [NewPaper(learner, FILES) for learner in ("ana", "ben", "eva", "kim")]
    Papers(database).add(Scope("one"), papers)
    return Runs(database)


def waiting(runs: Runs, engine: str = "e") -> list[tuple[int, int]]:
    return [(queued.paper, queued.version) for queued in runs.waiting(engine)]


def test_what_is_wanted_twice_waits_once_and_in_the_order_it_was_wanted(runs: Runs) -> None:
    runs.begin(LAB, [2, 1])
    runs.begin(LAB, [3, 1])
    runs.begin(SITTING, [1, 4])  # by another occasion it is the same piece of work
    assert waiting(runs) == [(2, 1), (1, 1), (3, 1), (4, 1)]
    assert (runs.left(LAB), runs.left(SITTING)) == (3, 1)
    runs.begin(RunKey("lab one", 2, "e"), [1])  # under another version it is not
    assert waiting(runs)[-1] == (1, 2)
    assert runs.waiting("e")[0] == Queued(2, 1, "e")
    assert runs.waiting("another engine") == []


def test_what_is_marked_or_cannot_be_leaves_the_queue_and_is_not_wanted_again(runs: Runs) -> None:
    results = Results(runs.database)
    runs.begin(LAB, [1, 2, 3])
    results.keep(1, 1, "e", "{}", FULL)
    results.keep_failure(2, 1, "e", "too large")
    assert waiting(runs) == [(3, 1)]
    runs.begin(LAB, [1, 2, 3])
    assert waiting(runs) == [(3, 1), (2, 1)]  # who asks for one that failed has it tried again
    results.keep(3, 2, "e", "{}", FULL)  # of another version
    assert (3, 1) in waiting(runs)


def test_stopping_a_run_leaves_the_others_alone(runs: Runs) -> None:
    runs.begin(LAB, [1, 2])
    runs.begin(SITTING, [3])
    assert not runs.cancelled(LAB)
    runs.cancel(LAB)
    assert (runs.cancelled(LAB), runs.cancelled(SITTING)) == (True, False)
    assert waiting(runs) == [(3, 1)]
    runs.go_on(LAB)
    assert not runs.cancelled(LAB)
    assert waiting(runs) == [(3, 1)]  # what is wanted is said by who wants it
    never = RunKey("lab one", 2, "e")
    runs.cancel(never)
    assert runs.cancelled(never)


def test_other_engines_work_is_forgotten_and_ours_is_not(runs: Runs) -> None:
    runs.begin(LAB, [1])
    runs.begin(RunKey("lab one", 1, "older"), [1, 2])
    runs.forget("e")
    assert (waiting(runs), waiting(runs, "older")) == ([(1, 1)], [])


def test_one_holds_the_desk_and_writes_that_only_now_and_then(
    runs: Runs, monkeypatch: pytest.MonkeyPatch
) -> None:
    clock = [1000.0]
    monkeypatch.setattr(time, "time", lambda: clock[0])

    def seen() -> float:
        found: float = runs.database.connection().execute("SELECT seen_at FROM desk_holder").fetchone()[0]
        return found

    assert runs.holder() == ""
    assert runs.hold("one")
    assert not runs.hold("two")
    clock[0] += 2.4
    assert runs.hold("one")
    assert seen() == 1000.0
    clock[0] += 0.2
    assert runs.hold("one")
    assert seen() == clock[0]
    clock[0] += 10.0
    assert not runs.hold("two")
    clock[0] += 0.1
    assert runs.hold("two")
    assert runs.holder() == "two"
    assert not runs.hold("one")
    runs.let_go("one")  # who does not hold it lets nothing go
    assert runs.holder() == "two"
    runs.let_go("two")
    assert runs.hold("one")
