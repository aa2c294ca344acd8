"""Papers through the server: handed in, asked about, marked, overruled."""

import io
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.core.test_cabling import FULL, LAB
from zensur.core.lab import starter_lab
from zensur.demo import lab_text
from zensur.server import create_app
from zensur.server.shapes import Shelf
from zensur.store import Database, Papers, Scope
from zensur.work.desk import Desk
from zensur.work.revision import revision
from zensur.work.workers import Workers

from .helpers import marked, papers_of, token, upload, zipped


def test_a_class_is_uploaded_and_marked(client: FlaskClient, desk: Desk) -> None:
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
    by_learner = {p["learner"]: p for p in papers_of(client, desk, "first-addresses")}
    assert by_learner["0417"]["result"]["score"] == 3
    assert by_learner["0418"]["result"]["score"] == 0
    view = client.get(f"/api/papers/{by_learner['0418']['id']}").get_json()
    assert [d["code"] for d in view["result"]["diagnostics"]] == ["not-text"]
    sheets = [(io.BytesIO(b"port p1\n  on\n"), "weir.sheet"), (io.BytesIO(b""), "quay.sheet")]
    assert "Whose sheets" in upload(client, *sheets).get_json()["message"]
    sheets = [(io.BytesIO(b"port p1\n  on\n"), "weir.sheet"), (io.BytesIO(b""), "quay.sheet")]
    assert upload(client, *sheets, learner="<b>Ann<i>").status_code == 201


@pytest.mark.parametrize("learner", ["417", "00417", "null", "true", "[1]", "4.10"])
def test_a_learner_may_be_called_like_a_number(client: FlaskClient, desk: Desk, learner: str) -> None:
    assert upload(client, (io.BytesIO(b"name weir"), "weir.sheet"), learner=learner).status_code == 201
    assert learner in [p.learner for p in desk.papers.last(Scope("first-addresses"))]


@pytest.mark.parametrize(
    ("files", "says"),
    [
        ({"0417__weir.sheet": b"name weir", "..__weir.sheet": b"x"}, "outside itself"),
        ({"0417__other.txt": b"name weir"}, "Nothing here is named after a device"),
    ],
)
def test_a_bad_upload_stores_nothing(client: FlaskClient, database: Database, files, says) -> None:
    before = [p.id for p in Papers(database).last(Scope("first-addresses"))]
    answer = upload(client, zipped(**files))
    assert answer.status_code == 422
    assert says in answer.get_json()["message"]
    assert [p.id for p in Papers(database).last(Scope("first-addresses"))] == before


def test_a_flat_archive_is_taken_by_a_pattern_that_was_shown(client: FlaskClient) -> None:
    def flat() -> tuple[io.BytesIO, str]:
        return zipped(**{"Ann Ek_9_weir.sheet": b"name weir", "Bo Li_9_weir.sheet": b"name weir"})

    proposed = upload(client, flat())
    assert proposed.status_code == 409
    assert proposed.get_json()["flat"] == {"pattern": "{learner}_9_{device}", "learners": ["Ann Ek", "Bo Li"]}
    other = upload(client, flat(), pattern="{learner}_*_{device}", shown="false")
    assert (other.status_code, other.get_json()["flat"]["learners"]) == (409, ["Ann Ek", "Bo Li"])
    assert upload(client, flat(), pattern="{learner}").status_code == 422
    learners = {p["learner"] for p in client.get("/api/labs/first-addresses/papers").get_json()["papers"]}
    assert "Ann Ek" not in learners
    taken = upload(client, flat(), pattern="{learner}_9_{device}")
    assert (taken.status_code, len(taken.get_json()["papers"])) == (201, 2)


