"""Papers in the browser: handed in, asked about, read, overruled."""

import io
import re
import zipfile

import pytest
from playwright.sync_api import Page, expect

from zensur.core.formats import write_configuration
from zensur.core.lab import read_lab
from zensur.demo import lab_text

from .helpers import class_zip, heading, payload, violations


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
    expect(page.get_by_text(re.compile("^Overruled.*Not his own."))).to_be_visible()
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


def test_the_class_is_sorted_filtered_and_told_what_it_did_not_understand(page: Page) -> None:
    page.goto("/labs/first-addresses/class")
    expect(heading(page)).to_contain_text("learners, median")
    names = page.locator(".class-grid tbody tr:not(:has(.doubt)) td:first-child a")
    by_total = names.all_inner_texts()
    everybody = page.locator(".class-grid tbody tr:has(td:first-child a)").count()
    page.get_by_role("button", name="Learner", exact=True).click()
    expect(page.locator("th[aria-sort=ascending]")).to_have_text(re.compile("Learner"))
    assert names.all_inner_texts() == sorted(by_total, key=str.lower)
    first = page.locator(".slip").first
    mistake = first.inner_text()
    first.click()
    expect(page.get_by_text(f"with {mistake.lower()}")).to_be_visible()
    assert 0 < names.count() < len(by_total)
    page.get_by_role("button", name="show all").click()
    page.keyboard.press("/")
    page.keyboard.type(by_total[0][:5])
    expect(names).to_have_count(1)
    page.keyboard.press("Escape")
    page.keyboard.press("s")
    expect(page.get_by_role("heading", name="Criteria, the hardest first")).to_be_visible()
    expect(page.locator(".understood svg.recharts-surface").first).to_be_visible()
    learners = [int(n) for n in page.locator(".understood .spread td").all_inner_texts()]
    assert (len(learners), sum(learners)) == (10, everybody)
    page.get_by_role("button", name="Show its sittings beside each other").click()
    expect(page.get_by_text(re.compile(r"The lab has been given in \d sittings? so far."))).to_be_visible()
    page.keyboard.press("s")
    page.keyboard.press("Enter")
    expect(heading(page)).to_have_text(by_total[0])


def test_what_a_paper_would_earn_with_a_mistake_mended_is_asked_below_it(page: Page) -> None:
    page.goto("/labs/four-gates/papers")
    page.get_by_role("link", name="Jaro Mielke", exact=True).click()
    expect(heading(page)).to_have_text("Jaro Mielke")
    page.keyboard.press("m")
    page.keyboard.press("m")
    chosen = page.locator(".fault.chosen")
    chosen.get_by_role("button", name="What if it were mended?").click()
    expect(chosen.get_by_role("status")).to_contain_text(
        "If it were mended: 38 of 43 in place of 36; as it stands 38 in place of 35."
    )
    expect(chosen).to_contain_text("Met then: route lock 10.64.33.0/24; ping 4")
    page.keyboard.press("m")
    expect(page.get_by_text("If it were mended:")).to_have_count(0)
    with page.expect_popup() as opened:
        page.keyboard.press("p")
    learners = opened.value
    expect(learners.get_by_role("heading", name="Jaro Mielke")).to_be_visible()
    assert violations(learners) == []


def test_the_statistics_open_as_a_page_without_names(page: Page) -> None:
    page.goto("/labs/first-addresses/class")
    expect(heading(page)).to_contain_text("learners, median")
    name = page.locator(".class-grid tbody td:first-child a").first.inner_text()
    with page.expect_popup() as opened:
        page.get_by_role("link", name="statistics to print").click()
    printed = opened.value
    expect(printed.get_by_role("heading", name="What was not understood")).to_be_visible()
    expect(printed.get_by_role("img")).to_have_count(2)
    expect(printed.get_by_text(name)).to_have_count(0)
    assert violations(printed) == []


def test_a_paper_in_json_shows_its_marks_at_its_lines_and_its_repair_in_json(page: Page) -> None:
    lab = read_lab(lab_text("four-gates")).lab
    assert lab is not None
    weir = lab.full_paper["weir"].configuration
    wrong = weir.without(["route 10.64.34.0/24"])
    page.goto("/labs/four-gates/papers")
    page.get_by_label("Choose files").set_input_files(
        payload("weir.json", write_configuration(wrong, "yang-json").encode())
    )
    page.get_by_label("Whose sheet is this?").fill("Ida Form")
    page.get_by_role("button", name="Hand in", exact=True).click()
    page.get_by_role("link", name="Ida Form").click()
    mistake = page.get_by_role("button", name="Route missing")
    mistake.first.click()
    expect(page.locator("pre.in-form")).to_contain_text('"destination-prefix": "10.64.34.0/24"')
    page.get_by_role("button", name="weir").first.click()
    sheet = page.locator(".marked-sheet")
    expect(sheet).to_contain_text('"ietf-routing:routing"')
    expect(sheet.locator(".word").first).to_have_text(re.compile('^"[a-z]'))
    expect(sheet.locator("li.pencilled").first).to_be_visible()
    assert violations(page) == []
