"""Papers and labs in the standard forms: marks at their lines, repairs in their form, a lab's data for equipment."""

import io
import json
import zipfile

import pytest

from tests.core.every_lab import ALL
from tests.core.yang_models import check_valid
from tests.helpers import lab_of, sheet
from zensur.core.export import modelled
from zensur.core.formats import read_configurations, write_configuration
from zensur.core.formats.fragments import fragment
from zensur.core.lab import Lab
from zensur.core.marking.margin import margin
from zensur.core.marking.marker import Marker
from zensur.core.sheet import SheetForm, read_sheet
from zensur.work.papers import read_paper

WEIR = "port p1; -address 10.1.0.1/24; -on; route 10.2.0.0/24 via 10.1.0.2"
ANA = "port p1; -address 10.1.0.20/24; gateway 10.1.0.1"
LAB = lab_of("weir=router:p1 ana=host", "weir:p1--ana:p1", {"weir": WEIR, "ana": ANA})


def marked(device: str, said: str, form: SheetForm, lab: Lab = LAB):
    configuration = read_sheet(sheet(said)).configuration
    text = write_configuration(configuration, form)
    files = {d: (f"{d}.sheet", s.text.encode()) for d, s in lab.full_paper.items() if d != device}
    paper = read_paper("x", {**files, device: (f"{device}.txt", text.encode())}, devices=lab.devices)
    result = Marker(lab).mark(paper)
    return result, margin(result, device, f"{device}.txt", text, True, form)


@pytest.mark.parametrize("form", ["yang-json", "yang-xml"])
def test_marks_stand_at_the_lines_of_the_data(form: SheetForm) -> None:
    result, shown = marked("weir", WEIR.replace("0.1/24", "0.1/25"), form)
    (fault,) = result.faults
    (line,) = [line for line in shown.lines if line.fault == fault.id]
    assert "10.1.0.1" in line.text
    assert line.number == fault.line
    assert line.wrong is None
    assert line.correction == "address 10.1.0.1/24"
    assert any("address:weir:p1" in own.criteria for own in shown.lines if own.number)
    assert '"prefix-length": 24' in fault.in_form or "<prefix-length>24<" in fault.in_form
    assert "state-unsaid" not in fault.in_form


@pytest.mark.parametrize("form", ["yang-json", "yang-xml"])
def test_what_is_missing_is_pencilled_in_at_the_end_in_the_form_of_the_file(form: SheetForm) -> None:
    result, shown = marked("ana", ANA.partition(";  gateway")[0].replace("; gateway 10.1.0.1", ""), form)
    (fault,) = result.faults
    pencilled = [line.text for line in shown.lines if line.number is None]
    assert "\n".join(pencilled) + "\n" == fault.in_form
    assert "10.1.0.1" in fault.in_form
    (read,) = read_configurations(fault.in_form, device=LAB.devices["ana"])
    assert [i.statement.text() for i in read.configuration.items] == ["gateway 10.1.0.1"]


def test_a_sheet_has_its_repair_in_our_own_language_alone() -> None:
    result = Marker(LAB).mark(
        read_paper("x", {"weir": ("weir.sheet", b"port p1\n  on\n")}, devices=LAB.devices)
    )
    assert {f.in_form for f in result.faults} == {""}


@pytest.mark.parametrize(
    ("header", "statements", "holds"),
    [
        ("port p1", ["address 10.1.0.1/24"], '"ip": "10.1.0.1"'),
        (None, ["translate from 10.1.0.0/24 to p2 shared", "pool a 10.1.0.1 to 10.1.0.2"], "subscriber-match"),
        ("vlan 10", [], '"id": 10'), ("port p1", ["adress"], ""), (None, ["take it away"], ""), (None, [], ""),
    ],
)  # fmt: skip
def test_single_statements_in_another_form(header: str | None, statements: list[str], holds: str) -> None:
    found = fragment(header, statements, "yang-json")
    assert holds in found if holds else found == ""
    assert "only-named" not in found
    assert fragment(header, statements, "snapshot") == ""


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_a_lab_as_data_is_valid_and_says_what_is_left_to_do(lab: Lab) -> None:
    with zipfile.ZipFile(io.BytesIO(modelled(lab, lab.model))) as archive:
        files = {name.rpartition("/")[2]: archive.read(name).decode() for name in archive.namelist()}
    assert set(files) == {"README.txt", *(f"{name}.json" for name in lab.devices)}
    for name, device in lab.devices.items():
        text = files[f"{name}.json"]
        check_valid(json.loads(text))
        (read,) = read_configurations(text, device=device)
        assert not read.errors
        for item in lab.model[name].items:
            assert item in read.configuration.items, item.text()
        noted = f"\n{name}: " in files["README.txt"]
        assert noted == any(word in text for word in ("zensur-device:" + w for w in (
            "access", "trunk", "clocking", "realm", "preference", "dhcp", "out", "sources", "device", "relay", "parent",
            "external-interface",
        )))  # fmt: skip
