"""Work on other machines, by executors that stand in for a cluster: each piece once, and nothing lost with a machine."""

import threading
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from pathlib import Path
from typing import Any

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
