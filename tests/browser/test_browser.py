"""The interface as its users meet it, by keyboard where that is the way."""

from playwright.sync_api import Page, expect

from .helpers import TOLL_HOUSE, heading, put_text


def from_an_example(page: Page, title: str) -> None:
    """Start a lab from the example, and turn to its text."""
    page.goto("/")
    page.get_by_label("Its title").fill(title)
    page.get_by_role("button", name="Start from an example").click()
    expect(heading(page)).to_have_text(title)
    page.get_by_role("link", name="Text", exact=True).click()
    expect(heading(page)).to_have_text("The lab's text")


def test_a_lab_is_made_broken_mended_and_saved(page: Page) -> None:
    page.goto("/")
    expect(heading(page)).to_have_text("11 labs")
    page.keyboard.press("n")
    page.keyboard.type("Two banks of the canal")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")  # from an example
    expect(heading(page)).to_have_text("Two banks of the canal")
    page.get_by_role("link", name="Text", exact=True).click()
    expect(heading(page)).to_have_text("The lab's text")
    starter = page.evaluate("fetch('/api/labs/two-banks-of-the-canal').then(r => r.json()).then(l => l.text)")
    put_text(page, starter.replace("weir:p1 -- gauge:p1", "weir:p9 -- gauge:p1"))
    expect(heading(page)).to_have_text("The lab's text: one to mend")
    expect(page.get_by_role("button", name="line 13, links[0]")).to_be_visible()
    expect(page.get_by_text("weir has no port p9; it has p1, p2.")).to_be_visible()
    expect(page.locator(".cm-lintRange-error")).to_contain_text("weir:p9")
    page.keyboard.press("Control+s")
    expect(page.get_by_text("The text cannot be saved as a lab yet.")).to_be_visible()
    page.reload()  # kept as typed
    expect(page.locator(".cm-content")).to_contain_text("weir:p9")
    put_text(page, starter.replace("Two banks of the canal", "Both banks"))
    expect(page.get_by_role("heading", name="It can be read")).to_be_visible()
    page.keyboard.press("Control+s")
    expect(page.get_by_text("Saved as version 2.")).to_be_visible()
    page.keyboard.press("Control+b")
    expect(heading(page)).to_have_text("Both banks")
    expect(page.get_by_text("saved as version 2")).to_be_visible()


def test_the_toll_house_is_written_in_the_browser(page: Page) -> None:
    from_an_example(page, "The toll house")
    put_text(page, TOLL_HOUSE)
    page.get_by_role("button", name="Save as version 2").click()
    expect(page.get_by_text("Saved as version 2.")).to_be_visible()
    page.goto("/labs/the-toll-house")
    expect(page.get_by_text("9 devices, 6 networks")).to_contain_text("All 8 links are up.")
    assert page.locator(".weave .head b").all_inner_texts() == [
        "gate", "weir", "gauge", "ledger", "sw1", "notice", "toll", "carrier", "far"
    ]  # fmt: skip
    assert page.locator(".weave .name b").all_inner_texts() == [
        "upper reach",
        "bridge",
        "basin",
        "cabin",
        "street",
        "town",
    ]
    expect(page.locator(".strokes .serial")).to_have_count(1)
    expect(page.get_by_text("2 of 2 pings")).to_be_visible()


