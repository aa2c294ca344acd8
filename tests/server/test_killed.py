"""What was answered for is there, whenever the server is killed. KILLS=100 tries more often."""

import http.client
import json
import os
import random
import re
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from tests.serving import serving
from zensur.core.lab import starter_lab
from zensur.store import Database, Labs, Overrules, Papers, Scope
from zensur.work.desk import Desk

KILLS = int(os.environ.get("KILLS", "6"))
TEXT = starter_lab("two-banks", "Two banks")


@dataclass
class Server:
    """A server in a process of its own, and what it has answered for."""

    process: subprocess.Popen[str]
    port: int
    papers: dict[int, tuple[str, bytes]] = field(default_factory=dict)
    overrules: list[tuple[int, str]] = field(default_factory=list)
    versions: dict[int, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        page = self._ask("GET", "/", {}, b"")
        found = re.search(rb'name="csrf-token" content="([^"]+)"', page[1])
        assert found
        self._head = {"X-CSRFToken": found[1].decode(), "Cookie": page[2].partition(";")[0]}

    def _ask(self, way: str, path: str, head: dict[str, str], body: bytes) -> tuple[int, bytes, str]:
        connection = http.client.HTTPConnection("127.0.0.1", self.port)
        connection.request(way, path, body, {"Host": "127.0.0.1", **head})
        answer = connection.getresponse()
        return answer.status, answer.read(), answer.getheader("Set-Cookie") or ""

    def _post(self, path: str, body: bytes, kind: str = "application/json") -> tuple[int, dict[str, object]]:
        status, said, _ = self._ask("POST", path, {**self._head, "Content-Type": kind}, body)
        return status, json.loads(said)

    def hand_in(self, learner: str) -> None:
        """Hand in a paper."""
        sheet = f"name weir\n# {learner}\n".encode()
        part = '--x\r\nContent-Disposition: form-data; name="{}"{}\r\n\r\n'
        body = part.format("learner", "").encode() + learner.encode() + b"\r\n"
        body += part.format("files", '; filename="weir.sheet"').encode() + sheet + b"\r\n--x--\r\n"
        status, said = self._post("/api/labs/two-banks/papers", body, "multipart/form-data; boundary=x")
        assert status == 201, said
        row = int(str(said["papers"]).strip("[]"))
        self.papers[row] = (learner, sheet)

    def overrule(self) -> None:
        """Overrule a paper that was not overruled yet, as soon as one is marked."""
        done = {row for row, _ in self.overrules}
        for row, (learner, _) in list(self.papers.items()):
            if row not in done:
                told = {"criterion": "", "marks": 1, "reason": learner}
                status, said = self._post(f"/api/papers/{row}/overrules", json.dumps(told).encode())
                assert status in (200, 422), said  # as long as it is not marked there is nothing to overrule
                if status == 200:
                    self.overrules.append((row, learner))

    def save(self, text: str, base: int) -> int:
        """Save a version of the lab on top of another."""
        body = json.dumps({"text": text, "base": base}).encode()
        status, said = self._post("/api/labs/two-banks/versions", body)
        assert status == 201, said
        self.versions[int(str(said["version"]))] = text
        return int(str(said["version"]))


def until_it_is_killed(work: Callable[[], None]) -> None:
    """Work on until the server does not answer any more."""
    with suppress(OSError, http.client.HTTPException):
        work()


def works_on(server: Server, turn: int, newest: int) -> list[Callable[[], None]]:
    """What people do at the same time: two hand in, one overrules, one saves versions after the newest."""

    def hand_in(start: str) -> None:
        for n in range(60):
            server.hand_in(f"Learner {start}{turn}-{n}")

    def overrule() -> None:
        while server.process.poll() is None:
            with suppress(subprocess.TimeoutExpired):  # marking needs its time, too
                server.process.wait(0.2)
            server.overrule()

    def save() -> None:
        number = newest
        for _ in range(10):  # each version has the papers marked again
            number = server.save(f"{TEXT}# {number}\n", number)

    return [lambda: hand_in(""), lambda: hand_in("b"), overrule, save]


def until_one_is_overruled(server: Server) -> None:
    """Wait up to a minute: on a busy machine marking has what handing in leaves it."""
    for _ in range(600):
        if server.overrules or server.process.poll() is not None:
            return
        with suppress(subprocess.TimeoutExpired):
            server.process.wait(0.1)


def test_what_was_answered_for_survives_every_kill(tmp_path: Path) -> None:
    path, chance = tmp_path / "x.db", random.Random(12)
    Labs(Database(path)).add("two-banks", TEXT)
    papers: dict[int, tuple[str, bytes]] = {}
    versions = {1: TEXT}
    overrules: list[tuple[int, str]] = []
    for turn in range(KILLS):
        with serving([sys.executable, "-m", "zensur.cli"], "serve", path) as served:
            server = Server(*served)
            newest = Labs(Database(path)).newest("two-banks")
            assert newest is not None

            works = works_on(server, turn, newest.number)
            threads = [threading.Thread(target=until_it_is_killed, args=(work,)) for work in works]
            for thread in threads:
                thread.start()
            with suppress(subprocess.TimeoutExpired):
                server.process.wait(chance.uniform(0.05, 4))
            if turn == KILLS - 1 and not overrules:
                until_one_is_overruled(server)
        for thread in threads:
            thread.join()
        papers |= server.papers
        versions |= server.versions
        overrules += server.overrules
    database = Database(path)
    assert database.check() == []
    stored = Papers(database)
    for row, (learner, sheet) in papers.items():
        paper = stored.get(row)
        assert paper is not None
        assert (paper.learner, stored.files(row)) == (learner, {"weir": ("weir.sheet", sheet)})
    told = Overrules(database).of(Scope("two-banks"))
    for row, learner in overrules:
        assert [(o.paper, o.reason) for o in told[learner]] == [(row, learner)]
    rows = database.connection().execute("SELECT number, text FROM lab_version")
    texts = {row["number"]: row["text"] for row in rows}
    assert {number: texts[number] for number in versions} == versions
    assert len(papers) >= 5 * KILLS
    assert overrules
    desk = Desk(database)
    version = desk.labs.newest("two-banks")
    assert version is not None
    desk.listed(desk.occasion(version))
    desk.workers.settle()
    listed = desk.listed(desk.occasion(version))
    assert len(listed) >= len(papers)
    assert all(summary is not None for _, summary, _ in listed)
