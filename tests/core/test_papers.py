"""Hand-ins as files and archives: sorted tolerantly, read within bounds."""

import io
import tarfile
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.formats import BadArchive, BadPattern, File, FlatNames, Pattern, read_archive, sort_papers
from zensur.work.papers import MOST_LINES, read_paper

DEVICES = ["weir", "quay", "sw1"]


def zipped(files: dict[str, bytes]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, content in files.items():
            archive.writestr(path, content)
    return stream.getvalue()


def tarred(*members: tuple[tarfile.TarInfo, bytes]) -> bytes:
    stream = io.BytesIO()
    with tarfile.open(fileobj=stream, mode="w:gz") as archive:
        for info, content in members:
            info.size = len(content)
            archive.addfile(info, io.BytesIO(content))
    return stream.getvalue()


def sorted_out(files: dict[str, bytes], name: str = "class.zip") -> dict[str, dict[str, str]]:
    papers = sort_papers(read_archive(zipped(files)), DEVICES, name)
    return {p.learner: {d: f.path for d, f in p.files.items()} for p in papers}


@pytest.mark.parametrize(
    ("paths", "found"),
    [
        (["weir.sheet", "quay.txt"], {"class": {"weir": "weir.sheet", "quay": "quay.txt"}}),
        (["0417/weir.sheet"], {"0417": {"weir": "weir.sheet"}}),
        (["all/0417/weir.sheet", "all/0418/WEIR.sheet"], {"0417": {"weir": "weir.sheet"}, "0418": {"weir": "WEIR.sheet"}}),
        (["0417/lab/weir.sheet", "0418/weir-final (2).sheet"], {"0417": {"weir": "weir.sheet"}, "0418": {"weir": "weir-final (2).sheet"}}),
        (["0417/weir.sheet", "__MACOSX/0417/._weir.sheet", "0417/.DS_Store"], {"0417": {"weir": "weir.sheet"}}),
        (["0417/weir.sheet", "0417/weir copy.sheet", "0418/quay.sheet"], {"0417": {"weir": "weir.sheet"}, "0418": {"quay": "quay.sheet"}}),
    ],
)  # fmt: skip
def test_files_are_sorted_into_papers(paths, found) -> None:
    assert sorted_out(dict.fromkeys(paths, b"name x")) == found


def test_archives_of_learners_inside_an_archive() -> None:
    inner = zipped({"lab/weir.sheet": b"name weir"})
    assert sorted_out({"0417.zip": inner, "0418.zip": inner}) == {
        "0417": {"weir": "weir.sheet"},
        "0418": {"weir": "weir.sheet"},
    }


def test_what_is_left_out_or_guessed_is_said() -> None:
    (paper,) = sort_papers(
        [File("weir.sheet", b""), File("notes.txt", b""), File("Quay.sheet", b"")], DEVICES, "x"
    )
    assert paper.remarks == (
        "Quay.sheet was taken as the sheet of quay.",
        "notes.txt belongs to no device of the lab and was not read.",
    )


@pytest.mark.parametrize(
    ("path", "content", "probably"),
    [
        ("wier.sheet", b"", "weir"),
        ("final qay.txt", b"", "quay"),
        ("notes.txt", b"port p1\nname quay\n", "quay"),
        ("notes.txt", b"name nobody\n", None),
        ("notes.json", b'{"ietf-system:system": {"hostname" : "quay"}}', "quay"),
        ("notes.xml", b"<config><system><hostname>quay</hostname></system></config>", "quay"),
        ("notes.txt", b"zensur snapshot 1\n== hostname\nquay\n", "quay"),
    ],
)
def test_a_file_of_no_device_is_reported_with_the_device_it_probably_belongs_to(
    path, content, probably
) -> None:
    (paper,) = sort_papers([File("weir.sheet", b""), File(path, content)], DEVICES, "x")
    (remark,) = paper.remarks
    assert remark.startswith(f"{path} belongs to no device of the lab")
    assert remark.endswith(f"It is probably the sheet of {probably}." if probably else "was not read.")


def test_files_that_each_hold_all_sheets_are_a_paper_each() -> None:
    whole = b"device weir\nname weir\ndevice quay\nname quay\n"
    papers = sort_papers([File("Ann.txt", whole), File("Bo.txt", whole)], DEVICES, "class.zip")
    assert [(p.learner, sorted(p.files), p.remarks) for p in papers] == [
        ("Ann", ["quay", "weir"], ()),
        ("Bo", ["quay", "weir"], ()),
    ]
    apart = b"device sw1\nname sw1\ndevice nobody\n"
    (paper,) = sort_papers([File("one.txt", whole), File("two.txt", apart)], DEVICES, "0417")
    assert sorted(paper.files) == ["quay", "sw1", "weir"]


def test_a_file_that_says_whose_it_is_is_believed() -> None:
    (paper,) = sort_papers([File("weir.sheet", b"device quay\nname quay\n")], DEVICES, "x")
    assert list(paper.files) == ["quay"]
    assert paper.remarks == ("weir.sheet says that it is the sheet of quay, and was taken as that.",)


@pytest.mark.parametrize(
    ("names", "pattern", "learners"),
    [
        (["Ann Ek_weir.sheet", "Ann Ek_quay.sheet", "Bo Li_weir.sheet"], "{learner}_{device}", ["Ann Ek", "Bo Li"]),
        (["Ann_11_assignment_file_weir.txt", "Bo_12_assignment_file_sw1.txt"], "{learner}_assignment_file_{device}", ["Ann_11", "Bo_12"]),
        (["weir-ann.sheet", "weir-bo.sheet", "quay-bo.sheet"], "{device}-{learner}", ["ann", "bo"]),
        (["0417-weir", "0417-quay", "0418-weir", "read me.txt"], "{learner}-{device}", ["0417", "0418"]),
        (["weir.sheet", "Ann_quay.sheet", "Bo_quay.sheet"], None, ["class"]),
        (["weir-final.sheet", "quay-final.sheet"], None, ["class"]),
    ],
)  # fmt: skip
def test_flat_archives_are_read_by_a_pattern_that_is_proposed(names, pattern, learners) -> None:
    files = [File(name, b"name x") for name in names]
    if pattern is None:
        assert [p.learner for p in sort_papers(files, DEVICES, "class.zip")] == learners
        return
    with pytest.raises(FlatNames) as proposed:
        sort_papers(files, DEVICES, "class.zip")
    assert (proposed.value.pattern.text, list(proposed.value.learners)) == (pattern, learners)
    papers = sort_papers(files, DEVICES, "class.zip", Pattern(pattern))
    assert [p.learner for p in papers] == learners
    assert sum(len(p.files) for p in papers) == sum("read me" not in name for name in names)
    assert any("read me.txt does not fit" in r for r in papers[0].remarks) == ("read me.txt" in names)
    with pytest.raises(BadPattern, match="once"):
        Pattern("{learner}")


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (zipped({"../weir.sheet": b"x"}), "outside itself"),
        (zipped({"a/../../weir.sheet": b"x"}), "outside itself"),
        (zipped({"/etc/weir.sheet": b"x"}), "outside itself"),
        (zipped({"a\\..\\..\\weir.sheet": b"x"}), "outside itself"),
        (zipped({"weir.sheet": b"0" * (1024 * 1024 + 1)}), "larger than 1 MiB"),
        (zipped({f"{n}/weir.sheet": b"0" * 1024 * 1024 for n in range(65)}), "more than 64 MiB"),
        (zipped({"weir.sheet": b"x"})[:-30], "damaged"),
        (b"PK\3\4" + b"\0" * 100, "damaged"),
        (b"\x1f\x8b" + b"\0" * 100, "damaged"),
    ],
    ids=map(str, range(9)),  # the bytes hold the time, and both workers have to call a case the same
)
def test_a_hostile_archive_is_refused_whole(content: bytes, says: str) -> None:
    with pytest.raises(BadArchive, match=says):
        read_archive(content)


