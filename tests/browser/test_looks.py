"""What every view owes its reader: room in a narrow window, words that can be read by day and by night."""

from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from .test_browser import heading

VIEWS = [
    "/",
    "/labs/first-addresses",
    "/labs/four-gates/text",
    "/labs/four-gates/sheets/answer/weir",
    "/labs/rebuilding/versions",
    "/labs/four-gates/pings",
    "/labs/four-gates/pings/2",
    "/labs/first-addresses/papers",
    "/papers/2",
]
CONTRAST = """() => {
  const light = ([r, g, b]) => [r, g, b].map((v) => v / 255).map((v) => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
    .reduce((sum, v, n) => sum + v * [0.2126, 0.7152, 0.0722][n], 0);
  const numbers = (color) => color.match(/[\\d.]+/g).map(Number);
  const behind = (element) => {
    for (let at = element; at; at = at.parentElement) {
      const color = numbers(getComputedStyle(at).backgroundColor);
      if (color.length === 3 || color[3] > 0) return color;
    }
    return [255, 255, 255];
  };
  const poor = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const element = walker.currentNode.parentElement;
    if (!walker.currentNode.textContent.trim() || !element.checkVisibility() || element.closest("svg, :disabled, option, .cm-selectionLayer, .visually-hidden")) continue;
    const [one, other] = [light(numbers(getComputedStyle(element).color)), light(behind(element))];
    const contrast = (Math.max(one, other) + 0.05) / (Math.min(one, other) + 0.05);
    if (contrast < 4.5) poor.push(`${contrast.toFixed(1)} ${element.className} ${walker.currentNode.textContent.slice(0, 40)}`);
  }
  return poor;
}"""
"""Texts whose contrast with what lies behind them is below 4.5 to 1 (WCAG 2.2, 1.4.3)."""


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_every_text_can_be_read_by_day_and_by_night(chromium: Browser, base: str, scheme: str) -> None:
    page = chromium.new_page(base_url=base, color_scheme="dark" if scheme == "dark" else "light")
    for path in VIEWS:
        page.goto(path)
        expect(heading(page)).not_to_have_text("One moment …")
        assert page.evaluate(CONTRAST) == [], path
    page.close()


@pytest.mark.parametrize(("width", "height"), [(1024, 700), (640, 400)])  # and 1280x800 at 200 %
def test_nothing_is_cut_off_in_a_narrow_window(page: Page, width: int, height: int) -> None:
    page.set_viewport_size({"width": width, "height": height})
    for path in VIEWS:
        page.goto(path)
        expect(heading(page)).not_to_have_text("One moment …")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
        assert page.evaluate("""() => {
          const side = document.querySelector(".view-side"), main = document.querySelector(".view-main");
          return side === null || main.clientWidth >= 400 && side.clientWidth >= 300;
        }"""), path


AXE = Path(__file__).parent.parent.parent / "web/node_modules/axe-core/axe.min.js"
FOUND = """async () => (await axe.run(document, {resultTypes: ["violations"]})).violations
  .map((one) => `${one.id}: ${one.nodes.map((node) => node.target.join(" ")).slice(0, 3).join("; ")}`)"""


@pytest.mark.parametrize("path", VIEWS)
def test_axe_finds_nothing(page: Page, path: str) -> None:
    page.goto(path)
    expect(heading(page)).not_to_have_text("One moment …")
    page.evaluate(AXE.read_text("utf-8"))
    assert page.evaluate(FOUND) == []
