"""The shelf: labs taken in, copied, removed and put back, and their versions."""

from typing import Any

import pytest
from flask.testing import FlaskClient

from zensur.core.lab import read_lab, starter_lab
from zensur.demo import lab_text
from zensur.server import create_app
from zensur.store import Database
from zensur.work.desk import Desk

from .helpers import token

TEXT = starter_lab("two-banks", "Two banks").replace("links:\n", "links:  # as they lie\n")


@pytest.fixture
def desk(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    return Desk(Database(tmp_path_factory.mktemp("shelf") / "x.db"))


@pytest.fixture
def client(desk: Desk) -> FlaskClient:
    return create_app(desk).test_client()


def post(client: FlaskClient, path: str, status: int, **body: Any) -> Any:
    answer = client.post(path, json=body, headers=token(client))
    assert answer.status_code == status, answer.get_json()
    return answer.get_json()


def shelf(client: FlaskClient, desk: Desk, query: str = "") -> list[str]:
    client.get("/api/labs")
    desk.workers.settle()
    return [lab["slug"] for lab in client.get(f"/api/labs?{query}").get_json()["labs"]]


def test_a_file_is_taken_in_and_a_taken_id_is_asked_about(client: FlaskClient, desk: Desk) -> None:
    assert post(client, "/api/labs/import", 201, text=TEXT) == {"slug": "two-banks"}
    asked = post(client, "/api/labs/import", 409, text=TEXT)
    assert (asked["free"], asked["message"]) == ("two-banks-2", "There is a lab two-banks already.")
    post(client, "/api/labs/import", 201, text=TEXT, slug=asked["free"])
    second = desk.labs.newest("two-banks-2")
    assert second is not None
    assert second.text == TEXT.replace("id: two-banks", "id: two-banks-2")  # and nothing else, comments too
    assert post(client, "/api/labs/import", 409, text=TEXT)["free"] == "two-banks-3"
    for text, slug, says in (
        (TEXT.replace("devices:", "devizes:"), "", "cannot be read"),
        ("\0", "", "cannot be read"),
        (TEXT, "No Id", "cannot be the id"),
    ):
        assert says in post(client, "/api/labs/import", 422, text=text, slug=slug)["message"]
    assert shelf(client, desk) == ["two-banks", "two-banks-2"]


def test_a_copy_is_a_lab_of_its_own(client: FlaskClient, desk: Desk) -> None:
    desk.labs.add("rebuilding", lab_text("rebuilding"))
    assert post(client, "/api/labs/rebuilding/copy", 201) == {"slug": "rebuilding-2"}
    version = desk.labs.newest("rebuilding-2")
    assert version is not None
    copy, lab = read_lab(version.text).lab, read_lab(lab_text("rebuilding")).lab
    assert copy is not None
    assert lab is not None
    assert (copy.title, copy.answer) == (f"{lab.title}, copy", lab.answer)
    assert post(client, "/api/labs/rebuilding-2/copy", 201) == {"slug": "rebuilding-3"}
    post(client, "/api/labs/none/copy", 404)
    desk.labs.add("long", TEXT.replace("two-banks", "long").replace("Two banks", "T" * 120))
    assert post(client, "/api/labs/long/copy", 201) == {"slug": "long-2"}
    assert "long-2" in shelf(client, desk)


def test_what_is_removed_is_kept_and_put_back(client: FlaskClient, desk: Desk) -> None:
    for slug in ("one", "two"):
        desk.labs.add(slug, TEXT.replace("id: two-banks", f"id: {slug}"))
    post(client, "/api/labs/one/removed", 200, removed=True)
    assert (shelf(client, desk), shelf(client, desk, "removed=true")) == (["two"], ["one"])
    assert client.get("/api/labs/one").status_code == 200  # whoever has its address
    assert post(client, "/api/labs/import", 409, text=TEXT, slug="one")["free"] == "one-2"
    post(client, "/api/labs/one/removed", 200, removed=False)
    assert shelf(client, desk) == ["one", "two"]
    assert shelf(client, desk, "topic=addresses") == ["one", "two"]
    assert shelf(client, desk, "topic=address") == shelf(client, desk, "level=hard") == []
    found = client.get("/api/labs").get_json()
    assert (found["topics"], found["levels"]) == (["addresses", "static routes"], [])
    post(client, "/api/labs/none/removed", 404, removed=True)


def test_versions_are_listed_with_what_became_of_the_lab(client: FlaskClient, desk: Desk) -> None:
    texts = [TEXT, TEXT.replace("10.64.16.1/24", "10.64.16.1/25"), TEXT.replace("title: Two", "title: Three")]
    desk.labs.add("two-banks", texts[0])
    for number, text in enumerate(texts[1:], 1):
        desk.labs.save("two-banks", text, number)
    listed = client.get("/api/labs/two-banks/history").get_json()
    assert [version["number"] for version in listed] == [3, 2, 1]
    first, second, third = (client.get(f"/api/labs/two-banks/history/{n}").get_json() for n in (1, 2, 3))
    assert (first["against"], first["changes"], first["text"]) == (None, [], TEXT)
    assert [(c["place"], c["said"]) for c in second["changes"]] == [
        ("weir", "port p1: address 10.64.16.1/25; before, address 10.64.16.1/24 (model answer)")
    ]
    assert (third["against"], len(third["changes"])) == (2, 2)
    whole = client.get("/api/labs/two-banks/history/3?against=1").get_json()
    assert [c["said"] for c in whole["changes"]] == ["The title is Three banks; before, Two banks."]
    assert client.get("/api/labs/two-banks/history/4").status_code == 404
    with desk.database.transaction() as connection:  # as an earlier version of the language may have been
        connection.execute("UPDATE lab_version SET text = 'zensur: 1' WHERE number = 1")
    old, next_one = (client.get(f"/api/labs/two-banks/history/{n}").get_json() for n in (1, 2))
    assert (old["title"], old["changes"]) == ("two-banks", [])
    assert "cannot be compared" in next_one["changes"][0]["said"]
    assert client.get("/api/labs/none/history").status_code == 404
    file = client.get("/lab-files/two-banks.lab.yaml")
    assert (file.get_data(as_text=True), "two-banks.lab.yaml" in file.headers["Content-Disposition"]) == (
        texts[2],
        True,
    )
