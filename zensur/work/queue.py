"""The queue of papers to be marked: in the database, so that it outlives every process, and marked by one of them.

One desk marks at a time: it holds the database's desk and is seen to do so. Another one on the same database reads,
takes hand-ins, and takes the queue over when the holder was not seen for a while.
"""

import logging
import os
import secrets
import sqlite3
import threading
from collections.abc import Callable, Hashable

from ..store import Database, Queued, Runs
from .revision import revision
from .workers import Piece, Workers

BEAT_SECONDS = 1.0
"""So often a process shows that it holds the desk, or looks whether somebody does, and what came into the queue."""
_LOG = logging.getLogger(__name__)


class Queue:
    """Feeds workers with what is to be marked, as long as this process holds the desk."""

    def __init__(self, database: Database, workers: Workers, piece: Callable[[Queued], Piece]) -> None:
        self.runs = Runs(database)
        self._workers = workers
        self._piece = piece
        self._name = f"{os.uname().nodename} {os.getpid()} {secrets.token_hex(6)}"
        self._feeding = threading.Lock()
        self._given: set[Hashable] = set()
        self._held = False
        self._ended = threading.Event()

    def feed(self) -> bool:
        """Give the workers what is in the queue, each once; False where another process holds the desk."""
        with self._feeding:
            held, self._held = self._held, self.runs.hold(self._name) or self._inherited()
            if not self._held:
                return False
            if not held:
                self.runs.forget(revision())
            waiting = {key_of(queued): queued for queued in self.runs.waiting(revision())}
            self._workers.drop(self._given - waiting.keys())  # what was stopped meanwhile, here or elsewhere
            for key, queued in waiting.items():
                self._workers.want(key, self._piece(queued))
            self._given = set(waiting)
            return True

    def _inherited(self) -> bool:
        """Take the desk from a process of this machine that is there no more, without waiting for it."""
        holder = self.runs.holder()
        machine, _, rest = holder.partition(" ")
        if machine != os.uname().nodename or not rest:
            return False
        try:
            os.kill(int(rest.split()[0]), 0)  # which asks, and sends nothing
        except ProcessLookupError:
            self.runs.let_go(holder)
            return self.runs.hold(self._name)
        except OSError:
            return False
        return False

    def first(self, queued: Queued) -> None:
        """Have a paper marked before what waits."""
        if self.feed():
            self._workers.want(key_of(queued), self._piece(queued), first=True)

    def keep_on(self) -> None:
        """Hold the desk, or wait for it, and feed the workers, in a thread of its own until :meth:`end`."""
        threading.Thread(target=self._beat, name="zensur-desk", daemon=True).start()

    def end(self) -> None:
        """Let the desk go."""
        self._ended.set()
        self.runs.let_go(self._name)

    def _beat(self) -> None:
        while not self._ended.wait(BEAT_SECONDS):
            try:
                self.feed()
            except sqlite3.Error:  # such as a full disk: it is tried again
                _LOG.exception("the queue could not be looked at")


def key_of(queued: Queued) -> tuple[int, int, str]:
    """Return what the workers know a paper by."""
    return queued.paper, queued.version, queued.engine
