"""The command line: every verb with its JSON, exit status and one clear line for bad input."""

import csv
import json
import os
import re
import subprocess
import sys
import urllib.request
import zipfile
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result

from zensur.cli import main
from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text


@pytest.fixture
def lab(tmp_path: Path) -> Path:
    path = tmp_path / "ring.lab.yaml"
    path.write_text(lab_text("four-gates"), "utf-8")
    return path


@pytest.fixture
def class_zip(tmp_path: Path) -> Path:
    read = read_lab(lab_text("four-gates")).lab
    assert read is not None
    path = tmp_path / "class.zip"
    with zipfile.ZipFile(path, "w") as archive:
        for paper in demo_papers("four-gates", read):
            for file in paper.files.values():
                archive.writestr(f"{paper.learner}/{file.path}", file.content)
    return path


def zensur(*words: object) -> Result:
    return CliRunner().invoke(main, [str(w) for w in words], catch_exceptions=False)


def document(*words: object, status: int = 0) -> Any:
    result = zensur(*words, "--json")
    assert result.exit_code == status, result.output
    return json.loads(result.stdout)


def test_every_verb_explains_itself_with_an_example() -> None:
    for verb in ("check", "demo", "mark", "ping", "read", "serve"):
        result = zensur(verb, "--help")
        assert result.exit_code == 0
        assert f"Example: zensur {verb}" in result.output


def test_check(lab: Path) -> None:
    found = document("check", lab)
    assert (found["findings"], found["pings"], found["holding"], found["blank"]) == ([], 12, 12, 0)
    lab.write_text(lab_text("four-gates").replace("expect: unreachable", "expect: reply"), "utf-8")
    found = document("check", lab, status=1)
    assert [(f["code"], f["place"], f["severity"]) for f in found["findings"]] == [
        ("expectation-fails", "pings[11]", "error")
    ]


def test_ping_has_the_documented_shape(lab: Path, tmp_path: Path) -> None:
    found = document("ping", lab)
    assert found["lab"] == "four-gates"
    row = found["pings"][0]
    assert {k: v for k, v in row.items() if k != "detail"} == {
        "from": "gauge", "source": None, "to": "ledger", "address": "10.64.32.20", "outcome": "reply", "reason": None,
        "by": None, "seen_as": "10.64.16.20", "answered_by": "ledger", "expect": "reply", "as_expected": True,
        "there": ["gauge", "weir", "lock", "ledger"], "back": ["ledger", "lock", "weir", "gauge"], "warnings": [],
    }  # fmt: skip
    pairs = tmp_path / "pairs.json"
    pairs.write_text(
        '[{"from": "weir", "to": "10.64.34.20", "source": "lo0"}, {"from": "bell", "to": "gauge"}]'
    )
    rows = document("ping", lab, "--pairs", pairs, "--fresh")["pings"]
    assert [(r["from"], r["source"], r["seen_as"], r["expect"], r["as_expected"]) for r in rows] == [
        ("weir", "lo0", "10.64.255.1", None, None),
        ("bell", None, "10.64.34.20", None, None),
    ]
    assert document("ping", lab, "--from", "bell", "--to", "weir:lo0")["pings"][0]["address"] == "10.64.255.1"


def test_ping_on_sheets(lab: Path, tmp_path: Path) -> None:
    sheets = tmp_path / "sheets"
    sheets.mkdir()
    (sheets / "gauge.sheet").write_text("gateway 10.64.16.1\n")
    rows = document("ping", lab, "--sheets", sheets, "--from", "gauge", "--to", "bell")["pings"]
    assert (rows[0]["outcome"], rows[0]["reason"], rows[0]["by"]) == ("unreachable", "no-route", "weir")
    assert "no route to 10.64.34.20" in rows[0]["detail"]
    assert zensur("ping", lab, "--sheets", sheets).exit_code == 1


def test_mark_has_the_documented_shape(lab: Path, class_zip: Path, tmp_path: Path) -> None:
    table = tmp_path / "marks.csv"
    found = document("mark", lab, class_zip, "--csv", table)
    assert [p["learner"] for p in found["papers"]] == sorted(p["learner"] for p in found["papers"])
    birte = next(p for p in found["papers"] if p["learner"] == "Birte Quast")
    assert set(birte) >= {
        "learner", "score", "carried", "out_of", "criteria", "faults", "extras", "diagnostics", "pings", "services"
    }  # fmt: skip
    criterion = next(c for c in birte["criteria"] if c["id"] == "gateway:crane")
    assert {k: criterion[k] for k in ("verdict", "fraction", "marks", "required", "found", "lines", "fault")} == {
        "verdict": "missed", "fraction": 0.0, "marks": 1.0, "required": "10.64.33.1", "found": "10.64.32.1",
        "lines": [{"file": "crane.sheet", "line": 1}], "fault": 2,
    }  # fmt: skip
    assert {
        "id",
        "slip",
        "device",
        "file",
        "line",
        "found",
        "required",
        "repair",
        "direct",
        "consequences",
    } <= set(birte["faults"][0])
    assert [f["slip"] for f in birte["faults"]] == ["route-missing", "gateway-outside-the-network"]
    assert len(birte["pings"]) == 12
    with table.open(encoding="utf-8") as stream:
        rows = list(csv.reader(stream))
    assert rows[0] == ["learner", "score", "carried", "out_of", "faults"]
    assert len(rows) == 7
    assert document("mark", lab, class_zip) == found  # marking again gives the same


