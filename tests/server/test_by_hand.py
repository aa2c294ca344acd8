"""What people decide: marks by hand, an answer accepted for everybody, comments, what is doubtful, and the log of it."""

from io import BytesIO
from typing import Any
from zipfile import ZipFile

import pytest
from flask.testing import FlaskClient

from zensur.demo import lab_text
from zensur.work.desk import Desk

from .helpers import marked, token, upload
from .sitting import LAB, asked, class_of, hand_in, new_sitting, papers

QUESTIONS = """
scheme:
  tasks:
    - title: Questions
      criteria:
        - {manual: "Why does the ring need a way back?", marks: 4}
        - {value: "usable addresses of the basin", is: "254", marks: 2}
        - {gateway: gauge, marks: 1}
"""


@pytest.fixture(scope="module")
def lab(desk: Desk) -> str:
    text = lab_text(LAB).replace(f"id: {LAB}", "id: asked-by-hand", 1)
    desk.labs.add("asked-by-hand", text + QUESTIONS)
    return "asked-by-hand"


def hand_in_answer(client: FlaskClient, lab: str, learner: str, answer: str) -> int:
    files = [(BytesIO(content), path) for path, content in papers().items()]
    sheet = (BytesIO(f"usable addresses of the basin: {answer}\n".encode()), "answers.txt")
    told = upload(client, *files, sheet, lab=lab, learner=learner)
    assert told.status_code == 201, told.get_json()
    (paper,) = told.get_json()["papers"]
    return int(paper)


def test_questions_are_marked_one_after_the_other_over_all_papers(
    client: FlaskClient, desk: Desk, lab: str
) -> None:
    ana, ben = (hand_in_answer(client, lab, name, said) for name, said in (("Ana", "254"), ("Ben", "256")))
    marked(client, desk, f"/api/labs/{lab}/papers")
    manual, value = client.get(f"/api/labs/{lab}/by-hand").get_json()["questions"]
    assert (manual["asks"], manual["marks"], manual["required"]) == (
        "Why does the ring need a way back?",
        4,
        "",
    )
    assert [(g["paper"], g["earned"], g["decided"]) for g in manual["given"]] == [
        (ana, 0, False),
        (ben, 0, False),
    ]
    assert [(g["paper"], g["answer"]) for g in value["given"]] == [
        (ben, "256")
    ]  # a right answer is not doubtful
    assert value["required"] == "254"
    view = client.get(f"/api/papers/{ben}").get_json()
    assert view["doubts"] == ["Still to be marked by hand: 1 of 1."]
    body = {"criterion": manual["criterion"], "marks": 3, "reason": "Marked by hand."}
    asked(client, "POST", f"/api/papers/{ben}/overrules", 200, **body)
    again = client.get(f"/api/labs/{lab}/by-hand").get_json()["questions"][0]
    assert [(g["earned"], g["decided"]) for g in again["given"]] == [(0, False), (3, True)]
    after = client.get(f"/api/papers/{ben}").get_json()
    assert (after["doubts"], after["result"]["carried"] - view["result"]["carried"]) == ([], 3)


def test_an_answer_to_a_question_is_accepted_and_all_are_marked_with_it(
    client: FlaskClient, desk: Desk, lab: str
) -> None:
    paper = hand_in_answer(client, lab, "Eva", "two hundred")
    marked(client, desk, f"/api/papers/{paper}")
    criterion = client.get(f"/api/labs/{lab}/by-hand").get_json()["questions"][1]["criterion"]
    accept = f"/api/papers/{paper}/accept"
    asked(client, "POST", accept, 422, criterion="value:nothing", text="x", reason="")
    told = asked(
        client, "POST", accept, 201, criterion=criterion, text="two hundred", reason="as the book has it"
    )
    assert told == {"version": 2, "sitting": None}
    view = marked(client, desk, f"/api/papers/{paper}")
    own = next(c for c in view["result"]["criteria"] if c["id"] == criterion)
    assert (view["version"], own["verdict"]) == (2, "met")


