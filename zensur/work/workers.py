"""Work behind the answers: processes that do pieces of it within bounds of processor time and memory.

Every piece first has a short turn. One that needs longer, or whose process ended, waits until nobody else does, and
then has a long turn in the one worker that gives such: whatever is handed in, the others go on.
"""

import logging
import pickle
import signal
import subprocess
import sys
import threading
from collections.abc import Callable, Hashable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from typing import Any

from .worker import MEMORY, MOST_BYTES

SHORT, LONG = 10, 60
"""Seconds of processor time that a piece may need in its first turn, and in its second."""
IDLE_SECONDS = 60
"""So long a worker waits for more before it ends; another one is started when there is."""
WORKERS = 2
_LOG = logging.getLogger(__name__)


class Refused(Exception):
    """A piece was not done; the message says why, as a sentence."""


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of work: what to do is asked when its turn comes, and what came of it is taken by the same thread."""

    prepare: Callable[[], tuple[Callable[..., Any], tuple[Any, ...]]]
    done: Callable[[Any], None]
    refused: Callable[[str], None]


class Workers:
    """Does pieces of work behind the answers, each once at a time, the first that was wanted first."""

    def __init__(self, number: int = WORKERS, short: int = SHORT, long: int = LONG) -> None:
        self._seconds = short, long
        self._changed = threading.Condition()
        self._waiting: dict[Hashable, Piece] = {}
        self._long: dict[Hashable, Piece] = {}
        self._busy: set[Hashable] = set()
        self._running: set[int] = set()
        self._number = number

    def want(self, key: Hashable, piece: Piece, first: bool = False) -> None:
        """Have a piece done, where none of its key waits or is being done; as the next one where it is ``first``."""
        with self._changed:
            if key in self._busy or key in self._long or (key in self._waiting and not first):
                return
            if first:
                self._waiting = {key: piece, **{k: p for k, p in self._waiting.items() if k != key}}
            else:
                self._waiting[key] = piece
            for number in range(self._number):
                if number not in self._running:
                    self._running.add(number)
                    name = f"zensur-worker-{number}"
                    threading.Thread(target=self._run, args=(number,), name=name, daemon=True).start()
            self._changed.notify_all()

    def drop(self, keys: Iterable[Hashable]) -> None:
        """Leave pieces undone that wait; one that is being done is finished."""
        with self._changed:
            for key in keys:
                self._waiting.pop(key, None)
                self._long.pop(key, None)
            self._changed.notify_all()

    def ask(self, function: Callable[..., Any], *arguments: Any) -> Any:
        """Have a function called in a worker, before what waits, and return what it gives; raises :class:`Refused`.

        Who asks waits; what is worked out takes no time from the other threads of this process.
        """
        answered = threading.Event()
        told: list[tuple[bool, Any]] = []

        def tell(done: bool, answer: Any) -> None:
            told.append((done, answer))
            answered.set()

        piece = Piece(lambda: (function, arguments), partial(tell, True), partial(tell, False))
        self.want(("asked", object()), piece, first=True)
        answered.wait()
        done, answer = told[0]
        if not done:
            raise Refused(answer)
        return answer

    def settle(self) -> None:
        """Wait until nothing is left to be done."""
        with self._changed:
            self._changed.wait_for(lambda: not (self._waiting or self._long or self._busy))

    def _run(self, number: int) -> None:
        """Do pieces in a process, until there was none for a while."""
        process = _Process()
        try:
            while (taken := self._take(number)) is not None:
                key, piece, seconds = taken
                again = self._do(process, piece, seconds)
                with self._changed:
                    self._busy.discard(key)
                    if again:
                        self._long[key] = piece
                    self._changed.notify_all()
        finally:
            process.end()

    def _take(self, number: int) -> tuple[Hashable, Piece, int] | None:
        """Take the next piece; only the first worker takes long ones. None: there was none for a while."""
        with self._changed:
            while True:
                for waiting, seconds in zip((self._waiting, self._long), self._seconds, strict=True):
                    if waiting and (waiting is self._waiting or number == 0):
                        key = next(iter(waiting))
                        self._busy.add(key)
                        return key, waiting.pop(key), seconds
                if not self._changed.wait(IDLE_SECONDS):
                    self._running.discard(number)
                    return None

    def _do(self, process: "_Process", piece: Piece, seconds: int) -> bool:
        """Do a piece; return whether it has to be tried again with more time."""
        try:
            try:
                piece.done(process.do(seconds, *piece.prepare()))
            except _Ended as ended:  # maybe for a reason that has nothing to do with it
                if seconds < self._seconds[1]:
                    return True
                piece.refused(str(ended))
            except Refused as refused:
                piece.refused(str(refused))
        except Exception:  # such as a full disk: it is wanted again when it is asked for again
            _LOG.exception("work behind the answers failed")
        return False


class _Ended(Exception):
    """The process ended while it worked on a piece; the message says why, as a sentence."""


class _Process:
    """A worker process, started when it is needed and again when it ended."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None

    def do(self, seconds: int, function: Callable[..., Any], arguments: tuple[Any, ...]) -> Any:
        """Return what a function gives there; raises :class:`Refused` and :class:`_Ended`."""
        used = self._process is not None
        done, answer = self._answer(seconds, pickle.dumps((function, arguments)))
        if not done and answer == MEMORY:
            self.end()
            if used:  # for all that it did before, maybe
                return self.do(seconds, function, arguments)
            raise Refused(f"It takes more than {MOST_BYTES >> 30} GiB of memory.")
        if not done:
            raise Refused(f"This is a fault of Zensur's own: {answer}.")
        return answer

    def _answer(self, seconds: int, piece: bytes) -> tuple[bool, Any]:
        process = self._started()
        assert process.stdin is not None
        assert process.stdout is not None
        try:
            process.stdin.write(pickle.dumps((seconds, piece)))
            process.stdin.flush()
            answer: tuple[bool, Any] = pickle.load(process.stdout)
        except (EOFError, BrokenPipeError, pickle.UnpicklingError):
            status = self.end()
            if status == -signal.SIGXCPU:
                raise _Ended(f"It takes more than {seconds} seconds of processor time.") from None
            raise _Ended(f"The process that worked on it ended (status {status}), twice.") from None
        return answer

    def _started(self) -> subprocess.Popen[bytes]:
        if self._process is None:
            self._process = subprocess.Popen(
                [sys.executable, "-P", "-m", "zensur.work.worker"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                start_new_session=True,  # Ctrl-C ends the server, and with it what it reads from
            )
        return self._process

    def end(self) -> int | None:
        """End the process, and return its status."""
        process, self._process = self._process, None
        if process is None:
            return None
        assert process.stdin is not None
        assert process.stdout is not None
        with suppress(BrokenPipeError):
            process.stdin.close()
        status = process.wait()
        process.stdout.close()
        return status
