"""What the editor asks of the server: checks and completion while typing, edits of a text, drafts, hand-outs."""

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
    typed: dict[str, Any] = {"text": starter_lab("mine", "Mine"), "device": "weir", "typed": "port p1\n  a"}
    found = asked(client, "/api/authoring/complete", **typed, line=2, column=4)
    assert [o["text"] for o in found["options"]] == ["about", "address", "access", "advertise"]
    route = {**typed, "typed": "route default via "}
    found = asked(client, "/api/authoring/complete", **route, line=1, column=19)
    assert [o["about"] for o in found["options"]] == [
        "quay, p2",
        "gauge, p1",
        "quay, p1",
        "crane, p1",
    ]  # neighbours first
    data = {**typed, "typed": "{\n  a"}  # a configuration in another form is not completed
    assert asked(client, "/api/authoring/complete", **data, line=2, column=4) == {"column": 4, "options": []}


def put_sheet(client: FlaskClient, text: str, sheet: str, status: int = 200, **more: Any) -> Any:
    """Put a sheet of weir into a text, as the editor does while it is typed."""
    own = {"side": "answer", "device": "weir"}
    edit = {"do": "put-sheet", **own, "text": sheet}
    return asked(client, "/api/authoring/edit", status, text=text, edits=[edit], sheet=own, **more)


def test_a_sheet_is_checked_in_its_lab(client: FlaskClient) -> None:
    text = starter_lab("mine", "Mine")
    found = put_sheet(client, text, "port p1\n  adress 10.64.16.1/24\n")["look"]
    assert [(d["code"], d["line"], d["mend"]["text"]) for d in found["remarks"]["diagnostics"]] == [
        ("unknown-word", 2, "address")
    ]
    assert [p["as_expected"] for p in found["pings"]] == [False, False, False]
    # the ping to weir has no address any more: what was typed is kept all the same, and told
    assert [e["message"] for e in found["errors"]] == ["The model answer gives weir no address."]
    edit = {"do": "put-sheet", "side": "answer", "device": "nobody", "text": "name x"}
    assert asked(client, "/api/authoring/edit", 422, text=text, edits=[edit])["message"] == (
        "There is no device nobody."
    )


def test_a_sheet_changes_nothing_else(client: FlaskClient) -> None:
    before = client.get("/api/labs/mine").get_json()["text"]
    sheet = "port p1\n  address 10.64.16.1/24\n  on\nport p2\n  address 10.64.0.1/30\n  on\nroute default via 10.64.0.2"
    after = put_sheet(client, before, sheet)["text"]
    changed = [line for line in difflib.ndiff(before.split("\n"), after.split("\n")) if line[0] in "+-"]
    assert changed == ["-     route 10.64.40.0/24 via 10.64.0.2", "+     route default via 10.64.0.2"]
    assert asked(client, "/api/labs/mine/versions", 201, text=after, base=1) == {"version": 2}
    assert "meanwhile" in asked(client, "/api/labs/mine/versions", 409, text=before, base=1)["message"]
    refused = asked(client, "/api/labs/mine/versions", 422, text=put_sheet(client, after, "")["text"], base=2)
    assert [e["message"] for e in refused["errors"]] == ["The model answer gives weir no address."]


def test_edits_are_made_together_or_not_at_all(client: FlaskClient) -> None:
    text = starter_lab("mine", "Mine")
    host = {"do": "add-device", "name": "bell", "kind": "host"}
    cable = {"do": "link", "a": "quay", "b": "bell"}
    found = asked(client, "/api/authoring/edit", text=text, edits=[host, cable])
    assert "  - quay:p3 -- bell:p1\n" in found["text"]
    assert [c["device"] for c in found["look"]["weave"]["columns"]].count("bell") == 1
    refused = asked(client, "/api/authoring/edit", 422, text=text, edits=[host, host])
    assert refused["message"] == "There is a device bell already."
    broken = asked(client, "/api/authoring/edit", 422, text=text, edits=[
        {"do": "take-statements", "device": "weir", "header": "port p1", "statements": ["address 10.64.16.1/24"]},
        {"do": "take-statements", "device": "weir", "header": "port p2", "statements": ["address 10.64.0.1/30"]},
    ])  # fmt: skip
    assert broken["message"].startswith("With that the lab could not be read: pings[0].to")
    for path in ("look", "edit", "routes", "scheme", "pairs", "subnet", "journey"):
        more = {"edits": [host]} if path == "edit" else {"typed": "10.64.8.0/24"} if path == "subnet" else {}
        refused = asked(client, f"/api/authoring/{path}", 422, text="zensur: [", **more)
        assert refused["errors"][0]["message"].startswith("This is not YAML"), path


