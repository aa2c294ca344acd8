"""The same lab and sixty answered pings in process, and as Linux namespaces on this machine."""

import os
import statistics
import subprocess
import time

from zensur.core.export import namespaces_script
from zensur.core.export.namespaces import namespace_names
from zensur.core.lab import ExpectedPing, Lab, Outcome, read_lab
from zensur.core.sim import Network, Runs, Wiring, written
from zensur.demo import lab_text

MOST = 60


def against_namespaces(name: str) -> None:
    """Print how long a lab and its answered pings take, built and pinged, and the ratio. Needs root and ping."""
    lab = read_lab(lab_text(name)).lab
    assert isinstance(lab, Lab)
    wiring = Wiring(lab)
    asked = _answered(lab, wiring)
    times = []
    for _ in range(50):
        start = time.perf_counter()
        network = Network.of_lab(lab, lab.model, wiring)
        answered = list(Runs(network, network, asked).values())
        times.append(time.perf_counter() - start)
    ours = statistics.median(times)
    print(f"{lab.title}: compiled, and {len(asked)} pings, in process {ours * 1e3:.2f} ms")
    if (
        os.geteuid() != 0
        or subprocess.run(["which", "ip", "nft", "ping"], capture_output=True, check=False).returncode
    ):
        print("  not compared with namespaces: that needs root, iproute2, nftables and ping")
        return
    script, prefix = namespaces_script(network), f"bench{os.getpid()}"
    names = namespace_names(network)

    def run(verb: str) -> None:
        environment = {**os.environ, "ZENSUR_NAME": prefix}
        subprocess.run(
            ["sh", "-s", verb], input=script, text=True, check=True, env=environment, capture_output=True
        )

    try:
        start = time.perf_counter()
        run("up")
        for r in answered:
            command = [
                "ping",
                "-c",
                "1",
                "-W",
                "2",
                "-I",
                written(r.result.request.source),
                written(r.result.destination),
            ]  # type: ignore[union-attr]
            while subprocess.run(  # until the links have come up
                ["ip", "netns", "exec", f"{prefix}-{names[r.result.sender]}", *command],
                capture_output=True,
                check=False,
            ).returncode:
                pass
        theirs = time.perf_counter() - start
    finally:
        run("down")
    print(
        f"  as namespaces, and {len(answered)} answered pings: {theirs * 1e3:.0f} ms, {theirs / ours:.0f} times as long"
    )


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
        str(n): ExpectedPing(str(n), sender, "reply", to=to)
        for n, (sender, to) in enumerate(dict.fromkeys(pairs))
    }
    runs = Runs(network, network, asked)
    answered = [
        k for k, ran in runs.items() if ran.result.outcome is Outcome.REPLY and len(ran.result.there) > 1
    ]
    return {k: asked[k] for k in answered[:MOST]}
