"""From a key in a sheet to the pings of the lab as they are then, in a real browser: median and 95th percentile."""

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
WAIT = """() => new Promise(done => {
  const side = document.querySelector('.view-side');
  const heads = () => [...side.querySelectorAll('h2')].map(h => h.textContent);
  const told = () => heads().find(t => / pings? (hold|do not hold)/.test(t));
  const before = told();
  const watch = new MutationObserver(() => {
    if (told() !== before) { watch.disconnect(); done(performance.now() - window.pressed); }
  });
  watch.observe(side, {subtree: true, childList: true, characterData: true});
  document.querySelector('.cm-content').addEventListener(
    'keydown', () => { window.pressed = performance.now(); }, {once: true, capture: true});
})"""


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
            times = sorted(typed(page, slug, device))
            print(f"{what}: p50 {statistics.median(times):.0f} ms, p95 {times[int(len(times) * 0.95) - 1]:.0f} ms")
        browser.close()


def typed(page: Page, slug: str, device: str) -> list[float]:
    """Turn a comment on and off before the first route, or port, key by key."""
    page.goto(f"/labs/{slug}/sheets/answer/{device}")
    page.wait_for_selector(".view-side h2:has-text('pings')")
    page.locator(".cm-content").click()
    page.keyboard.press("Control+Home")
    times = []
    for n in range(KEYS):
        waiting = page.evaluate_handle(f"() => {{ window.told = ({WAIT})(); }}")
        waiting.dispose()
        page.keyboard.press("#" if n % 2 == 0 else "Backspace")
        times.append(page.evaluate("() => window.told"))
    return times


if __name__ == "__main__":
    main()
