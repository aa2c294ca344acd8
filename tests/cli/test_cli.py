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

from tests.core.test_services import SERVED
from tests.core.test_stages import STAGED, VARIANTS
from zensur.cli import main
from zensur.core.lab import read_lab
from zensur.demo import LABS, demo_papers, lab_text


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
    for verb in (
        "check",
        "convert",
        "demo",
        "export",
        "hand-out",
        "mark",
        "new",
        "ping",
        "read",
        "serve",
        "state",
    ):
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
            assert [lab["papers"] for lab in json.load(answer)] == [6, 6, *[12] * (len(LABS) - 2)]
    finally:
        process.terminate()
        process.wait()


# --- labs with stages, variants and services --------------------------------------------------------


def test_new_writes_a_lab_that_passes_its_check(tmp_path: Path) -> None:
    path = tmp_path / "Two Banks.lab.yaml"
    assert zensur("new", path).exit_code == 0
    found = document("check", path)
    assert (found["lab"], found["findings"], found["holding"]) == ("two-banks", [], 3)
    again = zensur("new", path)
    assert (again.exit_code, "there already" in again.stderr) == (2, True)
    assert zensur("new", tmp_path / "x.lab.yaml", "--title", "a\0b").exit_code == 2


def test_stages(tmp_path: Path) -> None:
    path = tmp_path / "staged.lab.yaml"
    path.write_text(STAGED, "utf-8")
    assert [p["to"] for p in document("ping", path)["pings"]] == ["weir:lo0", "weir:lo1"]
    assert [p["to"] for p in document("ping", path, "--stage", "build")["pings"]] == ["weir:lo0"]
    missing = zensur("ping", path, "--stage", "x")
    assert (missing.exit_code, "there are build, undo" in missing.stderr) == (2, True)
    paper = tmp_path / "0417"
    paper.mkdir()
    (paper / "weir.sheet").write_text(
        "port p1\n  address 10.64.16.1/24\n  on\nloopback x\n  address 10.64.255.2/32\n"
    )
    (marked,) = document("mark", path, paper)["papers"]
    assert (marked["score"], marked["out_of"]) == (4, 4)
    (first,) = document("mark", path, paper, "--stage", "build")["papers"]
    assert (first["score"] < first["out_of"], first["out_of"]) == (True, 6)


def test_values_of_variables(tmp_path: Path) -> None:
    path, values = tmp_path / "v.lab.yaml", tmp_path / "values.csv"
    path.write_text(VARIANTS, "utf-8")
    values.write_text("learner,variable,value\n0417,site,40\n0418,site,41\n", "utf-8")
    for learner, site in (("0417", 40), ("0418", 41)):
        found = document("ping", path, "--values", values, "--learner", learner)
        assert found["pings"][0]["address"] == f"10.64.{site}.1"
        folder = tmp_path / "class" / learner
        folder.mkdir(parents=True)
        (folder / "weir.sheet").write_text(f"port p1\n  address 10.64.{site}.1/24\n  on\n")
        (folder / "gauge.sheet").write_text(
            f"port p1\n  address 10.64.{site}.20/24\ngateway 10.64.{site}.1\n"
        )
    marked = document("mark", path, tmp_path / "class", "--values", values)["papers"]
    assert [(p["learner"], p["score"] == p["out_of"]) for p in marked] == [("0417", True), ("0418", True)]
    assert "--learner" in zensur("ping", path, "--values", values).stderr
    values.write_text("who,what\n1,2\n", "utf-8")
    bad = zensur("mark", path, tmp_path / "class", "--values", values)
    assert (bad.exit_code, "learner, variable, value" in bad.stderr) == (2, True)


def test_service_checks(tmp_path: Path) -> None:
    path = tmp_path / "served.lab.yaml"
    path.write_text(SERVED, "utf-8")
    found = document("ping", path)["services"]
    assert [(s.get("open"), s.get("resolve"), s["outcome"]) for s in found][3] == (
        None,
        "SHOP.example.",
        "answer",
    )
    assert document("check", path)["services"] == 6
    assert "shop answers tcp 80" in zensur("ping", path).stdout


