"""``zensur mark`` and ``zensur sample-class``: papers, classes, pages, processes."""

import csv
import json
from pathlib import Path

import pytest
from distributed import LocalCluster

from tests.cli.calls import document, zensur
from zensur.core.lab import read_lab
from zensur.demo import lab_text


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
    assert rows[0] == ["learner", "score", "carried", "out_of", "faults", "percent", "grade"]
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
    assert table.read_text("utf-8").splitlines()[1].startswith('"\'=1+1",')


def test_a_paper_in_one_file(tmp_path: Path) -> None:
    lab = tmp_path / "mine.lab.yaml"
    assert zensur("new", lab).exit_code == 0
    read = read_lab(lab.read_text("utf-8")).lab
    assert read is not None
    folder = tmp_path / "0417"
    folder.mkdir()
    whole = "".join(f"device {name}\n{sheet.text}" for name, sheet in read.answer.items())
    (folder / "all of it.txt").write_text(whole, "utf-8")
    (marked,) = document("mark", lab, folder)["papers"]
    assert marked["score"] == marked["out_of"]
    (folder / "weir.sheet").write_text("name weir\n", "utf-8")
    (marked,) = document("mark", lab, folder)["papers"]
    assert marked["score"] < marked["out_of"]
    assert any("weir.sheet, and that one counts" in remark for remark in marked["remarks"])


def test_a_made_up_class_is_marked(lab: Path, tmp_path: Path) -> None:
    folder = tmp_path / "class"
    said = zensur("sample-class", lab, "-n", 14, "--seed", 3, "-o", folder)
    assert said.exit_code == 0
    assert "14 papers" in said.stdout
    found = document("mark", lab, folder)["papers"]
    scores = {p["learner"]: p["score"] for p in found}
    assert len(scores) == 14
    assert sum(p["score"] == p["out_of"] for p in found) >= 2
    assert min(scores.values()) == 0
    assert any(p["faults"] for p in found)
    assert zensur("sample-class", lab, "-o", folder).exit_code == 2
    again = tmp_path / "again"
    zensur("sample-class", lab, "-n", 14, "--seed", 3, "-o", again)
    texts = [{p.relative_to(f): p.read_text("utf-8") for p in f.rglob("*.sheet")} for f in (folder, again)]
    assert texts[0] == texts[1]


def test_processes_mark_alike_and_pages_are_written(lab: Path, tmp_path: Path) -> None:
    folder, report = tmp_path / "class", tmp_path / "report"
    zensur("sample-class", lab, "-n", 20, "-o", folder)
    (folder / "x<b>y").mkdir()
    (folder / "x<b>y" / "gauge.sheet").write_text("gateway 10.64.16.9 # <script>alert(1)</script>\n", "utf-8")
    alone = zensur("mark", lab, folder, "--json").stdout
    assert zensur("mark", lab, folder, "--json", "--jobs", 2, "--report", report).stdout == alone
    pages = {p.name: p.read_text("utf-8") for p in report.iterdir()}
    assert len(pages) == 21
    strange = next(text for name, text in pages.items() if "x_b_y" in name)
    assert "<script>" not in strange
    assert "&lt;script&gt;" in strange
    for paper in json.loads(alone)["papers"]:
        page = next(
            text
            for text in pages.values()
            if f"<h1>{paper['learner']}</h1>" in text or paper["learner"] == "x<b>y"
        )
        for fault in paper["faults"]:
            assert fault["title"] in page or paper["learner"] == "x<b>y"
        assert "http" not in page  # nothing comes from elsewhere


def test_a_cluster_marks_alike(lab: Path, tmp_path: Path) -> None:
    folder = tmp_path / "class"
    zensur("sample-class", lab, "-n", 20, "-o", folder)
    alone = zensur("mark", lab, folder, "--json").stdout
    with LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None) as cluster:
        assert zensur("mark", lab, folder, "--json", "--cluster", cluster.scheduler_address).stdout == alone
    with LocalCluster(n_workers=0, dashboard_address=None) as cluster:
        idle = zensur("mark", lab, folder, "--cluster", cluster.scheduler_address)
    assert (idle.exit_code, "has no workers" in idle.stderr) == (2, True)
    nobody = zensur("mark", lab, folder, "--cluster", "nonsense://here")
    assert (nobody.exit_code, "No Dask scheduler answers" in nobody.stderr) == (2, True)


@pytest.mark.parametrize(
    ("learner", "cell"),
    [
        ("=1+1", '"\'=1+1"'),
        ("＝1+1", '"\'＝1+1"'),
        ("@x", '"\'@x"'),
        ("a;=1+1", '"a;=1+1"'),
        ("Ann Ek", '"Ann Ek"'),
    ],
)
def test_a_name_is_no_formula_and_no_markup(tmp_path: Path, learner: str, cell: str) -> None:
    lab = tmp_path / "x.lab.yaml"
    lab.write_text(lab_text("first-addresses"), "utf-8")
    folder = tmp_path / "class" / learner
    folder.mkdir(parents=True)
    (folder / "weir.sheet").write_text("name weir\n")
    table = tmp_path / "x.csv"
    zensur("mark", lab, tmp_path / "class", "--csv", table)
    assert table.read_text("utf-8").splitlines()[1].startswith(f"{cell},")


def test_what_would_steer_a_terminal_is_shown(tmp_path: Path) -> None:
    lab = tmp_path / "x.lab.yaml"
    lab.write_text(lab_text("first-addresses"), "utf-8")
    folder = tmp_path / "class" / "[bold]Ann\x1b[2J\u202e"
    folder.mkdir(parents=True)
    (folder / "weir.sheet").write_text("name weir\nx\x1b[31m y\n")
    done = zensur("mark", lab, tmp_path / "class")
    assert "[bold]Ann\\u{1b}[2J\\u{202e}" in done.stdout
    assert "\x1b" not in done.stdout + done.stderr


def test_a_folder_without_a_sheet_is_no_paper(tmp_path: Path) -> None:
    lab, folder = tmp_path / "x.lab.yaml", tmp_path / "Ann Ek"
    lab.write_text(lab_text("first-addresses"), "utf-8")
    folder.mkdir()
    (folder / "notes.txt").write_text("name nobody\n")
    (folder / "wier.sheet").write_text("name x\n")
    refused = zensur("mark", lab, folder)
    assert refused.exit_code == 2
    assert "It is probably the sheet of weir." in refused.stderr
    assert refused.stderr.endswith("There is no paper to be marked.\n")


def test_learners_who_are_called_nearly_alike_are_said(lab: Path, tmp_path: Path) -> None:
    folder = tmp_path / "class"
    for learner in ("Ana Holm", "ana holm", "Bo"):
        (folder / learner).mkdir(parents=True)
        (folder / learner / "weir.sheet").write_text("name weir\n")
    result = zensur("mark", lab, folder)
    assert result.exit_code == 0
    assert "Ana Holm and ana holm: each paper is marked." in result.stderr
    assert "Bo" not in result.stderr
