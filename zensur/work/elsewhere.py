"""Work behind the answers on other machines: pieces go to an executor, such as that of a Dask cluster."""

import logging
import threading
from collections.abc import Callable, Hashable, Iterable
from concurrent.futures import CancelledError, Executor, Future
from typing import Any

from .workers import Piece, Workers

_LOG = logging.getLogger(__name__)


class Elsewhere(Workers):
    """Hands pieces to an executor as they are wanted, each once at a time; what somebody waits for is done here.

    How long a piece may take there is the cluster's to bound. One whose machine went away is not refused: it is wanted
    again, as long as it stays in the queue.
    """

    def __init__(self, executor: Executor) -> None:
        super().__init__()
        self._executor = executor
        self._sent: dict[Hashable, Future[Any]] = {}
        self._settling = threading.Condition()

    def want(self, key: Hashable, piece: Piece, first: bool = False) -> None:
        """Have a piece done; ``first`` is done here, for somebody waits for it."""
        if first:
            super().want(key, piece, first=True)
            return
        with self._settling:
            if key in self._sent:
                return
            function, arguments = piece.prepare()
            try:
                future = self._executor.submit(function, *arguments)
            except (OSError, RuntimeError):  # the cluster is gone, or going
                _LOG.warning("work cannot be sent elsewhere: it is tried again", exc_info=True)
                return
            self._sent[key] = future
        future.add_done_callback(self._taking(key, piece))

    def drop(self, keys: Iterable[Hashable]) -> None:
        """Leave pieces undone that are not begun."""
        with self._settling:
            sent = [self._sent[key] for key in keys if key in self._sent]
        for future in sent:
            future.cancel()

    def settle(self) -> None:
        """Wait until nothing is left to be done."""
        super().settle()
        with self._settling:
            self._settling.wait_for(lambda: not self._sent)

    def _taking(self, key: Hashable, piece: Piece) -> Callable[[Future[Any]], None]:
        def take(future: Future[Any]) -> None:
            try:
                self._keep(future, piece)
            except Exception:  # such as a full disk: it is wanted again, as long as it stays in the queue
                _LOG.exception("work done elsewhere could not be taken")
            finally:
                with self._settling:
                    self._sent.pop(key, None)
                    self._settling.notify_all()

        return take

    def _keep(self, future: Future[Any], piece: Piece) -> None:
        try:
            found = future.result()
        except CancelledError:
            return
        except OSError:  # the cluster, or a machine of it, is gone
            _LOG.warning("work elsewhere was lost: it is tried again", exc_info=True)
        except Exception as error:
            piece.refused(f"This is a fault of Zensur's own: {type(error).__name__}: {error}.")
        else:
            piece.done(found)
