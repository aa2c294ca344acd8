"""The store: versions, papers by hash, one transaction each, migrations."""

import sqlite3
from dataclasses import replace
from pathlib import Path

import pytest

import zensur.store.database as database_module
from zensur.store import (
    Asked,
    By,
    Database,
    Entries,
    Labs,
    Listed,
    NewerDatabase,
    NewPaper,
    Overrules,
    Overtaken,
    Papers,
    Results,
    Scope,
    Summary,
    UnusableDatabase,
    why_unusable,
)

ONE = Scope("one")
FILES = {"weir": ("weir.sheet", b"name weir\n"), "quay": ("quay.sheet", b"")}


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database(tmp_path / "deep" / "test.db")


def test_versions_are_added_and_never_changed(database: Database) -> None:
    labs = Labs(database)
    assert labs.add("one", "first")
    assert not labs.add("one", "again")
    assert labs.save("one", "second", 1) == 2
    assert labs.save("one", "second", 2) == 2  # the same text is the same version
    assert labs.save("one", "third", 1) is None  # somebody else saved meanwhile
    assert labs.save("none", "text", 1) is None
    newest = labs.newest("one")
    assert newest is not None
    assert (newest.number, newest.text) == (2, "second")
    assert labs.version(1).text == "first"
    assert [v.slug for v in labs.all()] == ["one"]


def test_the_paper_that_counts_is_the_last_that_was_handed_in_or_chosen(database: Database) -> None:
    """A, again A, B, A: it is A, which is one paper; and by hand it may be B."""
    Labs(database).add("one", "text")
    papers = Papers(database)
    other = {**FILES, "quay": ("quay.sheet", b"name quay")}

    def counts() -> list[int]:
        return [p.id for p in papers.last(ONE)]

    (first,) = papers.add(ONE, [NewPaper("0417", FILES, ["a remark"])])
    assert papers.add(ONE, [NewPaper("0417", FILES)]) == [first]
    (second,) = papers.add(ONE, [NewPaper("0417", other)])
    assert (counts(), papers.count("one")) == ([second], 1)
    assert papers.add(ONE, [NewPaper("0417", FILES)]) == [first]
    assert counts() == [first]
    papers.choose(second)
    assert counts() == [second]
    assert [p.id for p in papers.of_learner(ONE, "0417")] == [second, first]
    kept = papers.get(first)
    assert kept is not None
    assert kept.remarks == ("a remark",)
    assert papers.files(first) == FILES
    (staged,) = papers.add(Scope("one", ("later",)), [NewPaper("0417", FILES)])
    assert (counts(), staged not in (first, second)) == ([second], True)
    assert [p.id for p in papers.last(Scope("one", ("later",)))] == [staged]


def test_a_paper_that_came_in_between_is_not_replaced(database: Database) -> None:
    Labs(database).add("one", "text")
    papers = Papers(database)
    other = {"weir": ("weir.sheet", b"")}
    (first,) = papers.add(ONE, [NewPaper("0417", FILES)], {"0417": None})
    with pytest.raises(Overtaken):
        papers.add(ONE, [NewPaper("0400", FILES), NewPaper("0417", other)], {"0417": None})
    assert [p.id for p in papers.last(ONE)] == [first]
    papers.add(ONE, [NewPaper("0417", other)], {"0417": first})
    assert papers.last(ONE)[0].id != first


def test_overrules_stay_with_the_learner_and_the_latest_stands(database: Database) -> None:
    Labs(database).add("one", "text")
    papers, overrules = Papers(database), Overrules(database)
    (old,) = papers.add(ONE, [NewPaper("0417", FILES)])
    overrules.add(old, "ping:1", 2, By(reason="It does."))
    overrules.add(old, "ping:2", 1, By(reason="So does this."))
    (new,) = papers.add(ONE, [NewPaper("0417", {})])
    overrules.add(new, "ping:2", None)
    overrules.add(new, "", 3, By("ana", "Late."), 2.5)
    found = [(o.paper, o.criterion, o.marks, o.reason) for o in overrules.of(ONE)["0417"]]
    assert found == [(old, "ping:1", 2, "It does."), (new, "", 3, "Late.")]
    assert overrules.of(Scope("one", ("other stage",))) == {}
    log = [
        (e.who, e.what, e.paper, e.told["marks"], e.told["was"], e.reason) for e in Entries(database).newest()
    ]
    assert log == [
        ("ana", "overruled", new, 3, 2.5, "Late."),
        ("", "overrule taken back", new, None, None, ""),
        ("", "overruled", old, 1, None, "So does this."),
        ("", "overruled", old, 2, None, "It does."),
    ]


