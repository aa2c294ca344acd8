"""What every view owes its reader: room in a narrow window, words that can be read by day and by night."""

import re

import pytest
from playwright.sync_api import Page, expect

from .helpers import heading, violations

VIEWS = [
    "/",
    "/labs/first-addresses",
    "/labs/four-gates/text",
    "/labs/four-gates/sheets/answer/weir",
    "/labs/rebuilding/versions",
    "/labs/first-addresses/class",
    "/labs/four-gates/plan",
    "/labs/four-gates/bench",
    "/labs/four-gates/scheme",
    "/labs/rebuilding/about",
    "/labs/four-gates/pings",
    "/labs/four-gates/pings/2",
    "/labs/first-addresses/papers",
    "/papers/2",
    "/papers/12",
]


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


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize(
    "path",
    ["/", "/labs/first-addresses", "/labs/four-gates/text", "/labs/four-gates/sheets/answer/weir", "/hand-out/four-gates",
     "/labs/first-addresses/class", "/labs/four-gates/plan", "/labs/four-gates/bench", "/labs/four-gates/scheme", "/labs/rebuilding/about",
     "/labs/four-gates/pings", "/labs/four-gates/pings/10",
     "/labs/first-addresses/papers", "/labs/rebuilding/papers?stage=as-it-was", "/papers/1", "/papers/20", "/papers/1/pings/6", "/labs/rebuilding/versions", "/labs/first-addresses/by-hand",
     "/labs/first-addresses/alike?a=1&b=2", "/nothing"],
)  # fmt: skip
def test_axe_finds_nothing(page: Page, path: str, scheme: str) -> None:
    """Contrast among the rest, by day and by night."""
    page.emulate_media(color_scheme="dark" if scheme == "dark" else "light")
    page.goto(path)
    page.wait_for_load_state("networkidle")
    assert violations(page) == []


@pytest.mark.parametrize("key", ["e", "i", "m"])
def test_axe_finds_nothing_on_the_pages_of_a_paper(page: Page, key: str) -> None:
    page.goto("/papers/15")
    page.wait_for_load_state("networkidle")
    page.keyboard.press(key)
    if key == "e":
        page.get_by_role("button", name="Overrule realm toll p1").click()
        expect(page.get_by_label(re.compile("^Marks for "))).to_be_focused()
    assert violations(page) == []
