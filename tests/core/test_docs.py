"""Every example of the documentation is read, and its lists are those of the code."""

import json
import re
from pathlib import Path

import yaml
from jsonschema import Draft202012Validator

from zensur.core.lab import read_lab, starter_lab
from zensur.core.marking.checking.lab_check import check_text
from zensur.core.marking.slips.catalogue import SLIPS
from zensur.core.sheet import BLOCKS, STATEMENTS, read_sheet, read_sheets
from zensur.core.sheet.concerns import concerns
from zensur.demo import LABS, lab_text

DOCS = Path(__file__).parents[2] / "docs"


def examples(page: str, kind: str) -> list[str]:
    found = re.findall(rf"```{kind}\n(.*?)```", (DOCS / page).read_text("utf-8"), re.DOTALL)
    assert found
    return found


def test_sheets_are_read_without_a_word() -> None:
    shown = examples("device-language.md", "sheet")
    for text in shown:
        sheet = read_sheet(text)
        assert sheet.diagnostics == ()
        assert list(concerns(sheet.configuration)) == []
    assert [
        s.diagnostics for text in examples("device-language.md", "sheets") for s in read_sheets(text)
    ] == [(), ()]


def test_the_published_schema_accepts_every_lab_and_refuses_what_the_reader_refuses() -> None:
    schema = json.loads((DOCS / "lab.schema.json").read_text("utf-8"))
    Draft202012Validator.check_schema(schema)
    validator = Draft202012Validator(schema)
    toll = (Path(__file__).parents[1] / "labs" / "toll-house.lab.yaml").read_text("utf-8")
    for text in (*map(lab_text, LABS), starter_lab("a", "A"), toll, *examples("lab-file.md", "yaml")):
        assert list(validator.iter_errors(yaml.safe_load(text))) == []
    good = yaml.safe_load(lab_text("four-gates"))
    for key, wrong in (
        ("zensur", 2),
        ("id", "Two Banks"),
        ("devices", []),
        ("colour", "red"),
        ("minutes", "x"),
    ):
        assert not validator.is_valid(good | {key: wrong}), key
        assert read_lab(yaml.safe_dump(good | {key: wrong}, sort_keys=False)).lab is None, key


def test_labs_pass_their_check() -> None:
    for text in examples("lab-file.md", "yaml"):
        check = check_text(text)
        assert check.errors == ()
        assert check.holding == check.pings + check.services


def test_the_pages_name_every_statement_and_every_slip() -> None:
    language = (DOCS / "device-language.md").read_text("utf-8")
    for word in [kind.word for kind in BLOCKS] + [w for s in STATEMENTS for w in s.SPEC.words]:
        assert re.search(rf"`{word}\b", language), word
    marking = (DOCS / "marking.md").read_text("utf-8")
    named = re.findall(r"^\| `([a-z'-]+)` \|", marking.partition("## Slips")[2], re.MULTILINE)
    assert named == [slip.keyword for slip in SLIPS]


def test_the_readme_shows_every_picture() -> None:
    readme = (DOCS.parent / "README.md").read_text("utf-8")
    pictures = {path.name for path in (DOCS / "screenshots").glob("*.png")}
    assert pictures == set(re.findall(r"docs/screenshots/([a-z-]+\.png)", readme))
