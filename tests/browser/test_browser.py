"""The interface as its users meet it, by keyboard where that is the way."""

import io
import json
import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import FilePayload, Locator, Page, expect

from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text

AXE = (Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text("utf-8")

TOLL_HOUSE = (Path(__file__).parents[1] / "labs" / "toll-house.lab.yaml").read_text("utf-8")


def class_zip(name: str, **more: bytes) -> FilePayload:
    lab = read_lab(lab_text(name)).lab
    assert lab is not None
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for paper in demo_papers(name, lab)[:2]:
            for file in paper.files.values():
                archive.writestr(f"New {paper.learner}/{file.path}", file.content)
        for path, content in more.items():
            archive.writestr(path, content)
    return payload("class.zip", stream.getvalue())


def payload(name: str, content: bytes) -> FilePayload:
    kind = "application/zip" if name.endswith(".zip") else "text/plain"
    return {"name": name, "mimeType": kind, "buffer": content}


def heading(page: Page) -> Locator:
    return page.get_by_role("heading", level=1)


def put_text(page: Page, text: str) -> None:
    """Replace the whole text in the editor, as pasting over it does."""
    page.locator(".cm-content").click()
    page.keyboard.press("Control+a")
    page.evaluate(
        """text => {
            const clipboardData = new DataTransfer();
            clipboardData.setData("text/plain", text);
            const paste = new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true });
            document.querySelector(".cm-content").dispatchEvent(paste);
        }""",
        text,
    )


def test_a_lab_is_made_broken_mended_and_saved(page: Page) -> None:
    page.goto("/")
    expect(heading(page)).to_have_text("Nine labs")
    page.keyboard.press("n")
    page.keyboard.type("Two banks of the canal")
    page.keyboard.press("Enter")
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
    page.goto("/")
    page.get_by_label("Its title").fill("The toll house")
    page.get_by_role("button", name="Start it").click()
    expect(heading(page)).to_have_text("The lab's text")
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
    page.goto("/")
    page.get_by_label("Its title").fill("A sheet by keys")
    page.get_by_role("button", name="Start it").click()
    expect(heading(page)).to_have_text("The lab's text")
    before = page.evaluate("fetch('/api/labs/a-sheet-by-keys').then(r => r.json()).then(l => l.text)")
    page.keyboard.press("Control+b")
    expect(heading(page)).to_have_text("A sheet by keys")
    device = page.locator("aside h2").first.inner_text()
    page.keyboard.press("s")
    expect(heading(page)).to_have_text(f"{device}: the model answer")
    page.goto("/labs/a-sheet-by-keys/sheets/answer/weir")
    expect(page.get_by_role("heading", name="All 3 pings hold")).to_be_visible()
    page.locator(".cm-content").click()
    page.keyboard.press("Control+End")
    page.keyboard.type("rout default vai 10.64.0.2")
    expect(page.get_by_role("heading", name="One to mend", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Control+Enter")
    expect(page.locator(".cm-content")).to_contain_text("route default vai")
    page.get_by_role("button", name="Mend: write via").click()
    expect(page.get_by_role("heading", name="Nothing to say of it")).to_be_visible()
    page.keyboard.press("End")
    page.keyboard.type(" pre")
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
    page.goto("/")
    page.get_by_label("Its title").fill("Shared by two")
    page.get_by_role("button", name="Start it").click()
    expect(heading(page)).to_have_text("The lab's text")
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


def test_what_learners_write_never_becomes_markup(page: Page) -> None:
    evil = "<img src=x onerror=alert(1)>"
    page.goto("/labs/first-addresses/papers")
    page.get_by_label("Choose files").set_input_files(
        payload("weir.sheet", f"name {evil}\nroute default discard about {evil}\n".encode())
    )
    page.get_by_label("Whose sheet is this?").fill(evil)
    page.get_by_role("button", name="Hand in", exact=True).click()
    page.get_by_role("link", name=evil).click()
    expect(heading(page)).to_have_text(evil)
    page.get_by_role("button", name="weir").click()
    expect(page.locator(".marked-sheet")).to_contain_text(f"about {evil}")
    assert page.locator("img").count() == 0


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
    page.keyboard.press("g")
    expect(page.locator(".view-side .sheet-text")).to_contain_text("route 10.64.16.0/20 via 10.64.8.2")
    page.keyboard.press("?")
    expect(page.get_by_role("heading", name="Keys of this view")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Keys of this view")).to_be_hidden()
    page.keyboard.press("i")
    expect(heading(page)).to_have_text("All 12 pings hold on the model answer")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(heading(page)).to_have_text("lock to quay:p1: a reply, as expected")


def test_papers_are_uploaded_marked_and_read(page: Page) -> None:
    page.goto("/labs/four-gates/papers")
    expect(heading(page)).to_contain_text("Six papers")
    chooser = page.get_by_label("Choose files")
    chooser.set_input_files([class_zip("four-gates", **{"../weir.sheet": b"x"})])
    expect(page.get_by_text("The archive names a file outside itself")).to_be_visible()
    expect(page.get_by_text("Nothing was stored.")).to_be_visible()
    expect(heading(page)).to_contain_text("Six papers")
    chooser.set_input_files([class_zip("four-gates")])
    expect(page.get_by_text("2 papers taken.")).to_be_visible()
    expect(heading(page)).to_contain_text("Eight papers")
    page.get_by_role("link", name="New Birte Quast").click()
    expect(heading(page)).to_have_text("New Birte Quast")
    expect(page.get_by_role("heading", name="Two mistakes")).to_be_visible()
    pencilled = page.locator(".marked-sheet .pencilled")
    expect(pencilled).to_contain_text("route 10.64.16.0/24 out s1")
    expect(pencilled.get_by_role("img", name="missed")).to_be_visible()
    page.keyboard.press("m")
    page.keyboard.press("m")
    wrong = page.locator(".marked-sheet li.chosen")
    expect(wrong).to_contain_text("gateway 10.64.32.1")
    expect(wrong.locator(".correction")).to_have_text("10.64.33.1")
    page.keyboard.press("[")
    expect(heading(page)).to_have_text("New Arvid Holm")
    page.keyboard.press("Escape")
    expect(heading(page)).to_contain_text("Eight papers")


def test_a_flat_archive_is_read_by_a_pattern_that_is_shown_first(page: Page) -> None:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for learner in ("Ann Flat", "Bo Flat"):
            archive.writestr(f"{learner}_17_weir.sheet", "port p1\n  address 10.64.8.2/24\n  on\n")
    page.goto("/labs/first-addresses/papers")
    chooser = page.get_by_label("Choose files")
    chooser.set_input_files(payload("export.zip", stream.getvalue()))
    pattern = page.get_by_label("How the names are made up")
    expect(pattern).to_have_value("{learner}_17_{device}")
    expect(page.get_by_role("listitem").filter(has_text="Ann Flat")).to_be_visible()
    pattern.fill("{learner}_*_{device}")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Read so, these are 2 papers:")).to_be_visible()
    page.get_by_role("button", name="Take 2 papers").click()
    expect(page.get_by_text("2 papers taken.")).to_be_visible()
    expect(page.get_by_role("link", name="Bo Flat")).to_be_visible()


def test_a_paper_that_is_there_is_not_replaced_unasked(page: Page) -> None:
    def hand_in(name: str, text: bytes) -> None:
        page.get_by_label("Choose files").set_input_files(payload(name, text))
        page.get_by_label("Whose sheet is this?").fill("Tilda Twice")
        page.keyboard.press("Enter")

    page.goto("/labs/first-addresses/papers")
    hand_in("weir.sheet", b"port p1\n  address 10.64.8.2/24\n  on\n")
    expect(page.get_by_text("1 paper taken.")).to_be_visible()
    hand_in("quay.sheet", b"name quay\n")
    expect(page.get_by_role("heading", name="There is a paper already")).to_be_visible()
    expect(page.get_by_text("Only that one has weir.")).to_be_visible()
    choice = page.get_by_label("Tilda Twice", exact=True)
    expect(choice).to_have_value("add")
    choice.select_option("replace")
    page.get_by_role("button", name="Hand in", exact=True).click()
    expect(page.get_by_text("1 paper taken.")).to_be_visible()
    page.get_by_role("link", name="Tilda Twice").click()
    expect(page.get_by_role("heading", name="All papers of Tilda Twice")).to_be_visible()
    page.locator(".attempts a").click()
    expect(page.get_by_text("This paper does not count:")).to_be_visible()
    page.get_by_role("button", name="every mark").click()
    page.get_by_role("button", name="Overrule address weir p1").click()
    page.get_by_label("The reason").fill("Not his own.")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Not his own.")).to_be_visible()
    page.locator(".attempts a").click()
    again = page.get_by_role("region", name="Overruled on an earlier paper")
    expect(again).to_contain_text("One decision was made on an earlier paper and still stands.")
    again.get_by_role("button", name="Keep what was decided on address weir p1").click()
    expect(again).to_be_hidden()
    page.locator(".attempts a").click()
    page.get_by_role("button", name="Count this one instead").click()
    expect(page.get_by_text("This paper does not count:")).to_be_hidden()


def test_papers_of_each_stage_are_read_by_key(page: Page) -> None:
    page.goto("/labs/rebuilding/papers?stage=as-it-was")
    stages = page.get_by_role("navigation", name="Stages of the lab")
    expect(stages.locator("[aria-current=page]")).to_have_text("As it always was")
    page.keyboard.press("t")
    expect(stages.locator("[aria-current=page]")).to_have_text("Round by the quay")
    expect(heading(page)).to_contain_text("of 32")
    page.get_by_role("link", name="Zita Zwei").click()
    expect(page.get_by_text("Round by the quay; handed in")).to_be_visible()
    page.keyboard.press("m")
    expect(page.locator(".fault.chosen")).to_contain_text("Statement on the wrong device")
    page.keyboard.press("ArrowDown")  # the other line of the same mistake, on the other sheet
    expect(page.locator(".marked-sheet li.chosen")).to_contain_text("route 10.64.32.0/23 via 10.64.0.6")
    page.keyboard.press("Escape")
    expect(stages.locator("[aria-current=page]")).to_have_text("Round by the quay")


def test_a_lab_is_looked_at_stage_by_stage(page: Page) -> None:
    page.goto("/labs/rebuilding")
    stages = page.get_by_role("navigation", name="Stages of the lab")
    expect(stages.locator("[aria-current=page]")).to_have_text("The new cut")
    page.keyboard.press("d")
    page.keyboard.press("t")
    expect(stages.locator("[aria-current=page]")).to_have_text("As it always was")
    expect(page.locator(".view-side h2").first).to_have_text("weir")  # the device that was looked at
    expect(page.locator(".view-side .sheet-text").first).to_contain_text("address 10.64.0.1/30")
    page.keyboard.press("t")
    expect(page.get_by_text("Taken away:")).to_be_visible()
    page.keyboard.press("i")
    expect(stages.locator("[aria-current=page]")).to_have_text("Round by the quay")
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


def test_a_verdict_is_overruled_with_its_reason_and_taken_back(page: Page) -> None:
    page.goto("/labs/four-gates/papers")
    page.get_by_role("link", name="Jaro Mielke", exact=True).click()
    expect(heading(page)).to_have_text("Jaro Mielke")
    page.keyboard.press("e")
    row = page.get_by_role("row").filter(has_text="route weir 10.64.32.0/23")
    expect(row.get_by_role("img", name="missed")).to_be_visible()
    row.get_by_role("button", name="Overrule route weir").click()
    page.get_by_label("Marks for route weir").fill("1.5")
    page.get_by_label("The reason").fill("half of it is there")
    page.keyboard.press("Enter")
    expect(row).to_contain_text("Overruled, 1.5 in place of 0: half of it is there")
    expect(row.get_by_role("img", name="partly")).to_be_visible()
    expect(page.locator(".totals")).to_contain_text("37.5")
    page.get_by_text("How it adds up").click()
    lines = page.locator(".sum td:last-child").all_inner_texts()
    in_all, *lost, total = (float(line.replace("−", "")) for line in lines)
    assert (in_all, total, in_all - sum(lost)) == (43, 37.5, 37.5)
    row.get_by_role("button", name="Take back").click()
    expect(row.get_by_role("img", name="missed")).to_be_visible()
    expect(page.locator(".totals")).to_contain_text("36")


def test_checks_and_what_no_line_shows_have_their_marks(page: Page) -> None:
    page.goto("/labs/harbour-office/papers")
    page.get_by_role("link", name="Arvid Lüders").click()
    expect(heading(page)).to_have_text("Arvid Lüders")
    page.keyboard.press("i")
    checks = page.locator("table").filter(has_text="Opens or looks up")
    expect(checks.get_by_role("img", name="missed").first).to_be_visible()
    expect(checks.get_by_role("img", name="met").first).to_be_visible()
    page.keyboard.press("e")
    mark = page.get_by_role("row").filter(has_text="access sw1 p4")
    expect(mark).to_contain_text("access 21")
    expect(mark.get_by_role("img", name="missed")).to_be_visible()
    mark.get_by_role("button", name="sw1 line 8").click()
    expect(page.locator(".marked-sheet li").filter(has_text="access 21")).to_contain_text(
        re.compile(r"\(\d\)")
    )


@pytest.mark.parametrize(
    ("content", "says"),
    [(b"", "The sheet is empty: it configures nothing."), (b"\0\1\2\3", "This file is not text.")],
)
def test_an_empty_and_a_binary_sheet_each_get_one_clear_message(
    page: Page, content: bytes, says: str
) -> None:
    page.goto("/labs/four-gates/papers")
    page.get_by_label("Choose files").set_input_files(payload("gauge.sheet", content))
    page.get_by_label("Whose sheet is this?").fill(f"Learner {len(content)}")
    page.get_by_role("button", name="Hand in", exact=True).click()
    page.get_by_role("link", name=f"Learner {len(content)}").click()
    page.get_by_role("button", name="gauge").click()
    expect(page.get_by_text(says)).to_be_visible()


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


@pytest.mark.parametrize(
    "path",
    ["/", "/labs/first-addresses", "/labs/four-gates/text", "/labs/four-gates/sheets/answer/weir", "/hand-out/four-gates",
     "/labs/four-gates/pings", "/labs/four-gates/pings/10",
     "/labs/first-addresses/papers", "/labs/rebuilding/papers?stage=as-it-was", "/papers/1", "/papers/20", "/papers/1/pings/6", "/nothing"],
)  # fmt: skip
def test_axe_finds_nothing(page: Page, path: str) -> None:
    page.goto(path)
    page.wait_for_load_state("networkidle")
    no_violations(page)


@pytest.mark.parametrize("key", ["e", "i", "m"])
def test_axe_finds_nothing_on_the_pages_of_a_paper(page: Page, key: str) -> None:
    page.goto("/papers/15")
    page.wait_for_load_state("networkidle")
    page.keyboard.press(key)
    if key == "e":
        page.get_by_role("button", name="Overrule realm toll p1").click()
        expect(page.get_by_label("The reason")).to_be_focused()
    no_violations(page)


def no_violations(page: Page) -> None:
    page.evaluate(AXE)
    found = page.evaluate("axe.run({resultTypes: ['violations']})")
    assert [(v["id"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found["violations"]] == [], (
        json.dumps([v["help"] for v in found["violations"]])
    )


def test_it_works_from_1024_pixels_wide(page: Page) -> None:
    page.set_viewport_size({"width": 1024, "height": 700})
    for path in ("/", "/labs/first-addresses", "/papers/1", "/labs/four-gates/pings/2"):
        page.goto(path)
        page.wait_for_load_state("networkidle")
        assert page.evaluate("document.documentElement.scrollWidth") <= 1024
