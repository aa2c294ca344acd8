"""The server: what it answers, what it refuses, and what protects it."""

import io
import re
import zipfile
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.core.test_cabling import FULL, LAB
from zensur.demo import fill, lab_text
from zensur.server import create_app
from zensur.store import Database, Labs, Papers


@pytest.fixture(scope="module")
def database(tmp_path_factory: pytest.TempPathFactory) -> Database:
    found = Database(tmp_path_factory.mktemp("server") / "demo.db")
    fill(found)
    return found


@pytest.fixture
def client(database: Database) -> FlaskClient:
    return create_app(database).test_client()


def token(client: FlaskClient) -> dict[str, str]:
    page = client.get("/").get_data(as_text=True)
    found = re.search(r'name="csrf-token" content="([^"]+)"', page)
    assert found
    return {"X-CSRFToken": found.group(1)}


def zipped(**files: bytes) -> tuple[io.BytesIO, str]:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for path, content in files.items():
            archive.writestr(path.replace("__", "/"), content)
    stream.seek(0)
    return stream, "class.zip"


def upload(
    client: FlaskClient, *files: tuple[io.BytesIO, str], lab: str = "first-addresses", **more: object
) -> Any:
    return client.post(
        f"/api/labs/{lab}/papers",
        data={"files": list(files), **more},
        content_type="multipart/form-data",
        headers=token(client),
    )


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
    assert "SameSite=Strict" in cookie


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
        "/api/labs/first-addresses/journeys/99",
        "/api/x",
    ],
)
def test_what_is_not_there_is_said(client: FlaskClient, path: str) -> None:
    answer = client.get(path)
    assert answer.status_code == 404
    assert answer.get_json()["message"].endswith(".")