def test_nothing_is_stored_by_halves(database: Database) -> None:
    Labs(database).add("one", "text")
    papers = Papers(database)
    bad = {"weir": ("weir.sheet", None)}
    with pytest.raises(TypeError):
        papers.add(ONE, [NewPaper("0417", FILES), NewPaper("0418", bad)])  # type: ignore[arg-type]
    assert papers.last(ONE) == []
    assert database.connection().execute("SELECT count(*) FROM content").fetchone()[0] == 0


def test_results_are_kept_for_paper_version_and_engine(database: Database) -> None:
    labs, papers, results = Labs(database), Papers(database), Results(database)
    labs.add("one", "text")
    (paper,) = papers.add(ONE, [NewPaper("0417", FILES)])
    summary = Summary(1, 2, 3, "B", ("Wrong mask", "Wrong mask"))

    def listed(engine: str) -> Listed:
        (found,) = results.listed([paper], 1, engine)
        return found

    assert (listed("0.1").summary, listed("0.1").devices) == (None, frozenset({"weir", "quay"}))
    results.keep_failure(paper, 1, "0.1", "Too long.")
    assert (listed("0.1").failure, listed("0.2").failure) == ("Too long.", None)
    results.keep(paper, 1, "0.1", '{"score": 1}', summary)
    results.keep(paper, 1, "0.1", '{"score": 2}', replace(summary, score=2))  # marked already
    assert results.result(paper, 1, "0.1") == '{"score": 1}'
    assert (listed("0.1").summary, listed("0.1").failure, listed("0.1").was) == (summary, None, None)
    assert (results.result(paper, 1, "0.2"), listed("0.2").was) == (None, 2)


def test_the_shelf_shows_a_part_of_the_labs(database: Database) -> None:
    labs = Labs(database)
    for n in range(5):
        labs.add(f"lab-{n}", "text")
    labs.keep_card(2, "0.1", '{"title": "Canals", "level": "first", "topics": ["masks"]}')

    def shelf(
        find: str = "",
        start: int = 0,
        most: int = 2,
        engine: str = "0.1",
        topic: str = "",
        removed: bool = False,
    ) -> tuple[list[str], int]:
        shelved, of = labs.shelf(engine, Asked(find, start=start, topic=topic, removed=removed), most)
        return [s.version.slug for s in shelved], of

    assert shelf() == (["lab-0", "lab-1"], 5)
    assert shelf(start=4) == (["lab-4"], 5)
    assert shelf("CANAL") == shelf("mask") == shelf("lab-1") == (["lab-1"], 1)
    assert shelf("canal", engine="0.2") == ([], 0)
    assert labs.kinds("0.1") == (["masks"], ["first"])
    assert (shelf(topic="masks"), shelf(topic="mask")) == ((["lab-1"], 1), ([], 0))
    labs.put_away("lab-1", True)
    assert (shelf("canal"), shelf(removed=True), shelf()[1]) == (([], 0), (["lab-1"], 1), 4)
    assert (labs.kinds("0.1"), labs.newest("lab-1") is not None) == (([], []), True)
    labs.put_away("lab-1", False)
    assert labs.save("lab-1", "more", 1) == 2
    assert shelf("canal") == ([], 0)
    assert [number for number, _ in labs.versions("lab-1")] == [2, 1]
    assert [v and v.text for v in (labs.numbered("lab-1", 1), labs.numbered("lab-1", 3))] == ["text", None]
    assert shelf("%") == ([], 0)


def test_a_newer_database_is_refused_and_left_alone(tmp_path: Path) -> None:
    path = tmp_path / "newer.db"
    Database(path).close()
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA user_version = 9999")
    with pytest.raises(NewerDatabase, match="newer version of Zensur"):
        Database(path)
    assert sqlite3.connect(path).execute("PRAGMA user_version").fetchone()[0] == 9999