def test_papers_of_a_lab_with_stages_belong_to_one(client: FlaskClient, desk: Desk) -> None:
    def papers(stage: str = "") -> Any:
        return marked(client, desk, f"/api/labs/rebuilding/papers?stage={stage}")

    last = papers()
    assert [s["id"] for s in last["stages"]] == ["as-it-was", "round-by-the-quay", "the-new-cut"]
    assert last["stage"] == "the-new-cut"
    assert papers("no-such-stage")["stage"] == "the-new-cut"
    before = {stage["id"]: papers(stage["id"])["papers"] for stage in last["stages"]}
    totals = {ident: {p["result"]["out_of"] for p in papers} for ident, papers in before.items()}
    assert totals == {"as-it-was": {17}, "round-by-the-quay": {32}, "the-new-cut": {17}}
    sheet = zipped(**{"Ann__weir.sheet": b"port p2\n  address 10.64.0.1/30\n  on\n"})
    (row,) = upload(client, sheet, lab="rebuilding", stage="as-it-was").get_json()["papers"]
    assert len(papers("as-it-was")["papers"]) == len(before["as-it-was"]) + 1
    assert papers("the-new-cut")["papers"] == before["the-new-cut"]
    view = marked(client, desk, f"/api/papers/{row}")
    assert (view["stage"], view["stage_title"]) == ("as-it-was", "As it always was")
    assert view["result"]["score"] == 4  # its port, and the ping that has to fail there
    journey = client.get(f"/api/papers/{row}/journeys/1").get_json()
    assert (journey["learner"], journey["of"]) == ("Ann", 3)


def test_what_an_older_revision_marked_is_marked_again_and_says_what_it_was(
    client: FlaskClient, desk: Desk
) -> None:
    listed = papers_of(client, desk, "tidings")
    assert {paper["result"]["was"] for paper in listed} == {None}
    changed, same = listed[0], listed[1]
    with desk.database.transaction() as connection:
        for paper, carried in ((changed, 1.5), (same, same["result"]["carried"])):
            connection.execute(
                "UPDATE result SET engine = 'older', summary = json_set(summary, '$.carried', ?) WHERE paper = ?",
                (carried, paper["id"]),
            )
    again = papers_of(client, desk, "tidings")
    assert [(p["result"]["carried"], p["result"]["was"]) for p in again[:2]] == [
        (changed["result"]["carried"], 1.5),
        (same["result"]["carried"], None),
    ]


def test_a_saved_version_marks_the_papers_again(client: FlaskClient, desk: Desk) -> None:
    text = lab_text("four-gates").replace("dest: 10.64.32.0/23, marks: 3", "dest: 10.64.32.0/23, marks: 5", 1)
    saved = client.post(
        "/api/labs/four-gates/versions", json={"text": text, "base": 1}, headers=token(client)
    )
    assert saved.get_json() == {"version": 2}
    papers = marked(client, desk, "/api/labs/four-gates/papers")
    assert papers["version"] == 2
    assert {p["result"]["out_of"] for p in papers["papers"]} == {45}


def test_an_overrule_stands_until_it_is_taken_back(client: FlaskClient, desk: Desk) -> None:
    def overrule(**body: object) -> Any:
        return client.post(f"/api/papers/{row}/overrules", json=body, headers=token(client))

    listed = papers_of(client, desk, "toll-house")
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
    again = marked(client, desk, f"/api/papers/{row}")["result"]
    assert again["score"] == said["score"]  # it survives marking anew
    assert (
        next(c for c in again["criteria"] if c["id"] == lost["id"])["overruled"]["reason"]
        == "It does the same."
    )
    assert overrule(criterion="", marks=1, reason="Late.").get_json()["result"]["carried"] == 1
    listed = papers_of(client, desk, "toll-house")
    assert next(p["result"]["carried"] for p in listed if p["id"] == row) == 1
    overrule(criterion="", marks=None, reason="")
    assert overrule(criterion=lost["id"], marks=None, reason="").get_json()["result"] == before


