"""``zensur read`` and ``convert`` with configurations in every form, and what they need from outside."""

import json
import subprocess
import zipfile
from pathlib import Path

import pytest

from tests.cli.calls import document, zensur
from zensur.demo import lab_text

SHEET = "name weir\nport p1\n  address 10.1.0.1/24\n  on\nroute 10.2.0.0/24 via 10.1.0.2\n"


@pytest.fixture
def weir(tmp_path: Path) -> Path:
    path = tmp_path / "weir.sheet"
    path.write_text(SHEET)
    return path


def test_each_form_is_converted_into_each_other(weir: Path, tmp_path: Path) -> None:
    for form, beginning in (("yang-json", "{"), ("yang-xml", "<?xml")):
        other = tmp_path / f"{form}.txt"  # the name says nothing
        assert zensur("convert", weir, "--to", form, "-o", other).exit_code == 0
        assert other.read_text().startswith(beginning)
        found = document("read", other)
        assert (found["form"], found["name"], found["canonical"]) == (form, "weir", SHEET)
        assert zensur("convert", other, "--to", "sheet").stdout == SHEET


def test_what_cannot_be_used_says_why_and_how_grave_it_is(tmp_path: Path) -> None:
    path = tmp_path / "weir.json"
    cases = {
        '{"ietf-system:system": {"hostname": 7}}': (1, "wrong-type", "/ietf-system:system/hostname"),
        '{"ietf-system:system": ': (1, "broken-json", None),
        "<data><a></data>": (1, "broken-xml", None),
        "%PDF-1.7": (1, "not-a-configuration", None),
        '{"acme-things:things": {"hostname": "weir"}}': (0, "unknown-module", "/acme-things:things"),
    }
    for text, (status, code, place) in cases.items():
        path.write_text(text)
        found = document("read", path, status=status)
        assert [(d["code"], d["path"]) for d in found["diagnostics"]] == [(code, place)]
        assert "Traceback" not in zensur("read", path).stderr
    left_out = zensur("convert", path, "--to", "sheet")
    assert left_out.exit_code == 1
    assert "acme-things is not read" in left_out.stderr


def test_several_sheets_are_no_single_file_of_data(tmp_path: Path) -> None:
    path = tmp_path / "all.sheet"
    path.write_text("device weir\nname weir\ndevice quay\nname quay\n")
    ran = zensur("convert", path, "--to", "yang-json")
    assert ran.exit_code == 2
    assert "split it" in ran.stderr


def test_the_script_and_the_module_are_printed(tmp_path: Path) -> None:
    script = tmp_path / "snapshot.sh"
    script.write_text(zensur("snapshot-script").stdout)
    taken = subprocess.run(["sh", script], capture_output=True, text=True, check=True).stdout
    snapshot = tmp_path / "this.snapshot"
    snapshot.write_text(taken)
    found = document("read", snapshot)
    assert found["form"] == "snapshot"
    assert "forwarding" in found["canonical"]
    assert zensur("yang-module").stdout.startswith("module zensur-device {")


def test_a_lab_is_written_as_data_for_equipment(tmp_path: Path) -> None:
    lab, archive = tmp_path / "toll-house.lab.yaml", tmp_path / "toll-house.zip"
    lab.write_text(lab_text("toll-house"), "utf-8")
    assert zensur("export", lab, "--as", "yang-json", "-o", archive).exit_code == 0
    with zipfile.ZipFile(archive) as opened:
        toll = json.loads(opened.read("toll-house/toll.json"))
        assert "the internal side of a translation" in opened.read("toll-house/README.txt").decode()
    assert "ietf-nat:nat" in toll
