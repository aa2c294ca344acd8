"""The printed page of a marked paper: what stands on it, and what does not."""

import re
from collections.abc import Callable, Sequence
from html import unescape

import pytest

from tests.core.two_routers import ADDRESS, ANA, BOB, GATEWAY, PING, QUAY, WEIR, lab
from tests.helpers import sheet
from zensur.core.formats import File, HandIn
from zensur.core.marking.late import charged_late
from zensur.core.marking.marker import Marker
from zensur.core.marking.overruling import TOTAL, Overrule, overruled
from zensur.core.marking.paper import Paper
from zensur.core.marking.shapes import Result
from zensur.core.sheet import read_sheet
from zensur.pages.marked import Written, marked_page

OF = lab(ADDRESS, GATEWAY, PING, {"route": "weir", "dest": "10.2.0.0/24"})
MARKER = Marker(OF)
SHEETS = {"weir": sheet(WEIR), "quay": sheet(QUAY), "ana": sheet(ANA), "bob": sheet(BOB)}


def page(
    changes: dict[str, str | None] | None = None,
    learner: str = "Ann",
    decided: Callable[[Result], Result] = lambda result: result,
    comments: Sequence[Written] = (),
) -> str:
    texts = {d: t for d, t in {**SHEETS, **(changes or {})}.items() if t is not None}
    sheets = {d: read_sheet(t, f"{d}.sheet") for d, t in texts.items()}
    result = MARKER.mark(Paper(learner, sheets, {d: f"{d}.sheet" for d in sheets}))
    files = {d: File(f"{d}.sheet", t.encode()) for d, t in texts.items()}
    return marked_page(OF, decided(result), HandIn(learner, files), comments)


def words(html: str) -> str:
    return " ".join(unescape(re.sub(r"<style>.*?</style>|<[^>]+>", " ", html, flags=re.DOTALL)).split())


def test_a_full_paper_has_nothing_to_mend_and_nothing_to_add_up() -> None:
    found = words(page())
    assert "10 of 10, each mistake once (10 as it stands)" in found
    assert "No mistakes" in found
    assert "How it adds up" not in found


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"ana": sheet(ANA.replace("/24", "/25"))}, ["1 Wrong mask −1.5", "ana.sheet line 2: address 10.1.0.20/25",
                                                     "in all 10 1 Wrong mask, ana −1.5 each mistake once 8.5"]),
        ({"ana": sheet(ANA.replace("gateway 10.1.0.1", ""))}, ["1 Gateway missing −2", "Behind it: ping 1.",
                                                             "in all 10 1 Gateway missing, ana −2 each mistake once 8"]),
        ({"ana": None}, ["No sheet of ana was handed in.", "1 Sheet missing, ana −5 not carried: too little was done on the way −4",
                         "each mistake once 1"]),
        ({"weir": "rout 10.2.0.0/24 via 10.0.0.2\n" + sheet(WEIR).replace("route 10.2.0.0/24 via 10.0.0.2\n", "")},
         ["1 Line not understood −1", "rout is not a word that can stand here"]),
    ],
)  # fmt: skip
def test_the_page_tells_each_mistake_and_how_the_total_adds_up(
    changes: dict[str, str | None], says: list[str]
) -> None:
    found = words(page(changes))
    for sentence in says:
        assert sentence in found, found


def test_what_learners_write_is_text() -> None:
    found = page(
        {"ana": "# <script>alert(1)</script>\n<img src=x onerror=alert(2)>\n" + sheet(ANA)}, "<b>Ann</b>"
    )
    assert "<script" not in found
    assert "<img" not in found
    assert "&lt;img src=x onerror=alert(2)&gt;" in found
    assert "&lt;b&gt;Ann&lt;/b&gt;" in found


WRONG_MASK: dict[str, str | None] = {"ana": sheet(ANA.replace("/24", "/25"))}  # 8.5 of 10


@pytest.mark.parametrize(
    ("decided", "says"),
    [
        (lambda result: charged_late(result, 2, 20.0, OF.scheme),
         ["6.8 of 10, each mistake once", "2 days late: 20 per cent off, 1.7 marks.", "handed in late −1.7 each mistake once 6.8"]),
        (lambda result: charged_late(result, 1, 0.0, OF.scheme), ["8.5 of 10, each mistake once", "1 day late."]),
        (lambda result: overruled(result, [Overrule("gateway:ana", 0.5, "It was said.")], OF.scheme),
         ["Decided by hand, 0.5 in place of 2: It was said."]),
        (lambda result: overruled(result, [Overrule(TOTAL, 9.0, "<b>Well</b> done.")], OF.scheme),
         ["9 of 10, each mistake once", "Decided by hand, 9 in place of 8.5: <b>Well</b> done."]),
    ],
)  # fmt: skip
def test_what_was_decided_and_what_being_late_costs_is_on_the_page(
    decided: Callable[[Result], Result], says: list[str]
) -> None:
    found = words(page(WRONG_MASK, decided=decided))
    for sentence in says:
        assert sentence in found, found


def test_comments_say_what_they_are_about_and_are_text() -> None:
    comments = [
        Written("<i>Well</i> done."),
        Written("This mask.", device="ana", line=2),
        Written("All of it.", device="weir"),
        Written("Ask me.", criterion="gateway:ana"),
    ]
    found = page(WRONG_MASK, comments=comments)
    assert "<i>Well" not in found
    told = "Comments <i>Well</i> done. ana line 2 : This mask. weir : All of it. gateway ana : Ask me."
    assert told in words(found)
    assert "Comments" not in words(page(WRONG_MASK))