def test_a_sitting_takes_an_accepted_answer_over_when_it_is_told_to(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    sheet = papers()["gauge.sheet"].replace(b"gateway 10.64.16.1", b"gateway 10.64.16.2")
    (paper,) = hand_in(client, number, class_of("4711", **{"gauge.sheet": sheet}))["papers"]
    before = marked(client, desk, f"/api/papers/{paper}")
    criterion = next(
        c["id"] for c in before["result"]["criteria"] if c["key"] == "gateway" and c["device"] == "gauge"
    )
    told = asked(
        client, "POST", f"/api/papers/{paper}/accept", 201,
        criterion=criterion, text="gateway 10.64.16.2", reason="the router has both",
    )  # fmt: skip
    assert told["sitting"] == number
    assert client.get(f"/api/papers/{paper}").get_json()["result"] == before["result"]  # nothing yet
    shown = marked(client, desk, f"/api/sittings/{number}/version")
    (one,) = [c for c in shown["changed"] if c["paper"] == paper]
    assert criterion in one["criteria"]
    asked(
        client, "POST", f"/api/sittings/{number}/version", 200, version=told["version"], reason="it is right"
    )
    after = marked(client, desk, f"/api/papers/{paper}")
    assert next(c for c in after["result"]["criteria"] if c["id"] == criterion)["verdict"] == "met"
    log = client.get(f"/api/sittings/{number}").get_json()["log"]
    assert [(e["what"], e["reason"]) for e in log] == [
        (f"version {told['version']} of the lab", "it is right"),
        ("accepted for everybody", "the router has both"),
        ("seats", ""),
    ]
    assert [e["what"] for e in after["log"]] == [
        "accepted for everybody"
    ]  # beside the paper what is about it


def test_comments_stand_until_they_are_taken_back_and_are_on_the_page(
    client: FlaskClient, desk: Desk
) -> None:
    number = new_sitting(client)["number"]
    (paper,) = hand_in(client, number, class_of("4711"))["papers"]
    comments = f"/api/papers/{paper}/comments"
    whole = asked(client, "POST", comments, 201, text=" <script>alert(1)</script> ")
    line = asked(client, "POST", comments, 201, text="Look here.", device="weir", line=2)
    assert (
        asked(client, "POST", comments, 422, text="  ")["message"]
        == "There is nothing written in the comment."
    )
    view = marked(client, desk, f"/api/papers/{paper}")
    assert [c["text"] for c in view["comments"]] == ["<script>alert(1)</script>", "Look here."]
    archive = client.get(f"/results/{LAB}.zip?sitting={number}")
    page = next(iter(_pages(archive.data)))
    assert "&lt;script&gt;alert(1)" in page
    assert "<script>" not in page
    assert "weir line 2" in page
    for status in (204, 404):
        answer = client.delete(f"{comments}/{whole['id']}", headers=token(client))
        assert answer.status_code == status
    assert [c["id"] for c in client.get(f"/api/papers/{paper}").get_json()["comments"]] == [line["id"]]
    what = [entry["what"] for entry in client.get(f"/api/sittings/{number}").get_json()["log"]]
    assert what == ["comment taken back", "comment", "comment", "seats"]
    for path in ("/api/papers/999999/comments", "/api/papers/999999/looked", "/api/papers/999999/accept"):
        body: dict[str, Any] = {"text": "x", "criterion": "x"} if "accept" in path else {"text": "x"}
        assert client.post(path, json=body, headers=token(client)).status_code == 404


def _pages(archive: bytes) -> list[str]:
    with ZipFile(BytesIO(archive)) as held:
        return [held.read(name).decode() for name in held.namelist()]


def test_what_is_doubtful_is_on_top_until_somebody_looked_or_more_came(
    client: FlaskClient, desk: Desk
) -> None:
    number = new_sitting(client)["number"]
    (paper,) = hand_in(client, number, class_of("4711", **{"odd.docx": b"?"}))["papers"]

    def doubts() -> list[str]:
        view = marked(client, desk, f"/api/labs/{LAB}/class?sitting={number}")
        return next(list(row["doubts"]) for row in view["learners"] if row["learner"] == "Ana Weir")

    assert len(doubts()) == 1
    assert client.get(f"/api/sittings/{number}").get_json()["progress"]["doubtful"] == 1
    assert client.post(f"/api/papers/{paper}/looked", headers=token(client)).status_code == 204
    assert doubts() == []
    hand_in(client, number, class_of("4711", **{"odd.docx": b"?", "weir.sheet": b""}))
    assert len(doubts()) == 1  # of another paper
