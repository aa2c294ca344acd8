"""A class from files to results in a database, on two processes; and where the time of one paper goes."""

import gc
import random
import resource
import statistics
import tempfile
import time
from pathlib import Path

from bench.larger import with_pings
from zensur.core.formats import File, HandIn
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.charged import charge
from zensur.core.marking.guarded import guard_marks
from zensur.core.marking.judged import judge_all
from zensur.core.marking.making.made import may_go_together, sheets_with
from zensur.core.marking.making.papers import sample_class
from zensur.core.marking.marker import Marker
from zensur.core.marking.named import name_faults
from zensur.core.marking.result import result_of
from zensur.core.marking.searched import search
from zensur.core.marking.slips.catalogue import slips_in
from zensur.core.marking.slips.made import MadeSlip
from zensur.store import Database
from zensur.work.desk import Desk
from zensur.work.papers import read_paper

Class = dict[str, dict[str, str]]
"""The texts of sheets by learner and device."""
_RANDOM, _REPEATING = "whose slips are all as likely", "that repeats its slips"


def repeating_class(lab: Lab, learners: int, seed: int) -> Class:
    """Return a class that makes the same mistakes, as classes do: the commonest in a third of the papers.

    The next one is in a sixth of them, the next in a ninth, and so on; up to three in a paper.
    """
    chance = random.Random(seed)
    slips = slips_in(lab)
    chance.shuffle(slips)
    found: Class = {}
    for number in range(learners):
        made: list[MadeSlip] = []
        for rank, slip in enumerate(slips, 1):
            if chance.random() < 1 / (3 * rank) and len(made) < 3 and may_go_together([*made, slip]):
                made.append(slip)
        found[f"learner {number}"] = sheets_with(lab, made)
    return found


def a_class(name: str, learners: int, pings: int) -> None:
    """Print what two classes cost, what one paper costs, and the memory of the parent and of a worker."""
    text = with_pings(name, pings)
    lab = read_lab(text).lab
    assert isinstance(lab, Lab)
    devices, asked = len(lab.devices), len(lab.expected)
    print(f"{lab.title}: {devices} devices, {asked} pings and checks, {learners} papers")
    random_class = sample_class(lab, learners, seed=1)
    repeating = repeating_class(lab, learners, seed=1)
    one_paper(lab, list(random_class.values())[:120])
    for what, made in ((_RANDOM, random_class), (_REPEATING, repeating)):
        in_its_class(what, lab, list(made.values()))
    whole(_RANDOM, text, random_class)
    whole(_REPEATING, text, repeating)


def whole(what: str, text: str, made: Class) -> None:
    """Print what a class costs from its files to results in the database, as the application takes it."""
    with tempfile.TemporaryDirectory() as folder:
        desk = Desk(Database(Path(folder) / "bench.db"))
        desk.labs.add("a-class", text)
        version = desk.labs.newest("a-class")
        assert version is not None
        start = time.perf_counter()
        hand_ins = [
            HandIn(learner, {d: File(f"{d}.sheet", t.encode()) for d, t in sheets.items()})
            for learner, sheets in made.items()
        ]
        desk.hand_in(desk.occasion(version), hand_ins)
        stored = time.perf_counter() - start
        desk.workers.settle()
        took = time.perf_counter() - start
        assert all(summary is not None for _, summary, _ in desk.listed(desk.occasion(version)))
    memory = [
        resource.getrusage(who).ru_maxrss / 1024 for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)
    ]
    print(
        f"  a class {what:32} {took:6.1f} s, {took / len(made) * 1e3:.1f} ms each, stored after {stored:.1f} s"
    )
    print(f"  memory {memory[0]:42.0f} MB, {memory[1]:.0f} MB a worker")


def one_paper(lab: Lab, texts: list[dict[str, str]]) -> None:
    """Print where the time of one paper goes, in medians: with nothing but the lab known, and behind others of a
    class. A file of another name is read anew."""
    marker = Marker(lab)
    gc.collect()
    gc.freeze()
    for what, memo in (("alone", None), ("behind others", marker.memo())):
        took: dict[str, list[float]] = {}
        for number, sheets in enumerate(texts):
            of_paper = "" if memo else f"{number}/"
            files = {d: (f"{of_paper}{d}.sheet", t.encode()) for d, t in sheets.items()}
            laps = [time.perf_counter()]
            paper = read_paper("x", files, (), lab.devices)
            laps.append(time.perf_counter())
            session = marker.session(paper, memo)
            judgements = judge_all(session)
            laps.append(time.perf_counter())
            searched = search(guard_marks(judgements, marker.guard))
            laps.append(time.perf_counter())
            result = result_of(charge(name_faults(searched)))
            laps.append(time.perf_counter())
            result.text()
            laps.append(time.perf_counter())
            steps = ("read", "simulated and judged", "searched", "named and charged", "written as JSON")
            for step, before, after in zip(steps, laps, laps[1:], strict=False):
                took.setdefault(step, []).append((after - before) * 1e3)
            took.setdefault("all of it", []).append((laps[4] - laps[0]) * 1e3)
        told = ", ".join(f"{step} {statistics.median(times):.1f}" for step, times in took.items())
        print(f"  one paper {what}, ms in the median: {told} (at most {max(took['all of it']):.0f})")


def in_its_class(what: str, lab: Lab, texts: list[dict[str, str]]) -> None:
    """Print what one paper costs as the application marks it: read and marked behind the first half of its class."""
    marker = Marker(lab)
    memo, took = marker.memo(), []
    for sheets in texts:
        start = time.perf_counter()
        paper = read_paper("x", {d: (f"{d}.sheet", t.encode()) for d, t in sheets.items()}, (), lab.devices)
        marker.mark(paper, memo)
        took.append((time.perf_counter() - start) * 1e3)
    late = took[len(took) // 2 :]
    print(
        f"  one paper of a class {what}, ms in the median: {statistics.median(late):.1f} (at most {max(late):.0f})"
    )