def test_what_is_shown_of_a_text(client: FlaskClient) -> None:
    text = starter_lab("mine", "Mine")
    nodes = asked(client, "/api/authoring/routes", text=text)["nodes"]
    assert [(n["node"], n["lacks"]) for n in nodes] == [("weir", []), ("quay", [])]
    pairs = asked(client, "/api/authoring/pairs", text=text)
    assert pairs["sources"] == ["weir", "quay", "gauge", "crane"]
    assert {r["outcome"] for r in pairs["rows"]} == {"reply"}
    assert len(pairs["rows"]) == 12
    scheme = asked(client, "/api/authoring/scheme", text=text)
    assert scheme["scheme"]["derived"]
    assert sum(scheme["model"].values()) == scheme["scheme"]["marks"]
    assert set(scheme["blank"].values()) == {0}
    told = asked(client, "/api/authoring/journey", text=text, number=0, from_="gauge", to="quay")
    assert (told["number"], told["ping"]["expect"], told["ping"]["outcome"]) == (0, None, "reply")
    assert asked(client, "/api/authoring/journey", text=text, number=2)["ping"]["to"] == "crane"
    assert "3 pings" in asked(client, "/api/authoring/journey", 404, text=text, number=4)["message"]
    unknown = asked(client, "/api/authoring/journey", 422, text=text, number=0, from_="nobody", to="quay")
    assert unknown["message"] == "There is no device nobody to ask from."
    help_ = asked(client, "/api/authoring/subnet", text=text, typed="10.64.16.9 255.255.255.0", length=26)[
        "subnet"
    ]
    assert (help_["network"], help_["host"], help_["same"]) == (
        "10.64.16.0/24",
        "10.64.16.2",
        "10.64.17.0/24",
    )
    assert "no address" in asked(client, "/api/authoring/subnet", 422, text=text, typed="here")["message"]


def test_a_variant_is_looked_at(client: FlaskClient) -> None:
    for site in (16, 20):
        shown = asked(client, "/api/authoring/variant", text=VARIANTS, values={"site": site})
        assert shown["weave"]["rows"][0]["prefix"].startswith(f"10.64.{site}.")


def test_drafts_are_each_windows_own(client: FlaskClient) -> None:
    def keep(window: str, text: str, lab: str = "mine") -> int:
        path = f"/api/labs/{lab}/drafts/{window}"
        return client.put(path, json={"text": text, "base": 1}, headers=token(client)).status_code

    def kept() -> list[str]:
        return [d["window"] for d in client.get("/api/labs/mine/drafts").get_json()["drafts"]]

    assert [keep("window-one", "a"), keep("window-two", "b"), keep("window-one", "c")] == [204, 204, 204]
    assert sorted(kept()) == ["window-one", "window-two"]
    found = client.get("/api/labs/mine/drafts/window-one").get_json()
    assert found == {"text": "c", "base": 1}
    gone = client.delete("/api/labs/mine/drafts/window-one", headers=token(client))
    assert (gone.status_code, kept()) == (204, ["window-two"])
    assert client.get("/api/labs/mine/drafts/window-one").status_code == 404
    assert keep("window-one", "a", "none") == 404
    assert client.get("/api/labs/none/drafts").status_code == 404
    assert keep("../../x", "a") in (404, 405)


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
        ("/api/authoring/edit", {"text": "", "edits": [{"do": "explode"}]}),
        ("/api/authoring/edit", {"text": "", "edits": []}),
        ("/api/labs/complete", {"text": "", "line": 0, "column": 1}),
    ):
        assert asked(client, path, 400, **body)["message"].startswith("This request cannot be read: ")


def test_variables_and_capitals_stay_as_they_are_typed(client: FlaskClient) -> None:
    text = VARIANTS.replace("id: variants", "id: mine").replace("  weir: |", "  WEIR: |")
    asked(client, "/api/labs/mine/versions", 201, text=text, base=1)
    (weir,) = [d for d in client.get("/api/labs/mine").get_json()["devices"] if d["device"] == "weir"]
    assert weir["answer"] == "port p1\n  address 10.64.${site}.1/24\n  on\n"
    typed = weir["answer"] + "loopback lo0\n  adress 10.64.255.${site}/32\n  abuot x\n"
    found = put_sheet(client, text, typed)["look"]["remarks"]
    assert [(d["code"], d["line"], d["mend"] is None) for d in found["diagnostics"]] == [
        ("unknown-word", 5, True), ("unknown-word", 6, False),
    ]  # fmt: skip
    after = put_sheet(client, text, weir["answer"] + "name weir\n")["text"]
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
    text = lab_text("rebuilding")
    told = asked(client, "/api/authoring/journey", text=text, stage="as-it-was", number=1)
    assert (told["stage"], told["of"]) == ("as-it-was", len(first["pings"]) + len(first["services"]))
    sheet = first["devices"][0]["answer"].replace("10.64.0.1/30", "10.64.0.1/29")
    changed = put_sheet(client, text, sheet, stage="as-it-was")
    assert len(changed["look"]["pings"]) == len(first["pings"])
    assert changed["text"] == text.replace("10.64.0.1/30", "10.64.0.1/29", 1)
