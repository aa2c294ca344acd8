"""Signing in: nobody else is answered as soon as there is a user, and who did what is in the log."""

import re
from pathlib import Path

import pytest
from click.testing import CliRunner
from flask import Flask
from flask.testing import FlaskClient

import zensur.store.users as users_module
from zensur.cli import main
from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text
from zensur.server import create_app
from zensur.store import BadPassword, Database, Users
from zensur.work.desk import Desk

from .helpers import token
from .sitting import LAB, desk_that_waits

NAME, PASSWORD = "ana", "basin-lock-weir"


@pytest.fixture(autouse=True)
def quick(monkeypatch: pytest.MonkeyPatch) -> None:
    """Hash passwords with less work than in earnest."""
    monkeypatch.setattr(users_module, "_COST", 2**4)


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    lab = read_lab(lab_text(LAB)).lab
    assert lab is not None
    found = desk_that_waits(tmp_path / "x.db", *demo_papers(LAB, lab)[:1])
    found.users.put(NAME, PASSWORD)
    return found


@pytest.fixture
def app(desk: Desk) -> Flask:
    return create_app(desk)


def sign_in(client: FlaskClient, name: str = NAME, password: str = PASSWORD, **more: str) -> tuple[int, str]:
    answer = client.post("/sign-in", data={"name": name, "password": password, **more})
    return answer.status_code, answer.headers.get("Location", answer.get_data(as_text=True))


def test_nobody_is_answered_who_is_not_signed_in(app: Flask) -> None:
    """Every address that the application has, with every method that changes nothing."""
    client = app.test_client()
    tried = 0
    for rule in app.url_map.iter_rules():
        if "GET" not in (rule.methods or ()) or rule.rule.startswith(("/sign-in", "/assets", "/static")):
            continue
        path = re.sub(r"<(?:int:)?(\w+)>", lambda m: "1" if m[1] != "slug" else LAB, rule.rule).replace(
            "<path:path>", "labs"
        )
        answer = client.get(path)
        assert answer.status_code == (401 if path.startswith("/api/") else 302), path
        assert LAB not in answer.get_data(as_text=True) or "sign-in" in answer.headers.get("Location", "")
        tried += 1
    assert tried > 30
    for path in (f"/api/labs/{LAB}/papers", "/api/labs", "/api/session/end", "/api/papers/1/overrules"):
        assert client.post(path, json={}).status_code in (401, 403), path
    assert client.get("/sign-in").status_code == 200


def test_signing_in_leads_on_and_signing_out_ends_it(app: Flask) -> None:
    client = app.test_client()
    assert client.get(f"/labs/{LAB}?stage=x").headers["Location"] == f"/sign-in?next=/labs/{LAB}%3Fstage%3Dx"
    assert sign_in(client, next=f"/labs/{LAB}?stage=x") == (302, f"/labs/{LAB}?stage=x")
    assert client.get("/api/session").get_json() == {"name": NAME}
    cookie = client.get_cookie("zensur")
    assert cookie is not None
    assert (cookie.http_only, cookie.same_site) == (True, "Lax")
    kept = cookie.value
    assert client.post("/api/session/end", json={}, headers=token(client)).status_code == 204
    assert client.get("/api/labs").status_code == 401
    client.set_cookie("zensur", kept)  # a copy of the cookie is of no use any more
    assert client.get("/api/labs").status_code == 401


@pytest.mark.parametrize(
    ("wanted", "leads"),
    [("/labs", "/labs"), ("//evil.example", "/"), ("/\\evil.example", "/"), ("https://evil.example", "/"), ("/x\r\ny", "/"), ("/sign-in", "/")],
)  # fmt: skip
def test_it_leads_to_addresses_of_ours_only(app: Flask, wanted: str, leads: str) -> None:
    assert sign_in(app.test_client(), next=wanted) == (302, leads)


def test_another_site_signs_nobody_in(app: Flask) -> None:
    client = app.test_client()
    body = {"name": NAME, "password": PASSWORD}
    for head in ({"Origin": "https://evil.example"}, {"Sec-Fetch-Site": "cross-site"}):
        assert client.post("/sign-in", data=body, headers=head).status_code == 403
    assert client.post("/sign-in", data=body, headers={"Origin": "http://localhost"}).status_code == 302


def test_five_wrong_passwords_a_minute_and_no_more(app: Flask) -> None:
    client = app.test_client()
    for name in (NAME, "ANA", "nobody", NAME, ""):
        status, said = sign_in(client, name, "not the password")
        assert status == 401
        assert "That name and password do not fit." in said
    assert sign_in(client)[0] == 429
    other = client.post(
        "/sign-in", data={"name": NAME, "password": PASSWORD}, environ_base={"REMOTE_ADDR": "127.0.0.2"}
    )
    assert other.status_code == 302  # somebody at another address is not kept out


def test_right_passwords_are_not_counted(app: Flask) -> None:
    client = app.test_client()
    assert [sign_in(client)[0] for _ in range(8)] == [302] * 8


