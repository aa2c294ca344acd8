"""Any number of threads may use one marker: what they share never changes."""

import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from enum import Enum
from ipaddress import IPv4Address, IPv4Network, IPv6Address, IPv6Network
from threading import Barrier
from types import FunctionType, MappingProxyType, ModuleType

import pytest

from tests.helpers import lab_of, paper_of
from zensur.core.lab import Lab, read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.sheet import read_sheet
from zensur.demo import lab_text

LAB = lab_of(
    "toll=router:p1,p2,p3 far=router:p1,p2 hub=switch:p1,p2,p3 ana=host bob=host shop=host",
    "toll:p1--hub:p1 hub:p2--ana:p1 hub:p3--bob:p1 toll:p2--far:p1 far:p2--shop:p1",
    {
        "toll": "port p1; -address 10.64.8.1/24; -realm internal; -on; port p2; -address 203.0.113.1/29; -realm external; "
        "-on; pool spare 203.0.113.4 to 203.0.113.5; translate from 10.64.8.0/24 to spare shared; "
        "dhcp crew; -network 10.64.8.0/24; -range 10.64.8.100 to 10.64.8.120; -gateway 10.64.8.1; rip; -run p2",
        "far": "port p1; -address 203.0.113.2/29; -on; port p2; -address 10.64.40.1/24; -on; rip; -run p1 p2",
        "hub": "port p1; -access 1",
        "ana": "port p1; -address dhcp",
        "bob": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1",
        "shop": "port p1; -address 10.64.40.20/24; gateway 10.64.40.1; service tcp 80",
    },
    "ana>shop bob>shop ana>bob shop>toll:p2 shop>bob=no-reply toll>shop",
    services=[{"from": "ana", "open": "tcp 10.64.40.20:80", "expect": "answer"}],
)
TOLL = LAB.answer["toll"].text
CHANGES: list[dict[str, str | None]] = [
    {},
    {"toll": None},
    {"toll": TOLL.replace("realm internal", "realm external", 1)},
    {"toll": TOLL.replace("203.0.113.4 to 203.0.113.5", "203.0.113.3 to 203.0.113.3"), "bob": None},
    {"toll": TOLL.replace("run p2", "run p1"), "shop": "port p1; -address 10.64.40.20/24"},
    {"far": "port p1; -address 203.0.113.2/29; -on; port p2; -address 10.64.40.1/24"},
    {"toll": TOLL.replace("shared", "").replace("gateway 10.64.8.1", "gateway 10.64.8.2")},
    {"ana": "port p1; -address 10.64.8.20/24; gateway 10.64.8.1"},
]
PAPERS = [paper_of(LAB, change) for change in CHANGES]


@pytest.fixture
def often_switched() -> Iterator[None]:
    """Let the interpreter switch threads every 10 µs."""
    before = sys.getswitchinterval()
    sys.setswitchinterval(1e-5)
    yield
    sys.setswitchinterval(before)


@pytest.mark.usefixtures("often_switched")
def test_eight_threads_on_a_cold_lab_mark_as_one_alone() -> None:
    alone = [Marker(LAB).mark(paper).text() for paper in PAPERS]
    assert len(set(alone)) == len(PAPERS)
    with ThreadPoolExecutor(len(PAPERS)) as threads:
        for turn in range(100):
            marker, barrier = Marker(LAB), Barrier(len(PAPERS))

            def mark(n: int, marker: Marker = marker, barrier: Barrier = barrier) -> str:
                barrier.wait()
                return marker.mark(PAPERS[n]).text()

            order = [(n + turn) % len(PAPERS) for n in range(len(PAPERS))]
            assert list(threads.map(mark, order)) == [alone[n] for n in order]


def test_a_memo_that_has_seen_a_class_marks_as_one_that_has_not() -> None:
    marker = Marker(LAB)
    memo = marker.memo()
    alone = [marker.mark(paper).text() for paper in PAPERS]
    for order in (1, -1, 1):
        assert [marker.mark(paper, memo).text() for paper in PAPERS[::order]] == alone[::order]


def test_twins_are_searched_once_and_told_at_their_own_lines() -> None:
    """The second has other names and other lines, and says the same."""
    marker = Marker(LAB)
    memo = marker.memo()
    wrong = TOLL.replace("203.0.113.4 to 203.0.113.5", "203.0.113.3 to 203.0.113.3")
    first, second = (
        paper_of(LAB, {"toll": t}) for t in (wrong, "# mine\n\n" + wrong.replace("spare", "mine"))
    )
    results = [marker.mark(paper, memo) for paper in (first, second)]
    assert len(memo.twins) == 1
    assert [r.text() for r in results] == [Marker(LAB).mark(paper).text() for paper in (first, second)]
    lines = [f.line for r in results for f in r.faults if f.line is not None]
    assert len(lines) == 2
    assert lines[1] == lines[0] + 2


ATOMS = (
    str, bytes, int, float, type, type(None), FunctionType, ModuleType, Enum,
    IPv4Address, IPv6Address, IPv4Network, IPv6Network,
)  # fmt: skip
"""Values that cannot change, or of the standard library, which keeps what it worked out of an address."""


def contents(root: object) -> dict[str, int]:
    """Return how much every container and object holds that can be reached, by the way to it."""
    found: dict[str, int] = {}
    seen: set[int] = set()
    waiting: list[tuple[str, object]] = [("", root)]
    while waiting:
        path, value = waiting.pop()
        if id(value) in seen or isinstance(value, ATOMS):
            continue
        seen.add(id(value))
        if isinstance(value, dict | MappingProxyType):  # any other mapping may run what it is asked for
            inside = [(f"{path}[{n}]", v) for n, pair in enumerate(value.items()) for v in pair]
        elif isinstance(value, tuple | list | set | frozenset):
            inside = [(f"{path}[{n}]", v) for n, v in enumerate(value)]
        else:
            slots = [s for kind in type(value).__mro__ for s in getattr(kind, "__slots__", ())]
            names = [*getattr(value, "__dict__", {}), *(s for s in slots if hasattr(value, s))]
            inside = [(f"{path}.{name}", getattr(value, name)) for name in names]
        found[path] = len(inside)
        waiting += inside
    return found


@pytest.mark.parametrize(
    "lab", [LAB, *(read_lab(lab_text(name)).lab for name in ("rebuilding", "one-cabinet"))]
)
def test_marking_changes_nothing_that_is_shared(lab: Lab) -> None:
    """Not even a cache: whatever is worked out for a paper is kept by its session, or by the memo of its thread."""
    marker = Marker(lab)
    before = contents(marker)
    assert len(before) > 1_000
    full = {name: sheet.text for name, sheet in lab.full_paper.items()}
    for name, text in full.items():
        lines = [line for line in text.split("\n") if not line.startswith(("route", "gateway", "  address"))]
        marker.mark(Paper("0417", {**lab.full_paper, name: read_sheet("\n".join(lines), f"{name}.sheet")}))
    marker.mark(Paper("", {}))
    assert contents(marker) == before