def test_a_sheet_is_written_mended_and_saved_by_keys(page: Page) -> None:
    from_an_example(page, "A sheet by keys")
    before = page.evaluate("fetch('/api/labs/a-sheet-by-keys').then(r => r.json()).then(l => l.text)")
    page.keyboard.press("Control+b")
    expect(heading(page)).to_have_text("A sheet by keys")
    device = page.locator("aside h2").first.inner_text()
    page.keyboard.press("e")
    expect(heading(page)).to_have_text(f"{device}: the model answer")
    page.goto("/labs/a-sheet-by-keys/sheets/answer/weir")
    expect(page.get_by_role("heading", name="All 3 pings hold")).to_be_visible()
    page.locator(".cm-content").click()
    page.keyboard.press("Control+End")
    page.keyboard.type("rout default vai 10.64.0.2")
    expect(page.get_by_role("heading", name="One to mend", exact=True)).to_be_visible()
    page.keyboard.press("Control+Enter")
    expect(page.locator(".cm-content")).to_contain_text("route default vai")
    page.get_by_role("button", name="Mend: write via").click()
    expect(page.get_by_role("heading", name="Nothing to say of it")).to_be_visible()
    page.keyboard.press("End")
    page.keyboard.type(" pre")
    page.keyboard.press("Control+ ")
    page.locator(".cm-tooltip-autocomplete").get_by_role("option", name="preference").click()
    page.keyboard.type(" 20")
    page.keyboard.press("Control+s")
    expect(page.get_by_text("Saved as version 2.")).to_be_visible()
    after = page.evaluate("fetch('/api/labs/a-sheet-by-keys').then(r => r.json()).then(l => l.text)")
    line = "    route 10.64.40.0/24 via 10.64.0.2\n"
    assert after == before.replace(line, f"{line}    route default via 10.64.0.2 preference 20\n", 1)
    page.keyboard.press("Control+b")
    expect(page.locator("aside")).to_contain_text("Lab check: nothing to mend")


def test_the_lab_text_is_checked_as_a_whole_while_typing(page: Page) -> None:
    page.goto("/labs/four-gates/text")
    expect(page.get_by_role("heading", name="It can be read, and all 12 pings hold")).to_be_visible()
    text = page.evaluate("fetch('/api/labs/four-gates').then(r => r.json()).then(l => l.text)")
    put_text(page, text.replace("to: bell, expect: reply, note", "to: bell, expect: timeout, note", 1))
    expect(heading(page)).to_have_text("The lab's text: one to mend")
    expect(
        page.get_by_text("gauge to bell is to be timeout, and on the model answer it is reply")
    ).to_be_visible()
    put_text(page, text)
    expect(page.get_by_role("heading", name="It can be read, and all 12 pings hold")).to_be_visible()


def test_the_page_for_learners(page: Page) -> None:
    page.goto("/labs/first-addresses")
    with page.context.expect_page() as opened:
        page.get_by_role("link", name="a page to print").click()
    handed = opened.value
    expect(heading(handed)).to_have_text("First addresses")
    expect(handed.get_by_text("ledger pings gauge and gets a reply.")).to_be_visible()
    assert handed.get_by_text("10.64.8.1/24").count() == 0


def test_two_browsers_on_one_lab_are_told_of_each_other(page: Page) -> None:
    from_an_example(page, "Shared by two")
    text = page.evaluate("fetch('/api/labs/shared-by-two').then(r => r.json()).then(l => l.text)")
    other = page.context.new_page()
    other.goto("/labs/shared-by-two/text")
    expect(heading(other)).to_have_text("The lab's text")
    put_text(page, text.replace("Shared by two", "Mine"))
    put_text(other, text.replace("Shared by two", "Theirs"))
    page.keyboard.press("Control+s")
    expect(page.get_by_text("Saved as version 2.")).to_be_visible()
    other.keyboard.press("Control+s")
    expect(other.get_by_text("Somebody else has saved this lab meanwhile.")).to_be_visible()
    expect(other.locator(".cm-content")).to_contain_text("Theirs")
    other.get_by_role("button", name="Put mine on top of it").click()
    other.get_by_role("button", name="Save as version 3").click()
    expect(other.get_by_text("Saved as version 3.")).to_be_visible()


