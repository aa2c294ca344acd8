"""What the editor asks of the server: checks and completion while typing, sheets saved into the lab, hand-outs."""

import difflib
from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.core.test_stages import VARIANTS
from zensur.core.lab import read_lab, starter_lab
from zensur.core.sheet import write_sheet
from zensur.demo import lab_text
from zensur.server import create_app
from zensur.store import Database, Labs
from zensur.work.desk import Desk

from .helpers import token


@pytest.fixture
def client(tmp_path_factory: pytest.TempPathFactory) -> FlaskClient:
    database = Database(tmp_path_factory.mktemp("sheets") / "labs.db")
    Labs(database).add("mine", starter_lab("mine", "Mine").replace("answer:\n", "answer:  # kept\n"))
    desk = Desk(database)
    app = create_app(desk)
    app.extensions["desk"] = desk
    return app.test_client()


def asked(client: FlaskClient, path: str, status: int = 200, **body: Any) -> Any:
    answer = client.post(path, json=body, headers=token(client))
    assert answer.status_code == status, answer.get_json()
    return answer.get_json()


def test_the_whole_check_of_a_text(client: FlaskClient) -> None:
    text = starter_lab("mine", "Mine")
    good = asked(client, "/api/labs/check", text=text)
    assert (good["readable"], good["check"]["findings"], good["check"]["holding"]) == (True, [], 3)
    bad = asked(
        client, "/api/labs/check", text=text.replace("route 10.64.40.0/24 via", "rout 10.64.40.0/24 via")
    )
    assert bad["readable"]
    found = {f["code"]: f for f in bad["check"]["findings"]}
    assert found["unknown-word"]["at"] == {"line": 37, "column": 5, "end": 8}
    assert found["unknown-word"]["edit"] == {"line": 37, "column": 5, "end": 8, "text": "route"}
    failing = [f["place"] for f in bad["check"]["findings"] if f["code"] == "expectation-fails"]
    assert failing == ["pings[1]", "pings[2]"]
    assert not asked(client, "/api/labs/check", text="zensur: 1")["readable"]


def test_completion(client: FlaskClient) -> None:
    text = starter_lab("mine", "Mine").replace("to: weir,", "to: w,")
    number = next(n for n, line in enumerate(text.split("\n"), 1) if "to: w," in line)
    column = text.split("\n")[number - 1].index("to: w,") + 6
    found = asked(client, "/api/labs/complete", text=text, line=number, column=column)
    assert found["column"] == column - 1
    assert [o["text"] for o in found["options"]] == ["weir", "weir:p1", "weir:p2"]
    sheet: dict[str, Any] = {"side": "answer", "device": "weir", "text": "port p1\n  a"}
    found = asked(client, "/api/labs/mine/sheets/complete", **sheet, line=2, column=4)
    assert [o["text"] for o in found["options"]] == ["about", "address", "access", "advertise"]


def test_a_sheet_is_checked_in_its_lab(client: FlaskClient) -> None:
    sheet: dict[str, Any] = {"side": "answer", "device": "weir", "text": "port p1\n  adress 10.64.16.1/24\n"}
    found = asked(client, "/api/labs/mine/sheets/check", **sheet)
    assert [(d["code"], d["line"], d["mend"]["text"]) for d in found["diagnostics"]] == [
        ("unknown-word", 2, "address")
    ]
    assert [p["as_expected"] for p in found["pings"]] == [False, False, False]
    nobody = asked(client, "/api/labs/mine/sheets/check", 404, **{**sheet, "device": "nobody"})
    assert nobody["message"] == "The lab has no device nobody."
    assert "no lab none" in asked(client, "/api/labs/none/sheets/check", 404, **sheet)["message"]


def test_saving_a_sheet_changes_nothing_else(client: FlaskClient) -> None:
    before = client.get("/api/labs/mine").get_json()["text"]
    sheet = {"side": "answer", "device": "weir", "base": 1}
    text = "port p1\n  address 10.64.16.1/24\n  on\nport p2\n  address 10.64.0.1/30\n  on\nroute default via 10.64.0.2"
    assert asked(client, "/api/labs/mine/sheets", 201, **sheet, text=text) == {"version": 2}
    after = client.get("/api/labs/mine").get_json()["text"]
    changed = [line for line in difflib.ndiff(before.split("\n"), after.split("\n")) if line[0] in "+-"]
    assert changed == ["-     route 10.64.40.0/24 via 10.64.0.2", "+     route default via 10.64.0.2"]
    assert "meanwhile" in asked(client, "/api/labs/mine/sheets", 409, **sheet, text="name x")["message"]
    started = {"side": "start", "device": "weir", "base": 2, "text": "name weir"}
    assert asked(client, "/api/labs/mine/sheets", 201, **started) == {"version": 3}
    lab = read_lab(client.get("/api/labs/mine").get_json()["text"]).lab
    assert lab is not None
    assert lab.start["weir"].text == "name weir\n"
    emptied = {"side": "start", "device": "weir", "base": 3, "text": " \n"}
    assert asked(client, "/api/labs/mine/sheets", 201, **emptied) == {"version": 4}
    assert "name weir" not in client.get("/api/labs/mine").get_json()["text"]
    refused = asked(client, "/api/labs/mine/sheets", 422, side="answer", device="weir", base=4, text="")
    assert [e["message"] for e in refused["errors"]] == ["The model answer gives weir no address."]


