"""A class from files to results in a database, on two processes; and where the time of one paper goes."""

import json
import resource
import statistics
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from itertools import islice
from pathlib import Path

from bench.larger import with_pings
from zensur import __version__
from zensur.core.formats import File, HandIn
from zensur.core.lab import Lab, read_lab
from zensur.core.marking import Marker, Paper, Result
from zensur.core.marking.making.papers import sample_class
from zensur.core.sheet import read_sheet
from zensur.store import Database, Labs, Papers
from zensur.work import LabFile, mark_papers


def a_class(name: str, learners: int, pings: int) -> None:
    """Print what a class costs, what one paper costs, and the memory of the parent and of a worker."""
    text = with_pings(name, pings)
    lab = read_lab(text).lab
    assert isinstance(lab, Lab)
    made = sample_class(lab, learners, seed=1)
    print(
        f"{lab.title}: {len(lab.devices)} devices, {len(lab.expected)} pings and checks, {len(made)} papers"
    )
    _one(lab, list(made.values())[:60])
    with tempfile.TemporaryDirectory() as folder, ProcessPoolExecutor(2) as executor:
        database = Database(Path(folder) / "bench.db")
        Labs(database).add(lab.id, text)
        version = Labs(database).newest(lab.id)
        assert version is not None
        papers = Papers(database)
        start = time.perf_counter()
        hand_ins = [
            HandIn(learner, {d: File(f"{d}.sheet", t.encode()) for d, t in sheets.items()})
            for learner, sheets in made.items()
        ]
        rows = papers.add(
            lab.id, [(h.learner, {d: (f.path, f.content) for d, f in h.files.items()}, ()) for h in hand_ins]
        )
        marked = zip(
            rows, mark_papers(LabFile(text), hand_ins, None, executor, form=Result.text), strict=True
        )
        while together := list(islice(marked, 50)):
            papers.keep_results(version.key, __version__, together)
        took = time.perf_counter() - start
    memory = [
        resource.getrusage(who).ru_maxrss / 1024 for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
    ]
    print(f"  from files to results in the database {took:8.1f} s, {took / len(made) * 1e3:.1f} ms each")
    print(f"  memory {memory[0]:39.0f} MB, {memory[1]:.0f} MB a worker")


def _one(lab: Lab, texts: list[dict[str, str]]) -> None:
    """Print where the time of one paper goes, in medians of some papers."""
    marker = Marker(lab)
    marker.mark(Paper("x", {}))  # what does not depend on the paper
    took: dict[str, list[float]] = {}
    for sheets in texts:
        start = time.perf_counter()

        def lap(what: str) -> None:
            nonlocal start
            now = time.perf_counter()
            took.setdefault(what, []).append((now - start) * 1e3)
            start = time.perf_counter()

        paper = Paper("x", {d: read_sheet(t, f"{d}.sheet") for d, t in sheets.items()})
        lap("read")
        attempt = marker.attempt(paper)
        lap("compiled")
        for ident in lab.expected:
            attempt.runs[ident]
        lap("pings and checks run")
        for _, _, criterion in marker.criteria:
            marker.judge.judge(criterion, attempt)
        lap("every criterion judged")
        result = marker.mark(paper)
        lap("all of it: simulated, marked and explained")
        json.dumps(result.json())
        lap("written as JSON")
    for what, times in took.items():
        print(f"  {what:44} {statistics.median(times):6.1f} ms in the median, {max(times):6.1f} at most")
