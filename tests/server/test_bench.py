"""A bench kept under an address, and as a file: what leaves is what stands on it."""

from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient

from zensur.cli import main
from zensur.core.formats import read_archive
from zensur.demo import lab_text
from zensur.work.desk import Desk

from .helpers import token

LAB = "toll-house"


def asked(client: FlaskClient, path: str, status: int = 200, **body: Any) -> Any:
    answer = client.post(path, json=body, headers=token(client))
    assert answer.status_code == status, answer.get_json()
    return answer.get_json()


def answer_on_bench(client: FlaskClient) -> dict[str, Any]:
    text = lab_text(LAB)
    return {"text": text, "sheets": asked(client, "/api/bench/start", text=text, start="answer")["sheets"]}


def file_of(client: FlaskClient, form: str, **body: Any) -> bytes:
    answer = client.post("/api/bench/file", json={"form": form, **body}, headers=token(client))
    assert answer.status_code == 200, answer.get_json()
    assert answer.headers["Content-Disposition"].startswith(f'attachment; filename="{LAB}-bench')
    return bytes(answer.data)


def test_a_bench_is_kept_opened_and_removed_and_none_is_written_over(client: FlaskClient) -> None:
    question = {"from_": "crane", "to": "far", "source": "", "open": "", "resolve": ""}
    benches = f"/api/labs/{LAB}/benches"
    kept = [
        asked(client, benches, 201, name="Week <3>", sheets={"toll": text}, asked=[question])
        for text in ("name toll\n", "name other\n")
    ]
    listed = client.get(benches).get_json()["benches"]
    assert [(b["number"], b["name"]) for b in listed] == [(b["number"], "Week <3>") for b in reversed(kept)]
    first = client.get(f"{benches}/{kept[0]['number']}").get_json()
    assert (first["sheets"], first["asked"]) == ({"toll": "name toll\n"}, [question])
    elsewhere = client.get(f"/api/labs/four-gates/benches/{kept[0]['number']}")
    assert elsewhere.status_code == 404
    client.delete(f"/api/labs/four-gates/benches/{kept[0]['number']}", headers=token(client))
    assert len(client.get(benches).get_json()["benches"]) == 2
    client.delete(f"{benches}/{kept[0]['number']}", headers=token(client))
    assert [b["number"] for b in client.get(benches).get_json()["benches"]] == [kept[1]["number"]]
    asked(client, benches, 400, name="", sheets={})
    asked(client, "/api/labs/no-such/benches", 404, name="x", sheets={})


def test_so_many_benches_are_kept_and_no_more(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("zensur.store.benches.MOST_BENCHES", 2)
    for status in (201, 201, 422):
        asked(client, "/api/labs/first-addresses/benches", status, name="x", sheets={})
    asked(client, "/api/labs/four-gates/benches", 201, name="x", sheets={})


def test_the_sheets_of_a_bench_are_a_folder_as_learners_hand_it_in(client: FlaskClient) -> None:
    bench = answer_on_bench(client)
    content = file_of(client, "sheets", **bench)
    assert content == file_of(client, "sheets", **bench)
    files = read_archive(content)
    assert {f.path: f.content.decode() for f in files} == {
        f"{LAB}-bench/{device}.sheet": text for device, text in bench["sheets"].items()
    }


def test_script_and_packets_of_a_bench_are_those_of_the_command_line(
    client: FlaskClient, desk: Desk, tmp_path: Path
) -> None:
    bench = answer_on_bench(client)
    lab = tmp_path / "x.lab.yaml"
    lab.write_text(lab_text(LAB))
    for form, kind in (("namespaces", "linux-namespaces"), ("packets", "pcapng")):
        CliRunner().invoke(main, ["export", str(lab), "--as", kind, "-o", str(tmp_path / kind)])
        assert file_of(client, form, **bench) == (tmp_path / kind).read_bytes()
    third = client.get(f"/captures/labs/{LAB}/3.pcapng").data
    assert file_of(client, "packets", **bench, number=3) == third
    broken = {**bench, "sheets": {**bench["sheets"], "toll": ""}}
    assert file_of(client, "packets", **broken, number=3) != third
    asked(client, "/api/bench/file", 404, **bench, form="packets", number=999)
    asked(client, "/api/bench/file", 422, text=bench["text"], sheets={"../x": ""}, form="sheets")


@pytest.mark.parametrize(
    ("question", "said"),
    [
        ({"open": "tcp archive"}, "Write tcp TARGET:N or udp TARGET:N, such as tcp 10.64.8.80:80."),
        ({"open": "udp archive:99999"}, "Write tcp TARGET:N or udp TARGET:N, such as tcp 10.64.8.80:80."),
        ({"resolve": "a..b"}, "a..b is no name to look up"),
        ({"to": " "}, "A ping needs somebody to ask for"),
        ({"from_": "ghost", "to": "far"}, "There is no device ghost to ask from."),
        ({"from_": "ghost", "open": "tcp far:80"}, "There is no device ghost to ask from."),
    ],
)
def test_what_cannot_be_asked_is_refused_in_words(
    client: FlaskClient, question: dict[str, str], said: str
) -> None:
    bench = answer_on_bench(client) | {"device": "toll"}
    whole = {"from_": "crane", "to": "", "source": "", "open": "", "resolve": ""} | question
    assert said in asked(client, "/api/bench/look", 422, **bench, asked=[whole])["message"]