def test_mark_takes_a_single_sheet_and_tells_what_is_wrong_with_it(lab: Path, tmp_path: Path) -> None:
    folder = tmp_path / "Ann Example"
    folder.mkdir()
    for content, says in (
        (b"", "The sheet is empty"),
        (b"\0\1", "This file is not text."),
        (b"gatway x", "Did you mean gateway?"),
    ):
        (folder / "gauge.sheet").write_bytes(content)
        result = zensur("mark", lab, folder / "gauge.sheet")
        assert result.exit_code == 0
        assert "Ann Example" in result.stdout
        (line,) = [t for t in result.stderr.splitlines() if t.startswith("Ann Example: gauge.sheet:1: ")]
        assert says in line


def test_a_formula_as_a_name_stays_text(lab: Path, tmp_path: Path) -> None:
    folder = tmp_path / "class" / "=1+1"
    folder.mkdir(parents=True)
    (folder / "gauge.sheet").write_text("gateway 10.64.16.1\n")
    table = tmp_path / "marks.csv"
    assert zensur("mark", lab, folder.parent, "--csv", table).exit_code == 0
    assert table.read_text("utf-8").splitlines()[1].startswith("'=1+1,")


def test_read(tmp_path: Path) -> None:
    path = tmp_path / "toll.sheet"
    path.write_text("name toll\nport p1\n  adress 10.64.8.1/24\n  on\n")
    found = document("read", path, status=1)
    assert found == {
        "name": "toll", "form": "sheet", "more": 0, "canonical": "name toll\nport p1\n  on\n",
        "diagnostics": [{"severity": "error", "code": "unknown-word", "line": 3, "column": 3, "end": 8, "suggestion": "address",
                         "message": "adress is not a word that can stand here under port. Did you mean address?",
                         "mend": {"line": 3, "column": 3, "end": 8, "text": "address"}}],
    }  # fmt: skip
    assert zensur("read", path).exit_code == 1
    path.write_text("name toll\n")
    assert zensur("read", path).stdout == "name toll\n"


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("check", "LAB"), "links[0]: sw9 "),
        (("ping", "LAB"), "line "),
    ],
)
def test_a_lab_that_cannot_be_read(lab: Path, words, says) -> None:
    lab.write_text(lab_text("four-gates").replace("weir:p1 -- gauge:p1", "weir:p9 -- gauge:p1"), "utf-8")
    result = zensur(*[lab if w == "LAB" else w for w in words])
    assert result.exit_code == 2
    assert "links[0]: weir has no port p9; it has p1, p2, s1." in result.stderr
    assert result.stdout == ""


def test_other_bad_input_gives_one_clear_line(lab: Path, tmp_path: Path) -> None:
    bad = tmp_path / "bad.zip"
    with zipfile.ZipFile(bad, "w") as archive:
        archive.writestr("../weir.sheet", "name weir")
    pairs = tmp_path / "pairs.json"
    pairs.write_text("[{}]")
    for words, says in (
        (("mark", lab, bad), "outside itself"),
        (("ping", lab, "--from", "gauge"), "Each --from needs its --to."),
        (("ping", lab, "--from", "nobody", "--to", "bell"), "nobody cannot ping"),
        (("ping", lab, "--from", "gauge", "--to", "nowhere"), "nowhere is no address"),
        (("ping", lab, "--pairs", pairs), "a list such as"),
        (("read", tmp_path / "none.sheet"), "does not exist"),
    ):
        result = zensur(*words)
        assert result.exit_code == 2, words
        assert says in result.stderr
        assert "Traceback" not in result.stderr


def test_serving_elsewhere_than_on_loopback_is_refused(tmp_path: Path) -> None:
    for host in ("0.0.0.0", "192.0.2.1", "example.com"):
        result = zensur("serve", "--host", host, "--database", tmp_path / "x.db")
        assert result.exit_code == 2
        assert "loopback" in result.stderr


def test_the_demo_starts_says_where_and_answers(tmp_path: Path) -> None:
    process = subprocess.Popen(
        [sys.executable, "-m", "zensur.cli", "demo", "--port", "0", "--database", str(tmp_path / "demo.db")],
        stdout=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONUNBUFFERED": "1"},
    )
    try:
        assert process.stdout is not None
        address = re.search(r"http://127\.0\.0\.1:\d+/", process.stdout.readline())
        assert address
        with urllib.request.urlopen(f"{address.group()}api/labs") as answer:
            assert [lab["papers"] for lab in json.load(answer)] == [6, 6]
    finally:
        process.terminate()
        process.wait()
