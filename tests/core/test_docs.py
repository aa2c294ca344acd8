"""Every example of the documentation is read, and its lists are those of the code."""

import re
from pathlib import Path

from zensur.core.lab import read_lab
from zensur.core.marking import SLIPS, check_lab
from zensur.core.sheet import BLOCKS, STATEMENTS, read_sheet

DOCS = Path(__file__).parents[2] / "docs"


def examples(page: str, kind: str) -> list[str]:
    found = re.findall(rf"```{kind}\n(.*?)```", (DOCS / page).read_text("utf-8"), re.DOTALL)
    assert found
    return found


def test_sheets_are_read_without_a_word() -> None:
    for text in examples("device-language.md", "sheet"):
        assert read_sheet(text).diagnostics == ()


def test_labs_pass_their_check() -> None:
    for text in examples("lab-file.md", "yaml"):
        read = read_lab(text)
        assert read.lab is not None, read.errors
        assert check_lab(read.lab).findings == ()


def test_the_pages_name_every_statement_and_every_slip() -> None:
    language = (DOCS / "device-language.md").read_text("utf-8")
    for word in [kind.word for kind in BLOCKS] + [w for s in STATEMENTS for w in s.SPEC.words]:
        assert re.search(rf"`(  )?{word}\b", language), word
    marking = (DOCS / "marking.md").read_text("utf-8")
    named = re.findall(r"[a-z]+(?:-[a-z]+)+", marking.partition("## Slips")[2])
    assert named == [slip.keyword for slip in SLIPS]


def test_the_readme_shows_every_picture() -> None:
    readme = (DOCS.parent / "README.md").read_text("utf-8")
    pictures = {path.name for path in (DOCS / "screenshots").glob("*.png")}
    assert pictures == set(re.findall(r"docs/screenshots/([a-z-]+\.png)", readme))
