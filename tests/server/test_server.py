"""The server: what it answers, what it refuses, and what protects it."""

import gzip
import io
import re
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from zensur.demo import lab_text
from zensur.server import create_app
from zensur.store import Database, Labs, Papers, Scope
from zensur.work.desk import Desk

from .helpers import token


def test_every_answer_is_protected(client: FlaskClient) -> None:
    for path in ("/", "/labs/first-addresses", "/api/labs", "/api/nothing", "/assets/nothing.js"):
        headers = client.get(path).headers
        policy = headers["Content-Security-Policy"]
        assert "default-src 'none'" in policy
        assert "script-src 'self';" in policy
        assert "unsafe" not in policy
        assert headers["X-Content-Type-Options"] == "nosniff"
    one, two = (client.get("/").headers["Content-Security-Policy"] for _ in range(2))
    assert one != two  # a nonce of its own for each answer
    cookie = client.application.test_client().get("/").headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Lax" in cookie


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/labs", {"title": "x"}),
        ("/api/labs/first-addresses/versions", {"text": "x", "base": 1}),
        ("/api/labs/first-addresses/papers", {}),
        ("/api/labs/check", {"text": "x"}),
    ],
)
def test_a_change_without_its_token_is_refused(
    client: FlaskClient, path: str, body: dict[str, object]
) -> None:
    answer = client.post(path, json=body)
    assert answer.status_code == 403
    assert answer.get_json()["message"].startswith("This page has grown old.")


def test_other_hosts_and_large_requests_are_refused(client: FlaskClient) -> None:
    assert client.get("/api/labs", headers={"Host": "elsewhere.example"}).status_code == 400
    answer = client.post(
        "/api/labs/check", data=b"x", headers={**token(client), "Content-Length": str(80 * 1024 * 1024)}
    )
    assert answer.status_code in (400, 413)


@pytest.mark.parametrize(
    "path",
    [
        "/api/labs/none",
        "/api/labs/none/papers",
        "/api/papers/999999",
        "/api/papers/1/journeys/99",
        "/api/x",
    ],
)
def test_what_is_not_there_is_said(client: FlaskClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 404
    assert answer.get_json()["message"].endswith(".")


def test_a_lab_is_made_changed_and_kept_as_versions(client: FlaskClient) -> None:
    made = client.post("/api/labs", json={"title": "Two banks!", "starter": True}, headers=token(client))
    assert (made.status_code, made.get_json()) == (201, {"slug": "two-banks"})
    assert (
        client.post(
            "/api/labs", json={"title": "Two banks!", "starter": True}, headers=token(client)
        ).get_json()["slug"]
        == "two-banks-2"
    )
    view = client.get("/api/labs/two-banks").get_json()
    assert (view["title"], view["version"], view["check"]["findings"]) == ("Two banks!", 1, [])
    text = view["text"].replace("expect: reply", "expect: timeout", 1)

    def save(text: str, base: int) -> Any:
        return client.post(
            "/api/labs/two-banks/versions", json={"text": text, "base": base}, headers=token(client)
        )

    assert save(text, 1).get_json() == {"version": 2}
    assert save(text + "\n", 1).status_code == 409
    bad = save(text.replace("links:", "linkz:"), 2)
    assert bad.status_code == 422
    assert [(e["place"], e["line"]) for e in bad.get_json()["errors"]] == [("linkz", 12)]
    assert save(text.replace("id: two-banks", "id: other"), 2).get_json()["errors"][0]["line"] == 2
    view = client.get("/api/labs/two-banks").get_json()
    assert view["version"] == 2
    assert [f["code"] for f in view["check"]["findings"]] == ["expectation-fails"]


def followed(client: FlaskClient, slug: str, number: int) -> Any:
    """The journey of a ping on the model answer of a demo lab."""
    body = {"text": lab_text(slug), "number": number}
    return client.post("/api/authoring/journey", json=body, headers=token(client)).get_json()


def test_journeys(client: FlaskClient) -> None:
    found = followed(client, "first-addresses", 6)
    assert (found["ping"]["from"], found["ping"]["outcome"], found["paper"]) == ("ledger", "reply", None)
    assert [leg["device"] for leg in found["legs"] if leg["way"] == "there"] == found["ping"]["there"]
    paper = client.get("/api/labs/first-addresses/papers").get_json()["papers"]
    edda = next(p["id"] for p in paper if p["learner"] == "Edda Krohn")
    lost = client.get(f"/api/papers/{edda}/journeys/6").get_json()
    assert lost["ping"]["as_expected"] is False
    assert lost["legs"][-1]["ended"] or any(leg["ended"] for leg in lost["legs"])
    assert lost["learner"] == "Edda Krohn"


def test_the_openapi_document_names_every_route(client: FlaskClient) -> None:
    document = client.get("/api/openapi.json").get_json()
    app = client.application
    routes = {
        (re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule), method.lower())
        for rule in app.url_map.iter_rules()
        for method in (rule.methods or set()) - {"HEAD", "OPTIONS"}
        if rule.rule.startswith("/api/") and rule.endpoint != "openapi" and "/openapi" not in rule.rule
    }
    assert routes == {(path, method) for path, ways in document["paths"].items() for method in ways}


