"""What is kept of a class: groups, sittings with their seats and rules, comments, and a log that never changes."""

from datetime import UTC, datetime
from pathlib import Path

import pytest

from zensur.core.sittings import Learner, Rules
from zensur.store import (
    By,
    Comments,
    Database,
    Entries,
    Groups,
    Labs,
    NewPaper,
    Overrules,
    Papers,
    Scope,
    Seat,
    Settings,
    Sittings,
)

ANA = Learner(code="4711", name="Ana Weir", export_id="A1", mail="ana@canal.example", team="red")
BEN = Learner(code="4712", name="ben Lock")
EVA = Learner(code="4713", name="Eva Quay")
CLOSES = datetime(2026, 11, 20, 12, tzinfo=UTC)


@pytest.fixture
def database(tmp_path: Path) -> Database:
    database = Database(tmp_path / "x.db")
    Labs(database).add("one", "text")
    Labs(database).add("two", "text")
    return database


def added(database: Database, version: int = 1, rules: Rules | None = None) -> int:
    return Sittings(database).add(version, "", Settings(title="Week 3", rules=rules or Rules()))


def told(database: Database, sitting: int | None = None, paper: int | None = None) -> list[tuple[str, ...]]:
    newest = Entries(database).newest(sitting=sitting, paper=paper)
    return [(e.what, e.in_words, e.who, e.reason) for e in newest]


def test_groups_come_newest_first_and_leave_the_list_without_a_trace_in_the_others(
    database: Database,
) -> None:
    groups = Groups(database)
    first, second = groups.add("Tuesday", [EVA, ANA]), groups.add("Friday", [])
    assert [(g.id, g.title) for g in groups.all()] == [(second, "Friday"), (first, "Tuesday")]
    found = groups.get(first)
    assert found is not None
    assert found.learners == (ANA, EVA)  # in the order of their names, and each as it was written down
    groups.change(first, "Wednesday", [BEN])
    found = groups.get(first)
    assert found is not None
    assert (found.title, found.learners) == ("Wednesday", (BEN,))
    groups.remove(first)
    assert groups.get(first) is None
    assert [g.id for g in groups.all()] == [second]


def test_a_sitting_is_read_as_it_was_set(database: Database) -> None:
    rules = Rules(closes=CLOSES, late="charged", percent=12.5, most_percent=50, counts="best", attempts=3)
    sittings = Sittings(database)
    first, other = added(database, rules=rules), added(database, version=2)
    sitting = sittings.get(first)
    assert sitting is not None
    assert sitting.settings == Settings(title="Week 3", rules=rules, blind=False)
    assert (sitting.slug, sitting.released_at, sitting.seats) == ("one", None, ())
    again = sittings.get(other)
    assert again is not None
    assert (len(sitting.secret), sitting.secret == again.secret) == (32, False)
    assert [s.id for s in sittings.all()] == [other, first]
    assert [s.id for s in sittings.all("one")] == [first]
    sittings.remove(first, By(who="Pia"))
    assert sittings.get(first) is None
    assert [s.id for s in sittings.all()] == [other]
    assert sittings.get(99) is None


def test_seats_stand_in_the_order_of_names_and_one_is_put_in_the_place_of_another(database: Database) -> None:
    sittings, ident = Sittings(database), added(database)
    seats = [Seat(learner=EVA, group="Tuesday", drawn={"n": 3}), Seat(learner=BEN, drawn={}),
             Seat(learner=ANA, drawn={"n": 1})]  # fmt: skip
    sittings.seat(ident, seats, By(who="Pia"), "three of them")
    sitting = sittings.get(ident)
    assert sitting is not None
    assert sitting.seats == (seats[2], seats[1], seats[0])
    assert [seat.holder for seat in sitting.seats] == ["team/red", "4712", "4713"]
    sittings.seat(ident, [Seat(learner=EVA, group="Friday", drawn={"n": 4})])
    sitting = sittings.get(ident)
    assert sitting is not None
    assert [(s.learner.code, s.group, dict(s.drawn)) for s in sitting.seats][-1] == (
        "4713",
        "Friday",
        {"n": 4},
    )
    assert told(database, sitting=ident) == [("seats", "", "", ""), ("seats", "three of them", "Pia", "")]


