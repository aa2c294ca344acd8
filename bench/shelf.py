"""A large shelf: ``python -m bench.shelf`` asks for the lists of a database with 1,000 labs and 100,000 papers."""

import re
import tempfile
import time
from itertools import count
from pathlib import Path

from zensur.core.lab import read_lab
from zensur.demo import LABS, lab_text
from zensur.server import create_app
from zensur.server.shelf import card_of, engine
from zensur.store import Database
from zensur.store.papers import paper_hash
from zensur.work.classes import ToMark, mark_stored
from zensur.work.desk import Desk
from zensur.work.revision import revision

LAB_COUNT, PAPERS, LARGE = 1_000, 100, 500
SHEETS = {name: (f"{name}.sheet", f"name {name}\n".encode()) for name in ("lock", "weir", "quay")}


def filled(desk: Desk) -> None:
    """Fill a desk as it is after a few years: every lab carded, every paper marked (with one and the same result)."""
    texts = {name: lab_text(name) for name in LABS}
    cards = {name: card_of(text) for name, text in texts.items()}
    lab = read_lab(texts["first-addresses"]).lab
    assert lab is not None
    text, found = mark_stored(
        ToMark(text=texts["first-addresses"], stage=lab.stage, learner="x", files=SHEETS)
    )
    summary = found.text()
    connection = desk.database.connection()
    connection.execute("PRAGMA synchronous = OFF")
    with desk.database.transaction() as write:
        write.executemany("INSERT INTO content VALUES (?, ?)", [(p, c) for p, c in SHEETS.values()])
        paper = count(1)
        for n in range(LAB_COUNT):
            name = LABS[n % len(LABS)]
            slug = f"{name}-{n}"
            own = re.sub(r"(?m)^id: .*$", f"id: {slug}", texts[name])
            write.execute("INSERT INTO lab (id, slug, created_at) VALUES (?, ?, 'x')", (n + 1, slug))
            write.execute(
                "INSERT INTO lab_version (id, lab, number, text, saved_at) VALUES (?, ?, 1, ?, 'x')",
                (n + 1, n + 1, own),
            )
            write.execute("INSERT INTO card VALUES (?, ?, ?)", (n + 1, engine(), cards[name]))
            for learner in range(LARGE if n == 0 else PAPERS - (n <= LARGE - PAPERS)):
                row, who = next(paper), f"Learner {learner}"
                write.execute(
                    "INSERT INTO paper (id, lab, learner, hash, remarks, received_at, stage)"
                    " VALUES (?, ?, ?, ?, '[]', '2026-11-28T08:00:00+00:00', ?)",
                    (row, n + 1, who, paper_hash(SHEETS) + who, lab.stage),
                )
                write.execute("INSERT INTO hand_in (id, paper, made_at) VALUES (?, ?, 'x')", (row, row))
                write.executemany(
                    "INSERT INTO paper_file VALUES (?, ?, ?, ?)",
                    [(row, d, p, p) for d, (p, _) in SHEETS.items()],
                )
                write.execute(
                    "INSERT INTO result VALUES (?, ?, ?, ?, 'x', ?)", (row, n + 1, revision(), text, summary)
                )
    connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")  # in years nobody writes all of that at once


def main() -> None:
    """Print what the lists cost, the first time and after that."""
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "large.db"
        desk = Desk(Database(path))
        filled(desk)
        (papers,) = desk.database.connection().execute("SELECT count(*) FROM paper").fetchone()
        print(f"{LAB_COUNT} labs, {papers} papers, {path.stat().st_size >> 20} MiB")
        start = time.perf_counter()
        database = Database(path)
        print(f"  {'open the database':<44}{1e3 * (time.perf_counter() - start):8.1f} ms")
        client = create_app(Desk(database)).test_client()
        for what, address in (
            ("the shelf", "/api/labs"),
            ("its last part", f"/api/labs?start={LAB_COUNT - 60}"),
            ("labs that hold a word", "/api/labs?find=toll"),
            (f"a list of {LARGE} papers", f"/api/labs/{LABS[0]}-0/papers"),
            (f"a list of {PAPERS} papers", f"/api/labs/{LABS[1]}-1/papers"),
            ("one of its papers", "/api/papers/600"),
        ):
            times = []
            for _ in range(20):
                start = time.perf_counter()
                answer = client.get(address)
                times.append(1e3 * (time.perf_counter() - start))
                assert answer.status_code == 200, answer.get_data()
            size = len(answer.get_data()) >> 10
            print(f"  {what:<30}{size:6} KiB{times[0]:8.1f} ms first{sorted(times)[10]:8.1f} ms median")


if __name__ == "__main__":
    main()
