"""A class from files to results in a database, on two processes; and where the time of one paper goes."""

import resource
import statistics
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from zensur import __version__
from zensur.core.formats import File, HandIn
from zensur.core.lab import Lab, read_lab
from zensur.core.marking import Marker, Paper
from zensur.core.marking.making.papers import sample_class
from zensur.core.sheet import read_sheet
from zensur.demo import lab_text
from zensur.store import Database, Labs, Papers
from zensur.work import LabFile, mark_papers


def a_class(name: str, learners: int) -> None:
    """Print what a class costs, what one paper costs, and the memory of the parent and of a worker."""
    text = lab_text(name)
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
        for row, result in zip(rows, mark_papers(LabFile(text), hand_ins, executor=executor), strict=True):
            papers.keep_result(row, version.key, __version__, result.json())
        took = time.perf_counter() - start
    memory = [
        resource.getrusage(who).ru_maxrss / 1024 for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
    ]
    print(f"  from files to results in the database {took:8.1f} s, {took / len(made) * 1e3:.1f} ms each")
    print(f"  memory {memory[0]:39.0f} MB, {memory[1]:.0f} MB a worker")


def _one(lab: Lab, texts: list[dict[str, str]]) -> None:
    marker, reading, marking = Marker(lab), [], []
    for sheets in texts:
        start = time.perf_counter()
        paper = Paper("x", {d: read_sheet(t, f"{d}.sheet") for d, t in sheets.items()})
        read = time.perf_counter()
        marker.mark(paper)
        reading.append(read - start)
        marking.append(time.perf_counter() - read)
    print(f"  one paper read {statistics.median(reading) * 1e3:31.1f} ms")
    print(
        f"  simulated, marked and explained {statistics.median(marking) * 1e3:14.1f} ms in the median, {max(marking) * 1e3:.0f} at most"
    )