def test_a_lab_is_read_by_keyboard(page: Page) -> None:
    page.goto("/labs/first-addresses")
    expect(page.locator(".subnet")).to_contain_text("ledger p1 in office")
    page.keyboard.press("ArrowRight")
    expect(page.locator(".subnet")).to_contain_text("lock p2 in office")
    expect(page.locator(".subnet")).to_contain_text("mask 255.255.255.192")
    expect(page.locator(".subnet")).to_contain_text("next free /2610.64.32.64")
    page.keyboard.press("ArrowDown")
    expect(page.locator(".subnet")).to_contain_text("lock p1 in basin")
    expect(page.locator(".view-side .sheet-text")).to_contain_text("address 10.64.8.1/24")
    page.keyboard.press("x")
    expect(page.locator(".view-side .sheet-text")).to_contain_text("route 10.64.16.0/20 via 10.64.8.2")
    page.keyboard.press("?")
    expect(page.get_by_role("heading", name="Keys of this view")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Keys of this view")).to_be_hidden()
    page.keyboard.press("i")
    expect(heading(page)).to_have_text("All 12 pings hold on the model answer")
    page.keyboard.press("v")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(heading(page)).to_have_text("lock to quay:p1: a reply, as expected")


def test_a_lab_is_looked_at_stage_by_stage(page: Page) -> None:
    page.goto("/labs/rebuilding")
    stages = page.get_by_role("navigation", name="Stages of the lab")
    expect(stages.locator("[aria-current=page]")).to_have_text("The new cut")
    page.keyboard.press("t")
    expect(stages.locator("[aria-current=page]")).to_have_text("As it always was")
    page.keyboard.press("/")
    page.keyboard.type("weir")
    page.keyboard.press("Enter")
    expect(page.locator(".view-side .sheet-text").first).to_contain_text("address 10.64.0.1/30")
    page.keyboard.press("t")
    expect(page.locator(".view-side h2").first).to_have_text("weir")  # the device that was looked at
    expect(page.get_by_text("Taken away:")).to_be_visible()
    page.keyboard.press("i")
    expect(heading(page)).to_contain_text("pings hold on the model answer")
    expect(stages.locator("[aria-current=page]")).to_have_text("Round by the quay")
    expect(page.locator(".pairs td.at")).to_be_visible()
    page.keyboard.press("v")
    expect(page.get_by_role("columnheader", name="Learners")).to_be_visible()
    page.keyboard.press("Enter")
    packets = page.get_by_role("link", name="Its packets as a file")
    expect(packets).to_have_attribute("href", "/captures/labs/rebuilding/1.pcapng?stage=round-by-the-quay")
    page.keyboard.press("Escape")
    expect(stages.locator("[aria-current=page]")).to_have_text("Round by the quay")
    page.goto("/labs/rebuilding/sheets/answer/weir?stage=as-it-was")
    expect(page.get_by_text("As it always was: all that a full paper has")).to_be_visible()
    page.locator(".cm-content").click()
    page.keyboard.press("Control+End")
    page.keyboard.type("route 10.64.99.0/24 discard\n")
    expect(page.get_by_role("heading", name="All 3 pings hold")).to_be_visible()
    page.keyboard.press("Control+s")
    expect(page.get_by_text("Saved as version 2.")).to_be_visible()
    page.goto("/labs/rebuilding/versions")
    expect(page.get_by_role("heading", name="stage as-it-was, weir")).to_be_visible()


def test_a_journey_is_stepped_there_and_back(page: Page) -> None:
    page.goto("/labs/four-gates/papers")
    page.get_by_role("link", name="Birte Quast", exact=True).click()
    page.get_by_role("link", name="3", exact=True).first.click()
    expect(heading(page)).to_have_text("gauge to bell: no answer, not as expected")
    expect(
        page.get_by_text("The request arrives, the answer ends at toll: no route to 10.64.16.20.")
    ).to_be_visible()
    current = page.locator(".ledger li[aria-current='true']")
    expect(current).to_contain_text("gauge sends to its gateway 10.64.16.1")
    page.keyboard.press("ArrowRight")
    expect(current).to_contain_text("weir takes it in at p1")
    expect(current).to_contain_text("weir · line 2 · route 10.64.34.0/24 out s1")
    expect(page.locator(".mark.chosen")).to_have_text("2")
    page.keyboard.press("b")
    expect(current).to_contain_text("bell answers")
    expect(page.locator(".lines polyline")).to_have_count(2)
    page.keyboard.press("ArrowRight")
    expect(current).to_contain_text("toll drops it: no route to 10.64.16.20")
    page.keyboard.press("]")
    expect(heading(page)).to_contain_text("ledger to crane")
    page.keyboard.press("Escape")
    expect(heading(page)).to_have_text("Birte Quast")