def test_links_and_devices_in_a_tar_are_refused() -> None:
    for kind in (tarfile.SYMTYPE, tarfile.LNKTYPE, tarfile.CHRTYPE):
        info = tarfile.TarInfo("weir.sheet")
        info.type, info.linkname = kind, "/etc/passwd"
        with pytest.raises(BadArchive, match="link or device"):
            read_archive(tarred((info, b"")))
    assert read_archive(tarred((tarfile.TarInfo("weir.sheet"), b"name x"))) == [File("weir.sheet", b"name x")]


@given(st.binary(max_size=300), st.sampled_from([b"", b"PK\3\4", b"\x1f\x8b", zipped({"weir.sheet": b"x"})]))
def test_any_bytes_are_an_archive_or_refused(tail: bytes, head: bytes) -> None:
    try:
        sort_papers(read_archive(head + tail), DEVICES, "x.zip")
    except BadArchive as bad:
        assert str(bad).endswith(".")


def test_of_a_paper_that_is_far_too_long_the_shorter_sheets_are_read() -> None:
    lines = "# nothing\n" * (MOST_LINES - 2)
    paper = read_paper(
        "0417",
        {
            "weir": ("weir.sheet", b"name weir\n"),
            "quay": ("quay.sheet", lines.encode() + b"name quay\n"),
            "toll": ("toll.sheet", lines.encode() + b"name toll\n\n"),
        },
    )
    assert [len(sheet.configuration.items) for sheet in paper.sheets.values()] == [1, 1, 0]
    (error,) = paper.sheets["toll"].errors
    assert error.code == "too-large"
    assert f"more than {MOST_LINES:,} lines together" in error.message


def test_a_file_that_holds_several_sheets_is_as_long_as_it_is() -> None:
    names = [f"d{n}" for n in range(40)]
    content = "".join(f"device {name}\n" + "# nothing\n" * (MOST_LINES // 80) for name in names).encode()
    paper = read_paper("0417", dict.fromkeys(names, ("all.sheet", content)))
    assert [sheet.device for sheet in paper.sheets.values()] == names
