"""The shelf and the versions of labs, in the browser."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from zensur.demo import lab_text

from .helpers import heading, payload


def test_labs_are_copied_removed_found_and_taken_in_from_a_file(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Copy Routers that learn").click()
    expect(page.locator(".cm-content")).to_contain_text("copy")
    page.goto("/")
    cards = page.locator(".lab-card h2")
    expect(cards.filter(has_text=", copy")).to_have_count(1)
    page.keyboard.press("/")
    page.keyboard.type(", copy")
    expect(cards).to_have_count(1)
    page.keyboard.press("Enter")  # back to the labs
    page.keyboard.press("x")
    expect(heading(page)).to_have_text("No lab with “, copy”")
    page.get_by_role("button", name="Undo").click()
    expect(cards).to_have_count(1)
    page.keyboard.press("x")
    page.get_by_label("Find a lab").fill("")
    expect(cards.filter(has_text=", copy")).to_have_count(0)
    page.get_by_label("removed labs").check()
    expect(heading(page)).to_have_text("One lab removed")
    page.keyboard.press("x")  # although a box is what was clicked last
    expect(heading(page)).to_have_text("No lab removed")
    page.get_by_label("removed labs").uncheck()
    page.get_by_label("Level").select_option("fifth week")
    expect(cards).to_have_text(["The toll house and the world outside"])
    page.get_by_label("Choose a lab file").set_input_files(
        payload("x.lab.yaml", lab_text("tidings").replace("devices:", "devizes:").encode())
    )
    expect(page.get_by_text("This file cannot be read as a lab.")).to_be_visible()
    page.get_by_label("Choose a lab file").set_input_files(
        payload("x.lab.yaml", lab_text("tidings").encode())
    )
    page.get_by_label("There is a lab tidings already.").fill("tidings-in-spring")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/labs/tidings-in-spring$"))


def test_a_lab_goes_back_to_an_earlier_version(page: Page) -> None:
    page.goto("/")
    page.get_by_label("Its title").fill("There and back")
    page.get_by_role("button", name="Start from an example").click()
    expect(heading(page)).to_have_text("There and back")
    page.get_by_role("link", name="Text", exact=True).click()
    page.locator(".cm-content").click()
    page.keyboard.press("Control+End")
    page.keyboard.type("scheme: {carry_forward: false}\n")
    page.keyboard.press("Control+s")
    expect(page.get_by_text("Saved as version 2.")).to_be_visible()
    page.get_by_role("link", name="All versions").click()
    expect(heading(page)).to_have_text("Two versions")
    expect(page.get_by_text("Each mistake is charged wherever it shows.")).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_text("This is the first version")).to_be_visible()
    page.keyboard.press("b")
    expect(heading(page)).to_have_text("Three versions")
    expect(page.get_by_text("Each mistake is charged once.")).to_be_visible()
    with page.expect_download() as download:
        page.goto("/labs/there-and-back/text")
        page.get_by_role("link", name="save as a file").click()
    assert "carry_forward" not in Path(download.value.path()).read_text("utf-8")


def test_keys_work_after_a_choice_and_are_shown_while_typing(page: Page) -> None:
    page.goto("/labs/first-addresses")
    page.get_by_text("given", exact=True).first.click()
    page.keyboard.press("d")
    expect(page.get_by_role("heading", name="New device")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("e")
    page.locator(".cm-content").click()
    page.keyboard.press("F1")
    expect(page.get_by_role("heading", name="Keys of this view")).to_be_visible()
