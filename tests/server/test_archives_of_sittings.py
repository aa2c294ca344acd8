"""A sitting as one file, restored elsewhere with the same totals; and a learner erased, with the class's figures kept."""

import csv
import io
import json
import random
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient

from zensur.cli import main
from zensur.demo import lab_text
from zensur.server import create_app
from zensur.store import By, Database
from zensur.work.archived_rows import BadSitting
from zensur.work.archiving import archived, restored
from zensur.work.desk import Desk
from zensur.work.erasing import erase_learner

from .helpers import marked, token
from .sitting import LAB, asked, class_of, hand_in, new_sitting


@pytest.fixture
def whole(client: FlaskClient, desk: Desk) -> int:
    """A sitting with late papers, attempts, a choice, an overrule, comments and a team."""
    roster = "id,name,mail,team\n4711,Ana Weir,ana@lock.example,\n4712,Ben Lock,,red\n4713,Eva Quay,,red\n"
    rules = {"closes": "2026-11-20T12:00:00Z", "late": "charged", "percent": 10, "counts": "best"}
    number = int(new_sitting(client, roster=roster, rules=rules)["number"])
    first = hand_in(client, number, class_of("Ana Weir", "Ben Lock", **{"odd.docx": b"?"}))["papers"][0]
    hand_in(client, number, class_of("Ana Weir", **{"weir.sheet": b"name weir about Ana's own\n"}))
    marked(client, desk, f"/api/labs/{LAB}/class?sitting={number}")
    asked(
        client,
        "POST",
        f"/api/papers/{first}/overrules",
        200,
        criterion="ping:1",
        marks=0,
        reason="Ana copied it",
    )
    asked(client, "POST", f"/api/papers/{first}/count", 200, chosen=True, reason="Ana asked for it")
    asked(client, "POST", f"/api/papers/{first}/comments", 201, text="Well done, Ana.")
    return number


def told(client: FlaskClient, desk: Desk, number: int, slug: str = LAB) -> dict[str, Any]:
    """Return everything that is told of a sitting but rows and the moment of restoring."""
    view = marked(client, desk, f"/api/labs/{slug}/class?sitting={number}")
    sitting = client.get(f"/api/sittings/{number}").get_json()
    papers = [
        client.get(f"/api/papers/{row['paper']}").get_json() for row in view["learners"] if row["paper"]
    ]
    return {
        "rows": [{**row, "paper": row["paper"] is not None} for row in view["learners"]],
        "figures": [view[name] for name in ("distribution", "items", "reliability", "slips", "pairs")],
        "settings": sitting["settings"],
        "seats": sitting["seats"],
        "log": [{**e, "paper": e["paper"] is not None} for e in sitting["log"] if "archive" not in e["what"]],
        "papers": [
            {
                name: paper[name]
                for name in (
                    "learner",
                    "received_at",
                    "sheets",
                    "result",
                    "sum",
                    "drawn",
                    "doubts",
                    "days_late",
                    "chosen",
                )
            }
            | {"comments": [c["text"] for c in paper["comments"]], "attempts": len(paper["attempts"])}
            for paper in papers
        ],
        "csv": client.get(
            f"/results/{slug}.csv?sitting={number}&columns=learner,id,mail,carried,days_late"
        ).data,
    }


@pytest.mark.parametrize("there", [None, "same", "other"])
def test_a_sitting_is_restored_elsewhere_with_the_same_totals(
    client: FlaskClient, desk: Desk, whole: int, tmp_path: Path, there: str | None
) -> None:
    file = tmp_path / "week.zip"
    called = ["--database", str(desk.database.path)]
    assert CliRunner().invoke(main, ["archive", str(whole), "-o", str(file), *called]).exit_code == 0
    other = Desk(Database(tmp_path / "other.db"))
    if there:
        other.labs.add(LAB, lab_text(LAB) if there == "same" else lab_text(LAB) + "\n# another\n")
    restored_ = CliRunner().invoke(main, ["restore", str(file), "--database", str(other.database.path)])
    assert (restored_.exit_code, restored_.output) == (0, "It is sitting 1.\n")
    slug = {None: LAB, "same": LAB, "other": f"{LAB}-2"}[there]
    assert [lab.slug for lab in other.labs.all()] == ([LAB, slug] if there == "other" else [LAB])
    elsewhere = create_app(other).test_client()
    before, after = told(client, desk, whole), told(elsewhere, other, 1, slug)
    assert after == before
    receipt = elsewhere.get(f"/api/papers/{1}").get_json()["arrival"]
    names = [f["name"] for f in elsewhere.get(f"/api/arrivals/{receipt}").get_json()["files"]]
    assert names == ["class.zip"]
    again = elsewhere.post(
        "/api/sittings/restored",
        data={"file": (io.BytesIO(file.read_bytes()), "week.zip")},
        content_type="multipart/form-data",
        headers=token(elsewhere),
    )
    assert (again.status_code, again.get_json()["number"]) == (201, 2)  # a second one, beside the first


