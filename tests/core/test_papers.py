"""Hand-ins as files and archives: sorted tolerantly, read within bounds."""

import io
import tarfile
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.formats import BadArchive, File, read_archive, sort_papers

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
