"""A sitting from the roster to released marks, as an instructor does it."""

import io
import json
import re
import zipfile
from pathlib import Path

from playwright.sync_api import Page, Route, expect

from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text

from .helpers import heading, payload, settled, violations

ROSTER = "id,name\n4711,Ana Weir\n4712,Ben Lock\n,Nobody\n4713,Eva Quay\n"
LAB = "first-addresses"


def archive(*names: str, **more: bytes) -> bytes:
    lab = read_lab(lab_text(LAB)).lab
    assert lab is not None
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as written:
        for name, paper in zip(names, demo_papers(LAB, lab), strict=False):
            for file in paper.files.values():
                written.writestr(f"{name}/{file.path}", file.content)
            for path, content in more.items():
                written.writestr(f"{name}/{path}", content)
    return stream.getvalue()


def new_group(page: Page) -> None:
    page.goto("/groups/new")
    page.get_by_label("Title").fill("Tuesday")
    page.get_by_label("Roster", exact=True).fill(ROSTER)
    expect(page.get_by_text("Line 4 is left out: it has no id.")).to_be_visible()
    page.get_by_role("button", name="Save 3 learners").click()
    expect(heading(page)).to_have_text("Tuesday: 3 learners")


def new_sitting(page: Page, title: str = "Week 3", group: str = "Tuesday", learners: int = 3) -> str:
    page.goto("/sittings")
    page.get_by_label("Title").fill(title)
    page.get_by_label("Lab", exact=True).select_option(LAB)
    page.get_by_label(re.compile(group)).first.check()
    page.get_by_role("button", name="Make the sitting").click()
    expect(heading(page)).to_have_text(f"{title}: 0 of {learners} handed in")
    return page.url.rsplit("/", 1)[1]


def test_a_sitting_from_the_roster_to_released_marks(page: Page) -> None:
    new_group(page)
    number = new_sitting(page)
    page.get_by_label("Of several papers").select_option("best")
    page.get_by_label("Blind").check()
    page.get_by_role("button", name="Save the rules").click()
    expect(page.get_by_text("rules changed")).to_be_visible()
    page.keyboard.press("p")
    expect(heading(page)).to_have_text("No papers yet")
    content = archive("Ana Weir_902_file", "Bem Lock", "Zoe", **{"notes.docx": b"?"})
    page.get_by_label("Choose files").set_input_files(payload("class.zip", content))
    expect(page.get_by_role("heading", name="Whose papers are these?")).to_be_visible()
    expect(page.get_by_label("Bem Lock")).to_have_value("4712")  # who is called nearly so
    page.get_by_label("Zoe").select_option("4713")
    page.get_by_role("button", name="Hand in", exact=True).click()
    expect(page.get_by_text("3 papers taken.")).to_be_visible()
    page.keyboard.press("g")
    expect(heading(page)).to_contain_text("Three learners, median")  # as soon as all are marked
    rows = page.locator(".class-grid tbody tr:not(.gap)")
    expect(rows).to_have_count(3)
    expect(page.locator(".class-grid")).not_to_contain_text("Ana Weir")  # nobody knows whose a paper is
    page.get_by_label("How it was handed in").select_option("doubtful")
    expect(rows).to_have_count(3)
    page.get_by_role("button", name="I have looked at it").click()
    expect(rows).to_have_count(2)
    page.get_by_role("button", name="show all").click()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(heading(page)).to_contain_text("Paper ")
    page.get_by_label("A comment for the learner").fill("Look at <b>p2</b> again.")
    page.get_by_role("button", name="Write it").click()
    expect(page.get_by_text(re.compile("^Look at <b>p2</b> again."))).to_be_visible()
    expect(page.get_by_text("Receipt ")).to_have_count(0)  # names of files may tell whose they are
    page.goto(f"/sittings/{number}")
    page.get_by_role("button", name="Release the marks").click()
    expect(page.get_by_role("heading", name="The marks are released")).to_be_visible()
    page.keyboard.press("g")
    expect(page.locator(".class-grid")).to_contain_text("Ana Weir")
    with page.expect_download() as download:
        page.get_by_role("link", name="marked papers, a page for each").click()
    with zipfile.ZipFile(download.value.path()) as written:
        assert sorted(written.namelist()) == [
            "Ana Weir_902_file/marked.html",
            "Bem Lock/marked.html",
            "Zoe/marked.html",
        ]
        pages = [written.read(name).decode() for name in written.namelist()]
    assert sum("Look at &lt;b&gt;p2&lt;/b&gt; again." in own for own in pages) == 1
    page.get_by_role("link", name="Ana Weir").click()
    expect(page.get_by_text("Receipt ")).to_be_visible()
    expect(page.get_by_text(re.compile("class.zip, SHA-256"))).to_be_visible()