def test_the_hand_out(client: FlaskClient) -> None:
    page = client.get("/hand-out/mine")
    assert page.mimetype == "text/html"
    policy = page.headers["Content-Security-Policy"]
    assert policy.partition("'nonce-")[2].partition("'")[0] in page.get_data(as_text=True)
    file = client.get("/hand-out/mine.lab.yaml")
    assert "attachment" in file.headers["Content-Disposition"]
    assert "answer" not in file.get_data(as_text=True)
    assert read_lab(file.get_data(as_text=True)).lab is not None
    for path in ("/hand-out/none", "/hand-out/none.lab.yaml", "/hand-out/mine?stage=x"):
        assert client.get(path).status_code == 404


def test_a_request_that_cannot_be_read_is_refused_in_words(client: FlaskClient) -> None:
    for path, body in (
        ("/api/labs/check", {"text": "\ud800"}),
        ("/api/labs/check", {}),
        ("/api/labs/mine/sheets/check", {"side": "hidden", "device": "weir", "text": ""}),
        ("/api/labs/complete", {"text": "", "line": 0, "column": 1}),
    ):
        assert asked(client, path, 400, **body)["message"].startswith("This request cannot be read: ")


def test_variables_and_capitals_stay_as_they_are_typed(client: FlaskClient) -> None:
    text = VARIANTS.replace("id: variants", "id: mine").replace("  weir: |", "  WEIR: |")
    asked(client, "/api/labs/mine/versions", 201, text=text, base=1)
    (weir,) = [d for d in client.get("/api/labs/mine").get_json()["devices"] if d["device"] == "weir"]
    assert weir["answer"] == "port p1\n  address 10.64.${site}.1/24\n  on\n"
    sheet: dict[str, Any] = {"side": "answer", "device": "weir", "base": 2}
    typed = weir["answer"] + "loopback lo0\n  adress 10.64.255.${site}/32\n  abuot x\n"
    found = asked(client, "/api/labs/mine/sheets/check", **sheet, text=typed)
    assert [(d["code"], d["line"], d["mend"] is None) for d in found["diagnostics"]] == [
        ("unknown-word", 5, True), ("unknown-word", 6, False),
    ]  # fmt: skip
    asked(client, "/api/labs/mine/sheets", 201, **sheet, text=weir["answer"] + "name weir\n")
    after = client.get("/api/labs/mine").get_json()["text"]
    assert after == text.replace("      on\n", "      on\n    name weir\n", 1)
    lab_text = text.replace("      on\n", "      onn\n").replace("gateway", "gatway")
    edits = [f["edit"] for f in asked(client, "/api/labs/check", text=lab_text)["check"]["findings"]]
    assert [e["text"] for e in edits if e] == ["on"]


def test_each_stage_is_looked_at_and_written_by_itself(client: FlaskClient) -> None:
    desk = client.application.extensions["desk"]
    desk.labs.add("rebuilding", lab_text("rebuilding"))
    first, middle, last = (
        client.get(f"/api/labs/rebuilding?stage={stage}").get_json()
        for stage in ("as-it-was", "round-by-the-quay", "")
    )
    assert [one["stage"] for one in (first, middle, last)] == [
        "as-it-was",
        "round-by-the-quay",
        "the-new-cut",
    ]
    assert {len(one["stages"]) for one in (first, middle, last)} == {3}
    lab = read_lab(lab_text("rebuilding")).lab
    assert lab is not None
    weir = {one["stage"]: one["devices"][0] for one in (first, middle, last)}
    assert {d["device"] for d in weir.values()} == {"weir"}
    assert weir["as-it-was"]["before"] is None
    assert weir["round-by-the-quay"]["before"] == write_sheet(lab.stages[0].model["weir"])
    assert [weir[s.stage]["taken"] for s in lab.stages] == [
        list(s.removed.get("weir", ())) for s in lab.stages
    ]
    assert [weir[s.stage]["answer"] for s in lab.stages] == [
        s.answer["weir"].text if "weir" in s.answer else None for s in lab.stages
    ]
    assert len(first["pings"]) != len(middle["pings"])
    told = client.get("/api/labs/rebuilding/journeys/1?stage=as-it-was").get_json()
    assert (told["stage"], told["of"]) == ("as-it-was", len(first["pings"]) + len(first["services"]))
    text = first["devices"][0]["answer"].replace("10.64.0.1/30", "10.64.0.1/29")
    body = {"side": "answer", "device": "weir", "text": text, "base": 1, "stage": "as-it-was"}
    checked = asked(client, "/api/labs/rebuilding/sheets/check", **body)
    assert len(checked["pings"]) == len(first["pings"])
    assert asked(client, "/api/labs/rebuilding/sheets", 201, **body) == {"version": 2}
    saved = desk.labs.newest("rebuilding").text
    assert saved == lab_text("rebuilding").replace("10.64.0.1/30", "10.64.0.1/29", 1)