def test_a_lab_is_made_changed_and_kept_as_versions(client: FlaskClient) -> None:
    made = client.post("/api/labs", json={"title": "Two banks!"}, headers=token(client))
    assert (made.status_code, made.get_json()) == (201, {"slug": "two-banks"})
    assert (
        client.post("/api/labs", json={"title": "Two banks!"}, headers=token(client)).get_json()["slug"]
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


def test_a_class_is_uploaded_and_marked(client: FlaskClient) -> None:
    answer = upload(
        client,
        zipped(
            **{
                "0417__weir.sheet": b"port p1\n  address 10.64.8.2/24\n  on\n",
                "0418__Lock.txt": b"\0\1\2",
                "0419__x": b"",
            }
        ),
    )
    assert answer.status_code == 201
    assert len(answer.get_json()["papers"]) == 2
    assert any("0418" in r and "Lock.txt" in r for r in answer.get_json()["remarks"])
    listed = client.get("/api/labs/first-addresses/papers").get_json()["papers"]
    by_learner = {p["learner"]: p for p in listed}
    assert by_learner["0417"]["score"] == 3
    assert by_learner["0418"]["score"] == 0
    view = client.get(f"/api/papers/{by_learner['0418']['id']}").get_json()
    assert [d["code"] for d in view["result"]["diagnostics"]] == ["not-text"]
    sheets = [(io.BytesIO(b"port p1\n  on\n"), "weir.sheet"), (io.BytesIO(b""), "quay.sheet")]
    assert "Whose sheets" in upload(client, *sheets).get_json()["message"]
    sheets = [(io.BytesIO(b"port p1\n  on\n"), "weir.sheet"), (io.BytesIO(b""), "quay.sheet")]
    assert upload(client, *sheets, learner="<b>Ann<i>").status_code == 201


@pytest.mark.parametrize(
    ("files", "says"),
    [
        ({"0417__weir.sheet": b"name weir", "..__weir.sheet": b"x"}, "outside itself"),
        ({"0417__other.txt": b"name weir"}, "Nothing here is named after a device"),
    ],
)
def test_a_bad_upload_stores_nothing(client: FlaskClient, database: Database, files, says) -> None:
    before = [p.id for p in Papers(database).of_lab("first-addresses")]
    answer = upload(client, zipped(**files))
    assert answer.status_code == 422
    assert says in answer.get_json()["message"]
    assert [p.id for p in Papers(database).of_lab("first-addresses")] == before


def test_a_flat_archive_is_taken_by_a_pattern_that_was_shown(client: FlaskClient) -> None:
    def flat() -> tuple[io.BytesIO, str]:
        return zipped(**{"Ann Ek_9_weir.sheet": b"name weir", "Bo Li_9_weir.sheet": b"name weir"})

    proposed = upload(client, flat())
    assert proposed.status_code == 409
    assert proposed.get_json()["pattern"] == "{learner}_9_{device}"
    assert proposed.get_json()["learners"] == ["Ann Ek", "Bo Li"]
    other = upload(client, flat(), pattern="{learner}_*_{device}", shown="false")
    assert (other.status_code, other.get_json()["learners"]) == (409, ["Ann Ek", "Bo Li"])
    assert upload(client, flat(), pattern="{learner}").status_code == 422
    learners = {p["learner"] for p in client.get("/api/labs/first-addresses/papers").get_json()["papers"]}
    assert "Ann Ek" not in learners
    taken = upload(client, flat(), pattern="{learner}_9_{device}")
    assert (taken.status_code, len(taken.get_json()["papers"])) == (201, 2)


def test_papers_of_a_lab_with_stages_belong_to_one(client: FlaskClient) -> None:
    def papers(stage: str = "") -> Any:
        return client.get(f"/api/labs/rebuilding/papers?stage={stage}").get_json()

    last = papers()
    assert [s["id"] for s in last["stages"]] == ["as-it-was", "round-by-the-quay", "the-new-cut"]
    assert last["stage"] == "the-new-cut"
    assert papers("no-such-stage")["stage"] == "the-new-cut"
    before = {stage["id"]: papers(stage["id"])["papers"] for stage in last["stages"]}
    totals = {ident: {p["out_of"] for p in papers} for ident, papers in before.items()}
    assert totals == {"as-it-was": {17}, "round-by-the-quay": {32}, "the-new-cut": {17}}
    sheet = zipped(**{"Ann__weir.sheet": b"port p2\n  address 10.64.0.1/30\n  on\n"})
    (row,) = upload(client, sheet, lab="rebuilding", stage="as-it-was").get_json()["papers"]
    assert len(papers("as-it-was")["papers"]) == len(before["as-it-was"]) + 1
    assert papers("the-new-cut")["papers"] == before["the-new-cut"]
    view = client.get(f"/api/papers/{row}").get_json()
    assert (view["stage"], view["stage_title"]) == ("as-it-was", "As it always was")
    assert view["result"]["score"] == 4  # its port, and the ping that has to fail there
    journey = client.get(f"/api/papers/{row}/journeys/1").get_json()
    assert (journey["learner"], journey["of"]) == ("Ann", 3)


def test_what_an_older_revision_marked_is_marked_again_and_says_what_it_was(
    client: FlaskClient, database: Database
) -> None:
    listed = client.get("/api/labs/tidings/papers").get_json()["papers"]
    assert {paper["was"] for paper in listed} == {None}
    changed, same = listed[0], listed[1]
    with database.transaction() as connection:
        for paper, carried in ((changed, 1.5), (same, same["carried"])):
            connection.execute(
                "UPDATE result SET engine = 'older', json = json_set(json, '$.carried', ?) WHERE paper = ?",
                (carried, paper["id"]),
            )
    again = client.get("/api/labs/tidings/papers").get_json()["papers"]
    assert [(p["carried"], p["was"]) for p in again[:2]] == [
        (changed["carried"], 1.5),
        (same["carried"], None),
    ]


def test_a_saved_version_marks_the_papers_again(client: FlaskClient) -> None:
    text = lab_text("four-gates").replace("dest: 10.64.32.0/23, marks: 3", "dest: 10.64.32.0/23, marks: 5", 1)
    saved = client.post(
        "/api/labs/four-gates/versions", json={"text": text, "base": 1}, headers=token(client)
    )
    assert saved.get_json() == {"version": 2}
    papers = client.get("/api/labs/four-gates/papers").get_json()
    assert papers["version"] == 2
    assert {p["out_of"] for p in papers["papers"]} == {45}


def test_an_overrule_stands_until_it_is_taken_back(client: FlaskClient) -> None:
    def overrule(**body: object) -> Any:
        return client.post(f"/api/papers/{row}/overrules", json=body, headers=token(client))

    listed = client.get("/api/labs/toll-house/papers").get_json()["papers"]
    results = {p["id"]: client.get(f"/api/papers/{p['id']}").get_json()["result"] for p in listed}
    row, before, lost = next(
        (paper, result, c)
        for paper, result in results.items()
        for c in result["criteria"]
        if c["key"] == "translation" and c["fraction"] == 0 and len(result["faults"]) == 1
    )
    for body, says in (
        ({"criterion": "route:nobody", "marks": 1, "reason": "x"}, "no criterion route:nobody"),
        ({"criterion": lost["id"], "marks": lost["marks"] + 1, "reason": "x"}, "marks are to be had"),
        ({"criterion": lost["id"], "marks": 1, "reason": " "}, "needs its reason"),
    ):
        refused = overrule(**body)
        assert refused.status_code == 422
        assert says in refused.get_json()["message"]
    said = overrule(criterion=lost["id"], marks=lost["marks"], reason="It does the same.").get_json()[
        "result"
    ]
    assert said["score"] == pytest.approx(before["score"] + lost["marks"])
    version = client.get("/api/labs/toll-house").get_json()["version"]
    text = lab_text("toll-house") + "\n# looked at again\n"
    saved = client.post(
        "/api/labs/toll-house/versions", json={"text": text, "base": version}, headers=token(client)
    )
    assert saved.status_code == 201
    again = client.get(f"/api/papers/{row}").get_json()["result"]
    assert again["score"] == said["score"]  # it survives marking anew
    assert (
        next(c for c in again["criteria"] if c["id"] == lost["id"])["overruled"]["reason"]
        == "It does the same."
    )
    assert overrule(criterion="", marks=1, reason="Late.").get_json()["result"]["carried"] == 1
    listed = client.get("/api/labs/toll-house/papers").get_json()["papers"]
    assert next(p["carried"] for p in listed if p["id"] == row) == 1
    overrule(criterion="", marks=None, reason="")
    assert overrule(criterion=lost["id"], marks=None, reason="").get_json()["result"] == before


def test_journeys(client: FlaskClient) -> None:
    found = client.get("/api/labs/first-addresses/journeys/6").get_json()
    assert (found["ping"]["from"], found["ping"]["outcome"], found["paper"]) == ("ledger", "reply", None)
    assert [leg["device"] for leg in found["legs"] if leg["way"] == "there"] == found["ping"]["there"]
    paper = client.get("/api/labs/first-addresses/papers").get_json()["papers"]
    edda = next(p["id"] for p in paper if p["learner"] == "Edda Krohn")
    lost = client.get(f"/api/papers/{edda}/journeys/6").get_json()
    assert lost["ping"]["as_expected"] is False
    assert lost["legs"][-1]["ended"] or any(leg["ended"] for leg in lost["legs"])
    assert lost["learner"] == "Edda Krohn"


def test_a_paper_is_shown_as_its_learner_cabled_and_chose(client: FlaskClient, database: Database) -> None:
    text = LAB.text.replace("id: small", "id: cabled").replace("devices:", "free: ['ana:p1']\ndevices:", 1)
    Labs(database).add("cabled", text)
    cables = FULL.replace("sw1:p3", "sw1:p4").replace("weir:s1 -- quay:s1", "weir:s2 -- quay:s1")
    sheets = {f"Ida Loop__{name}.sheet": sheet.text for name, sheet in LAB.answer.items()}
    sheets["Ida Loop__ana.sheet"] = sheets["Ida Loop__ana.sheet"].replace("10.64.8.20", "10.64.8.77")
    sheets["Ida Loop__sw1.sheet"] = sheets["Ida Loop__sw1.sheet"].replace("port p3", "port p4")
    files = {
        path: content.encode() for path, content in (sheets | {"Ida Loop__links.cabling": cables}).items()
    }
    (paper,) = upload(client, zipped(**files), lab="cabled").get_json()["papers"]
    view = client.get(f"/api/papers/{paper}").get_json()
    first = view["sheets"][0]
    assert (first["device"], first["kind"], first["text"]) == ("links.cabling", "cabling", cables)
    assert [f["slip"] for f in view["result"]["faults"]] == ["cable-in-the-wrong-port"]
    (line,) = (line for line in first["margin"]["lines"] if line["fault"] is not None)
    assert (line["text"], line["earned"], line["out_of"]) == ("weir:s2 -- quay:s1", 0, 2)
    assert "10.64.8.77 (model answer: 10.64.8.20), sw1 p4 (model answer: p3)" in view["result"]["remarks"][0]
    journeys = [client.get(f"/api/papers/{paper}/journeys/{n}").get_json() for n in (1, 2)]
    assert [(j["ping"]["outcome"], j["ping"]["as_expected"]) for j in journeys] == [
        ("reply", True),
        ("unreachable", False),
    ]
    assert client.get("/hand-out/cabled").status_code == 200


def test_the_openapi_document_names_every_route(client: FlaskClient) -> None:
    document = client.get("/api/openapi.json").get_json()
    app = client.application
    routes = {
        re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule)
        for rule in app.url_map.iter_rules()
        if rule.rule.startswith("/api/") and rule.endpoint != "openapi" and "/openapi" not in rule.rule
    }
    assert routes == set(document["paths"])


