"""Signing in and out, as somebody with a password does it."""

import socket
import threading
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from zensur.demo import lab_text
from zensur.server import create_app, listen
from zensur.store import Database
from zensur.work.desk import Desk

from .helpers import heading, violations


@pytest.fixture(scope="module")
def base(tmp_path_factory: pytest.TempPathFactory) -> str:
    desk = Desk(Database(Path(tmp_path_factory.mktemp("signed")) / "x.db"))
    desk.labs.add("first-addresses", lab_text("first-addresses"))
    desk.users.put("ana", "basin-lock-weir")
    listening = socket.create_server(("127.0.0.1", 0))
    threading.Thread(target=listen(create_app(desk), listening).run, daemon=True).start()
    return f"http://127.0.0.1:{listening.getsockname()[1]}"


def test_who_signs_in_comes_where_they_wanted_and_who_signs_out_is_asked_again(page: Page) -> None:
    page.goto("/labs/first-addresses/pings")
    expect(heading(page)).to_have_text("Zensur")
    assert violations(page) == []
    page.get_by_label("Name").fill("Ana")
    page.get_by_label("Password").fill("not the password")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("That name and password do not fit.")
    page.get_by_label("Name").fill("ana")
    page.get_by_label("Password").fill("basin-lock-weir")
    page.get_by_role("button", name="Sign in").click()
    expect(heading(page)).to_contain_text("pings")
    assert page.url.endswith("/labs/first-addresses/pings")
    page.get_by_role("button", name="ana").click()
    page.get_by_role("button", name="everywhere").click()
    expect(page.get_by_label("Password")).to_be_visible()


def test_a_page_whose_session_ended_leads_to_the_form_and_back(page: Page) -> None:
    page.goto("/groups")
    page.get_by_label("Name").fill("ana")
    page.get_by_label("Password").fill("basin-lock-weir")
    page.keyboard.press("Enter")
    expect(heading(page)).to_have_text("No groups yet")
    page.context.clear_cookies()
    page.get_by_role("link", name="Sittings").click()
    expect(page.get_by_label("Password")).to_be_visible()
    assert page.url.endswith("/sign-in?next=%2Fsittings")
