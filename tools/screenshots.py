"""Takes the pictures of docs/screenshots from the demo data, in Debian's Chromium, at 1280x800.

python tools/screenshots.py [FOLDER [NAME …]]
"""

import socket
import sys
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from zensur.demo import fill
from zensur.demo.classes import fill_class
from zensur.server import create_app, listen
from zensur.store import Database
from zensur.work.desk import Desk

ROOT = Path(__file__).parent.parent
VIEWS = {
    "labs": "/",
    "lab": "/labs/first-addresses",
    "building": "/labs/four-gates",
    "plan": "/labs/four-gates/plan",
    "scheme": "/labs/four-gates/scheme",
    "text": "/labs/four-gates/text",
    "sheet": "/labs/four-gates/sheets/answer/weir",
    "hand-out": "/hand-out/first-addresses",
    "pings": "/labs/toll-house/pings",
    "papers": "/labs/first-addresses/papers?sitting=1",
    "paper": "/papers/2",
    "class": "/labs/four-gates/class?sitting=3",
    "sitting": "/sittings/2",
    "groups": "/groups/1",
    "paper-marks": "/papers/15",
    "journey": "/labs/four-gates/pings/2",
    "journey-lost": "/papers/8/pings/3",
    "translated": "/labs/toll-house/pings/14",
    "bench": "/labs/four-gates/bench",
}
PRESSED = {
    "lab": ["ArrowRight"],
    "translated": ["ArrowRight"],
    "building": ["/", "type:lock", "Enter", "r", "ArrowDown"],
    "plan": ["ArrowDown"],
    "bench": [
        "wait:.cm-content",
        "Control+Home",
        "type:route 10.64.34.0/24 via 10.64.0.14",
        "wait:text=is this device's own address",
    ],
    "scheme": ["ArrowDown", "ArrowDown"],
    "pings": ["ArrowRight"],
    "journey": ["ArrowRight", "ArrowRight"],
    "journey-lost": ["b", "ArrowRight"],
    "sheet": [
        "Control+End",
        "type:route 10.64.99.0/24 vai 10.64.0.9",
        "wait:.remark",
        "Enter",
        "type:rou",
        "wait:.cm-tooltip-autocomplete",
    ],
    "text": ["Control+End", "PageUp"],
    "paper": ["m"],
    "class": ["ArrowDown", "ArrowRight", "ArrowRight"],
    "paper-marks": ["e"],
}


def take(page: Page, base: str, name: str, folder: Path) -> None:
    """Open a view, press its keys (``type:`` types, ``wait:`` waits for something), and take its picture."""
    page.goto(base + VIEWS[name])
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    for key in PRESSED.get(name, []):
        verb, colon, what = key.partition(":")
        if not colon:
            page.keyboard.press(key)
        elif verb == "type":
            page.keyboard.type(what)
        else:
            page.wait_for_selector(what)
    page.wait_for_load_state("networkidle")
    page.screenshot(path=folder / f"{name}.png", animations="disabled")


def main() -> None:
    """Serve the demo and take the pictures."""
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as place:
        desk = Desk(Database(Path(place) / "demo.db"))
        fill(desk)
        fill_class(desk)
        app = create_app(desk)
        desk.workers.settle()
        listening = socket.create_server(("127.0.0.1", 0))
        threading.Thread(target=listen(app, listening).run, daemon=True).start()
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.on("console", lambda m: print(m.type, m.text) if m.type in ("error", "warning") else None)
            page.on("pageerror", lambda e: print("page error:", e))
            for name in sys.argv[2:] or VIEWS:
                take(page, f"http://127.0.0.1:{listening.getsockname()[1]}", name, folder)
            browser.close()


if __name__ == "__main__":
    main()