def test_marking_tells_how_far_it_is_and_stops(page: Page) -> None:
    """What the server tells as it goes on stands on the page; here it is told in the server's place."""
    far = {"papers": 40, "marked": 10, "failed": 0, "left": 30, "stopped": False}
    events = "".join(f"data: {json.dumps({**far, 'marked': n, 'left': 40 - n})}\n\n" for n in (12, 25))
    page.route("**/api/labs/*/marking?*", lambda route: route.fulfill(json=far))
    page.route("**/events/**", lambda route: route.fulfill(content_type="text/event-stream", body=events))
    page.goto(f"/labs/{LAB}/papers")
    expect(page.get_by_text(re.compile("Marking: 25 of 40 papers, about \\d+ s left."))).to_be_visible()
    asked: list[object] = []
    page.route("**/api/labs/*/marking?*", lambda route: (
        asked.append(route.request.post_data_json) if route.request.method == "POST" else None,
        route.fulfill(json={**far, "left": 0, "stopped": True}),
    )[1])  # fmt: skip
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_text("Marking was stopped: 10 of 40 papers are marked.")).to_be_visible()
    assert asked == [{"stopped": True}]


def test_500_learners_are_sorted_and_only_those_in_sight_are_there(page: Page) -> None:
    view = json.loads((answer := page.request.get(f"/api/labs/{LAB}/class")).text())
    assert answer.ok
    one = next(row for row in view["learners"] if row["marked"])
    for n in range(500):
        row = {**one, "paper": 1000 + n, "learner": f"Learner {n:03}", "doubts": ["?"] if n == 77 else []}
        view["learners"].append({**row, "marked": {**one["marked"], "carried": n / 100}})
    view["learners"] = view["learners"][-500:]
    page.route("**/api/labs/*/class?*", lambda route: route.fulfill(json=view))
    page.goto(f"/labs/{LAB}/class")
    names = page.locator(".class-grid tbody tr:not(.gap) td:first-child a")
    expect(names.first).to_have_text("Learner 077")  # what is doubtful is on top
    expect(names.nth(1)).to_have_text("Learner 499")
    assert names.count() < 60
    page.locator(".class-wide").evaluate("own => own.scrollTo(0, own.scrollHeight)")
    expect(names.last).to_have_text("Learner 000")
    page.keyboard.press("/")
    page.keyboard.type("learner 25")
    expect(names).to_have_count(10)
    page.keyboard.press("Escape")
    settled(page)
    assert violations(page) == []


def test_axe_finds_nothing_on_sittings_and_groups(page: Page) -> None:
    new_group(page)
    number = new_sitting(page)
    for address in ("/sittings", f"/sittings/{number}", "/groups", "/groups/1", "/groups/new"):
        page.goto(address)
        settled(page)
        assert violations(page) == [], address


