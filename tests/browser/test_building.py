"""A lab is built by keyboard from nothing to a passed check, as an instructor does who counts the minutes."""

import subprocess
import sys
from pathlib import Path

from playwright.sync_api import Page, expect

from zensur.core.lab import read_lab

from .helpers import heading

ROUTERS, HOSTS = ("lock", "weir", "quay"), ("ledger", "clerk", "gauge", "bell", "crane", "shop")


def keys(page: Page, *pressed: str) -> None:
    """Press keys one after another; a text in quotes is typed."""
    for key in pressed:
        if key.startswith('"'):
            page.keyboard.type(key[1:])
        else:
            page.keyboard.press(key)


def made(page: Page, device: str) -> None:
    expect(page.locator(".weave .head b").get_by_text(device, exact=True)).to_be_visible()


def go_to(page: Page, name: str) -> None:
    """Find a device or network by the key for it."""
    keys(page, "/", f'"{name}', "Enter")
    expect(page.get_by_label("What to find")).to_be_hidden()


def test_the_ten_minute_lab_is_built_by_keyboard(page: Page, tmp_path: Path) -> None:
    devices_and_cables(page)
    addresses(page)
    routes_and_translation(page)
    expectations(page)
    text = page.evaluate("fetch('/lab-files/ten-minutes.lab.yaml').then(r => r.text())")
    file = tmp_path / "ten-minutes.lab.yaml"
    file.write_text(text)
    check = subprocess.run(
        [sys.executable, "-m", "zensur.cli", "check", str(file)], capture_output=True, text=True, check=False
    )
    assert check.returncode == 0, check.stdout + check.stderr
    lab = read_lab(text).lab
    assert lab is not None
    assert (len(lab.devices), len(lab.links), len(lab.networks), len(lab.pings)) == (9, 8, 8, 72)


def devices_and_cables(page: Page) -> None:
    page.goto("/")
    expect(heading(page)).to_contain_text("labs")
    keys(page, "n", '"Ten minutes', "Enter")
    expect(heading(page)).to_have_text("Ten minutes")
    keys(page, "d")
    expect(page.get_by_label("Name", exact=True)).to_be_focused()
    keys(page, f'"{" ".join(ROUTERS)}', "Enter")
    made(page, "quay")
    keys(page, f'"{" ".join(HOSTS)}', "Tab", '"h', "Enter")
    made(page, "shop")
    keys(page, "Escape")
    for a, others in (("lock", "weir ledger clerk"), ("weir", "quay gauge bell"), ("quay", "crane shop")):
        go_to(page, a)
        keys(page, "c")
        expect(page.get_by_label("To", exact=True)).to_be_visible()
        keys(page, "Tab", f'"{others}', "Enter")
        expect(page.get_by_label("To", exact=True)).to_have_value("")
        keys(page, "Escape")
    expect(page.get_by_text("9 devices, 8 networks")).to_be_visible()


PLAN = {
    "lock – weir": ("upper cut", "10.64.0.0/30"),
    "weir – quay": ("lower cut", "10.64.0.4/30"),
    "lock – ledger": ("office", "10.64.8.0/24"),
    "lock – clerk": ("archive", "10.64.9.0/24"),
    "weir – gauge": ("upper reach", "10.64.16.0/24"),
    "weir – bell": ("bridge", "10.64.17.0/24"),
    "quay – crane": ("quayside", "10.64.32.0/24"),
    "quay – shop": ("market", "203.0.113.0/29"),
}


def addresses(page: Page) -> None:
    for ends, (name, prefix) in PLAN.items():
        go_to(page, ends)
        keys(page, "f")
        expect(page.get_by_label("Name", exact=True)).to_be_focused()
        keys(page, f'"{name}', "Tab", f'"{prefix}', "Enter")
        expect(page.locator(".weave .name b").get_by_text(name, exact=True)).to_be_visible()
        expect(page.get_by_label("Name", exact=True)).to_be_hidden()  # the next key would be typed in there
        if not name.endswith("cut"):
            keys(page, "g")
    expect(page.get_by_text("All 8 links are up.")).to_be_visible()


def routes_and_translation(page: Page) -> None:
    go_to(page, "lock")
    keys(page, "r")
    page.get_by_role("button", name="Give all three routers the routes they lack").press("Enter")
    expect(page.get_by_text("Lacks no network.")).to_be_visible()
    # clerk's network is seen outside under one address: the translation is typed into quay's sheet
    go_to(page, "quay")
    keys(page, "e")
    expect(heading(page)).to_have_text("quay: the model answer")
    keys(page, "Control+End", '"addresses inner\npermit 10.64.9.0/24\ntranslate from inner to p3 shared\n')
    keys(page, '"port p3\nrealm external\nport p1\nrealm internal')
    expect(page.get_by_role("heading", name="Nothing to say of it")).to_be_visible()
    keys(page, "Control+b")
    expect(heading(page)).to_have_text("Ten minutes")


def expectations(page: Page) -> None:
    keys(page, "i")
    expect(heading(page)).to_have_text("Nothing is expected yet")
    expect(page.locator(".pairs td.at")).to_be_visible()
    keys(page, "A")
    expect(heading(page)).to_have_text("All 72 pings hold on the model answer")
    keys(page, "Control+s")
    expect(page.get_by_text("saved as version 2")).to_be_visible()
    page.goto("/labs/ten-minutes")
    expect(page.get_by_role("heading", name="Lab check: nothing to mend")).to_be_visible()
