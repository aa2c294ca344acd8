"""All hosts to all hosts on a large lab, and what a ping costs by the length of its path."""

import resource
import statistics
import time
from collections import Counter

from bench.tree import tree_of
from zensur.core.sim import ping
from zensur.core.sim.running.outcomes import OutcomeCache


def all_pairs_of(routers: int) -> None:
    """Print the cost of all pairs of hosts, shared, and of single pings, each by the length of its path."""
    network = tree_of(routers)
    hosts = [network.wiring.device[f"h{n}"] for n in range(routers)]
    addresses = [next(iter(network.own(host))) for host in hosts]
    start = time.perf_counter()
    cache = OutcomeCache(network)
    outcomes = Counter(cache.outcome(host, address) for host in hosts for address in addresses)
    took = time.perf_counter() - start
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    said = ", ".join(f"{n} {outcome.value}" for outcome, n in outcomes.items())
    print(f"All pairs of {routers} hosts behind {routers} routers: {said}")
    print(f"  {took:.1f} s, {took / len(hosts) ** 2 * 1e6:.1f} µs each, {memory:.0f} MB in all")
    by_length: dict[int, list[float]] = {}
    for address in addresses:
        start = time.perf_counter()
        result = ping(network, hosts[-1], address)
        by_length.setdefault(len(result.there), []).append(time.perf_counter() - start)
    for length, times in sorted(by_length.items()):
        print(f"  a ping through {length:2} nodes there {statistics.median(times) * 1e6:16.1f} µs")