def test_an_older_database_is_copied_and_then_migrated(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "older.db"
    older = Database(path)
    Labs(older).add("one", "text")
    older.close()
    present = database_module._migrations()
    later = (present[-1][0] + 1, "CREATE TABLE later (x TEXT) STRICT;")
    monkeypatch.setattr(database_module, "_migrations", lambda: [*present, later])
    newer = Database(path)
    assert newer.connection().execute("PRAGMA user_version").fetchone()[0] == later[0]
    assert [v.slug for v in Labs(newer).all()] == ["one"]
    copy = sqlite3.connect(f"{path}.before-{later[0]}")
    assert copy.execute("PRAGMA user_version").fetchone()[0] == present[-1][0]
    assert copy.execute("SELECT slug FROM lab").fetchall() == [("one",)]
    broken = (later[0] + 1, "CREATE TABLE again (x TEXT) STRICT; CREATE TABLE later (x TEXT) STRICT;")
    monkeypatch.setattr(database_module, "_migrations", lambda: [*present, later, broken])
    with pytest.raises(UnusableDatabase, match="table later already exists"):
        Database(path)
    left = sqlite3.connect(path)
    assert left.execute("PRAGMA user_version").fetchone()[0] == later[0]
    assert left.execute("SELECT count(*) FROM sqlite_schema WHERE name = 'again'").fetchone()[0] == 0


def test_a_second_process_sees_what_the_first_has_written(tmp_path: Path) -> None:
    one, two = Database(tmp_path / "x.db"), Database(tmp_path / "x.db")
    Labs(one).add("one", "text")
    assert [v.slug for v in Labs(two).all()] == ["one"]
    assert one.secret() == two.secret() != ""
    assert one.connection().execute("PRAGMA synchronous").fetchone()[0] == 2


def _of_another_program(path: Path) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE recipe (name TEXT)")
        connection.execute("PRAGMA user_version = 2")
    connection.close()


def _with_another_mark(path: Path) -> None:
    Database(path).close()
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA application_id = 252006674")
    connection.close()


def _damaged(path: Path) -> None:
    database = Database(path)
    Labs(database).add("one", "text " * 20_000)
    database.connection().execute("PRAGMA wal_checkpoint(TRUNCATE)")
    database.close()
    content = bytearray(path.read_bytes())
    content[4096 * 2 : 4096 * 6] = bytes(4096 * 4)
    path.write_bytes(content)


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (_of_another_program, "database of another program"),
        (_with_another_mark, "database of another program"),
        (lambda path: path.write_text("zensur: 1\n" * 200), "this is no database"),
        (_damaged, "the database is damaged"),
        (lambda path: path.mkdir(), "the database cannot be opened"),
    ],
)
def test_what_is_no_database_of_ours_is_refused_and_left_alone(tmp_path: Path, make, says) -> None:
    path = tmp_path / "x.db"
    make(path)
    path.chmod(0o755)
    before = path.read_bytes() if path.is_file() else b""
    with pytest.raises(UnusableDatabase, match=says) as refused:
        Database(path)
    assert "\n" not in str(refused.value)
    assert (path.read_bytes() if path.is_file() else b"") == before
    assert oct(path.stat().st_mode & 0o777) == "0o755"


def test_a_database_is_marked_as_ours_and_readable_by_its_owner_only(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "x.db"
    database = Database(path)
    Labs(database).add("one", "text")
    assert {p.name: oct(p.stat().st_mode & 0o777) for p in path.parent.iterdir()} == dict.fromkeys(
        ["x.db", "x.db-wal", "x.db-shm"], "0o600"
    )
    assert oct(path.parent.stat().st_mode & 0o777) == "0o700"
    database.connection().execute("PRAGMA application_id = 0")  # as earlier versions left it
    database.close()
    path.chmod(0o644)
    again = Database(path)
    assert again.connection().execute("PRAGMA application_id").fetchone()[0] == database_module.APPLICATION
    assert oct(path.stat().st_mode & 0o777) == "0o600"


def test_a_copy_is_made_while_others_write(tmp_path: Path) -> None:
    database, to = Database(tmp_path / "x.db"), tmp_path / "copy.db"
    Labs(database).add("one", "text")
    with database.transaction() as connection:
        connection.execute("UPDATE lab SET slug = 'two'")
        Database(tmp_path / "y.db")  # another one, to be sure that only the file counts
        other = Database.__new__(Database)
        other.path, other._local = database.path, type(database._local)()
        other.back_up(to)
    copied = Database(to)
    assert [v.slug for v in Labs(copied).all()] == ["one"]  # what was not answered for is not in it
    assert (copied.check(), oct(to.stat().st_mode & 0o777)) == ([], "0o600")
    with pytest.raises(UnusableDatabase, match="File exists"):
        database.back_up(to)


def test_why_a_database_fails_is_said_in_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "x.db"
    database = Database(path)
    database.connection().execute("PRAGMA max_page_count = 1")
    with pytest.raises(sqlite3.OperationalError) as full:
        Labs(database).add("one", "text " * 200_000)
    assert why_unusable(full.value).startswith("the disk is full")
    assert Labs(database).all() == []
    with pytest.raises(sqlite3.OperationalError) as locked:
        sqlite3.connect(f"file:{path}?mode=ro", uri=True).execute("CREATE TABLE x (y TEXT)")
    assert why_unusable(locked.value).endswith("read-only.")