def changed(content: bytes, change: Callable[[dict[str, Any]], Any], **files: bytes | None) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(stream, "w") as new:
        for name in old.namelist():
            kept = old.read(name)
            if name == "sitting.json":
                manifest = json.loads(kept)
                change(manifest)
                kept = json.dumps(manifest).encode()
            elif files:
                if files["contents"] is None:
                    continue
                kept = files["contents"]
            new.writestr(name, kept)
    return stream.getvalue()


WRONG: list[tuple[str, Callable[[bytes], bytes]]] = [
    ("no archive of a sitting", lambda _: b"hello"),
    ("or it is damaged", lambda own: own[:-200]),
    ("zensur_sitting is not as it has to be", lambda own: changed(own, lambda m: m.update(zensur_sitting=2))),
    (
        "paper.0.received_at is not",
        lambda own: changed(own, lambda m: m["paper"][0].update(received_at="today")),
    ),
    ("result.0.json.learner is not", lambda own: changed(own, lambda m: m["result"][0].update(json="{}"))),
    (
        "sitting.rules.blind is not",
        lambda own: changed(own, lambda m: m["sitting"].update(rules='{"rules": {}}')),
    ),
    ("paper.0.more is not", lambda own: changed(own, lambda m: m["paper"][0].update(more=1))),
    ("Something of it is missing: 77", lambda own: changed(own, lambda m: m["overrule"][0].update(paper=77))),
    ("are not what was handed in", lambda own: changed(own, lambda m: None, contents=b"forged")),
    ("Something of it is missing", lambda own: changed(own, lambda m: None, contents=None)),
    ("Its lab cannot be read", lambda own: changed(own, lambda m: m["lab"].update(text="zensur: 2"))),
    ("does not fit together", lambda own: changed(own, lambda m: m["seat"].append(m["seat"][0]))),
]


@pytest.mark.parametrize(("said", "spoil"), WRONG)
def test_what_is_no_archive_is_refused_and_nothing_of_it_is_stored(
    desk: Desk, whole: int, tmp_path: Path, said: str, spoil: Callable[[bytes], bytes]
) -> None:
    other = Desk(Database(tmp_path / "other.db"))
    with pytest.raises(BadSitting, match=said):
        restored(other.database, spoil(archived(desk.database, whole)))
    assert (other.sittings.all(), other.labs.all()) == ([], [])
    assert other.database.connection().execute("SELECT count(*) FROM content").fetchone()[0] == 0


def test_a_learner_is_erased_and_the_figures_of_the_class_stay(
    client: FlaskClient, desk: Desk, tmp_path: Path
) -> None:
    other = Desk(Database(tmp_path / "own.db"))
    other.labs.add(LAB, lab_text(LAB))
    own = create_app(other).test_client()
    number = int(
        new_sitting(own, roster="id,name,mail\nzoe77,Zoe Quaymark,zoe@lock.example\n4712,Ben Lock,\n")[
            "number"
        ]
    )
    mark = b"about Quaymark-made\n"
    hand_in(own, number, class_of("Zoe Quaymark_902_file", "Ben Lock"))
    (paper,) = hand_in(own, number, class_of("zoe77", **{"weir.sheet": b"name weir\nport p1\n  " + mark}))[
        "papers"
    ]
    own.post(f"/api/labs/{LAB}/papers", data={"files": [(io.BytesIO(b"name weir\n"), "weir.sheet")], "learner": "zoe77"},
             content_type="multipart/form-data", headers=token(own))  # fmt: skip
    before = told(own, other, number)
    asked(own, "POST", f"/api/papers/{paper}/comments", 201, text="Dear Zoe Quaymark")
    asked(
        own,
        "POST",
        f"/api/papers/{paper}/overrules",
        200,
        criterion="ping:1",
        marks=1,
        reason="zoe77 showed it",
    )
    in_full = told(own, other, number)
    assert b"Quaymark" in other.database.path.read_bytes() + Path(f"{other.database.path}-wal").read_bytes()
    assert erase_learner(other, "zoe77", By(reason="asked for it")) == 3
    kept = b"".join(path.read_bytes() for path in tmp_path.iterdir() if path.name.startswith("own.db"))
    for trace in (b"Quaymark", b"zoe77", b"zoe@lock", mark):
        assert trace not in kept
    after = told(own, other, number)
    names = {row["learner"] for row in after["rows"]}
    assert names == {"erased 1", "Ben Lock"}
    assert after["figures"][:3] == in_full["figures"][:3]
    totals = [sorted(row["marked"]["carried"] for row in t["rows"]) for t in (in_full, after)]
    assert totals[0] == totals[1]
    rows = list(csv.DictReader(io.StringIO(after["csv"].decode("utf-8-sig"))))
    assert {row["id"] for row in rows} == {"erased 1", "4712"}
    ben = next(p for p in after["papers"] if p["learner"] == "Ben Lock")
    assert ben["sheets"] == next(p for p in before["papers"] if p["learner"] == "Ben Lock")["sheets"]
    (group,) = own.get("/api/groups").get_json()["groups"]
    assert [m["name"] for m in own.get(f"/api/groups/{group['number']}").get_json()["learners"]] == [
        "Ben Lock"
    ]
    with pytest.raises(KeyError):
        erase_learner(other, "zoe77", By())


