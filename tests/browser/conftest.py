"""The real application in Debian's Chromium: the built front end, served from a database with the demo."""

import socket
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from zensur.core.formats import File, HandIn
from zensur.server import create_app, listen
from zensur.store import Database
from zensur.work.desk import Desk

ROUTE = "route 10.64.32.0/23 via 10.64.0.6"

REFUSED = "Failed to load resource: the server responded with a status of 4"

# A machine of two cores marks, serves and draws at once: what is waited for comes, but not by the clock.
PATIENCE = 30_000
expect.set_options(timeout=PATIENCE)

QUIET = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=QUIET)
        yield browser
        browser.close()


@pytest.fixture(scope="module")
def base(demo_database: Callable[[], Path]) -> str:
    desk = Desk(Database(demo_database()))
    _two_lines_of_one_mistake(desk)
    listening = socket.create_server(("127.0.0.1", 0))
    threading.Thread(target=listen(create_app(desk), listening).run, daemon=True).start()
    return f"http://127.0.0.1:{listening.getsockname()[1]}"


def _two_lines_of_one_mistake(desk: Desk) -> None:
    """Hand in a paper of a stage with a route on the wrong device, whatever the class made up for it holds."""
    version = desk.labs.newest("rebuilding")
    assert version is not None
    lab = desk.lab(version, "round-by-the-quay")
    texts = {name: sheet.text for name, sheet in lab.full_paper.items()}
    assert ROUTE in texts["weir"]
    texts["weir"] = texts["weir"].replace(f"{ROUTE}\n", "")
    texts["lock"] += f"{ROUTE}\n"
    files = {name: File(f"{name}.sheet", text.encode()) for name, text in texts.items()}
    desk.hand_in(desk.occasion(version, lab.stage), [HandIn("Zita Zwei", files)])


@pytest.fixture
def page(chromium: Browser, base: str) -> Iterator[Page]:
    """A fresh page; anything the browser complains of (errors, blocked styles) fails the test."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=base, locale="en-GB")
    page = context.new_page()
    page.set_default_timeout(PATIENCE)
    complaints: list[str] = []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.on(
        "console",
        lambda m: complaints.append(m.text) if m.type == "error" and REFUSED not in m.text else None,
    )
    yield page
    context.close()
    assert complaints == []
