"""Who has a seat in a sitting: names in archives, teams, and numbers of one's own."""

import csv
import io
import json
from typing import Any

import pytest
from flask.testing import FlaskClient

from zensur.work.desk import Desk

from .helpers import marked
from .sitting import LAB, asked, class_of, grid, hand_in, new_sitting

NUMBERS = "gauge-houses"


def test_names_in_an_archive_are_the_learners_of_the_roster_and_what_is_doubtful_is_asked(
    client: FlaskClient, desk: Desk
) -> None:
    number = new_sitting(client)["number"]
    files = class_of("Ana Weir_902_file", "Bem Lock", "Zoe Far")
    question = hand_in(client, number, files, 409)
    assert question["whose"] == [
        {"name": "Bem Lock", "proposed": "4712"},
        {"name": "Zoe Far", "proposed": None},
    ]
    assert [own["name"] for own in question["learners"]] == ["Ana Weir", "Ben Lock", "Eva Quay"]
    assert grid(client, desk, number)["Ana Weir"]["paper"] is None  # nothing is stored before it is answered
    hand_in(client, number, files, 409, matched=json.dumps({"Bem Lock": "nobody"}), newcomers='["Zoe Far"]')
    told = hand_in(client, number, files, matched='{"Bem Lock": "4712"}', newcomers='["Zoe Far"]')
    assert len(told["papers"]) == 3
    rows = grid(client, desk, number)
    assert {name: row["paper"] is not None for name, row in rows.items()} == {
        "Ana Weir": True, "Ben Lock": True, "Zoe Far": True, "Eva Quay": False,
    }  # fmt: skip
    hand_in(client, number, class_of("Nobody", "Eva Quay"), matched='{"Nobody": ""}')
    assert set(grid(client, desk, number)) == set(rows)  # who is left out gets no seat
    assert client.get(f"/api/labs/{LAB}/papers").get_json()["sitting"] is None
    lab_papers = {p["learner"] for p in client.get(f"/api/labs/{LAB}/papers").get_json()["papers"]}
    assert not lab_papers & {"Ana Weir", "4711", "Zoe Far"}  # the lab's own papers are others


