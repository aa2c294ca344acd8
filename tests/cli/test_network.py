"""``zensur ping``, ``state`` and ``export``: a lab's network asked, told, and written in other forms."""

import subprocess
from pathlib import Path

from tests.cli.calls import document, zensur
from tests.core.test_named_once import TO_AND_FRO
from tests.core.test_services import SERVED
from tests.core.test_stages import STAGED, VARIANTS
from zensur.demo import lab_text


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
    assert (marked["score"], marked["out_of"]) == (6, 6)
    (first,) = document("mark", path, paper, "--stage", "build")["papers"]
    assert (first["score"] < first["out_of"], first["out_of"]) == (True, 6)
    (paper / "weir.sheet").write_text("port p1\n  adress 10.64.16.1/24\n" + "x\n" * 3)
    for verb in ("ping", "state"):
        told = zensur(verb, path, "--sheets", paper).stderr.splitlines()
        assert told[0].startswith("weir.sheet, line 2: adress is not a word")
        assert told[3:] == ["weir.sheet: 1 more error; see zensur read."]


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
    assert document("check", path)["services"] == 7
    assert "shop answers tcp 80" in zensur("ping", path).stdout


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
    shown = zensur("state", path, "--device", "cab").stdout
    assert next(line for line in shown.split("\n") if line.startswith("port")).split()[-1] == "instance"
    assert any(line.split()[-1:] == ["west"] for line in shown.split("\n"))
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


def test_a_circle_is_not_how_a_ping_had_to_fail(tmp_path: Path) -> None:
    """As marking has it: a network that must not be reached is not kept away by a route that leads back."""
    path, sheets = tmp_path / "x.lab.yaml", tmp_path / "paper"
    path.write_text(TO_AND_FRO.text, "utf-8")
    sheets.mkdir()
    for name, answer in TO_AND_FRO.answer.items():
        back = "route default via 10.64.0.1\n" if name == "hub" else ""
        (sheets / f"{name}.sheet").write_text(answer.text + back)
    (_, lost) = document("ping", path, "--sheets", sheets, status=1)["pings"]
    assert (lost["reason"], lost["expect"], lost["as_expected"]) == ("ttl", "no-reply", False)
    assert [p["as_expected"] for p in document("ping", path)["pings"]] == [True, True]


def test_every_error_of_a_lab_file_has_its_line(tmp_path: Path) -> None:
    path = tmp_path / "x.lab.yaml"
    path.write_text(TO_AND_FRO.text.replace("kind: host", "kind: hots"), "utf-8")
    refused = zensur("ping", path)
    assert refused.exit_code == 2
    assert [line.startswith(f"{path}: line ") for line in refused.stderr.splitlines()] == [True, True]
