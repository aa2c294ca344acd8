"""The class of a lab: the same totals wherever they are told, overrules in them."""

import csv
import io
import json
import zipfile

from click.testing import CliRunner
from flask.testing import FlaskClient

from zensur.cli import main
from zensur.work.desk import Desk

from .helpers import marked, token

LAB = "first-addresses"


def overrule(client: FlaskClient, paper: int) -> None:
    body = {"criterion": "", "marks": 7, "reason": "=1+1 told in the lesson"}
    assert client.post(f"/api/papers/{paper}/overrules", json=body, headers=token(client)).status_code == 200


def test_every_way_out_has_the_same_totals_with_what_was_overruled(client: FlaskClient, desk: Desk) -> None:
    view = marked(client, desk, f"/api/labs/{LAB}/class")
    assert view["waiting"] == 0
    overrule(client, view["learners"][0]["paper"])
    view = client.get(f"/api/labs/{LAB}/class").get_json()
    totals = {row["learner"]: row["marked"]["carried"] for row in view["learners"]}
    assert 7 in totals.values()
    listed = client.get(f"/api/labs/{LAB}/papers").get_json()["papers"]
    assert {p["learner"]: p["result"]["carried"] for p in listed} == totals
    rows = list(csv.DictReader(io.StringIO(client.get(f"/results/{LAB}.csv").data.decode("utf-8-sig"))))
    assert {r["learner"]: float(r["carried"]) for r in rows} == totals
    assert [r["overruled"] for r in rows if r["overruled"]] == ["total: =1+1 told in the lesson"]
    told = client.get(f"/results/{LAB}.json").get_json()
    assert {p["learner"]: p["carried"] for p in told["papers"]} == totals
    written = CliRunner().invoke(
        main, ["results", LAB, "--database", str(desk.database.path), "--columns", "learner,carried"]
    )
    assert written.exit_code == 0, written.output
    assert {r["learner"]: float(r["carried"]) for r in csv.DictReader(io.StringIO(written.output))} == totals
    as_json = CliRunner().invoke(main, ["results", LAB, "--database", str(desk.database.path), "--json"])
    assert {p["learner"]: p["carried"] for p in json.loads(as_json.output)["papers"]} == totals
    with zipfile.ZipFile(io.BytesIO(client.get(f"/results/{LAB}.zip").data)) as archive:
        assert len(archive.namelist()) == len(totals)
        assert all(name.endswith("/marked.html") for name in archive.namelist())


def test_the_figures_are_of_the_papers_that_count(client: FlaskClient, desk: Desk) -> None:
    view = marked(client, desk, f"/api/labs/{LAB}/class")
    assert view["distribution"]["learners"] == len(view["learners"])
    assert [t["name"] for t in view["tasks"]] == [t["id"] for t in view["of_tasks"]]
    assert all(len(row["marked"]["tasks"]) == len(view["tasks"]) for row in view["learners"])
    assert sum(t["marks"] for t in view["tasks"]) == view["out_of"]
    assert set(view["reliability"]["without"]) == {i["id"] for i in view["items"]}


def test_a_lab_without_papers_and_what_is_not_there(client: FlaskClient) -> None:
    made = client.post("/api/labs", json={"title": "Nobody yet"}, headers=token(client)).get_json()["slug"]
    empty = client.get(f"/api/labs/{made}/class").get_json()
    assert (empty["learners"], empty["distribution"], empty["pairs"]) == ([], None, [])
    assert client.get("/api/labs/none/class").status_code == 404
    for suffix in ("csv", "json", "zip"):
        assert client.get(f"/results/none.{suffix}").status_code == 404
    wrong = client.get(f"/results/{LAB}.csv?columns=learner,shoe")
    assert wrong.status_code == 400
    assert "There is no column shoe" in wrong.get_data(as_text=True)
    refused = CliRunner().invoke(main, ["results", "none", "--database", "/nowhere/x.db"])
    assert refused.exit_code == 2
