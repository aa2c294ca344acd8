"""The bench in the browser: everything follows typing, and the right things turn."""

import re

from playwright.sync_api import Page, expect

from zensur.core.formats import write_configuration
from zensur.core.lab import read_lab
from zensur.core.sheet import read_sheet
from zensur.demo import lab_text

from .helpers import heading, put_text


def on_bench(page: Page, lab: str) -> None:
    page.goto(f"/labs/{lab}/bench")
    expect(heading(page)).to_contain_text("Bench:")


def test_the_whole_model_answer_is_typed_and_every_ping_comes(page: Page) -> None:
    lab = read_lab(lab_text("four-gates")).lab
    assert lab is not None
    on_bench(page, "four-gates")
    expect(heading(page)).to_have_text("Bench: 0 of 12 as expected")
    for device, sheet in lab.answer.items():
        page.get_by_role("navigation", name="Devices").get_by_role("button", name=device, exact=True).click()
        expect(page.get_by_label(f"The sheet of {device}")).to_be_visible()
        put_text(page, sheet.text)
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
    page.reload()  # nothing of it is lost
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")


def test_a_broken_line_turns_its_pings_and_is_undone(page: Page) -> None:
    on_bench(page, "four-gates")
    page.get_by_label("starting from").select_option("answer")
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
    page.get_by_role("navigation", name="Devices").get_by_role("button", name="toll", exact=True).click()
    page.get_by_label("The sheet of toll").click()
    page.keyboard.press("Control+Home")
    first = page.locator(".cm-line").first.inner_text()
    page.keyboard.type("#")
    expect(heading(page)).not_to_have_text("Bench: 12 of 12 as expected")
    expect(page.locator(".bench-pings .turned").first).to_be_visible()
    expect(page.get_by_role("heading", name="With the last edit")).to_be_visible()
    expect(page.get_by_text(f"toll lost {first.split()[1]}")).to_be_visible()
    lost = page.locator(".bench-pings tr", has=page.locator("b")).first
    lost.get_by_role("button").first.click()
    expect(page.locator(".ledger").first).to_be_visible()
    expect(page.locator(".ledger li.ended").first).to_contain_text("toll")
    page.keyboard.press("ArrowRight")
    expect(page).to_have_url(re.compile("leg=2"))
    page.keyboard.press("f")
    expect(page.get_by_role("heading", name="Both sides of")).to_be_visible()
    page.keyboard.press("v")  # the same ping before the line was broken
    expect(page.get_by_text("on the bench, before the last edit")).to_be_visible()
    expect(page.locator(".ledger li.ended")).to_have_count(0)
    page.keyboard.press("Escape")
    expect(heading(page)).to_contain_text("Bench:")
    page.get_by_text("marks", exact=True).last.click()
    expect(page.get_by_role("heading", name="1 mistake")).to_be_visible()
    expect(page.locator(".bench-state")).to_contain_text(first)
    page.get_by_label("The sheet of toll").click()
    page.keyboard.press("Control+z")
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")


def test_a_paper_is_put_on_the_bench_and_questions_are_asked(page: Page) -> None:
    on_bench(page, "four-gates")
    page.get_by_label("starting from").select_option(label="the paper of Birte Quast")
    expect(heading(page)).not_to_have_text("Bench: 0 of 12 as expected")
    page.keyboard.press("Control+k")
    page.get_by_label("To", exact=True).fill("bell")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="forget")).to_have_count(1)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Everybody to everybody").click()
    expect(page.get_by_text("Who reaches whom")).to_be_visible()
    page.get_by_label("An address to change everywhere").fill("10.64.0.2")
    page.get_by_label("What it becomes").fill("10.64.0.9")
    before = heading(page).inner_text()
    page.keyboard.press("Control+m")
    page.get_by_label("What it becomes").press("Enter")
    expect(page.get_by_role("heading", name="With the last edit")).to_be_visible()
    page.get_by_role("button", name="go back to it").click()
    expect(heading(page)).to_have_text(before)


def test_a_bench_is_kept_under_an_address_and_as_files(page: Page) -> None:
    on_bench(page, "four-gates")
    page.get_by_label("starting from").select_option("answer")
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
    page.get_by_label("A name to keep this bench under").fill("For Tuesday")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"bench=\d+"))
    address = page.url
    page.get_by_label("The sheet of").click()
    put_text(page, "")
    expect(heading(page)).not_to_have_text("Bench: 12 of 12 as expected")
    page.reload()  # the address does not take away what was typed since
    expect(page.get_by_label("starting from")).to_contain_text("For Tuesday")
    expect(heading(page)).not_to_have_text("Bench: 12 of 12 as expected")
    page.get_by_label("starting from").select_option("given")
    expect(heading(page)).to_have_text("Bench: 0 of 12 as expected")
    page.goto(address)
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
    for name, suffix in (("sheets", ".zip"), ("script for Linux", ".sh"), ("packets", ".pcapng")):
        with page.expect_download() as download:
            page.get_by_role("button", name=name, exact=True).click()
        assert download.value.suggested_filename == f"four-gates-bench{suffix}"
    page.locator(".bench-pings tbody").get_by_role("button").first.click()
    with page.expect_download() as download:
        page.get_by_role("button", name="Its packets as a file").click()
    assert download.value.suggested_filename == "four-gates-bench-ping-1.pcapng"
    page.goto(address)
    page.get_by_role("button", name="remove it").click()
    expect(page).not_to_have_url(re.compile("bench="))
    expect(page.get_by_label("starting from")).to_contain_text("not kept any more")
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")


def test_a_service_and_a_name_are_asked_and_what_cannot_be_asked_is_not_kept(page: Page) -> None:
    on_bench(page, "harbour-office")
    page.get_by_label("starting from").select_option("answer")
    page.keyboard.press("Control+k")
    page.get_by_label("From", exact=True).select_option("boatman")
    for typed, outcome in (("name weir.harbour.example", "answer"), ("tcp archive:9", "refused")):
        page.get_by_label("To", exact=True).fill(typed)
        page.keyboard.press("Enter")
        row = page.locator(".bench-pings tr", has=page.get_by_role("button", name="forget")).last
        expect(row).to_contain_text(typed.removeprefix("name "))
        expect(row).to_contain_text(outcome)
        expect(page.get_by_label("To", exact=True)).to_have_value("")
    page.get_by_label("To", exact=True).fill("tcp archive")
    page.keyboard.press("Enter")
    expect(page.locator(".said")).to_contain_text("Write tcp TARGET:N")
    expect(page.get_by_role("button", name="forget")).to_have_count(2)
    page.get_by_role("button", name="forget").first.click()
    expect(page.get_by_role("button", name="forget")).to_have_count(1)


def test_a_configuration_in_another_form_is_set_off_and_becomes_a_sheet(page: Page) -> None:
    on_bench(page, "four-gates")
    page.get_by_label("starting from").select_option("answer")
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
    page.get_by_role("navigation", name="Devices").get_by_role("button", name="bell", exact=True).click()
    expect(page.get_by_label("The sheet of bell")).to_be_visible()
    put_text(page, write_configuration(read_sheet("gateway 10.64.34.1\n").configuration, "yang-json"))
    expect(page.locator(".cm-line .word", has_text="next-hop-address")).to_be_visible()
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
    page.get_by_role("button", name="Write as a sheet").click()
    expect(page.locator(".cm-line").first).to_have_text("gateway 10.64.34.1")
    expect(page.get_by_role("button", name="Bring into canonical form")).to_be_visible()
    expect(heading(page)).to_have_text("Bench: 12 of 12 as expected")
