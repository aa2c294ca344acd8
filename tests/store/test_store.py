"""The store: versions, papers by hash, one transaction each, migrations."""

import sqlite3
from pathlib import Path

import pytest

import zensur.store.database as database_module
from zensur.store import Database, Labs, NewerDatabase, Papers, UnusableDatabase, why_unusable

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


def test_the_same_paper_twice_is_one(database: Database) -> None:
    Labs(database).add("one", "text")
    papers = Papers(database)
    (first,) = papers.add("one", [("0417", FILES, ["a remark"])])
    assert papers.add("one", [("0417", FILES, [])]) == [first]
    (second,) = papers.add("one", [("0417", {**FILES, "quay": ("quay.sheet", b"name quay")}, [])])
    assert [p.id for p in papers.of_lab("one")] == [second]  # the latest counts, the first is kept
    kept = papers.get(first)
    assert kept is not None
    assert kept.remarks == ("a remark",)
    assert papers.files(first) == FILES
    assert papers.count("one") == 1


def test_nothing_is_stored_by_halves(database: Database) -> None:
    Labs(database).add("one", "text")
    papers = Papers(database)
    bad = {"weir": ("weir.sheet", None)}
    with pytest.raises(TypeError):
        papers.add("one", [("0417", FILES, []), ("0418", bad, [])])  # type: ignore[list-item]
    assert papers.of_lab("one") == []
    assert database.connection().execute("SELECT count(*) FROM content").fetchone()[0] == 0


def test_results_are_kept_for_paper_version_and_engine(database: Database) -> None:
    labs, papers = Labs(database), Papers(database)
    labs.add("one", "text")
    (paper,) = papers.add("one", [("0417", FILES, [])])
    papers.keep_results(1, "0.1", [(paper, '{"score": 1}')])
    papers.keep_results(1, "0.1", [(paper, '{"score": 2}')])  # marked already
    assert papers.result(paper, 1, "0.1") == '{"score": 1}'
    assert papers.result(paper, 1, "0.2") is None


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
        (lambda path: path.mkdir(), "cannot be opened: Is a directory"),
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
