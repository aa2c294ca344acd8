"""Blind marking: no name of a file is left in a result, and its margin is the same."""

from dataclasses import replace

from tests.helpers import lab_of
from zensur.core.marking.blind import without_names
from zensur.core.marking.margin import margin
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.sheet import read_sheet

LAB = lab_of(
    "weir=router:p1,p2 ana=host",
    "weir:p1--ana:p1",
    {
        "weir": "port p1; -address 10.64.8.1/24; -on; port p2; -address 10.64.9.1/24; -on; route default via 10.64.9.2",
        "ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
    },
    pings="ana>weir",
)
TEXT = (
    "port p1\n  address 10.64.8.1/25\n  on\nport p2\n  adress 10.64.9.1/24\n  on\nroute default via 10.64.9.2\n"
    "route 10.9.0.0/16 discard\n"
)
OWN = "Ana Weir's weir.sheet"


def test_files_are_called_by_their_devices_wherever_a_result_tells_them() -> None:
    sheet = read_sheet(TEXT, OWN)
    paper = Paper("x", {"weir": sheet}, {"weir": OWN}, (f"{OWN}.bak is no sheet.", f"{OWN}, line 3: odd."))
    result = Marker(LAB).mark(paper)
    assert result.text().count("Ana Weir") > 8
    assert all((result.faults, result.extras, result.diagnostics, any(c.lines for c in result.criteria)))
    blind = without_names(result, {OWN: "weir"}, paper.remarks[:1])
    assert "Ana" not in blind.text()
    assert blind.remarks == (
        "One thing is noted about its files, to be shown when the marks are released.",
        "weir.sheet, line 3: odd.",
    )
    named = {f.id: (f.file, f.line) for f in result.faults}
    assert {f.id: (f.file and OWN, f.line) for f in blind.faults} == named
    lines = margin(result, "weir", OWN, TEXT, True).lines
    assert margin(blind, "weir", "weir.sheet", TEXT, True).lines == lines
    assert any(line.fault for line in lines)
    assert replace(blind, criteria=(), faults=(), extras=(), diagnostics=(), remarks=()) == replace(
        result, criteria=(), faults=(), extras=(), diagnostics=(), remarks=()
    )
    assert without_names(result, {}, ()) == result
