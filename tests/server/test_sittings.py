"""Sittings: which papers count, what being late costs, and what another version changes."""

import csv
import io
import json
import zipfile
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient

from zensur.cli import main
from zensur.work.desk import Desk

from .helpers import marked, token
from .sitting import LAB, asked, class_of, grid, hand_in, new_sitting

YESTERDAY = (datetime.now(UTC) - timedelta(hours=30)).isoformat()
TOMORROW = (datetime.now(UTC) + timedelta(days=1)).isoformat()


def test_a_receipt_tells_what_arrived_byte_for_byte(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    (paper,) = hand_in(client, number, class_of("4711", **{"odd.txt": b"?"}))["papers"]
    view = client.get(f"/api/papers/{paper}").get_json()
    receipt = client.get(f"/api/arrivals/{view['arrival']}").get_json()
    assert (receipt["way"], [f["name"] for f in receipt["files"]]) == ("upload", ["class.zip"])
    content = desk.papers.content(receipt["files"][0]["sha256"])
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert set(archive.namelist()) == set(class_of("4711", **{"odd.txt": b"?"}))
    assert any("odd.txt" in remark for remark in receipt["remarks"])
    assert client.get("/api/arrivals/999999").status_code == 404


@pytest.mark.parametrize(
    ("rules", "counts"),
    [
        ({"counts": "last"}, 2),
        ({"counts": "first"}, 0),
        ({"counts": "best"}, 1),
        ({"counts": "last", "attempts": 2}, 1),
    ],
)
def test_the_rules_say_which_attempt_counts_until_one_is_chosen_by_hand(
    client: FlaskClient, desk: Desk, rules: dict[str, Any], counts: int
) -> None:
    number = new_sitting(client, rules=rules)["number"]
    worse = [
        class_of("4711", **{"weir.sheet": b""}),
        class_of("4711"),
        class_of("4711", **{"lock.sheet": b""}),
    ]
    rows = [hand_in(client, number, files)["papers"][0] for files in worse]
    assert grid(client, desk, number)["Ana Weir"]["paper"] == rows[counts]
    other = rows[counts - 1]
    chosen = asked(client, "POST", f"/api/papers/{other}/count", 200, chosen=True, reason="agreed with her")
    assert [a["id"] for a in chosen["attempts"] if a["counts"]] == [other]
    assert grid(client, desk, number)["Ana Weir"]["paper"] == other
    log = client.get(f"/api/sittings/{number}").get_json()["log"]
    assert [(e["what"], e["learner"], e["reason"]) for e in log] == [
        ("chosen to count", "Ana Weir", "agreed with her"),
        ("seats", "", ""),
    ]
    asked(client, "POST", f"/api/papers/{other}/count", 200, chosen=False)
    assert grid(client, desk, number)["Ana Weir"]["paper"] == rows[counts]


@pytest.mark.parametrize(("late", "part"), [("marked", 1.0), ("charged", 0.8), ("refused", None)])
def test_what_comes_late_is_marked_charged_or_does_not_count(
    client: FlaskClient, desk: Desk, late: str, part: float | None
) -> None:
    rules = {"closes": YESTERDAY, "late": late, "percent": 10}
    number = new_sitting(client, rules=rules)["number"]
    (paper,) = hand_in(client, number, class_of("4711", **{"weir.sheet": b""}))["papers"]
    row = grid(client, desk, number)["Ana Weir"]
    if part is None:
        assert (row["paper"], row["handed_in"]) == (None, None)
        assert (
            client.get(f"/api/papers/{paper}").get_json()["attempts"][0]["counts"] is False
        )  # but it is kept
        return
    view = client.get(f"/api/papers/{paper}").get_json()
    whole = view["out_of"] if "out_of" in view else view["result"]["out_of"]
    lost = sum(line["marks"] for line in view["sum"])
    assert whole - lost == pytest.approx(view["result"]["carried"], abs=0.02)
    assert (row["days_late"], view["days_late"]) == (2, 2)
    asked(client, "PUT", f"/api/sittings/{number}", 200, title="Week 3", rules={"closes": TOMORROW})
    in_time = grid(client, desk, number)["Ana Weir"]["marked"]["carried"]
    assert row["marked"]["carried"] == pytest.approx(in_time * part, abs=0.01)


def test_results_of_a_sitting_bear_the_ids_and_the_names_that_came(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(
        client,
        roster="id,name,export id,team\n4711,Ana Weir,X1,red\n4712,Ben Lock,X2,red\n4713,Eva Quay,X3,\n",
    )["number"]
    hand_in(client, number, class_of("Ana Weir_902_file", "4713"))
    grid(client, desk, number)
    text = client.get(
        f"/results/{LAB}.csv?columns=learner,id,export_id,group,team,carried&sitting={number}"
    ).data
    rows = [list(row.values()) for row in csv.DictReader(io.StringIO(text.decode("utf-8-sig")))]
    assert [row[:5] for row in rows] == [
        ["Eva Quay", "4713", "X3", "Tuesday", ""],
        ["Ana Weir", "4711", "X1", "Tuesday", "red"],
        ["Ben Lock", "4712", "X2", "Tuesday", "red"],
    ]
    assert rows[1][5] == rows[2][5]  # one paper of two
    answer = client.get(f"/results/{LAB}.zip?sitting={number}")
    assert 'filename="class.zip"' in answer.headers["Content-Disposition"]
    assert set(zipfile.ZipFile(io.BytesIO(answer.data)).namelist()) == {
        "Ana Weir_902_file/marked.html",
        "4713/marked.html",
    }
    written = CliRunner().invoke(
        main, ["results", str(number), "--columns", "id,carried", "--database", str(desk.database.path)]
    )
    assert [line.split(",")[0] for line in written.output.split()] == ['"id"', '"4713"', '"4711"', '"4712"']


def test_another_version_shows_first_what_changes_for_whom(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    hand_in(client, number, class_of("4711", "4712", **{"weir.sheet": b""}))
    hand_in(client, number, class_of("4713"))
    before = grid(client, desk, number)
    lab = client.get(f"/api/labs/{LAB}").get_json()
    text = lab["text"] + "\nscheme:\n  carry_forward: false\n  grades: {pass: 50}\n"
    changed = asked(client, "POST", f"/api/labs/{LAB}/versions", 201, text=text, base=lab["version"])
    shown = marked(client, desk, f"/api/sittings/{number}/version")
    assert (shown["version"], shown["newest"]) == (lab["version"], changed["version"])
    assert (shown["papers"], shown["waiting"]) == (3, 0)
    assert grid(client, desk, number) == before  # nothing is taken over by looking
    asked(client, "POST", f"/api/sittings/{number}/version", 409, version=lab["version"])
    view = asked(
        client, "POST", f"/api/sittings/{number}/version", 200, version=changed["version"], reason="fairer"
    )
    assert (view["version"], view["log"][0]["what"], view["log"][0]["reason"]) == (
        changed["version"], f"version {changed['version']} of the lab", "fairer",
    )  # fmt: skip
    after = grid(client, desk, number)
    moved = {n for n in after if after[n]["marked"]["carried"] != before[n]["marked"]["carried"]}
    assert moved
    assert {one["learner"] for one in shown["changed"]} == set(after)  # all have a grade now
    assert all(one["grade_was"] is None and one["grade_becomes"] in {"pass", ""} for one in shown["changed"])
    for one in shown["changed"]:
        assert (before[one["learner"]]["marked"]["carried"], after[one["learner"]]["marked"]["carried"]) == (
            one["was"],
            one["becomes"],
        )


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        ({"title": "  "}, "A sitting needs a title."),
        ({"rules": {"opens": TOMORROW, "closes": YESTERDAY}}, "A sitting closes after it opens."),
        (
            {"rules": {"late": "charged"}},
            "A rule for late papers needs the time at which the sitting closes.",
        ),
        ({"stage": "third"}, f"{LAB} has no stage third."),
    ],
)
def test_what_a_sitting_cannot_be_is_said(client: FlaskClient, settings: dict[str, Any], said: str) -> None:
    body = {"title": "Week 3", "slug": LAB, "groups": [], **settings}
    assert asked(client, "POST", "/api/sittings", 422, **body)["message"] == said


def test_the_command_line_hands_in_and_a_desk_that_marks_takes_it_up(
    client: FlaskClient, desk: Desk, tmp_path: Any
) -> None:
    number = new_sitting(client)["number"]
    for path, content in class_of("Ana Weir", "Zoe").items():
        (tmp_path / "class" / path).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / "class" / path).write_bytes(content)
    call = ["hand-in", str(number), str(tmp_path / "class"), "--database", str(desk.database.path)]
    refused = CliRunner().invoke(main, call)
    assert (refused.exit_code, "Whose are these: Zoe?" in refused.output) == (2, True)
    taken = CliRunner().invoke(main, [*call, "--as", "Zoe=4713"])
    assert (taken.exit_code, "2 papers are stored." in taken.output) == (0, True), taken.output
    rows = grid(client, desk, number)
    assert [rows[n]["marked"] is not None for n in ("Ana Weir", "Eva Quay", "Ben Lock")] == [
        True,
        True,
        False,
    ]
    partly = {p: c for p, c in class_of("4711").items() if "weir" in p}
    (tmp_path / "weir.sheet").write_bytes(next(iter(partly.values())) + b"# again\n")
    again = ["hand-in", str(number), str(tmp_path / "weir.sheet"), "--learner", "4711", *call[3:]]
    assert "These have handed in already: 4711." in CliRunner().invoke(main, again).output
    assert CliRunner().invoke(main, [*again, "--again", "add"]).exit_code == 0
    latest = grid(client, desk, number)["Ana Weir"]
    assert (latest["paper"] != rows["Ana Weir"]["paper"], latest["doubts"]) == (
        True,
        ["Kept from the paper before: lock, quay, ledger, gauge, crane."],
    )
    listed = CliRunner().invoke(main, ["sittings", "--json", *call[3:]])
    own = next(s for s in json.loads(listed.output)["sittings"] if s["number"] == number)
    assert own["progress"] == {"learners": 3, "handed_in": 2, "late": 0, "marked": 2, "doubtful": 1}


