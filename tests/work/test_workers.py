"""Work behind the answers: within bounds, each piece once, and nobody held up by another."""

import os
import threading
from collections import Counter
from collections.abc import Callable
from typing import Any

import pytest

from zensur.work.workers import Piece, Workers


class Board:
    """Takes down what became of pieces, as they end."""

    def __init__(self) -> None:
        self.ended: list[tuple[str, Any]] = []

    def piece(self, name: str, function: Callable[..., Any], *arguments: Any) -> Piece:
        return Piece(
            lambda: (function, arguments),
            lambda found: self.ended.append((name, found)),
            lambda why: self.ended.append((name, why)),
        )


def test_a_piece_that_takes_too_much_is_refused_and_the_others_are_done() -> None:
    board, workers = Board(), Workers(short=1, long=2)
    for n in range(3):
        workers.want(f"long{n}", board.piece("too long", exec, "while True: pass"))
    workers.want("large", board.piece("too large", bytearray, 3 << 30))
    workers.want("wrong", board.piece("wrong", divmod, 1, 0))
    workers.want("killed", board.piece("killed", os._exit, 3))
    for n in range(20):
        workers.want(n, board.piece("well", divmod, n, 7))
    workers.settle()
    said = dict(board.ended)
    assert [found for name, found in board.ended if name == "well"] == [divmod(n, 7) for n in range(20)]
    assert said["too long"] == "It takes more than 2 seconds of processor time."
    assert said["too large"] == "It takes more than 1 GiB of memory."
    assert said["wrong"].startswith("This is a fault of Zensur's own: ZeroDivisionError")
    assert said["killed"] == "The process that worked on it ended (status 3), twice."
    ends = [name for name, _ in board.ended]
    assert sorted(ends[-4:]) == ["killed", *["too long"] * 3]  # all others came first
    assert len(board.ended) == 26


def test_a_piece_that_needs_longer_than_the_others_gets_its_time() -> None:
    board, workers = Board(), Workers(short=1, long=30)
    workers.want("slow", board.piece("slow", eval, "sum(range(10**8))"))
    workers.settle()
    ((name, found),) = board.ended
    assert (name, found) == ("slow", 10**8 * (10**8 - 1) // 2)


def test_one_worker_at_a_time_has_long_turns() -> None:
    workers, turns, long, most = Workers(short=1, long=2), Counter[str](), set[str](), list[int]()

    def piece(name: str) -> Piece:
        def prepare() -> tuple[Callable[..., Any], tuple[Any, ...]]:
            turns[name] += 1
            if turns[name] > 1:
                long.add(name)
                most.append(len(long))
            return exec, ("while True: pass",)

        return Piece(prepare, lambda _: None, lambda _: long.discard(name))

    for name in ("a", "b"):
        workers.want(name, piece(name))
    workers.settle()
    assert (turns, most) == ({"a": 2, "b": 2}, [1, 1])


def test_each_piece_has_its_own_time() -> None:
    board, workers = Board(), Workers(number=1, short=1)
    for n in range(8):
        code = "(sum(range(2 * 10**7)), __import__('os').getpid())[1]"
        workers.want(n, board.piece("worker", eval, code))
    workers.settle()
    assert len(board.ended) == 8
    assert len({process for _, process in board.ended}) == 1  # which was not ended by what they took together


def test_a_piece_is_done_once_and_the_first_comes_first() -> None:
    board, workers = Board(), Workers(number=1)
    begun, go = threading.Event(), threading.Event()

    def prepare() -> tuple[Callable[..., Any], tuple[Any, ...]]:
        begun.set()
        go.wait()
        return divmod, (1, 1)

    workers.want("gate", Piece(prepare, lambda _: None, lambda _: None))
    begun.wait()
    for name in ("a", "b", "c", "a", "gate"):
        workers.want(name, board.piece(name, divmod, 1, 1))
    workers.want("c", board.piece("c", divmod, 1, 1), first=True)
    go.set()
    workers.settle()
    assert [name for name, _ in board.ended] == ["c", "a", "b"]


def test_what_fails_to_be_taken_can_be_wanted_again() -> None:
    board, workers = Board(), Workers(number=1)
    bad = Piece(lambda: (divmod, (1, 1)), lambda _: 1 / 0, board.ended.append)  # type: ignore[arg-type]
    workers.want("x", bad)
    workers.settle()
    workers.want("x", board.piece("x", divmod, 1, 1))
    workers.settle()
    assert board.ended == [("x", (1, 0))]


@pytest.mark.parametrize("signal", [9, 15])
def test_a_worker_that_is_killed_is_replaced(signal: int) -> None:
    board, workers = Board(), Workers(number=1)
    workers.want(1, board.piece("first", os.getpid))
    workers.settle()
    os.kill(board.ended[0][1], signal)
    workers.want(2, board.piece("second", divmod, 2, 1))
    workers.want(3, board.piece("third", divmod, 3, 1))
    workers.settle()
    assert sorted(board.ended[1:]) == [("second", (2, 0)), ("third", (3, 0))]  # nothing is lost by it
