"""The same lab and its own pings in process, and as Linux namespaces on this machine."""

import os
import subprocess
import time

from zensur.core.export import namespaces_script
from zensur.core.export.namespaces import namespace_names
from zensur.core.lab import Lab, read_lab
from zensur.core.sim import Network, Runs, Wiring, written
from zensur.demo import lab_text


def against_namespaces(name: str) -> None:
    """Print how long a lab and its answered pings take, built and pinged, and the ratio. Needs root and ping."""
    lab = read_lab(lab_text(name)).lab
    assert isinstance(lab, Lab)
    wiring = Wiring(lab)
    rounds = 50
    start = time.perf_counter()
    for _ in range(rounds):
        network = Network.of_lab(lab, lab.model, wiring)
        runs = Runs(network, network, lab.expected)
        answered = [r for r in runs.values() if r.result.outcome.value == "reply"]
    ours = (time.perf_counter() - start) / rounds
    print(f"{lab.title}: compiled, and {len(runs)} pings, in process {ours * 1e3:.2f} ms")
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
