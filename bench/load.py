"""Under load: ``python -m bench.load [SECONDS [PYTHONPATH]]`` has 50 readers and 5 writers at the demo, in a process of
its own, and prints how long answers took. A path to another checkout measures that one."""

import http.client
import json
import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter, defaultdict
from dataclasses import dataclass, field
from pathlib import Path

READERS, WRITERS = 50, 5
PAGES = [
    "/api/labs",
    "/api/labs/toll-house",
    "/api/labs/toll-house/papers",
    "/api/papers/{paper}",
    "/api/papers/{paper}/journeys/3",
    "/api/labs/four-gates/journeys/2",
]


@dataclass
class Load:
    """What was asked and how it went; threads append to it."""

    port: int
    end: float
    times: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    statuses: Counter[tuple[str, object]] = field(default_factory=Counter)
    seen: dict[str, set[bytes]] = field(default_factory=lambda: defaultdict(set))

    def ask(self, what: str, way: str, path: str, body: bytes | None = None, **head: str) -> bytes:
        """Ask for something and note how long it took."""
        start = time.perf_counter()
        try:
            connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
            connection.request(way, path, body, {"Host": "127.0.0.1", **head})
            answer = connection.getresponse()
            said = answer.read()
            self.statuses[what, answer.status] += 1
            connection.close()
        except (OSError, http.client.HTTPException) as error:
            self.statuses[what, type(error).__name__] += 1
            return b""
        self.times[what].append(time.perf_counter() - start)
        return said

    def read(self, seed: int) -> None:
        """Read one page after another."""
        chance = random.Random(seed)
        while time.monotonic() < self.end:
            paper = chance.randrange(1, 60)
            page = chance.choice(PAGES)
            said = self.ask(page, "GET", page.format(paper=paper))
            if page.startswith("/api/papers"):
                self.seen[page.format(paper=paper)].add(marked(said))

    def write(self, writer: int) -> None:
        """Hand in one paper after another."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port)
        connection.request("GET", "/", headers={"Host": "127.0.0.1"})
        answer = connection.getresponse()
        cookie = (answer.getheader("Set-Cookie") or "").partition(";")[0]
        page = answer.read()
        token = re.search(rb'name="csrf-token" content="([^"]+)"', page)
        assert token
        n = 0
        while time.monotonic() < self.end:
            n += 1
            part = '--x\r\nContent-Disposition: form-data; name="{}"{}\r\n\r\n'
            body = part.format("learner", "") + f"Writer {writer}-{n}\r\n"
            body += part.format("files", '; filename="weir.sheet"') + f"name weir\n# {n}\r\n--x--\r\n"
            head = {"X-CSRFToken": token[1].decode(), "Cookie": cookie}
            kind = {"Content-Type": "multipart/form-data; boundary=x"}
            self.ask("hand in", "POST", "/api/labs/four-gates/papers", body.encode(), **head, **kind)


def marked(said: bytes) -> bytes:
    """Return what must not change: a paper's result without the papers around it, or a journey."""
    told = json.loads(said or b"{}")
    return json.dumps(told.get("result", told), sort_keys=True).encode()


def main() -> None:
    """Print statuses, and p50 and p95 of each kind of answer."""
    seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 60
    env = {**os.environ, "PYTHONUNBUFFERED": "1"}
    if len(sys.argv) > 2:
        env["PYTHONPATH"] = sys.argv[2]
    with tempfile.TemporaryDirectory() as place:
        server = subprocess.Popen(
            [sys.executable, "-m", "zensur.cli", "demo", "--port", "0", "--database", str(Path(place) / "x.db")],
            stdout=subprocess.PIPE, text=True, env=env, cwd=sys.argv[2] if len(sys.argv) > 2 else None,
        )  # fmt: skip
        try:
            assert server.stdout is not None
            port = re.search(r":(\d+)/", server.stdout.readline())
            assert port
            load = Load(int(port[1]), time.monotonic() + seconds)
            first = [page.format(paper=n) for n in range(1, 60) for page in PAGES if "{paper}" in page]
            alone: dict[str, bytes] = {}
            while waiting := [page for page in first if page not in alone]:
                for page in waiting:
                    said = load.ask("first", "GET", page)
                    if json.loads(said).get("result", True) is not None:
                        alone[page] = marked(said)
            load.end = time.monotonic() + seconds
            threads = [threading.Thread(target=load.read, args=(n,)) for n in range(READERS)]
            threads += [threading.Thread(target=load.write, args=(n,)) for n in range(WRITERS)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        finally:
            server.terminate()
            server.wait()
    for what, times in sorted(load.times.items()):
        if what not in ("first", "/"):
            low, high = statistics.median(times), sorted(times)[int(len(times) * 0.95)]
            print(f"  {what:<36}{len(times):6} answers{1e3 * low:8.0f} ms p50{1e3 * high:8.0f} ms p95")
    bad = {key: n for key, n in load.statuses.items() if key[1] not in (200, 201)}
    print(f"  not 200 or 201: {bad or 'none'}")
    other = [page for page, said in load.seen.items() if said != {alone[page]}]
    print(f"  papers that read otherwise than alone: {len(other)} of {len(load.seen)}")


if __name__ == "__main__":
    main()
