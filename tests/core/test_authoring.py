"""Edits of a lab's text: each changes what was meant and nothing else, or is refused in words."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_stages import VARIANTS
from zensur.core.authoring.addresses import (
    AddNetwork,
    FillNetwork,
    NameNetwork,
    Renumber,
    SetAddress,
    SetGateways,
)
from zensur.core.authoring.asked import Expect, Forget
from zensur.core.authoring.cabling import Join, LinkPorts, MoveEnd, SetClock, Unlink
from zensur.core.authoring.devices import (
    AddDevice,
    AddPort,
    MoveColumn,
    MoveDevice,
    RemoveDevice,
    RemovePort,
    RenameDevice,
    SetDevice,
)
from zensur.core.authoring.draft import CannotEdit, Draft
from zensur.core.authoring.edits import edited
from zensur.core.authoring.look import ran
from zensur.core.authoring.scheming import WriteScheme
from zensur.core.authoring.staging import AddStage, MoveStage, RemoveStage
from zensur.core.authoring.texts import (
    AddEntry,
    InsertEntry,
    MoveEntry,
    PutSheet,
    PutStatements,
    PutValue,
    RemoveEntries,
    RenameEntry,
    TakeStatements,
)
from zensur.core.lab import Kind, Medium, empty_lab, read_lab

from .edits import FIRST, RING, STAGED, STARTER, change

CASES: list[tuple[str, str, list[object], list[str]]] = [
    ("a host", STARTER, [AddDevice(name="bell", kind=Kind.HOST)], ["+ bell: {kind: host}"]),
    ("a device that is told of", STARTER, [AddDevice(name="sw1", kind=Kind.SWITCH, about="in the hall")],
     ["+ sw1: {kind: switch, about: in the hall}"]),
    ("what a device is", FIRST, [SetDevice(device="sw1", kind=Kind.SWITCH, about="in the basin")],
     ["- sw1: {kind: switch, ports: [p1, p2, p3]}",
      "+ sw1: {kind: switch, ports: [p1, p2, p3], about: in the basin}"]),
    ("nothing about it", FIRST, [SetDevice(device="weir", kind=Kind.ROUTER)],
     ["- weir: {kind: router, ports: [p1, p2], about: at the upper gate}", "+ weir: {kind: router, ports: [p1, p2]}"]),
    ("the order of devices", STARTER, [MoveDevice(device="quay", to=0)],
     ["+ quay: {kind: router, ports: [p1, p2]}", "- quay: {kind: router, ports: [p1, p2]}"]),
    ("a port", STARTER, [AddPort(device="weir")],
     ["- weir: {kind: router, ports: [p1, p2]}",
      "+ weir: {kind: router, ports: [p1, p2, p3]}"]),
    ("a serial port", STARTER, [AddPort(device="quay", medium=Medium.SERIAL)],
     ["- quay: {kind: router, ports: [p1, p2]}", "+ quay: {kind: router, ports: [p1, p2, {name: s1, medium: serial}]}"]),
    ("a second port of a host", STARTER, [AddPort(device="gauge")],
     ["- gauge: {kind: host}", "+ gauge: {kind: host, ports: [p1, p2]}"]),
    ("a cable with ports as they are free", STARTER, [LinkPorts(a="weir", b="quay")],
     ["- weir: {kind: router, ports: [p1, p2]}", "- quay: {kind: router, ports: [p1, p2]}",
      "+ weir: {kind: router, ports: [p1, p2, p3]}",
      "+ quay: {kind: router, ports: [p1, p2, p3]}", "+ - weir:p3 -- quay:p3"]),
    ("a cable taken out", STARTER, [Unlink(end="weir:p2")], ["- - weir:p2 -- quay:p2"]),
    ("a cable moved", FIRST, [Unlink(end="sw1:p3"), MoveEnd(end="sw1:p2", to="sw1:p3")],
     ["- - weir:p1 -- sw1:p2", "- - quay:p1 -- sw1:p3", "+ - weir:p1 -- sw1:p3"]),
    ("a clock from the other end, hidden", RING, [SetClock(end="weir:s1", clocked="toll:s1", hidden=True)],
     ["- - toll:s1 -- weir:s1", "+ - toll:s1 -- weir:s1 clock toll hidden"]),
    ("an address by its host part", STARTER,
     [SetAddress(device="crane", port="p1", typed=".77", prefixes=("10.64.40.0/24",))],
     ["- address 10.64.40.20/24", "+ address 10.64.40.77/24"]),
    ("a whole address with a mask", STARTER, [SetAddress(device="weir", port="p1", typed="10.64.16.1 255.255.255.128")],
     ["- address 10.64.16.1/24", "+ address 10.64.16.1/25"]),
    ("a loopback", STARTER, [SetAddress(device="weir", port="lo0", typed="10.64.255.1/32")],
     ["+ loopback lo0", "+ address 10.64.255.1/32"]),
    ("a lease in the place of an address", STARTER, [SetAddress(device="crane", port="p1", typed="dhcp", side="given")],
     ["- address 10.64.40.20/24", "+ address dhcp"]),
    ("the addresses of a network", FIRST, [FillNetwork(row=0, prefix="10.64.48.0/28")],
     ["- address 10.64.32.1/26", "+ address 10.64.48.1/28", "- address 10.64.32.10/26", "+ address 10.64.48.2/28"]),
    ("the name of a network", FIRST, [NameNetwork(row=0, name="counting house")],
     ["- office: {prefix: 10.64.32.0/26}", "+ counting house: {prefix: 10.64.32.0/26}"]),
    ("a network that is planned", FIRST, [AddNetwork(name="spare", prefix="10.64.99.0/24")],
     ["+ spare: {prefix: 10.64.99.0/24}"]),
    ("a statement in its place", STARTER, [PutStatements(device="weir", statements=("name weir",))], ["+ name weir"]),
    ("a statement in the place of another", STARTER,
     [PutStatements(device="weir", statements=("route default via 10.64.0.2",), instead="route 10.64.40.0/24 via 10.64.0.2")],
     ["- route 10.64.40.0/24 via 10.64.0.2", "+ route default via 10.64.0.2"]),
    ("a statement under a header", STARTER,
     [PutStatements(device="weir", header="port p1", statements=("proxy off", "about to the gauge"))],
     ["+ about to the gauge", "+ proxy off"]),
    ("what is given stays given", STARTER,
     [PutStatements(device="gauge", statements=("gateway 10.64.16.2",), instead="gateway 10.64.16.1")],
     ["- gateway 10.64.16.1", "+ gateway 10.64.16.2"]),
    ("a statement taken away", STARTER,
     [TakeStatements(device="quay", statements=("route 10.64.16.0/24 via 10.64.0.1",))],
     ["- route 10.64.16.0/24 via 10.64.0.1"]),
    ("a value", STARTER, [PutValue(place="title", value="Both banks")], ["- title: Mine", "+ title: Both banks"]),
    ("a value that goes", FIRST, [PutValue(place="level", value="")], ["- level: first steps"]),
    ("a stricter scheme", STARTER, [PutValue(place="scheme.strictness", value="form")],
     ["+ scheme: {strictness: form}"]),
    ("a number of one's own", STARTER, [AddEntry(place="variables.site", value={"from": 1, "to": 9})],
     ["+ variables:", "+ site: {from: 1, to: 9}"]),
    ("a ping", STARTER, [Expect(pings=({"from": "crane", "to": "weir:p1", "expect": "reply"},))],
     ["+ - {from: crane, to: weir:p1, expect: reply}"]),
    ("another outcome of a ping", STARTER, [Expect(pings=({"from": "gauge", "to": "crane", "expect": "timeout"},))],
     ["- - {from: gauge, to: crane, expect: reply, shown: true}",
      "+ - {from: gauge, to: crane, expect: timeout, shown: true}"]),
    ("fewer pings", STARTER, [Forget(numbers=(0, 2))],
     ["- - {from: gauge, to: weir, expect: reply, shown: true}", "- - {from: crane, to: gauge, expect: reply}"]),
    ("topics", STARTER, [InsertEntry(place="topics", values=("routes", "subnets"))], ["- topics: [addresses, static routes]", "+ topics: [addresses, static routes, routes, subnets]"]),
    ("a stage at the end", STAGED, [AddStage(id="after", title="After the flood")],
     ["+ - {id: after, title: After the flood}"]),
]  # fmt: skip


@pytest.mark.parametrize(("text", "edits", "wanted"), [c[1:] for c in CASES], ids=[c[0] for c in CASES])
def test_an_edit_changes_what_was_meant(text: str, edits: list[object], wanted: list[str]) -> None:
    assert sorted(change(text, *edits)) == sorted(wanted)


REFUSED: list[tuple[str, list[object], str]] = [
    (STARTER, [AddDevice(name="weir", kind=Kind.HOST)], "There is a device weir already."),
    (STARTER, [AddDevice(name="a b", kind=Kind.HOST)], "is not a name"),
    (STARTER, [RenameDevice(device="none", to="x")], "There is no device none."),
    (STARTER, [RenameDevice(device="weir", to="QUAY")], "There is a device QUAY already."),
    (STARTER, [LinkPorts(a="weir:p1", b="crane")], "weir:p1 is linked already."),
    (STARTER, [LinkPorts(a="weir:p9", b="crane")], "weir has no port p9; it has p1, p2."),
    (STARTER, [LinkPorts(a="weir", b="weir")], "cannot be linked to itself"),
    (STARTER, [Unlink(end="weir")], "names no port"),
    (STARTER, [SetClock(end="weir:p1", clocked="weir:p1")], "Only a serial link has a clock."),
    (STARTER, [Join(device="weir", row=0)], "weir is in this network already."),
    (STARTER, [Join(device="weir", row=99)], "There is no such network."),
    (RING, [Join(device="quay", row=2)], "A serial link has two ends"),
    (FIRST, [SetAddress(device="sw1", port="p1", typed="10.64.8.9/24")], "its ports bear no addresses"),
    (STARTER, [SetAddress(device="weir", port="p1", typed="300", prefixes=("10.64.16.0/24",))], "no address"),
    (STARTER, [SetAddress(device="weir", port="p1", typed="9")], "the network has no prefix yet"),
    (STARTER, [SetAddress(device="weir", port="p1", typed="10.64.16.9")], "has no mask: type 10.64.16.9/24"),
    (STARTER, [SetAddress(device="weir", port="lo9", typed="")], "weir:lo9 has no address."),
    (FIRST, [FillNetwork(row=1, prefix="10.64.8.0/31")], "has 2 addresses for 3 ports"),
    (STARTER, [AddNetwork(name="cut", prefix="10.64.0.0/30")], "There is a network cut already."),
    (STARTER, [AddNetwork(name="x", prefix="10.64.0.1/30")], "host bits set"),
    (STARTER, [PutStatements(device="weir", statements=("rout x",))], "not a word"),
    (STARTER, [TakeStatements(device="weir", statements=("name x",))], "weir has no name x."),
    (STARTER, [Forget(numbers=(7,))], "There is no entry 8 in pings."),
    (STARTER, [RemoveEntries(places=("devices",))], "With that the lab could not be read"),
    (STARTER, [MoveEntry(place="nowhere[1]", to=0)], "nowhere[1] is not there to be moved."),
    (STARTER, [MoveEntry(place="", to=0)], "The whole lab is not there to be moved."),
    (STARTER, [InsertEntry(place="title", values=("x",))], "title is no list."),
    (STARTER, [RemoveStage(id="x")], "There is no stage x."),
    (RING, [WriteScheme()], "written out already"),
    ("zensur: [", [AddDevice(name="x", kind=Kind.HOST)], "has to be mended first"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "edits", "said"), REFUSED)
def test_what_cannot_be_done_is_refused_in_words(text: str, edits: list[object], said: str) -> None:
    with pytest.raises(CannotEdit) as refused:
        edited(Draft(text), edits)
    assert said in str(refused.value)


def test_a_lab_is_cut_into_stages() -> None:
    first = edited(Draft(STARTER), [AddStage(id="one", title="One")])
    assert (first.stage, [s.stage for s in first.whole.stages]) == ("one", ["one"])
    assert [r.as_expected for r in ran(first).rows] == [True] * 3
    second = edited(first, [AddStage(id="two", title="Two")])
    taken = edited(
        second,
        [
            InsertEntry(place="stages[1].remove.weir", values=("route 10.64.40.0/24",)),
            PutStatements(device="weir", statements=("route default via 10.64.0.2",)),
            Expect(pings=({"from": "gauge", "to": "crane", "expect": "reply"},)),
        ],
    )
    assert [r.as_expected for r in ran(taken).rows] == [True]
    assert taken.lab.removed == {"weir": ("route 10.64.40.0/24",)}
    with pytest.raises(CannotEdit, match="stands in the stage One"):
        edited(second, [SetAddress(device="weir", port="p1", typed="9", prefixes=("10.64.16.0/24",))])
    swapped = edited(second, [MoveStage(id="two", to=0)])
    assert [s.stage for s in swapped.whole.stages] == ["two", "one"]
    assert [s.stage for s in edited(second, [RemoveStage(id="two")]).whole.stages] == ["one"]


def test_an_empty_lab_is_begun_and_emptied() -> None:
    text = empty_lab("new", "New")
    made = edited(Draft(text), [AddDevice(name="weir", kind=Kind.ROUTER)])
    assert made.text == text.replace("devices: {}", "devices:\n  weir: {kind: router}")
    assert edited(made, [RemoveDevice(device="weir")]).lab.devices == {}


def test_a_port_goes_with_its_link_and_what_names_it() -> None:
    text = STARTER.replace("to: weir,", 'to: "weir:p1",')
    gone = edited(Draft(text), [RemovePort(end="weir:p1")])
    assert [p.name for p in gone.lab.devices["weir"].ports] == ["p2"]
    assert [p.to for p in gone.lab.pings] == ["crane", "gauge"]
    assert "port p1" not in gone.lab.answer["weir"].text


def test_a_sheet_is_taken_as_it_is_typed_whatever_the_scheme_asks() -> None:
    text = edited(Draft(STARTER), [WriteScheme()]).text
    typed = edited(Draft(text), [PutSheet(side="answer", device="weir", text="port p1\n  adress")])
    assert "adress" in typed.text
    assert typed.errors


def test_the_rename_of_a_variable() -> None:
    renamed = edited(Draft(VARIANTS), [RenameEntry(place="variables.site", to="place")])
    assert "site" not in renamed.text.replace("opposite", "")
    assert renamed.lab.variables.keys() == {"place"}


COMMENTED = STARTER.replace("links:\n", "# how they are joined\nlinks:\n  # the long one\n").replace(
    "answer:\n", "answer:  # what a full paper has\n"
)
EDITS = st.sampled_from(
    [AddDevice(name="bell", kind=Kind.HOST), RenameDevice(device="weir", to="gate"), RemoveDevice(device="crane"),
     AddPort(device="quay"), LinkPorts(a="quay", b="gauge"), Unlink(end="quay:p2"), WriteScheme(),
     SetAddress(device="quay", port="lo0", typed="10.64.255.2/32"), FillNetwork(row=0, prefix="10.64.77.0/24"),
     Renumber(row=1, prefix="10.64.5.0/30"), SetGateways(row=0), AddNetwork(name="spare", prefix="10.64.99.0/24"),
     PutStatements(device="quay", statements=("name quay",)), Expect(pings=({"from": "gauge", "to": "quay", "expect": "reply"},)),
     Forget(numbers=(0,)), AddStage(id="one", title="One"), AddStage(id="two", title="Two"), MoveDevice(device="quay", to=0),
     PutValue(place="scheme.total", value="40"), Join(device="gauge", row=2), RemovePort(end="quay:p1")]
)  # fmt: skip


@given(st.lists(EDITS, min_size=1, max_size=12))
def test_whatever_is_edited_can_be_read_and_keeps_its_comments(edits: list[object]) -> None:
    draft = Draft(COMMENTED)
    for edit in edits:
        try:
            draft = edited(draft, [edit])
        except CannotEdit:
            continue
        assert read_lab(draft.text).lab is not None
        for comment in ("# how they are joined", "# what a full paper has"):
            assert (comment in draft.text) or "links:" not in draft.text or "answer:" not in draft.text
        ran(draft)
        assert draft.chart


def test_a_column_is_moved_by_hand_and_let_be_worked_out() -> None:
    shown = [c.device for c in Draft(RING).chart.columns]
    moved = edited(Draft(RING), [MoveColumn(device=shown[2], by=-2)])
    assert moved.lab.as_listed
    assert [c.device for c in moved.chart.columns] == [shown[2], *shown[:2], *shown[3:]]
    back = edited(moved, [PutValue(place="order", value="")])
    assert not back.lab.as_listed
    assert {c.device for c in back.chart.columns} == set(shown)