def test_several_sheets_in_one_file(tmp_path: Path) -> None:
    path = tmp_path / "hosts.sheet"
    path.write_text("device ana\nport p1\n  on\ndevice bob\nname bobby\n  nonsense\n", "utf-8")
    found = document("read", path, status=1)
    assert [(s["name"], len(s["diagnostics"])) for s in found["sheets"]] == [("ana", 0), ("bobby", 1)]
    converted = tmp_path / "clean.sheet"
    result = zensur("convert", path, "--to", "sheet", "-o", converted)
    assert (result.exit_code, "left out" in result.stderr) == (1, True)
    assert converted.read_text() == "device ana\nport p1\n  on\n\ndevice bob\nname bobby\n"
    assert zensur("convert", converted, "--to", "sheet").stdout == converted.read_text()


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


def test_hand_out(tmp_path: Path, lab: Path) -> None:
    page, file = tmp_path / "ring.html", tmp_path / "learner.lab.yaml"
    for output in (page, file):
        assert zensur("hand-out", lab, "-o", output).exit_code == 0
    assert "Four gates in a ring" in page.read_text("utf-8")
    sheets = tmp_path / "mine"
    sheets.mkdir()
    (sheets / "gauge.sheet").write_text("gateway 10.64.16.1\n", "utf-8")
    asked = ("ping", file, "--sheets", sheets, "--from", "gauge", "--to", "weir:p1")
    assert document(*asked)["pings"][0]["outcome"] == "reply"
    assert "no model answer" in zensur("check", file).stdout
    nowhere = zensur("hand-out", lab, "-o", tmp_path / "none" / "x.html")
    assert (nowhere.exit_code, "cannot be written" in nowhere.stderr) == (2, True)


# --- state, and every device to every address -------------------------------------------------------


def test_state_says_what_is_down_and_why(tmp_path: Path, lab: Path) -> None:
    known = document("state", lab)["devices"]
    assert list(known) == ["weir", "lock", "quay", "toll", "gauge", "ledger", "crane", "bell"]
    assert all(p["up"] and p["why"] is None for d in known.values() for p in d["ports"])
    assert {r["origin"] for d in known.values() for r in d["routes"]} == {
        "own",
        "connected",
        "static",
        "gateway",
    }
    assert {
        "address": "10.64.16.1",
        "port": "p1",
        "device": "weir",
        "device_port": "p1",
        "proxy": False,
    } in known["gauge"]["neighbours"]
    sheets = tmp_path / "0417"
    sheets.mkdir()
    (sheets / "lock.sheet").write_text(
        "port p3\n  off\nport p1\n  realm internal\nroute 10.64.33.0/24 via 10.64.0.6\n"
        "route 10.64.16.0/24 via 10.64.0.1 preference 20\nroute 10.64.16.0/24 via 10.64.0.1 out p2\n"
        "route 10.64.77.0/24 out p9\n"
    )
    (own,) = document("state", lab, "--sheets", sheets, "--device", "LOCK")["devices"].values()
    ports = {p["name"]: p for p in own["ports"]}
    assert (ports["p3"]["up"], ports["p3"]["why"], ports["p3"]["far_end"]) == (False, "off", "quay:p2")
    assert (ports["p1"]["realm"], ports["p2"]["file"]) == ("internal", "given/lock")
    off = {r["prefix"]: r["why"] for r in own["routes"] if not r["active"]}
    assert off == {
        "10.64.33.0/24": "p3 is down: off",
        "10.64.77.0/24": "the device has no port p9",
        "10.64.16.0/24": "route 10.64.16.0/24 via 10.64.0.1 out p2 has a lower preference",
    }
    lines = {
        (r["prefix"], r["active"]): (r["file"], r["line"]) for r in own["routes"] if r["origin"] == "static"
    }
    assert lines["10.64.16.0/24", True] == ("lock.sheet", 7)
    told = zensur("state", lab, "--sheets", sheets, "--device", "lock").stdout
    assert "down: off" in told
    assert "no: p3 is down: off" in told
    assert zensur("state", lab, "--device", "x").exit_code == 2


