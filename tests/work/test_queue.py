"""The queue of papers to be marked: one process marks at a time, nothing is lost, and it can be stopped."""

import os
import sqlite3
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from zensur.core.formats import File, HandIn
from zensur.demo import lab_text
from zensur.store import Database, Runs
from zensur.work.desk import Desk, run_of
from zensur.work.occasion import Occasion

LAB = "first-addresses"


@pytest.fixture
def path(tmp_path: Path) -> Path:
    database = Database(tmp_path / "x.db")
    Desk(database).labs.add(LAB, lab_text(LAB))
    return database.path


def on(path: Path, *, marks: bool = True) -> tuple[Desk, Occasion]:
    """Return a desk of its own on a database, as another process has it."""
    desk = Desk(Database(path), marks=marks)
    version = desk.labs.newest(LAB)
    assert version is not None
    return desk, desk.occasion(version)


def hand_in(desk: Desk, occasion: Occasion, *learners: str) -> None:
    own = [HandIn(learner, {"weir": File("weir.sheet", learner.encode())}) for learner in learners]
    desk.hand_in(occasion, own)


def marked(desk: Desk, occasion: Occasion) -> int:
    desk.workers.settle()
    return desk.how_far(occasion).marked


def test_another_desk_takes_hand_ins_and_leaves_marking_to_the_holder(path: Path) -> None:
    holder, here = on(path)
    assert holder.queue.feed()
    other, there = on(path)
    hand_in(other, there, "ana", "ben")
    assert not other.queue.feed()
    assert marked(other, there) == 0
    assert holder.queue.feed()
    assert marked(holder, here) == 2
    holder.queue.end()
    hand_in(other, there, "eva")  # who takes the desk over as soon as it is let go
    assert marked(other, there) == 3
    assert not holder.queue.feed()


def test_the_desk_of_a_process_that_is_gone_is_free_at_once_and_one_not_seen_after_a_while(
    path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk, _ = on(path)
    runs = Runs(desk.database)
    gone = subprocess.Popen([sys.executable, "-c", ""])
    gone.wait()
    assert runs.hold(f"{os.uname().nodename} {gone.pid} x")
    assert desk.queue.feed()
    desk.queue.end()
    assert runs.hold("another-machine 1 x")
    assert not desk.queue.feed()
    monkeypatch.setattr("zensur.store.runs.HELD_SECONDS", -1.0)
    assert desk.queue.feed()


def test_what_was_queued_by_a_process_that_ended_is_marked_by_the_next(path: Path) -> None:
    desk, occasion = on(path, marks=False)
    hand_in(desk, occasion, "ana", "ben", "eva")
    assert desk.listed(occasion)[0][1] is None
    assert (marked(desk, occasion), desk.how_far(occasion).left) == (0, 3)
    after, again = on(path)
    assert after.queue.feed()
    assert marked(after, again) == 3
    assert Runs(after.database).waiting(run_of(again).engine) == []


def test_marking_stops_and_goes_on_and_a_paper_that_is_opened_is_marked_all_the_same(path: Path) -> None:
    waiting, occasion = on(path, marks=False)
    hand_in(waiting, occasion, "ana", "ben", "eva")
    desk, here = on(path)
    desk.stop(here)
    assert desk.queue.feed()
    desk.listed(here)  # which asks for nothing as long as it is stopped
    far = desk.how_far(here)
    assert (marked(desk, here), far.left, far.stopped) == (0, 0, True)
    paper = desk.papers.last(here.scope)[1]
    desk.standing(paper, here)
    assert marked(desk, here) == 1
    assert desk.how_far(here).stopped
    desk.go_on(here)
    assert (marked(desk, here), desk.how_far(here).stopped) == (3, False)


def test_what_another_engine_was_to_mark_is_forgotten(path: Path) -> None:
    desk, occasion = on(path, marks=False)
    hand_in(desk, occasion, "ana")
    runs = Runs(desk.database)
    runs.forget("another engine")
    assert runs.waiting(run_of(occasion).engine) == []


def test_what_another_desk_stops_is_not_marked_any_more(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    holder, here = on(path)
    assert holder.queue.feed()
    taken: set[object] = set()
    dropped: set[object] = set()
    monkeypatch.setattr(holder.workers, "want", lambda key, *_rest, **_more: taken.add(key))
    monkeypatch.setattr(holder.workers, "drop", dropped.update)
    other, there = on(path, marks=False)
    hand_in(other, there, "ana", "ben")
    holder.queue.feed()
    assert len(taken) == 2
    assert not dropped
    other.stop(there)
    holder.queue.feed()
    assert dropped == taken
    assert (holder.how_far(here).left, holder.how_far(here).stopped) == (0, True)


def test_a_disk_that_is_full_while_the_queue_is_looked_at_ends_nothing(
    path: Path, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    desk, _ = on(path)
    seen = threading.Event()
    feeds = iter([sqlite3.OperationalError("database or disk is full"), None])

    def feed() -> bool:
        failure = next(feeds, None)
        if failure:
            raise failure
        seen.set()
        return True

    monkeypatch.setattr("zensur.work.queue.BEAT_SECONDS", 0.001)
    monkeypatch.setattr(desk.queue, "feed", feed)
    desk.queue.keep_on()
    assert seen.wait(30)
    desk.queue.end()
    assert "the queue could not be looked at" in caplog.text