def test_the_log_tells_every_change_of_a_sitting_once_and_the_newest_first(database: Database) -> None:
    sittings, ident, other = Sittings(database), added(database), added(database)
    by = By("Pia", "because")
    sittings.change(ident, Settings(title="Week 4", rules=Rules(closes=CLOSES), blind=True), by)
    sittings.change(ident, Settings(title="Week 4", rules=Rules(counts="first")), by)
    newest = Labs(database).newest("one")
    assert newest is not None
    sittings.move(ident, newest, by)
    sittings.release(ident, True, by)
    released = sittings.get(ident)
    sittings.release(ident, False, by)
    held = sittings.get(ident)
    assert released is not None
    assert held is not None
    assert (released.released_at is not None, held.released_at) == (True, None)
    assert [(what, words) for what, words, _, _ in told(database, sitting=ident)] == [
        ("held", ""),
        ("released", ""),
        ("version 1 of the lab", ""),
        ("rules changed", "closes 2026-11-20T12:00:00+00:00 to none; counts last to first; blind yes to no"),
        (
            "rules changed",
            "title Week 3 to Week 4; closes none to 2026-11-20T12:00:00+00:00; blind no to yes",
        ),
    ]
    assert {entry[2:] for entry in told(database, sitting=ident)} == {("Pia", "because")}
    assert told(database, sitting=other) == []


def test_what_is_decided_about_a_paper_is_in_its_log_and_its_sittings(database: Database) -> None:
    ident = added(database)
    (paper,) = Papers(database).add(Scope("one", ("",), ident), [NewPaper("4711", {"weir": ("w", b"")})])
    (elsewhere,) = Papers(database).add(Scope("one"), [NewPaper("4711", {"weir": ("w", b"")})])
    comments, entries = Comments(database), Entries(database)
    Overrules(database).add(paper, "ping:1", 0.5, By("Pia", "seen"), was=0)
    Overrules(database).add(paper, "", 7, By("Pia", "in all"), was=6.25)
    first = comments.add(paper, "Well done.", by=By("Pia"))
    comments.add(paper, "Look here.", device="weir", line=4)
    assert not comments.remove(elsewhere, first)  # it is another paper's
    assert comments.remove(paper, first, By("Pia"))
    assert not comments.remove(paper, first)  # taken back already
    assert [(c.text, c.device, c.line) for c in comments.of_paper(paper)] == [("Look here.", "weir", 4)]
    entries.look(paper, ["a file too much"], By("Pia"))
    entries.accepted(paper, "gateway:ana", "gateway 10.64.8.2", By("Pia", "works, too"))
    assert told(database, paper=paper) == [
        ("accepted for everybody", "gateway:ana; gateway 10.64.8.2", "Pia", "works, too"),
        ("looked at", "a file too much", "Pia", ""),
        ("comment taken back", "", "Pia", ""),
        ("comment", "weir line 4; Look here.", "", ""),
        ("comment", "Well done.", "Pia", ""),
        ("overruled", "the total; 7 marks in place of 6.25", "Pia", "in all"),
        ("overruled", "ping:1; 0.5 marks in place of 0", "Pia", "seen"),
    ]
    assert told(database, sitting=ident) == told(database, paper=paper)
    assert told(database, paper=elsewhere) == []
    assert [e.learner for e in entries.newest(slug="one", most=2)] == ["4711", "4711"]
    assert entries.looked_at(Scope("one", ("",), ident)) == {paper: ["a file too much"]}
    assert entries.looked_at(Scope("one")) == {}
