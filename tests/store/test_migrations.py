"""Databases of every earlier schema, filled as that schema allows: copied first, then read as if written today."""

import sqlite3
from pathlib import Path

import pytest

import zensur.store.database as database_module
from zensur.store import Comments, Database, Entries, Labs, Listed, Overrules, Papers, Results, Scope

PRESENT = database_module._migrations()
RESULT = '{"score": 3, "carried": 4.5, "out_of": 6, "grade": "B", "faults": [{"title": "Wrong mask"}]}'


def older(path: Path, schema: int) -> None:
    """Write a database as a Zensur of that schema did: a lab of two versions, a learner's paper, an overrule taken
    back and one that stands."""
    with sqlite3.connect(path) as connection:
        for number, script in PRESENT[:schema]:
            connection.executescript(script)
            connection.execute(f"PRAGMA user_version = {number}")
        connection.execute(f"PRAGMA application_id = {database_module.APPLICATION}")
        connection.execute("INSERT INTO lab (id, slug, created_at) VALUES (1, 'one', 'then')")
        for number in (1, 2):
            connection.execute(
                "INSERT INTO lab_version (lab, number, text, saved_at) VALUES (1, ?, ?, 'then')",
                (number, f"text {number}"),
            )
        connection.execute("INSERT INTO content VALUES ('h', ?)", (b"name weir\n",))
        connection.execute(
            "INSERT INTO paper (id, lab, learner, hash, remarks, received_at) "
            "VALUES (7, 1, 'ana', 'x', '[\"told\"]', '2026-11-01T08:00:00+00:00')"
        )
        connection.execute("INSERT INTO paper_file VALUES (7, 'weir', 'weir.sheet', 'h')")
        connection.execute(
            "INSERT INTO result (paper, version, engine, json, marked_at) VALUES (7, 2, 'e', ?, 'then')",
            (RESULT,),
        )
        if schema >= 3:
            for marks, reason in ((1.0, "seen"), (None, "not so"), (2.0, "after all")):
                connection.execute(
                    "INSERT INTO overrule (paper, criterion, marks, reason, made_at) VALUES (7, 'ping:1', ?, ?, 'then')",
                    (marks, reason),
                )
        if schema >= 4:
            connection.execute("INSERT INTO hand_in (paper, made_at) VALUES (7, 'then')")
            connection.execute("UPDATE result SET summary = json_object('score', 3, 'carried', 4.5, 'out_of', 6, "
                               "'grade', 'B', 'mistakes', json_array('Wrong mask'))")  # fmt: skip


@pytest.mark.parametrize("schema", range(1, len(PRESENT)))
def test_what_an_earlier_version_wrote_is_all_there(tmp_path: Path, schema: int) -> None:
    path = tmp_path / "x.db"
    older(path, schema)
    database = Database(path)
    newest = Labs(database).newest("one")
    assert newest is not None
    assert (newest.number, newest.text) == (2, "text 2")
    (paper,) = Papers(database).last(Scope("one"))
    assert (paper.id, paper.learner, paper.remarks, paper.sitting, paper.drawn) == (
        7,
        "ana",
        ("told",),
        None,
        {},
    )
    assert Papers(database).files(7) == {"weir": ("weir.sheet", b"name weir\n")}
    assert Results(database).result(7, 2, "e") == RESULT
    (listed,) = Results(database).listed([7], 2, "e")
    assert isinstance(listed, Listed)
    assert listed.summary is not None
    assert (listed.summary.carried, listed.summary.grade, listed.summary.mistakes) == (
        4.5,
        "B",
        ("Wrong mask",),
    )
    standing = Overrules(database).of(Scope("one")).get("ana", [])
    told = [(e.what, e.told.get("marks"), e.reason) for e in Entries(database).newest(paper=7)]
    if schema >= 3:
        assert [(o.criterion, o.marks, o.reason) for o in standing] == [("ping:1", 2.0, "after all")]
    if 3 <= schema < 8:  # the log began later, with what had been decided before
        assert told == [
            ("overruled", 2.0, "after all"), ("overrule taken back", None, "not so"), ("overruled", 1.0, "seen"),
        ]  # fmt: skip
    assert Comments(database).of_paper(7) == []


@pytest.mark.parametrize("schema", range(1, len(PRESENT)))
def test_the_copy_from_before_is_as_it_was(tmp_path: Path, schema: int) -> None:
    path = tmp_path / "x.db"
    older(path, schema)
    with sqlite3.connect(path) as connection:
        before = list(connection.iterdump())
    Database(path)
    (copy,) = tmp_path.glob("x.db.before-*")
    with sqlite3.connect(copy) as connection:
        assert list(connection.iterdump()) == before
        assert connection.execute("PRAGMA user_version").fetchone()[0] == schema
