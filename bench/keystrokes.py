"""From a key in a sheet to the pings as they are then, on a lab's sheet and on the bench, in a real browser."""

import socket
import statistics
import tempfile
import threading
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from zensur.demo import lab_text
from zensur.server import create_app, listen
from zensur.store import Database
from zensur.work.desk import Desk

KEYS = 40
WAIT = """told => new Promise(done => {
  const found = () => [...document.querySelectorAll('h1, h2')].map(h => h.textContent).find(t => RegExp(told).test(t));
  const before = found();
  const watch = new MutationObserver(() => {
    if (found() !== before) { watch.disconnect(); done(performance.now() - window.pressed); }
  });
  watch.observe(document.querySelector('#root'), {subtree: true, childList: true, characterData: true});
  document.querySelector('.cm-content').addEventListener(
    'keydown', () => { window.pressed = performance.now(); }, {once: true, capture: true});
})"""
ON_SHEET, ON_BENCH = " pings? (hold|do not hold)", "^Bench: "


def large_lab(routers: int) -> str:
    """A chain of routers, each with a host, and pings from the first host to every other."""
    devices, links, answer = [], [], []
    for n in range(routers):
        devices += [f"  r{n}: {{kind: router, ports: [p1, p2, p3]}}", f"  h{n}: {{kind: host}}"]
        links += [f"  - r{n}:p1 -- h{n}:p1"] + ([f"  - r{n}:p2 -- r{n + 1}:p3"] if n + 1 < routers else [])
        ports = [("p1", f"10.64.{n}.1/24")]
        routes = []
        if n + 1 < routers:
            ports.append(("p2", f"100.64.{n}.1/30"))
        if n:
            ports.append(("p3", f"100.64.{n - 1}.2/30"))
        for other in range(routers):
            hop = f"100.64.{n}.2" if other > n else f"100.64.{n - 1}.1"
            routes += [] if other == n else [f"route 10.64.{other}.0/24 via {hop}"]
        lines = [line for port, address in ports for line in (f"port {port}", f"  address {address}", "  on")]
        answer += [f"  r{n}: |", *(f"    {line}" for line in lines + routes)]
        answer += [f"  h{n}: |", "    port p1", f"      address 10.64.{n}.20/24", f"    gateway 10.64.{n}.1"]
    pings = [f"  - {{from: h0, to: h{n}, expect: reply}}" for n in range(1, routers)]
    head = ["zensur: 1", "id: large", "title: Large", "devices:"]
    return "\n".join([*head, *devices, "links:", *links, "answer:", *answer, "pings:", *pings, ""])


def main() -> None:
    desk = Desk(Database(Path(tempfile.mkdtemp()) / "x.db"))
    desk.labs.add("toll-house", lab_text("toll-house"))
    desk.labs.add("large", large_lab(20))
    listening = socket.create_server(("127.0.0.1", 0))
    threading.Thread(target=listen(create_app(desk), listening).run, daemon=True).start()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(base_url=f"http://127.0.0.1:{listening.getsockname()[1]}")
        for slug, device, what in (("toll-house", "toll", "12 devices"), ("large", "r3", "40 devices")):
            for told, where in ((ON_SHEET, "sheet"), (ON_BENCH, "bench")):
                times = sorted(typed(page, slug, device, told))
                half, most = statistics.median(times), times[int(len(times) * 0.95) - 1]
                print(f"{what}, {where}: p50 {half:.0f} ms, p95 {most:.0f} ms")
        browser.close()


def typed(page: Page, slug: str, device: str, told: str) -> list[float]:
    """Turn a comment on and off before the first line, key by key."""
    if told == ON_SHEET:
        page.goto(f"/labs/{slug}/sheets/answer/{device}")
        page.wait_for_selector(".view-side h2:has-text('pings')")
    else:
        page.goto(f"/labs/{slug}/bench")
        page.wait_for_selector(".cm-content")
        page.get_by_label("starting from").select_option("answer")
        page.get_by_role("navigation", name="Devices").get_by_role("button", name=device, exact=True).click()
        page.get_by_label(f"The sheet of {device}").wait_for()
    page.locator(".cm-content").click()
    page.keyboard.press("Control+Home")
    page.wait_for_load_state("networkidle")
    times = []
    for n in range(KEYS):
        page.evaluate(f"told => {{ window.told = ({WAIT})(told); }}", told)
        page.keyboard.press("#" if n % 2 == 0 else "Backspace")
        times.append(page.evaluate("() => window.told"))
    return times


if __name__ == "__main__":
    main()