def test_a_paper_is_shown_as_its_learner_cabled_and_chose(client: FlaskClient, desk: Desk) -> None:
    text = LAB.text.replace("id: small", "id: cabled").replace("devices:", "free: ['ana:p1']\ndevices:", 1)
    desk.labs.add("cabled", text)
    cables = FULL.replace("sw1:p3", "sw1:p4").replace("weir:s1 -- quay:s1", "weir:s2 -- quay:s1")
    sheets = {f"Ida Loop__{name}.sheet": sheet.text for name, sheet in LAB.answer.items()}
    sheets["Ida Loop__ana.sheet"] = sheets["Ida Loop__ana.sheet"].replace("10.64.8.20", "10.64.8.77")
    sheets["Ida Loop__sw1.sheet"] = sheets["Ida Loop__sw1.sheet"].replace("port p3", "port p4")
    files = {
        path: content.encode() for path, content in (sheets | {"Ida Loop__links.cabling": cables}).items()
    }
    (paper,) = upload(client, zipped(**files), lab="cabled").get_json()["papers"]
    view = marked(client, desk, f"/api/papers/{paper}")
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


def test_a_paper_in_place_of_another_is_asked_about_and_all_are_kept(client: FlaskClient, desk: Desk) -> None:
    def hand_in(*devices: str, text: bytes = b"name x", learner: str = "Eva Ros", **more: Any) -> Any:
        sheets = [(io.BytesIO(text), f"{device}.sheet") for device in devices]
        return upload(client, *sheets, learner=learner, **more)

    def counts() -> Any:
        return [p for p in papers_of(client, desk, "first-addresses") if "ros" in p["learner"].lower()]

    good = b"port p1\n  address 10.64.8.2/24\n  on\n"
    (first,) = hand_in("weir", "quay", text=good).get_json()["papers"]
    (card,) = counts()
    criterion = client.get(f"/api/papers/{first}").get_json()["result"]["criteria"][0]["id"]
    body = {"criterion": criterion, "marks": 0, "reason": "Not his own."}
    assert client.post(f"/api/papers/{first}/overrules", json=body, headers=token(client)).status_code == 200
    asked = hand_in("weir")
    assert asked.status_code == 409
    assert asked.get_json()["message"] == "Eva Ros has handed in a paper already."
    (question,) = asked.get_json()["papers"]
    assert (question["devices"], question["missing"], question["overruled"]) == (
        ["weir"],
        ["quay"],
        [criterion],
    )
    assert (question["carried"], question["apart"]) == (counts()[0]["result"]["carried"], False)
    seen = asked.get_json()["seen"]
    for answer in (
        {"seen": "other", "decided": '{"Eva Ros": "replace"}'},
        {"seen": seen, "decided": '{"Eva Ros": "leave"}'},
    ):
        hand_in("weir", **answer)
        assert [p["id"] for p in counts()] == [first]
    assert hand_in("weir", seen=seen, decided='{"Eva Ros": "steal"}').status_code == 400
    (second,) = hand_in("weir", seen=seen, decided='{"Eva Ros": "replace"}').get_json()["papers"]
    (card,) = counts()
    assert (card["id"], card["sheets"], card["look_again"]) == (second, 1, 1)
    view = client.get(f"/api/papers/{second}").get_json()
    assert [(a["id"], a["counts"]) for a in view["attempts"]] == [(second, True), (first, False)]
    assert [(o["criterion"], o["paper"]) for o in view["look_again"]] == [(criterion, first)]
    assert next(c for c in view["result"]["criteria"] if c["id"] == criterion)["overruled"]["marks"] == 0
    again = client.post(f"/api/papers/{first}/count", json={}, headers=token(client)).get_json()
    assert again["attempts"][0] == {
        "id": first,
        "received_at": again["received_at"],
        "counts": True,
        "carried": again["result"]["carried"],
    }
    assert (counts()[0]["id"], counts()[0]["look_again"]) == (first, 0)
    asked = hand_in("lock", learner="eva ros").get_json()
    assert (asked["papers"][0]["apart"], asked["papers"][0]["learner"]) == (True, "Eva Ros")
    hand_in("lock", learner="eva ros", seen=asked["seen"], decided='{"eva ros": "apart"}')
    assert [(p["learner"], p["sheets"]) for p in counts()] == [("Eva Ros", 2), ("eva ros", 1)]