ODD = [None, True, -1, 0, 3, 2**60, 1.5, float("inf"), "", "x", "\x00", "é" * 300, "[]", "{}", "null", "=1+1", "2026-11-20", [],
       {}, ["x"], {"x": 1}, "4711", "../..", "<b>", "2026-11-20T12:00:00+00:00"]  # fmt: skip


def places(told: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Yield the way to every value in a document."""
    if at:
        yield at
    for key in told if isinstance(told, dict) else range(len(told)) if isinstance(told, list) else ():
        yield from places(told[key], (*at, key))


def damaged(told: dict[str, Any], chance: random.Random) -> tuple[Any, ...]:
    """Put something odd into a document at one place, or take away what is there; returns where."""
    at = chance.choice(list(places(told)))
    inside = told
    for key in at[:-1]:
        inside = inside[key]
    if chance.random() < 0.2:
        del inside[at[-1]]
    elif isinstance(inside[at[-1]], str) and inside[at[-1]].startswith(("[", "{")) and chance.random() < 0.7:
        document = json.loads(inside[at[-1]])  # text that is JSON itself
        if document:
            damaged({"": document}, chance)
        inside[at[-1]] = json.dumps(document)
    else:
        inside[at[-1]] = chance.choice(ODD)
    return at


@pytest.mark.parametrize("seed", [14, 40, 75])
def test_a_damaged_archive_is_refused_whole_or_every_page_of_it_can_be_read(
    desk: Desk, whole: int, tmp_path: Path, seed: int
) -> None:
    chance, content = random.Random(seed), archived(desk.database, whole)
    other = Desk(Database(tmp_path / "other.db"), marks=False)
    browser = create_app(other).test_client()
    taken = 0
    for _ in range(40):
        at: list[tuple[Any, ...]] = []
        spoilt = changed(content, lambda told: at.append(damaged(told, chance)))  # noqa: B023
        before = len(other.sittings.all()), len(other.labs.all())
        try:
            number = restored(other.database, spoilt)
        except BadSitting:
            assert (len(other.sittings.all()), len(other.labs.all())) == before, at
            continue
        taken += 1
        sitting = other.sittings.get(number)
        if sitting is None:  # it was taken off the list before
            continue
        slug, of = sitting.slug, f"?sitting={number}"
        pages = [f"/api/sittings/{number}", "/api/sittings", f"/numbers/{number}.csv", f"/results/{slug}.csv{of}",
                 f"/results/{slug}.zip{of}", f"/results/{slug}.json{of}", f"/results/{slug}/statistics{of}",
                 f"/api/labs/{slug}/class{of}", f"/api/labs/{slug}/by-hand{of}"]  # fmt: skip
        listed = browser.get(f"/api/labs/{slug}/papers{of}").get_json()["papers"]
        pages += [f"/api/papers/{paper['id']}" for paper in listed]
        for path in pages:
            assert browser.get(path).status_code == 200, (at, path)
    assert taken


def test_a_learner_is_erased_on_the_page_with_a_reason(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client, roster="id,name\nkim5,Kim Sluice\n4712,Ben Lock\n")["number"]
    hand_in(client, number, class_of("kim5"))
    refused = asked(client, "POST", "/api/learners/erased", 404, code="kim", reason="asked for it")
    assert refused["message"] == "Nobody is known by the id kim."
    asked(client, "POST", "/api/learners/erased", 400, code="kim5", reason="")
    assert asked(client, "POST", "/api/learners/erased", 200, code="kim5", reason="asked for it") == {
        "papers": 1
    }
    seats = client.get(f"/api/sittings/{number}").get_json()["seats"]
    assert {seat["learner"]["name"] for seat in seats} == {"erased 1", "Ben Lock"}
    assert all("Kim Sluice" not in told for told in map(str, client.get("/api/groups").get_json()["groups"]))
    newest = desk.entries.newest(most=1)[0]
    assert (newest.what, newest.reason) == ("a learner erased", "asked for it")
    asked(client, "POST", "/api/learners/erased", 404, code="kim5", reason="once more")
    assert desk.entries.newest(most=1)[0].id == newest.id
