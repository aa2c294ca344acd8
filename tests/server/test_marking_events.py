"""The stream of how far marking is: until all is marked, few at a time, and given back when a page is left."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from zensur.core.formats import File, HandIn
from zensur.server import create_app
from zensur.server.marking import STREAMS
from zensur.store import Database
from zensur.work.desk import Desk

from .sitting import LAB, desk_that_waits


@pytest.fixture
def waiting(tmp_path: Path) -> Desk:
    """A desk with papers that wait for a process that marks."""
    papers = [HandIn(name, {"weir": File("weir.sheet", name.encode())}) for name in ("ana", "ben")]
    return desk_that_waits(tmp_path / "x.db", *papers)


@pytest.fixture
def page(waiting: Desk) -> FlaskClient:
    return create_app(waiting).test_client()


def told(event: bytes) -> dict[str, object]:
    assert event.startswith(b"data: ")
    assert event.endswith(b"\n\n")
    found: dict[str, object] = json.loads(event.removeprefix(b"data: "))
    return found


def test_it_tells_each_change_and_ends_when_all_is_marked(
    waiting: Desk, page: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("zensur.server.marking.LOOK_SECONDS", 0)
    answer = page.get(f"/events/{LAB}")
    assert answer.mimetype == "text/event-stream"
    assert answer.headers["Cache-Control"] == "no-store"
    events: Iterator[Any] = iter(answer.response)
    assert told(next(events))["left"] == 2
    assert next(events) == b": still there\n\n"
    marks = Desk(Database(waiting.database.path))
    marks.queue.feed()
    marks.workers.settle()
    last = told(next(events))
    assert (last["left"], last["marked"]) == (0, 2)
    assert list(events) == []


def test_a_stream_ends_after_a_while_for_the_page_to_ask_again(
    page: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("zensur.server.marking.STREAM_SECONDS", 0)
    assert page.get(f"/events/{LAB}").data == b""


def test_so_many_pages_watch_and_the_next_asks_plainly(page: FlaskClient) -> None:
    watched = [page.get(f"/events/{LAB}") for _ in range(STREAMS)]
    refused = page.get(f"/events/{LAB}")
    assert refused.status_code == 503
    assert refused.get_json()["message"] == "Too many pages watch: ask again plainly."
    assert page.get(f"/api/labs/{LAB}/marking").get_json()["left"] == 2
    watched.pop().close()
    assert page.get(f"/events/{LAB}").status_code == 200


def test_nothing_is_watched_of_what_is_not_there(page: FlaskClient) -> None:
    assert page.get("/events/no-such-lab").status_code == 404
    assert page.get(f"/events/{LAB}?sitting=99").status_code == 404
    assert page.get(f"/events/{LAB}?sitting=x").status_code in (400, 404)
