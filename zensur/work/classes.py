"""Marking many papers: one after another, or spread over any executor of :mod:`concurrent.futures`."""

import gc
import threading
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Executor, Future
from dataclasses import dataclass
from typing import Any, TypeVar, overload

from ..core.formats import HandIn
from ..core.lab import Lab, read_lab
from ..core.marking.marker import Marker
from ..core.marking.memo import Memo
from ..core.marking.paper import Paper
from ..core.marking.shapes import Fault, Result
from ..store import Summary
from .papers import read_paper

_TOGETHER = 8
"""So many papers go to a worker at once."""
Values = Mapping[str, int]
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class LabFile:
    """A lab as its text, with the stage that is marked (None: the last), so that a worker can read it itself."""

    text: str
    stage: str | None = None


@overload
def mark_papers(
    lab: LabFile,
    hand_ins: Sequence[HandIn],
    values: Mapping[str, Values] | None = None,
    executor: Executor | None = None,
) -> Iterator[Result]: ...


@overload
def mark_papers(
    lab: LabFile,
    hand_ins: Sequence[HandIn],
    values: Mapping[str, Values] | None = None,
    executor: Executor | None = None,
    *,
    form: Callable[[Result], T],
) -> Iterator[T]: ...


def mark_papers(
    lab: LabFile,
    hand_ins: Sequence[HandIn],
    values: Mapping[str, Values] | None = None,
    executor: Executor | None = None,
    *,
    form: Callable[[Result], Any] | None = None,
) -> Iterator[Any]:
    """Mark papers and yield the results in the order of the papers; each learner's with their own ``values``.

    ``form`` is what the workers make of each result, such as :meth:`Result.text`, which is cheaper to send.
    """
    tasks = [(h, tuple(sorted((values or {}).get(h.learner, {}).items()))) for h in hand_ins]
    if executor is None:
        for task in tasks:
            yield from _mark(lab, [task], form)
        return
    chunks: list[Future[list[Any]]] = [
        executor.submit(_mark, lab, tasks[n : n + _TOGETHER], form) for n in range(0, len(tasks), _TOGETHER)
    ]
    try:
        for chunk in chunks:
            yield from chunk.result()
    finally:
        for chunk in chunks:
            chunk.cancel()  # where the caller stops early


Task = tuple[HandIn, tuple[tuple[str, int], ...]]


def _mark(lab: LabFile, tasks: Iterable[Task], form: Callable[[Result], Any] | None) -> list[Any]:
    found = []
    for hand_in, values in tasks:
        files = {d: (f.path, f.content) for d, f in hand_in.files.items()}
        marker, memo = _at_hand(lab.text, lab.stage, values)
        result = marker.mark(read_paper(hand_in.learner, files, hand_in.remarks, marker.lab.devices), memo)
        found.append(form(result) if form else result)
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class ToMark:
    """A stored paper as a worker marks it: the lab's text and stage, the learner's own numbers, and the files by
    device with path and contents."""

    text: str
    stage: str
    drawn: tuple[tuple[str, int], ...] = ()
    learner: str
    files: Mapping[str, tuple[str, bytes]]
    remarks: Sequence[str] = ()

    def paper(self, lab: Lab) -> Paper:
        """Read its sheets."""
        return read_paper(self.learner, self.files, self.remarks, lab.devices)


def mark_stored(own: ToMark) -> tuple[str, Summary]:
    """Mark one paper, as a piece of work for a worker; returns its result as JSON, and what a list shows of it."""
    marker, memo = _at_hand(own.text, own.stage, own.drawn)
    result = marker.mark(own.paper(marker.lab), memo)
    return result.text(), summary_of(result)


def mark_mended(own: ToMark, fault: Fault) -> str:
    """Mark one paper as if a mistake of it were mended, as a piece of work for a worker; returns its result as JSON."""
    marker, memo = _at_hand(own.text, own.stage, own.drawn)
    return marker.mended(own.paper(marker.lab), fault, memo).text()


def last_result(latest: tuple[str, Summary] | None) -> tuple[str, Summary]:
    """Return the result that a paper has had last, in the place of marking it; raises :class:`ValueError` where it has
    had none."""
    if latest is None:
        raise ValueError("its learner was erased before it was marked")
    return latest


def summary_of(result: Result) -> Summary:
    """Return what a list shows of a result."""
    titles = tuple(fault.title for fault in result.faults)
    return Summary(result.score, result.carried, result.out_of, result.grade, titles)


_OWN = threading.local()
"""What this thread marks with: its memos are nobody else's."""
MOST_LABS = 16
SELDOM = 50_000, 20, 50
"""When garbage is looked for, as :func:`gc.set_threshold` takes it: most of what a paper leaves stays in its memo."""


def _at_hand(text: str, stage: str | None, values: tuple[tuple[str, int], ...]) -> tuple[Marker, Memo]:
    """Return a lab's marker with a memo for the class, in each thread once."""
    known: dict[object, tuple[Marker, Memo]] = _OWN.__dict__.setdefault("known", {})
    key = (text, stage, values)
    if key not in known:
        if len(known) >= MOST_LABS:
            known.clear()
        marker = Marker(stage_of(text, stage, dict(values)))
        known[key] = marker, marker.memo()
        gc.freeze()  # what was made for a lab lives as long as the process: no use to look through it again
        gc.set_threshold(*SELDOM)
    return known[key]


def stage_of(text: str, stage: str | None, values: Values) -> Lab:
    """Read a lab that is known to be readable, and one of its stages."""
    lab = read_lab(text, values).lab
    assert lab is not None  # it was read before, to be marked at all
    return lab if stage is None else next(s for s in lab.stages if s.stage == stage)