def test_a_database_that_is_closed_answers_without_a_trace(tmp_path: Path) -> None:
    app = create_app(Database(tmp_path / "x.db"))
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
            told = client.get(f"/api/labs/{slug}/journeys/{number}").get_json()
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
            told = client.get(f"/api/labs/{slug}/journeys/{number}").get_json()
            assert (told["ping"]["outcome"], told["ping"]["id"]) == (check["outcome"], check["id"])
            assert told["of"] == len(lab["pings"]) + len(lab["services"])
            assert client.get(f"/captures/labs/{slug}/{number}.pcapng").status_code == 200
    assert client.get("/captures/papers/1/1.pcapng").status_code == 200
    for path in ("labs/toll-house/99", "labs/nothing/1", "papers/9999/1", "papers/1/0"):
        assert client.get(f"/captures/{path}.pcapng").status_code == 404


def test_a_full_disk_is_told_and_nothing_is_stored(tmp_path: Path) -> None:
    database = Database(tmp_path / "full.db")
    Labs(database).add("first-addresses", lab_text("first-addresses"))
    client = create_app(database).test_client()
    head = token(client)
    database.connection().execute("PRAGMA max_page_count = 1")
    files = [(io.BytesIO(b"name weir" * 90_000), "weir.sheet")]
    answer = client.post(
        "/api/labs/first-addresses/papers",
        data={"files": files, "learner": "Ann"}, content_type="multipart/form-data", headers=head,
    )  # fmt: skip
    assert answer.status_code == 507
    assert answer.get_json()["message"] == "The disk is full: nothing was stored. Make room, and do it again."
    assert Papers(database).of_lab("first-addresses") == []


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
    client = create_app(database, host).test_client()
    assert client.get("/", headers={"Host": asked}).status_code == 200
    assert client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400
