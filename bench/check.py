"""What the lab check of a large lab costs: 40 devices, 39 networks, 24 pings."""

import statistics
import time

import yaml

from zensur.core.marking.checking.lab_check import check_text


def large_lab(routers: int = 19, hosts: int = 21) -> str:
    """Return a chain of routers with hosts, as a lab file."""
    devices: dict[str, object] = {
        f"r{n}": {"kind": "router", "ports": ["p1", "p2", "p3", "p4"]} for n in range(routers)
    }
    devices |= {f"h{n}": {"kind": "host"} for n in range(hosts)}
    links = [f"r{n}:p2 -- r{n + 1}:p1" for n in range(routers - 1)]
    answer: dict[str, str] = {}
    lans = {n: [h for h in range(hosts) if h % routers == n] for n in range(routers)}
    for n in range(routers):
        lines = []
        if n:
            lines += ["port p1", f"  address 10.64.{n - 1}.2/30", "  on"]
        if n < routers - 1:
            lines += ["port p2", f"  address 10.64.{n}.1/30", "  on"]
        for place, host in enumerate(lans[n]):
            links.append(f"r{n}:p{3 + place} -- h{host}:p1")
            lines += [f"port p{3 + place}", f"  address 10.65.{host}.1/24", "  on"]
            answer[f"h{host}"] = f"port p1\n  address 10.65.{host}.20/24\ngateway 10.65.{host}.1\n"
        for host in range(hosts):
            if host % routers != n:
                hop = f"10.64.{n - 1}.1" if host % routers < n else f"10.64.{n}.2"
                lines.append(f"route 10.65.{host}.0/24 via {hop}")
        answer[f"r{n}"] = "\n".join(lines) + "\n"
    pings = [{"from": f"h{n % hosts}", "to": f"h{(n * 7 + 3) % hosts}", "expect": "reply"} for n in range(24)]
    lab = {"zensur": 1, "id": "large", "devices": devices, "links": links, "answer": answer, "pings": pings}
    return yaml.safe_dump(lab, sort_keys=False)


def lab_check() -> None:
    """Print the median of some checks."""
    text, times = large_lab(), []
    for _ in range(7):
        start = time.perf_counter()
        check = check_text(text)
        times.append(time.perf_counter() - start)
    print(f"lab check: 40 devices, {check.pings} pings, {check.out_of:g} marks, {len(check.errors)} errors")
    print(f"  in the median {statistics.median(times) * 1e3:8.0f} ms")


if __name__ == "__main__":
    lab_check()
