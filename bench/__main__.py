"""Prints what the parts cost on this machine: ``make bench``."""

import statistics
import sys
import time
from collections.abc import Callable

from bench.check import lab_check
from bench.classes import a_class
from bench.kernel import against_namespaces
from bench.pairs import all_pairs_of
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.sheet import read_sheet
from zensur.core.sim import Network, Wiring, ping, run
from zensur.demo import LABS, demo_papers, lab_text


def cost(what: str, work: Callable[[], object], per: int = 1, rounds: int = 30) -> None:
    """Print the median of some rounds, for each of the ``per`` things done in a round."""
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) / per)
    median = statistics.median(times)
    shown = f"{median * 1e3:8.2f} ms" if median > 1e-3 else f"{median * 1e6:8.1f} µs"
    print(f"  {what:<44}{shown}")


def first_pings(lab: Lab, wiring: Wiring) -> None:
    """Compile a lab's network and run its pings, nothing being known before."""
    network = Network.of_lab(lab, lab.model, wiring)
    for asked in lab.pings:
        run(network, network, asked)


def bench(name: str) -> None:
    """Measure one demo lab."""
    text = lab_text(name)
    lab = read_lab(text).lab
    assert isinstance(lab, Lab)
    print(f"{lab.title}: {len(lab.devices)} devices, {len(lab.pings)} pings")
    wiring = Wiring(lab)
    network = Network.of_lab(lab, lab.model, wiring)
    first = next(iter(lab.devices))
    sheets = [s.text for s in lab.answer.values()]
    lines = sum(s.count("\n") for s in sheets)
    cost("read the lab", lambda: read_lab(text))
    cost("read a sheet, each line", lambda: [read_sheet(s) for s in sheets], lines)
    cost("compile the network", lambda: Network.of_lab(lab, lab.model, wiring))
    cost("compile it again after one device changed", lambda: network.with_device(first, lab.blank[first]))
    cost("compile and run all pings", lambda: first_pings(lab, wiring))
    results = [run(network, network, p).result for p in lab.pings]
    what = "a ping on a compiled network" + (", translated" if network.translates else "")
    cost(what, lambda: [ping(network, r.sender, r.destination) for r in results], len(results))
    marker = Marker(lab)
    for paper in demo_papers(name, lab):
        files = {d: (f.path, f.content) for d, f in paper.files.items()}

        def mark(files: dict[str, tuple[str, bytes]] = files) -> object:
            return marker.mark(Paper("x", {d: read_sheet(c, p) for d, (p, c) in files.items()}))

        cost(f"read, mark and explain {paper.learner}", mark)


if __name__ == "__main__":
    chosen = sys.argv[1:] or ["labs", "check", "pairs", "class", "kernel"]
    if "labs" in chosen:
        for _name in LABS:
            bench(_name)
    if "check" in chosen:
        lab_check()
    if "pairs" in chosen:
        all_pairs_of(500)
    if "class" in chosen:
        a_class("toll-house", 1000, pings=60)
    if "kernel" in chosen:
        against_namespaces("four-gates")
