"""A paper is marked the same in whatever form its configurations come."""

import pytest

from zensur.core.formats import SUFFIXES, HandIn, read_configurations, write_configuration
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.shapes import Result
from zensur.demo import LABS, demo_papers, lab_text
from zensur.work.papers import read_paper


def stages() -> list[tuple[str, Lab]]:
    found = []
    for name in LABS:
        lab = read_lab(lab_text(name)).lab
        assert lab is not None
        found += [(name, stage) for stage in lab.stages]
    return found


def told(result: Result) -> dict[str, object]:
    return {
        "totals": (result.score, result.carried, result.out_of),
        "criteria": [(c.id, c.verdict, c.fraction, c.found) for c in result.criteria],
        "mistakes": [(f.slip, f.device, f.found, f.repair, f.direct, f.consequences) for f in result.faults],
        "pings": [(p.id, p.outcome) for p in result.pings],
    }


def in_form(handed: HandIn, lab: Lab, form: str) -> tuple[dict[str, tuple[str, bytes]], bool]:
    """The files of a paper in another form, and whether all lines of its sheets were read."""
    files, whole = {}, True
    for device, file in handed.files.items():
        files[device] = (file.path, file.content)
        sheets = read_configurations(file.content, file.path)
        if device in lab.devices and len(sheets) == 1:
            whole = whole and not sheets[0].errors
            files[device] = (
                device + SUFFIXES[form],
                write_configuration(sheets[0].configuration, form).encode(),
            )
    return files, whole


@pytest.mark.parametrize(("name", "lab"), stages(), ids=lambda v: v if isinstance(v, str) else v.stage)
def test_marks_are_the_same_in_every_form(name: str, lab: Lab) -> None:
    marker = Marker(lab)
    memo = marker.memo()
    for handed in demo_papers(name, lab):
        own = {device: (file.path, file.content) for device, file in handed.files.items()}
        as_sheets = told(marker.mark(read_paper(handed.learner, own, devices=lab.devices), memo))
        for form in ("yang-json", "yang-xml"):
            files, whole = in_form(handed, lab, form)
            marked = told(marker.mark(read_paper(handed.learner, files, devices=lab.devices), memo))
            assert marked["totals"] == as_sheets["totals"] or not whole, (handed.learner, form)
            for part in ("criteria", "pings") + (("mistakes",) if whole else ()):
                assert marked[part] == as_sheets[part], (handed.learner, form, part)


def test_a_paper_in_data_may_be_as_large_as_one_of_sheets() -> None:
    """Data says in many lines what a sheet says in one: it is not refused for that."""
    text = "".join(f"port p{n}\n  address 10.64.{n}.1/24\n  on\n" for n in range(200))
    (configuration,) = (sheet.configuration for sheet in read_configurations(text))
    data = write_configuration(configuration, "yang-json").encode()
    assert data.count(b"\n") * 4 > 8_000
    paper = read_paper("x", {f"d{n}": (f"d{n}.json", data) for n in range(4)})
    assert [len(sheet.configuration.items) for sheet in paper.sheets.values()] == [600] * 4