def test_signing_out_everywhere_and_another_password_end_all_sessions(app: Flask, desk: Desk) -> None:
    here, there = app.test_client(), app.test_client()
    for end in ("everywhere", "password"):
        for client in (here, there):
            assert sign_in(client)[0] == 302
        if end == "everywhere":
            here.post("/api/session/end", json={"everywhere": True}, headers=token(here))
        else:
            desk.users.put("Ana", PASSWORD)
        assert [client.get("/api/labs").status_code for client in (here, there)] == [401, 401]


def test_a_session_ends_when_it_was_not_seen_for_long(app: Flask, monkeypatch: pytest.MonkeyPatch) -> None:
    client = app.test_client()
    sign_in(client)
    assert client.get("/api/labs").status_code == 200
    monkeypatch.setattr(users_module, "IDLE_SECONDS", -1.0)
    assert client.get("/api/labs").status_code == 401


def test_who_changed_what_is_in_the_log(app: Flask, desk: Desk) -> None:
    client = app.test_client()
    sign_in(client)
    paper = client.get(f"/api/labs/{LAB}/papers").get_json()["papers"][0]["id"]
    client.post(f"/api/papers/{paper}/comments", json={"text": "Well done."}, headers=token(client))
    client.post(f"/api/papers/{paper}/count", json={"reason": "agreed"}, headers=token(client))
    found = [(entry.who, entry.what, entry.reason) for entry in desk.entries.newest()]
    assert found[:3] == [(NAME, "chosen to count", "agreed"), (NAME, "comment", ""), (NAME, "signed in", "")]
    assert found[-1] == ("", "user added", "")


def test_a_password_is_kept_as_scrypt_with_a_salt_of_its_own(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A case of RFC 7914, section 12, and what is kept."""
    monkeypatch.setattr(users_module, "_COST", 1024)
    monkeypatch.setattr(users_module, "_PARALLEL", 16)
    told = "fdbabe1c9d3472007856e7190d01e9fe7c6ad7cbc8237830e77376634b3731622eaf30d92e22a3886ff109279d9830dac727afb94a83ee6d8360cbdfa2cc0640"
    assert users_module._scrypt("password", b"NaCl") == f"scrypt-1024-8-16${b'NaCl'.hex()}${told}"
    desk.users.put("ben", PASSWORD)
    rows = desk.database.connection().execute("SELECT password FROM user").fetchall()
    assert len({row["password"] for row in rows}) == 2
    assert not any(PASSWORD in row["password"] for row in rows)
    with pytest.raises(BadPassword, match="at least 12 characters; this one has 11"):
        desk.users.put("eva", "x" * 11)
    assert desk.users.named("eva") is None
    assert (desk.users.check("BEN", PASSWORD) or desk.users.all()[0]).name == "ben"
    assert [desk.users.check(*own) for own in (("ben", PASSWORD + " "), ("eva", PASSWORD), ("", ""))] == [
        None
    ] * 3


def test_users_on_the_command_line(tmp_path: Path) -> None:
    path = tmp_path / "x.db"

    def call(*words: str, typed: str = "") -> tuple[int, str]:
        ran = CliRunner().invoke(main, ["user", *words, "--database", str(path)], input=typed)
        return ran.exit_code, ran.output

    twice = f"{PASSWORD}\n{PASSWORD}\n"
    assert call("add", NAME, typed="short\nshort\n")[0] == 2
    code, said = call("add", NAME, typed=twice)
    assert (code, f"{NAME} may sign in, and everybody has to." in said, PASSWORD in said) == (0, True, False)
    assert call("add", "ANA", typed=twice)[0] == 2
    assert call("list") == (0, f"{NAME}\n")
    users = Users(Database(path))
    found = users.check(NAME, PASSWORD)
    assert found is not None
    session = users.sign_in(found)
    assert call("password", NAME, typed="another-password\nanother-password\n")[0] == 0
    assert (users.signed_in(session), users.check(NAME, PASSWORD)) == (None, None)
    assert call("remove", "nobody")[0] == 2
    assert call("remove", NAME) == (0, f"{NAME} is removed. Nobody has to sign in any more.\n")
    refused = CliRunner().invoke(main, ["serve", "--host", "192.0.2.1", "--database", str(path)])
    assert (refused.exit_code, "others could use the application without a password" in refused.output) == (
        2,
        True,
    )


def test_behind_a_proxy_wrong_passwords_are_counted_by_who_asks(desk: Desk) -> None:
    client = create_app(desk, origin="https://labs.example.net").test_client()
    head = {"Host": "labs.example.net", "Origin": "https://labs.example.net"}
    wrong = {"name": NAME, "password": "not the password"}
    statuses = [
        client.post(
            "/sign-in", data=wrong, headers={**head, "X-Forwarded-For": f"192.0.2.{n // 6}"}
        ).status_code
        for n in range(7)
    ]
    assert statuses == [401] * 5 + [429, 401]