def test_a_database_that_is_closed_answers_without_a_trace(tmp_path: Path) -> None:
    app = create_app(Desk(Database(tmp_path / "x.db")))
    app.config["PROPAGATE_EXCEPTIONS"] = False
    app.add_url_rule("/api/broken", "broken", lambda: str(1 // 0))
    answer = app.test_client().get("/api/broken")
    assert answer.status_code == 500
    assert "Traceback" not in answer.get_data(as_text=True)
    assert answer.get_json()["message"]


def test_every_demo_ping_has_its_journey_and_its_packets(client: FlaskClient) -> None:
    for slug in ("toll-house", "two-families", "harbour-office", "one-cabinet"):
        lab = client.get(f"/api/labs/{slug}").get_json()
        for number, ping in enumerate(lab["pings"], 1):
            told = followed(client, slug, number)
            assert told["ping"]["outcome"] == ping["outcome"]
            assert told["legs"] or ping["outcome"] == "no-route"
            assert (told["number"], told["pings"]) == (number, len(lab["pings"]))
            packets = client.get(f"/captures/labs/{slug}/{number}.pcapng")
            assert packets.data.startswith(b"\n\r\r\n")
            assert (
                packets.headers["Content-Disposition"]
                == f'attachment; filename="{slug}-ping-{number}.pcapng"'
            )
        for number, check in enumerate(lab["services"], len(lab["pings"]) + 1):
            told = followed(client, slug, number)
            assert (told["ping"]["outcome"], told["ping"]["id"]) == (check["outcome"], check["id"])
            assert told["of"] == len(lab["pings"]) + len(lab["services"])
            assert client.get(f"/captures/labs/{slug}/{number}.pcapng").status_code == 200
    assert client.get("/captures/papers/1/1.pcapng").status_code == 200
    for path in ("labs/toll-house/99", "labs/nothing/1", "papers/9999/1", "papers/1/0"):
        assert client.get(f"/captures/{path}.pcapng").status_code == 404


def test_a_full_disk_is_told_and_nothing_is_stored(tmp_path: Path) -> None:
    database = Database(tmp_path / "full.db")
    Labs(database).add("first-addresses", lab_text("first-addresses"))
    client = create_app(Desk(database)).test_client()
    head = token(client)
    database.connection().execute("PRAGMA max_page_count = 1")
    files = [(io.BytesIO(b"name weir" * 90_000), "weir.sheet")]
    answer = client.post(
        "/api/labs/first-addresses/papers",
        data={"files": files, "learner": "Ann"}, content_type="multipart/form-data", headers=head,
    )  # fmt: skip
    assert answer.status_code == 507
    assert answer.get_json()["message"] == "The disk is full: nothing was stored. Make room, and do it again."
    assert Papers(database).last(Scope("first-addresses")) == []


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 201),
        ({"Sec-Fetch-Site": "same-origin", "Origin": "http://localhost"}, 201),
        ({"Sec-Fetch-Site": "cross-site"}, 403),
        ({"Sec-Fetch-Site": "same-site"}, 403),  # another port of this machine
        ({"Origin": "http://localhost:9999"}, 403),
        ({"Origin": "null"}, 403),
    ],
)
def test_a_change_is_asked_for_on_our_own_pages(client: FlaskClient, headers, status) -> None:
    made = client.post("/api/labs", json={"title": "From here"}, headers=token(client) | headers)
    assert made.status_code == status
    assert made.headers["Cross-Origin-Resource-Policy"] == "same-origin"


@pytest.mark.parametrize(
    ("host", "asked"), [("127.0.0.2", "127.0.0.2:8017"), ("::1", "[::1]:8017"), ("localhost", "localhost")]
)
def test_it_answers_to_the_host_that_it_listens_on(database: Database, host: str, asked: str) -> None:
    client = create_app(Desk(database), host).test_client()
    assert client.get("/", headers={"Host": asked}).status_code == 200
    assert client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400


def test_behind_a_proxy_it_answers_to_where_readers_see_it(desk: Desk) -> None:
    client = create_app(desk, origin="https://labs.example.net").test_client()
    seen = {"Host": "labs.example.net"}
    page = client.get("/", headers=seen)
    assert (page.status_code, "Secure" in page.headers["Set-Cookie"]) == (200, True)
    assert client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400
    found = re.search(r'name="csrf-token" content="([^"]+)"', page.get_data(as_text=True))
    cookie = {"Cookie": page.headers["Set-Cookie"].partition(";")[0]}
    assert found
    for origin, status in (
        ("https://labs.example.net", 201), ("http://labs.example.net", 403), ("https://elsewhere.example", 403)
    ):  # fmt: skip
        head = {**seen, **cookie, "X-CSRFToken": found[1], "Origin": origin}
        assert client.post("/api/labs", json={"title": "x"}, headers=head).status_code == status


def test_scripts_are_sent_compressed_to_whoever_reads_that(client: FlaskClient) -> None:
    found = re.search(r'src="(/assets/[^"]+\.js)"', client.get("/").get_data(as_text=True))
    assert found
    plain = client.get(found[1])
    packed = client.get(found[1], headers={"Accept-Encoding": "gzip"})
    assert packed.headers["Content-Encoding"] == "gzip"
    assert gzip.decompress(packed.data) == plain.data
    assert len(packed.data) < len(plain.data) / 2
    assert client.get("/assets/none.js", headers={"Accept-Encoding": "gzip"}).status_code == 404
