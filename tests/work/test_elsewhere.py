"""Work on other machines, by executors that stand in for a cluster: each piece once, and nothing lost with a machine."""

import sqlite3
import threading
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from zensur.core.formats import File, HandIn
from zensur.demo import lab_text
from zensur.store import Database
from zensur.work.desk import Desk
from zensur.work.elsewhere import Elsewhere

LAB = "first-addresses"


class Flaky(Executor):
    """Loses the first pieces with their machine, then does them here; holds what it is told to hold."""

    def __init__(self, lost: int = 0) -> None:
        self.lost = lost
        self.submitted: list[int] = []
        self.held: list[Future[Any]] | None = None

    def submit(self, function: Any, /, *arguments: Any, **_: Any) -> Future[Any]:
        future: Future[Any] = Future()
        self.submitted.append(threading.get_ident())
        if self.held is not None:
            self.held.append(future)
        elif self.lost:
            self.lost -= 1
            future.set_exception(ConnectionResetError("the machine is gone"))
        else:
            try:
                future.set_result(function(*arguments))
            except Exception as error:
                future.set_exception(error)
        return future


def desk_on(path: Path, executor: Executor) -> tuple[Desk, Any]:
    desk = Desk(Database(path / "x.db"), Elsewhere(executor))
    desk.labs.add(LAB, lab_text(LAB))
    version = desk.labs.newest(LAB)
    assert version is not None
    return desk, desk.occasion(version)


def hand_in(desk: Desk, occasion: Any, *learners: str) -> None:
    own = [HandIn(name, {"weir": File("weir.sheet", b"name weir # " + name.encode())}) for name in learners]
    desk.hand_in(occasion, own)


def test_papers_are_marked_there_as_they_are_here(tmp_path: Path) -> None:
    with ProcessPoolExecutor(2) as pool:
        desk, occasion = desk_on(tmp_path, pool)
        hand_in(desk, occasion, "ana", "ben", "eva")
        desk.workers.settle()
    there = [summary for _, summary, _ in desk.listed(occasion)]
    (tmp_path / "here").mkdir()
    here = Desk(Database(tmp_path / "here" / "x.db"))
    here.labs.add(LAB, lab_text(LAB))
    version = here.labs.newest(LAB)
    assert version is not None
    own = here.occasion(version)
    hand_in(here, own, "ana", "ben", "eva")
    here.workers.settle()
    assert there == [summary for _, summary, _ in here.listed(own)]
    assert None not in there


def test_what_was_lost_with_a_machine_is_done_again_and_once(tmp_path: Path) -> None:
    executor = Flaky(lost=2)
    desk, occasion = desk_on(tmp_path, executor)
    hand_in(desk, occasion, "ana", "ben", "eva")
    assert (desk.how_far(occasion).marked, desk.how_far(occasion).failed) == (1, 0)
    desk.queue.feed()
    assert desk.how_far(occasion).marked == 3
    assert len(executor.submitted) == 5


def test_what_is_sent_is_not_sent_again_and_what_is_not_begun_is_left(tmp_path: Path) -> None:
    executor = Flaky()
    executor.held = []
    desk, occasion = desk_on(tmp_path, executor)
    hand_in(desk, occasion, "ana", "ben")
    desk.queue.feed()
    assert len(executor.held) == 2
    desk.stop(occasion)
    assert all(future.cancelled() for future in executor.held)
    assert desk.how_far(occasion).stopped


def test_what_cannot_be_sent_waits_and_is_sent_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    executor = Flaky()
    desk, occasion = desk_on(tmp_path, executor)

    def gone(*_: Any, **__: Any) -> Future[Any]:
        raise RuntimeError("cannot schedule new futures after shutdown")

    with monkeypatch.context() as patch:
        patch.setattr(executor, "submit", gone)
        hand_in(desk, occasion, "ana", "ben")
    far = desk.how_far(occasion)
    assert (far.marked, far.failed, far.left) == (0, 0, 2)
    desk.queue.feed()
    assert (desk.how_far(occasion).marked, desk.how_far(occasion).left) == (2, 0)


def test_a_result_that_cannot_be_kept_is_no_refusal_of_the_paper(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    desk, occasion = desk_on(tmp_path, Flaky())

    def full(*_: Any) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    with monkeypatch.context() as patch:
        patch.setattr(desk._results, "keep", full)
        hand_in(desk, occasion, "ana")
    assert "could not be taken" in caplog.text
    far = desk.how_far(occasion)
    assert (far.marked, far.failed, far.left) == (0, 0, 1)
    desk.queue.feed()
    assert desk.how_far(occasion).marked == 1


def test_what_fails_in_the_work_itself_is_told_with_the_paper(tmp_path: Path) -> None:
    executor = Flaky()
    executor.held = []
    desk, occasion = desk_on(tmp_path, executor)
    hand_in(desk, occasion, "ana")
    executor.held[0].set_exception(ZeroDivisionError("division by zero"))
    ((card, _, _),) = desk.listed(occasion)
    assert card.failure == "This is a fault of Zensur's own: ZeroDivisionError: division by zero."
    assert desk.how_far(occasion).left == 0