def test_another_answer_is_accepted_for_everybody_and_taken_over(page: Page) -> None:
    new_group(page)
    number = new_sitting(page)
    lab = read_lab(lab_text(LAB)).lab
    assert lab is not None
    sheets = {name: sheet.text for name, sheet in lab.full_paper.items()}
    sheets["gauge"] = sheets["gauge"].replace("10.64.16.20/20", "10.64.16.99/20")
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as written:
        for name, text in sheets.items():
            written.writestr(f"4712/{name}.sheet", text)
    page.keyboard.press("p")
    page.get_by_label("Choose files").set_input_files(payload("4712.zip", stream.getvalue()))
    page.get_by_role("link", name="Ben Lock").click()
    expect(page.get_by_role("heading", name="One mistake")).to_be_visible()  # so it is marked
    page.keyboard.press("e")
    page.get_by_role("button", name="Accept for everybody: address gauge p1").click()
    expect(page.get_by_label("Lines that are to count for address gauge p1")).to_have_value(
        "address 10.64.16.99/20"
    )
    page.get_by_label("Why it is right").fill("Any free address does.")
    page.get_by_role("button", name="Accept for everybody", exact=True).click()
    page.get_by_role("link", name="See what that changes for whom").click()
    page.get_by_role("button", name="Show what it changes for whom").click()
    expect(page.get_by_text("1 gain, 0 lose, 0 keep their marks.")).to_be_visible()
    page.get_by_label("Why it is taken over").fill("It is right.")
    page.get_by_role("button", name=re.compile("Mark with version")).click()
    expect(page.get_by_role("heading", name=re.compile("The lab has a version"))).to_have_count(0)
    expect(page.get_by_text("“It is right.”")).to_be_visible()
    assert page.url.endswith(f"/sittings/{number}")


def test_marks_by_hand_are_typed_paper_after_paper(page: Page) -> None:
    question = {"criterion": "manual:why", "asks": "Why?", "required": "", "marks": 4}
    given = [
        {"paper": n, "learner": f"Paper {n}", "answer": "", "earned": 0, "decided": False} for n in (1, 2)
    ]
    view = {
        "lab": "First",
        "slug": LAB,
        "stage": "",
        "sitting": None,
        "questions": [{**question, "given": given}],
    }
    decided: list[object] = []
    page.route("**/api/labs/*/by-hand?*", lambda route: route.fulfill(json=view))

    def decide(route: Route) -> None:
        body = route.request.post_data_json or {}
        decided.append((route.request.url.split("/")[-2], body["marks"]))
        route.fulfill(json={})

    page.route("**/api/papers/*/overrules", decide)
    page.goto(f"/labs/{LAB}/by-hand")
    expect(heading(page)).to_have_text("2 papers left for this question")
    page.keyboard.type("3.5")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Marks of Paper 2")).to_be_focused()
    page.keyboard.type("4")
    page.keyboard.press("Enter")
    settled(page)
    assert decided == [("1", 3.5), ("2", 4)]


def test_a_class_is_handed_in_as_a_folder(page: Page, tmp_path: Path) -> None:
    new_group(page)
    new_sitting(page)
    lab = read_lab(lab_text(LAB)).lab
    assert lab is not None
    for name, paper in zip(("4711", "Quay, Eva"), demo_papers(LAB, lab), strict=False):
        (tmp_path / "class" / name).mkdir(parents=True)
        for file in paper.files.values():
            (tmp_path / "class" / name / file.path).write_bytes(file.content)
    page.keyboard.press("p")
    page.get_by_label("Or choose a folder").set_input_files(tmp_path / "class")
    expect(page.get_by_text("2 papers taken.")).to_be_visible()
    expect(page.get_by_role("link", name="Eva Quay")).to_be_visible()
    expect(page.get_by_role("link", name="Ana Weir")).to_be_visible()


def test_a_learner_is_erased_with_a_reason(page: Page) -> None:
    page.goto("/groups/new")
    page.get_by_label("Title").fill("Friday")
    page.get_by_label("Roster", exact=True).fill("kim5,Kim Sluice\nleo6,Leo Bank\n")
    page.get_by_role("button", name="Save 2 learners").click()
    expect(heading(page)).to_have_text("Friday: 2 learners")
    new_sitting(page, "Week 9", "Friday", 2)
    page.get_by_text("Erase a learner").click()
    page.get_by_label("Whom").select_option("kim5")
    page.get_by_role("button", name="Erase for good").click()  # which asks for the reason first
    expect(page.get_by_label("The reason")).to_be_focused()
    page.keyboard.type("asked for it")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Erased, with 0 papers.")).to_be_visible()
    seats = page.locator(".seats tbody tr")
    expect(seats.filter(has_text="erased 1")).to_have_count(1)
    expect(seats.filter(has_text="Kim Sluice")).to_have_count(0)
    assert violations(page) == []