def test_nobody_has_a_seat_before_everything_was_answered(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    hand_in(client, number, class_of("4711"))
    partly = {path: content for path, content in class_of("4711").items() if "weir" in path}
    partly["4711/weir.sheet"] += b"# more\n"
    files = {**partly, **class_of("Zoe Far")}
    question = hand_in(client, number, files, 409, newcomers='["Zoe Far"]')
    assert [q["name"] for q in question["papers"]] == ["4711"]
    assert set(grid(client, desk, number)) == {"Ana Weir", "Ben Lock", "Eva Quay"}
    answers = {"newcomers": '["Zoe Far"]', "seen": question["seen"], "decided": '{"4711": "leave"}'}
    told = hand_in(client, number, files, **answers)
    assert (len(told["papers"]), told["remarks"][-1]) == (
        1,
        "Ana Weir: the paper that was there still counts.",
    )
    assert set(grid(client, desk, number)) == {"Ana Weir", "Ben Lock", "Eva Quay", "Zoe Far"}


def test_a_team_is_not_taken_for_a_learner_whose_id_is_its_name(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(
        client, roster="id,name,team\n4711,Ana Weir,4712\n4712,Ben Lock,\n4713,Eva Quay,4712\n"
    )["number"]
    hand_in(client, number, class_of("4711"))
    rows = grid(client, desk, number)
    assert {name: row["paper"] is not None for name, row in rows.items()} == {
        "4712: Ana Weir, Eva Quay": True, "Ben Lock": False,
    }  # fmt: skip
    question = hand_in(client, number, class_of("4712"), 409)  # the learner, or the team
    assert (question["message"], question["whose"]) == (
        "It is not certain whose paper 4712 is.",
        [{"name": "4712", "proposed": None}],
    )
    assert {"code": "team/4712", "name": "Team 4712"} in question["learners"]
    hand_in(client, number, class_of("4712"), matched='{"4712": "4712"}')
    rows = grid(client, desk, number)
    assert len({row["paper"] for row in rows.values()}) == 2
    text = client.get(f"/results/{LAB}.csv?columns=id,team&sitting={number}").data.decode("utf-8-sig")
    assert sorted(text.split()[1:]) == ['"4711","4712"', '"4712",""', '"4713","4712"']


def sheets_with(desk: Desk, drawn: dict[str, int]) -> dict[str, bytes]:
    """Return the model answer of the lab with numbers, for some numbers."""
    version = desk.labs.newest(NUMBERS)
    assert version is not None
    lab = desk.lab(version, "", drawn)
    return {f"{name}.sheet": sheet.text.encode() for name, sheet in lab.full_paper.items()}


def test_every_learner_has_numbers_that_nobody_else_has(client: FlaskClient, desk: Desk) -> None:
    """A learner's own model answer has all marks; somebody else's has not, though it would for them."""
    sitting = new_sitting(client, slug=NUMBERS)
    number = sitting["number"]
    drawn = {seat["learner"]["code"]: seat["drawn"] for seat in sitting["seats"]}
    for name in ("house", "reach"):
        assert len({own[name] for own in drawn.values()}) == 3
    rows = list(csv.DictReader(io.StringIO(client.get(f"/numbers/{number}.csv").get_data(as_text=True))))
    assert {(r["learner"], r["variable"], int(r["value"])) for r in rows} == {
        (code, name, value) for code, own in drawn.items() for name, value in own.items()
    }
    seat = f"/api/sittings/{number}/seats/4711"
    free = {
        "house": next(n for n in range(16, 80) if n not in {o["house"] for o in drawn.values()}),
        "reach": 150,
    }
    for wrong in ({"house": 15, "reach": 150}, {"house": 20}, {**free, "mole": 1}):
        asked(client, "PUT", seat, 422, team="", drawn=wrong)
    asked(client, "PUT", seat, 200, team="", drawn=free)
    handed_in = {"4711": free, "4712": drawn["4712"], "4713": drawn["4712"]}  # Eva has Ben's numbers
    files = {
        f"{c}/{path}": text for c, own in handed_in.items() for path, text in sheets_with(desk, own).items()
    }
    hand_in(client, number, files, slug=NUMBERS)
    view = marked(client, desk, f"/api/labs/{NUMBERS}/class?sitting={number}")
    totals = {row["learner"]: row["marked"]["carried"] for row in view["learners"]}
    assert (totals["Ana Weir"], totals["Ben Lock"]) == (view["out_of"], view["out_of"])
    assert totals["Eva Quay"] < view["out_of"]
    routes = [item["difficulty"] for item in view["items"] if item["id"].startswith("route:")]
    assert routes == [pytest.approx(2 / 3)] * 2  # side by side, whatever stands in the ids of criteria
    paper = client.get(f"/api/papers/{view['learners'][0]['paper']}").get_json()
    assert (
        paper["drawn"]
        == handed_in[{"Ana Weir": "4711", "Ben Lock": "4712", "Eva Quay": "4713"}[paper["learner"]]]
    )
    journey = client.get(f"/api/papers/{paper['id']}/journeys/4").get_json()
    assert f".{paper['drawn']['house']}." in json.dumps(journey["ping"])  # with the learner's own numbers
    asked(client, "PUT", seat, 422, team="", drawn=free)  # not any more


def test_seats_change_before_the_first_paper_and_whole_teams_together(
    client: FlaskClient, desk: Desk
) -> None:
    sitting = new_sitting(client, slug=NUMBERS, roster="id,name,team\n1,Ana,red\n2,Ben,red\n3,Eva,\n")
    number = sitting["number"]

    def houses(view: Any) -> dict[str, tuple[str, int]]:
        return {s["learner"]["name"]: (s["learner"]["team"], s["drawn"]["house"]) for s in view["seats"]}

    before = houses(sitting)
    assert before["Ana"] == before["Ben"] != before["Eva"]
    seat = f"/api/sittings/{number}/seats/"
    free = next(n for n in range(16, 80) if n not in {house for _, house in before.values()})
    moved = houses(asked(client, "PUT", f"{seat}1", 200, team="red", drawn={"house": free, "reach": 130}))
    assert moved == {"Ana": ("red", free), "Ben": ("red", free), "Eva": before["Eva"]}
    joined = houses(asked(client, "PUT", f"{seat}3", 200, team="red", drawn={"house": 16, "reach": 131}))
    assert set(joined.values()) == {("red", free)}  # who comes to a team has its numbers
    assert (
        asked(client, "PUT", f"{seat}9", 404, team="", drawn={})["message"]
        == "There is no such learner in this sitting."
    )
    view = client.get(f"/api/sittings/{number}").get_json()
    assert view["log"][0]["told"] == f"Eva, team red, house {free}, reach 130"
    group = asked(client, "POST", "/api/groups", 201, title="Later", text="id,name\n1,Ana again\n8,Zoe\n")[
        "number"
    ]
    more = asked(client, "POST", f"/api/sittings/{number}/seats", 200, groups=[group])
    assert [s["learner"]["name"] for s in more["seats"]] == ["Ana", "Ben", "Eva", "Zoe"]
    assert (
        asked(client, "POST", f"/api/sittings/{number}/seats", 404, groups=[99999])["message"]
        == "There is no such group."
    )
