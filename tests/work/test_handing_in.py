"""Nobody's paper is replaced, and nobody is taken for somebody else, before it was asked."""

import io
import zipfile

import pytest

from zensur.core.formats import BadArchive, File, HandIn
from zensur.work.handing_in import Decision, Present, plan, sort_uploads

DEVICES = ["weir", "quay", "lock"]


def hand_in(learner: str, *devices: str, text: str = "name x") -> HandIn:
    return HandIn(learner, {d: File(f"{d}.sheet", f"{text} {d}".encode()) for d in devices})


def present(paper: int, *devices: str, text: str = "name x") -> Present:
    return Present(paper, {d: (f"{d}.sheet", f"{text} {d}".encode()) for d in devices})


THERE = {"Ana Holm": present(7, "weir", "quay"), "Bo Li": present(8, "weir")}


@pytest.mark.parametrize(
    ("upload", "asked"),
    [
        ([hand_in("Cleo", "weir")], []),
        ([hand_in("Ana Holm", "weir", "quay")], []),  # the same once more
        ([hand_in("Ana Holm", "weir", "quay", text="other")], [("Ana Holm", "Ana Holm", 7, ())]),
        ([hand_in("Ana Holm", "lock")], [("Ana Holm", "Ana Holm", 7, ("weir", "quay"))]),
        ([hand_in("ana  holm", "weir", "quay")], [("ana  holm", "Ana Holm", 7, ())]),
        ([hand_in("BoLi", "quay")], [("BoLi", "Bo Li", 8, ("weir",))]),
        ([hand_in("Bo-Li", "quay")], []),
        ([hand_in("A\u030asa", "weir"), hand_in("åsa", "quay")], [("åsa", "A\u030asa", None, ("weir",))]),
        ([hand_in("Dan", "weir"), hand_in("Dan", "quay")], [("Dan", "Dan", None, ("weir",))]),
    ],
)
def test_what_is_asked(upload: list[HandIn], asked: list[tuple[object, ...]]) -> None:
    found = plan(upload, THERE)
    assert [(q.name, q.learner, q.paper, q.missing) for q in found.questions] == asked


@pytest.mark.parametrize(
    ("decision", "stored", "before"),
    [
        ("replace", {"Ana Holm": {"lock": b"new lock"}}, {"Ana Holm": 7}),
        (
            "add",
            {"Ana Holm": {"weir": b"name x weir", "quay": b"name x quay", "lock": b"new lock"}},
            {"Ana Holm": 7},
        ),
        ("apart", {"ana holm": {"lock": b"new lock"}}, {"ana holm": None}),
        ("leave", {}, {}),
    ],
)
def test_what_is_decided_is_done(
    decision: Decision, stored: dict[str, dict[str, bytes]], before: dict[str, int | None]
) -> None:
    upload = [hand_in("ana holm", "lock", text="new"), hand_in("Cleo", "weir")]
    found = plan(upload, THERE, {"ana holm": decision})
    cleo = found.papers.pop("Cleo")
    assert cleo.files["weir"].content == b"name x weir"
    assert {
        learner: {d: f.content for d, f in p.files.items()} for learner, p in found.papers.items()
    } == stored
    assert found.before == {**before, "Cleo": None}
    assert (found.questions, found.left) == ([], ["ana holm"] if decision == "leave" else [])


def test_a_new_sheet_counts_before_the_one_that_is_there() -> None:
    found = plan([hand_in("Ana Holm", "weir", text="new")], THERE, {"Ana Holm": "add"})
    paper = found.papers["Ana Holm"]
    assert {d: f.content for d, f in paper.files.items()} == {"weir": b"new weir", "quay": b"name x quay"}
    assert paper.remarks == ("Kept from the paper before: quay.",)


def test_the_last_of_several_in_an_upload_counts_in_place_of_the_one_there() -> None:
    upload = [hand_in("Ana Holm", "lock"), hand_in("Ana Holm", "quay")]
    found = plan(upload, THERE, {"Ana Holm": "replace"})
    assert ({learner: list(p.files) for learner, p in found.papers.items()}, found.before) == (
        {"Ana Holm": ["quay"]},
        {"Ana Holm": 7},
    )


def test_what_was_not_decided_is_left_and_other_questions_are_told_apart() -> None:
    upload = [hand_in("Ana Holm", "lock"), hand_in("Bo Li", "lock")]
    found = plan(upload, THERE, {"Bo Li": "replace"})
    assert (list(found.papers), found.left) == (["Bo Li"], ["Ana Holm"])
    seen = plan(upload, THERE).seen
    assert plan(upload[:1], THERE).seen != seen
    assert plan(upload, {**THERE, "Bo Li": present(9, "weir")}).seen != seen
    assert plan(list(upload), dict(THERE)).seen == seen


def zipped(*paths: str) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for path in paths:
            archive.writestr(path, "name x")
    return stream.getvalue()


def test_an_archive_is_the_paper_of_who_was_named_or_nobodys() -> None:
    (paper,) = sort_uploads([("mine.zip", zipped("lab/weir.sheet"))], "Ana Holm", DEVICES, None)
    assert (paper.learner, list(paper.files)) == ("Ana Holm", ["weir"])
    assert paper.remarks == ("It lay in a folder lab.",)
    others = ("class.zip", zipped("Bo Li/weir.sheet", "Cleo/weir.sheet"))
    with pytest.raises(BadArchive, match=r"the papers of 2 learners \(Bo Li, Cleo\), and Ana Holm was named"):
        sort_uploads([others], "Ana Holm", DEVICES, None)
    assert [p.learner for p in sort_uploads([others], "", DEVICES, None)] == ["Bo Li", "Cleo"]
