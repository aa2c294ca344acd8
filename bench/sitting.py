"""A thousand papers from upload to results: ``python -m bench.sitting [LEARNERS]``.

They are uploaded as one archive for a sitting of a server in a process of its own, with pages read meanwhile; beside it
what
the command line takes for the same archive on two processes.
"""

import http.client
import io
import json
import re
import statistics
import subprocess
import sys
import tempfile
import time
import zipfile
from collections import defaultdict
from pathlib import Path

from bench.classes import repeating_class
from bench.larger import with_pings
from zensur.core.lab import read_lab
from zensur.core.sittings import Learner, Rules
from zensur.store import Database, Settings
from zensur.work.desk import Desk
from zensur.work.numbers import seat_newcomers

NAME, PINGS = "harbour-office", 60


class Browser:
    """One reader of the server, with the times of its answers by what was asked."""

    def __init__(self, port: int) -> None:
        self.port = port
        self.times: dict[str, list[float]] = defaultdict(list)
        page, headers = self._ask("GET", "/", None, {})
        token = re.search(rb'name="csrf-token" content="([^"]+)"', page)
        assert token
        cookie = (headers.get("Set-Cookie") or "").partition(";")[0]
        self.head = {"X-CSRFToken": token[1].decode(), "Cookie": cookie}

    def _ask(
        self, way: str, path: str, body: bytes | None, head: dict[str, str]
    ) -> tuple[bytes, dict[str, str]]:
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=120)
        connection.request(way, path, body, {"Host": "127.0.0.1", **head})
        answer = connection.getresponse()
        said = answer.read()
        assert answer.status in (200, 201), said[:300]
        return said, dict(answer.getheaders())

    def get(self, what: str, path: str) -> bytes:
        """Ask for something, and note how long that took."""
        start = time.perf_counter()
        said, _ = self._ask("GET", path, None, self.head)
        self.times[what].append(time.perf_counter() - start)
        return said

    def upload(self, path: str, content: bytes, sitting: int) -> None:
        """Hand an archive in."""
        part = b'--x\r\nContent-Disposition: form-data; name="sitting"\r\n\r\n%d\r\n' % sitting
        part += b'--x\r\nContent-Disposition: form-data; name="files"; filename="class.zip"\r\n\r\n'
        kind = {"Content-Type": "multipart/form-data; boundary=x"}
        self._ask("POST", path, part + content + b"\r\n--x--\r\n", {**self.head, **kind})


def archive(papers: dict[str, dict[str, str]]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as held:
        for learner, sheets in papers.items():
            for device, text in sheets.items():
                held.writestr(f"{learner}/{device}.sheet", text)
    return stream.getvalue()


def resident(process: int) -> int:
    """Return the resident memory of a process and its children, in MB."""
    children = Path(f"/proc/{process}/task/{process}/children")
    own = [process, *map(int, children.read_text().split())] if children.exists() else [process]
    total = 0
    for each in own:
        status = Path(f"/proc/{each}/status")
        found = re.search(r"VmRSS:\s+(\d+)", status.read_text()) if status.exists() else None
        total += int(found[1]) if found else 0
    return total // 1024


def main() -> None:
    """Print what a sitting takes."""
    learners = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    text = with_pings(NAME, PINGS)
    lab = read_lab(text).lab
    assert lab is not None
    content = archive(repeating_class(lab, learners, seed=1))
    print(f"{lab.title}: {len(lab.devices)} devices, {len(lab.expected)} pings and checks, {learners} papers")
    with tempfile.TemporaryDirectory() as place:
        there = Path(place)
        (there / "class.zip").write_bytes(content)
        (there / "lab.lab.yaml").write_text(text, "utf-8")
        start = time.perf_counter()
        call = [
            sys.executable,
            "-m",
            "zensur.cli",
            "mark",
            "lab.lab.yaml",
            "class.zip",
            "--jobs",
            "2",
            "--csv",
            "x.csv",
        ]
        subprocess.run(call, cwd=there, check=True, capture_output=True)
        alone = time.perf_counter() - start
        print(f"  command line, two processes {alone:27.1f} s")
        desk = Desk(Database(there / "x.db"), marks=False)
        desk.labs.add(lab.id, text)
        version = desk.labs.newest(lab.id)
        assert version is not None
        ident = desk.sittings.add(version.key, lab.stage, Settings(title="Bench", rules=Rules()))
        sitting = desk.sittings.get(ident)
        assert sitting is not None
        own = [Learner(code=f"learner {n}", name=f"Learner {n}") for n in range(learners)]
        seat_newcomers(desk, sitting, [("", one) for one in own])
        _served(there, lab.id, ident, content, alone)


def _served(there: Path, slug: str, sitting: int, content: bytes, alone: float) -> None:
    server = subprocess.Popen(
        [sys.executable, "-u", "-m", "zensur.cli", "serve", "--port", "0", "--database", str(there / "x.db")],
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert server.stdout is not None
        port = re.search(r":(\d+)/", server.stdout.readline())
        assert port
        browser = Browser(int(port[1]))
        start = time.perf_counter()
        browser.upload(f"/api/labs/{slug}/papers", content, sitting)
        print(f"  upload answered {time.perf_counter() - start:39.1f} s")
        most = 0
        while True:
            told = json.loads(browser.get("how far", f"/api/labs/{slug}/marking?sitting={sitting}"))
            most = max(most, resident(server.pid))
            if told["left"] == 0:
                break
            browser.get("shelf", "/api/labs")
            browser.get("lab", f"/api/labs/{slug}")
            browser.get("a paper", f"/api/papers/{1 + told['marked'] % 500}")
            time.sleep(0.2)
        whole = time.perf_counter() - start
        print(f"  all marked {whole:44.1f} s, {whole / alone:.2f} times the command line; {most} MB at most")
        for what, path in (("papers", "papers"), ("class", "class")):
            for _ in range(5):
                browser.get(f"{what}, all marked", f"/api/labs/{slug}/{path}?sitting={sitting}")
        for what, times in browser.times.items():
            low, high = statistics.median(times), sorted(times)[int(len(times) * 0.95)]
            print(f"  {what:<24}{len(times):6} answers{1e3 * low:8.0f} ms p50{1e3 * high:8.0f} ms p95")
    finally:
        server.terminate()
        server.wait()


if __name__ == "__main__":
    main()
