"""The same lab and sixty answered pings in process, and as Linux namespaces on this machine."""

import os
import shutil
import statistics
import subprocess
import time

from zensur.core.export import namespaces_script
from zensur.core.export.namespaces import namespace_names
from zensur.core.lab import ExpectedPing, Lab, Outcome, read_lab
from zensur.core.sim import Network, Ping, Runs, Wiring, written
from zensur.demo import lab_text

MOST = 60


def against_namespaces(name: str) -> None:
    """Print how long a lab and its answered pings take, compiled or built, and the ratio. Needs root and ping."""
    lab = read_lab(lab_text(name)).lab
    assert isinstance(lab, Lab)
    wiring = Wiring(lab)
    asked = _answered(lab, wiring)
    times = []
    for _ in range(50):
        start = time.perf_counter()
        network = Network.of_lab(lab, lab.model, wiring)
        runs = Runs(network, network, asked)
        results = [ran.result for ran in runs.values()]
        times.append(time.perf_counter() - start)
    ours, median = min(times), statistics.median(times)
    print(f"{lab.title}: compiled, and {len(asked)} pings")
    print(f"  in process {ours * 1e3:30.2f} ms, in the median {median * 1e3:.2f} ms")
    if os.geteuid() != 0 or not all(map(shutil.which, ("ip", "nft", "ping"))):
        print("  not compared with namespaces: that needs root, iproute2, nftables and ping")
        return
    theirs = min(_built(network, results) for _ in range(3))
    print(f"  as namespaces {theirs * 1e3:27.0f} ms, {theirs / ours:.0f} times as long")


def _built(network: Network, results: list[Ping]) -> float:
    """Build the namespaces, ping until every ping is answered, and return the seconds."""
    script, names = namespaces_script(network), namespace_names(network)
    environment = {**os.environ, "ZENSUR_NAME": f"bench{os.getpid()}"}

    def run(verb: str) -> None:
        subprocess.run(
            ["sh", "-s", verb], input=script, text=True, check=True, env=environment, capture_output=True
        )

    def pinged(result: Ping) -> bool:
        assert result.request is not None
        source, to = written(result.request.source), written(result.destination)
        where = ["ip", "netns", "exec", f"bench{os.getpid()}-{names[result.sender]}"]
        command = [*where, "ping", "-c", "1", "-W", "2", "-I", source, to]
        return subprocess.run(command, capture_output=True, check=False).returncode == 0

    try:
        start = time.perf_counter()
        run("up")
        for result in results:
            while not pinged(result):  # until the links have come up
                pass
        return time.perf_counter() - start
    finally:
        run("down")


def _answered(lab: Lab, wiring: Wiring) -> dict[str, ExpectedPing]:
    """Return the lab's answered pings, and others between its devices, up to sixty."""
    network = Network.of_lab(lab, lab.model, wiring)
    pairs = [(p.sender, p.to) for p in lab.pings]
    pairs += [
        (name, written(a))
        for n, name in enumerate(wiring.names)
        for other in network.nodes
        for a in network.own(other)
        if other != n
    ]
    asked = {
        str(n): ExpectedPing(str(n), s, "reply", to=to) for n, (s, to) in enumerate(dict.fromkeys(pairs))
    }
    runs = Runs(network, network, asked)
    answered = [
        k for k, ran in runs.items() if ran.result.outcome is Outcome.REPLY and len(ran.result.there) > 1
    ]
    return {k: asked[k] for k in answered[:MOST]}