def test_every_device_to_every_address(lab: Path) -> None:
    found = document("ping", lab, "--all-pairs", "--from", "gauge")
    assert found["sources"] == ["weir", "lock", "quay", "toll", "gauge", "ledger", "crane", "bell"]
    assert [len(row) for row in found["outcomes"]] == [len(found["addresses"])] * len(found["sources"])
    gauge = found["outcomes"][found["sources"].index("gauge")]
    assert [p["outcome"] for p in found["pings"]] == gauge
    assert [p["address"] for p in found["pings"]] == found["addresses"]
    assert {p["expect"] for p in found["pings"]} == {None}
    text = zensur("ping", lab, "--all-pairs").stdout
    assert f"{gauge.count('reply')} of {len(gauge)}" in text
    assert zensur("ping", lab, "--all-pairs", "--from", "x").exit_code == 2


def test_export(tmp_path: Path) -> None:
    for name, form, status, says in (
        ("four-gates", "linux-namespaces", 0, "one_ping gauge 10.64.34.20"),
        ("one-cabinet", "linux-namespaces", 0, "ip -n \"$lab-cab.west\" -batch - <<'END'"),
        (
            "toll-house",
            "linux-namespaces",
            1,
            "# - toll: translate from upper-floor to floor: the kernel chooses",
        ),
        ("toll-house", "linux-namespaces", 1, "dnat to 10.64.8.80:80"),
        ("harbour-office", "linux-namespaces", 1, "# - archive: services and names."),
    ):
        path, out = tmp_path / f"{name}.lab.yaml", tmp_path / "out"
        path.write_text(lab_text(name), "utf-8")
        result = zensur("export", path, "--as", form, "-o", out)
        assert result.exit_code == status, result.output
        assert says in out.read_text("utf-8")
        assert subprocess.run(["sh", "-n", str(out)], check=False).returncode == 0
    found = zensur("export", path, "--as", "pcapng", "-o", out, "--from", "clerk", "--to", "sw2")
    assert found.stdout == f"{out} is written: 1 sections, one for each ping or check.\n"
    assert out.read_bytes()[:4] == b"\n\r\r\n"
    assert zensur("export", path, "--as", "pcapng", "-o", out, "--from", "clerk", "--to", "x").exit_code == 2


def test_pings_of_instances_families_and_fresh_tables(tmp_path: Path) -> None:
    path = tmp_path / "x.lab.yaml"
    path.write_text(lab_text("one-cabinet"), "utf-8")
    found = document(
        "ping", path, "--from", "cab/west", "--to", "wharf", "--from", "cab", "--to", "pier", "--source", "p2"
    )
    assert [(p["outcome"], p["there"]) for p in found["pings"]] == [
        ("reply", ["cab/west", "wharf"]), ("reply", ["cab/west", "cab", "cab/east", "pier"]),
    ]  # fmt: skip
    matrix = document("ping", path, "--all-pairs")
    assert {"cab", "cab/west", "cab/east"} <= set(matrix["sources"])
    assert document("state", path, "--device", "cab")["devices"]["cab"]["instances"] == ["west", "east"]
    path.write_text(
        lab_text("toll-house").replace("203.0.113.5 to 203.0.113.6", "203.0.113.5 to 203.0.113.5"), "utf-8"
    )
    kept, fresh = (document("ping", path, *more, status=1)["pings"] for more in ((), ("--fresh",)))
    assert [p["outcome"] for p in kept][1:3] == ["reply", "unreachable"]
    assert [p["outcome"] for p in fresh][1:3] == ["reply", "reply"]
    path.write_text(lab_text("two-families"), "utf-8")
    (row,) = document("ping", path, "--from", "weir", "--to", "fe80::2", "--source", "p2")["pings"]
    assert (row["outcome"], row["seen_as"], row["to"]) == ("reply", "fe80::1", "fe80::2")
    assert "name the port of weir" in zensur("ping", path, "--from", "weir", "--to", "fe80::2").stderr
    out = tmp_path / "out"
    assert zensur("export", path, "--as", "linux-namespaces", "-o", out).exit_code == 0
    assert "# Written down as it came out: what gauge, float lease or learn." in out.read_text("utf-8")


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