def test_what_is_not_there_is_said_and_a_removed_sitting_is_off_the_list(client: FlaskClient) -> None:
    number = new_sitting(client)["number"]
    assert client.get(f"/api/labs/toll-house/papers?sitting={number}").status_code == 404
    for path in (
        "/api/sittings/99999",
        "/api/groups/99999",
        f"/api/labs/{LAB}/papers?sitting=99999",
        "/numbers/99999.csv",
    ):
        assert client.get(path).status_code == 404
    assert client.delete(f"/api/sittings/{number}", headers=token(client)).status_code == 204
    assert number not in [s["number"] for s in client.get("/api/sittings").get_json()["sittings"]]
    assert client.get(f"/api/labs/{LAB}/class?sitting={number}").status_code == 404


def test_the_log_says_what_of_the_rules_was_changed(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    rules = {"closes": "2026-11-20T12:00:00Z", "late": "charged", "percent": 15}
    asked(client, "PUT", f"/api/sittings/{number}", 200, title="Week 4", blind=True, rules=rules)
    entry = client.get(f"/api/sittings/{number}").get_json()["log"][0]
    assert (entry["what"], entry["told"]) == (
        "rules changed",
        "title Week 3 to Week 4; closes none to 2026-11-20T12:00:00+00:00; late marked to charged; percent 10 to 15; blind no to yes",
    )
    printed = CliRunner().invoke(
        main, ["log", "--sitting", str(number), "--json", "--database", str(desk.database.path)]
    )
    told = json.loads(printed.output)["entries"]
    assert [(e["what"], e["sitting"]) for e in told] == [("rules changed", number), ("seats", number)]
    table = CliRunner().invoke(main, ["log", "-n", "1", "--database", str(desk.database.path)])
    assert (table.exit_code, len(table.output.strip().splitlines())) == (0, 2)


def test_without_a_sitting_there_are_no_rules_to_decide(client: FlaskClient, desk: Desk) -> None:
    paper = client.get(f"/api/labs/{LAB}/papers").get_json()["papers"][0]["id"]
    refused = asked(client, "POST", f"/api/papers/{paper}/count", 422, chosen=False)
    assert refused["message"] == "Without a sitting the paper counts that was handed in or chosen last."
