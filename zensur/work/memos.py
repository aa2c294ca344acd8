"""What a server remembers between requests: memos, each lent to one request at a time."""

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

from ..core.marking import Marker, Memo

MOST_KEPT = 4
"""So many are kept, those that came back last: one grows to some ten megabytes."""


class Memos:
    """Memos that wait for the next paper of their lab, so that one paper alone is marked as fast as one of a class."""

    def __init__(self) -> None:
        self._waiting: list[tuple[Marker, Memo]] = []
        self._lock = Lock()

    @contextmanager
    def lent(self, marker: Marker) -> Iterator[Memo]:
        """Lend a memo of a marker, a new one where none waits. It comes back only from work that did not fail."""
        memo = self._taken(marker) or marker.memo()
        yield memo
        with self._lock:
            self._waiting.append((marker, memo))
            del self._waiting[:-MOST_KEPT]

    def _taken(self, marker: Marker) -> Memo | None:
        with self._lock:
            for place, (of, memo) in enumerate(self._waiting):
                if of is marker:
                    del self._waiting[place]
                    return memo
        return None