def test_what_came_before_a_lab_had_stages_is_asked_about_and_replaced(tmp_path: Path) -> None:
    desk = Desk(Database(tmp_path / "x.db"))
    whole = starter_lab("two-banks", "Two banks")
    at = whole.index("answer:")
    staged = (
        whole[:at] + "stages:\n  - id: only\n" + "".join(f"    {line}\n" for line in whole[at:].splitlines())
    )
    desk.labs.add("two-banks", whole)
    client = create_app(desk).test_client()

    def hand_in(text: bytes, **more: Any) -> Any:
        return upload(client, (io.BytesIO(text), "weir.sheet"), lab="two-banks", learner="Ann", **more)

    (old,) = hand_in(b"name a").get_json()["papers"]
    assert desk.labs.save("two-banks", staged, 1) == 2
    asked = hand_in(b"name b")
    assert asked.status_code == 409
    (new,) = hand_in(b"name b", seen=asked.get_json()["seen"], decided='{"Ann": "replace"}').get_json()[
        "papers"
    ]
    view = client.get(f"/api/papers/{new}").get_json()
    assert [(a["id"], a["counts"]) for a in view["attempts"]] == [(new, True), (old, False)]
    assert [p["id"] for p in papers_of(client, desk, "two-banks")] == [new]


def test_a_class_for_one_learner_takes_nobody_elses_place(client: FlaskClient, database: Database) -> None:
    before = [p.id for p in Papers(database).last(Scope("first-addresses"))]
    answer = upload(client, zipped(Ann__weir=b"x", Edda__weir=b"x"), learner="Ann")
    assert answer.status_code == 422
    assert "papers of 2 learners" in answer.get_json()["message"]
    assert [p.id for p in Papers(database).last(Scope("first-addresses"))] == before


def test_a_paper_that_cannot_be_marked_is_stored_and_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk = Desk(Database(tmp_path / "x.db"), Workers(short=0, long=0))
    desk.labs.add("toll-house", lab_text("toll-house"))
    client = create_app(desk).test_client()
    sheet = (io.BytesIO(b"name weir"), "toll.sheet")
    taken = upload(client, sheet, lab="toll-house", learner="Ann")
    assert taken.status_code == 201
    (row,) = taken.get_json()["papers"]
    desk._results.keep_failure(row, 1, revision(), "It takes more than 60 seconds of processor time.")
    with monkeypatch.context() as nothing_is_wanted:
        nothing_is_wanted.setattr(desk.workers, "want", None)
        (card,) = client.get("/api/labs/toll-house/papers").get_json()["papers"]
        view = client.get(f"/api/papers/{row}").get_json()
    assert (card["result"], card["failure"]) == (None, "It takes more than 60 seconds of processor time.")
    assert (view["result"], view["failure"], view["learner"]) == (None, card["failure"], "Ann")
    assert next(s["text"] for s in view["sheets"] if s["file"]) == "name weir"
    overrule = {"criterion": "", "marks": 1, "reason": "x"}
    refused = client.post(f"/api/papers/{row}/overrules", json=overrule, headers=token(client))
    assert refused.get_json()["message"] == "The paper is not marked yet."
    assert client.post(f"/api/papers/{row}/marking", headers=token(client)).get_json()["failure"] is None
    desk.workers.settle()


def test_the_shelf_has_its_cards_made_once(client: FlaskClient, desk: Desk, monkeypatch) -> None:
    shelf = marked(client, desk, "/api/labs")
    Shelf.model_validate(shelf)
    assert shelf["of"] == len(shelf["labs"])
    (toll,) = client.get("/api/labs?find=toll").get_json()["labs"]
    assert (toll["card"]["title"], toll["card"]["errors"]) == ("The toll house and the world outside", 0)
    assert toll["papers"] == len(papers_of(client, desk, "toll-house"))
    assert client.get("/api/labs?find=no%20such").get_json()["labs"] == []
    monkeypatch.setattr(desk.workers, "want", None)  # nothing is wanted any more
    assert client.get("/api/labs").get_json() == shelf
