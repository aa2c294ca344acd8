"""Archives: bombs under the readers of the standard library, and names in whatever encoding."""

import gzip
import io
import struct
import tarfile
import unicodedata
import zipfile
import zlib

import pytest

from tests.core.test_papers import DEVICES, tarred, zipped
from zensur.core.formats import BadArchive, BadPattern, File, Pattern, read_archive, sort_papers
from zensur.core.formats.archives import MOST_ENTRIES

MIB = 1024 * 1024


def member(name: str = "weir.sheet", kind: bytes = tarfile.REGTYPE, size: int = 0, **more: object) -> bytes:
    """The header of a tar's entry."""
    info = tarfile.TarInfo(name)
    info.type, info.size = kind, size
    for key, value in more.items():
        setattr(info, key, value)
    return info.tobuf(tarfile.GNU_FORMAT)


def packed(*parts: bytes, times: int = 1) -> bytes:
    """A tar.gz of parts that are repeated: compressed as they come, for together they would be gigabytes."""
    packer, found = zlib.compressobj(1, wbits=31), []
    for _ in range(times):
        found += [packer.compress(part) for part in parts]
    return b"".join([*found, packer.compress(bytes(1024)), packer.flush()])


def record(size: int) -> bytes:
    """A record of a PAX header of so many bytes."""
    body = b"comment=" + b"x" * (size - 20)
    length = len(body) + len(str(size)) + 2
    return b"%d %s\n" % (length, body)


def pax(size: int) -> bytes:
    content = record(size)
    return member("x", b"x", len(content)) + content + bytes(-len(content) % 512)


BOMBS = {
    "a PAX header of 1.5 GB": lambda: packed(member("x", b"x", 1536 * MIB), *[bytes(MIB)] * 96),
    "a long name of 1.5 GB": lambda: packed(member("x", b"L", 1536 * MIB), *[bytes(MIB)] * 96),
    "many PAX headers": lambda: packed(*[pax(60 * 1024), member()] * 400),
    "PAX headers behind one another": lambda: packed(*[pax(1024)] * 3000),
    "too many folders": lambda: packed(*[member(f"d{n}", b"5") for n in range(1000)], times=21),
    "a file of a gigabyte": lambda: packed(member(size=1024 * MIB), *[bytes(MIB)] * 512),
    "files of a gigabyte in all": lambda: packed(member(size=MIB), bytes(MIB), times=300),
    "a zip of too many folders": lambda: zipped({f"d{n}/": b"" for n in range(MOST_ENTRIES + 1)}),
    "a zip whose directory is endless": lambda: (
        zipped({"weir.sheet": b"x"})[:-22] + bytes(40 * MIB) + struct.pack("<4s4H2LH", b"PK\5\6", 0, 0, 9, 9, 40 * MIB, 0, 0)
    ),
    "a zip of 65 MiB": lambda: zipped({f"{n}/weir.sheet": bytes(MIB) for n in range(65)}),
    "a learner's archive in an archive": lambda: zipped({f"{n}.zip": zipped({f"{k}.sheet": bytes(MIB) for k in range(60)}) for n in range(5)}),
}  # fmt: skip


@pytest.mark.parametrize("name", BOMBS)
def test_a_small_archive_that_unpacks_to_much_is_refused(name: str) -> None:
    content = BOMBS[name]()
    with pytest.raises(BadArchive) as refused:
        sort_papers(read_archive(content), DEVICES, "class")
    assert str(refused.value).endswith(".")


def test_a_class_may_hold_more_than_one_learner() -> None:
    files = {f"{n:03}/weir.sheet": bytes(MIB) for n in range(101)}
    assert len(read_archive(zipped(files))) == 101  # more than 64 MiB, of more than a hundred learners
    with pytest.raises(BadArchive, match="more than 64 MiB"):
        read_archive(zipped({path: content for path, content in files.items() if path < "100"}))


def test_a_tar_that_is_not_packed_is_read() -> None:
    plain = gzip.decompress(tarred((tarfile.TarInfo("ana/weir.sheet"), b"name weir")))
    assert read_archive(plain) == [File("ana/weir.sheet", b"name weir")]


def named(raw: bytes, says_utf8: bool = False) -> bytes:
    """A zip whose only entry has a name of these bytes."""
    content = bytearray(zipped({"@" * len(raw) + "/weir.sheet": b"name weir"}))
    if says_utf8:
        for at in (6, content.index(b"PK\1\2") + 8):
            content[at + 1] |= 8
    return bytes(content).replace(b"@" * len(raw), raw)


@pytest.mark.parametrize(
    ("content", "learner", "said"),
    [
        (named("Lüders".encode(), says_utf8=True), "Lüders", None),
        (named("Lüders".encode()), "Lüders", None),  # the flag left out, as many programs do
        (named("Lüders".encode("latin-1")), "Lüders", "latin-1"),
        (named("Lüders".encode("cp437")), "Lüders", "cp437"),
        (tarred((tarfile.TarInfo("Lüders/weir.sheet"), b"name weir")), "Lüders", None),
        (packed(member("Lüders/weir.sheet").replace(b"L\xc3\xbcders/weir.sheet\0", b"L\xfcders/weir.sheet\0\0")), "Lüders", "latin-1"),
        (zipped({unicodedata.normalize("NFD", "Lüders") + "/weir.sheet": b""}), "Lüders", None),
    ],
    ids=map(str, range(7)),
)  # fmt: skip
def test_a_name_is_read_as_it_was_meant(content: bytes, learner: str, said: str | None) -> None:
    if content[:2] == b"\x1f\x8b" and said:  # the checksum of the header is of the other name
        raw = bytearray(gzip.decompress(content))
        raw[148:156] = b" " * 8
        raw[148:156] = b"%06o\0 " % sum(raw[:512])
        content = bytes(raw)
    (paper,) = sort_papers(read_archive(content), DEVICES, "class")
    assert paper.learner == learner
    told = [r for r in paper.remarks if "how its names are written" in r]
    assert told == (
        [f"The archive does not say how its names are written: they were read as {said}."] if said else []
    )


def test_one_learner_in_two_spellings_of_unicode_is_one() -> None:
    names = [unicodedata.normalize(form, "Lüders") for form in ("NFC", "NFD")]
    assert names[0] != names[1]
    files = [File(f"{names[0]}/weir.sheet", b"name weir"), File(f"{names[1]}/quay.sheet", b"name quay")]
    (paper, other) = sort_papers([*files, File("x/weir.sheet", b"")], DEVICES, "class")
    assert (paper.learner, sorted(paper.files), other.learner) == (names[0], ["quay", "weir"], "x")


def test_names_are_not_endless() -> None:
    for files in ([File(f"{'x' * 121}/weir.sheet", b"")], [File(f"{'x' * 121}_weir.sheet", b"")]):
        with pytest.raises(BadArchive, match="too long for a learner's name"):
            sort_papers(
                files, DEVICES, "class", Pattern("{learner}_{device}") if "/" not in files[0].path else None
            )


@pytest.mark.parametrize(
    ("pattern", "name", "found"),
    [
        ("{learner}_*_{device}", "Ann_a_b_weir.txt", ("Ann", "weir.txt")),
        ("{learner}*{device}", "Annweir", ("A", "weir")),
        ("*{device}*{learner}", "x weir quay", ("quay", "weir")),
        ("{device}-{learner}", "WEIR-ann.sheet", ("ann", "WEIR.sheet")),
        ("{learner}_{device}", "_weir", None),
        ("{learner}_{device}", "ann_lock", None),
        ("{learner}_{device}", "ann_weir.toolongending", None),
        ("*-*-*{learner}_{device}", "-" * 250, None),  # as long as its length allows, and no longer
    ],
)
def test_what_a_pattern_reads(pattern, name, found) -> None:
    learners, others = Pattern(pattern).learners([File(name, b"")], DEVICES)
    assert [(learner, files[0].path) for learner, files in learners.items()] == ([found] if found else [])
    assert len(others) == (found is None)


def test_a_pattern_has_few_stars() -> None:
    with pytest.raises(BadPattern, match="3 stars"):
        Pattern("*{learner}*_*{device}*")


def test_a_zip_with_an_entry_without_a_name_is_damaged() -> None:
    content = bytearray(zipped({"weir.sheet": b"x"}))
    directory = content.index(b"PK\1\2")
    struct.pack_into("<H", content, directory + 28, 0)
    with pytest.raises(BadArchive, match="damaged"):
        read_archive(bytes(content))


def test_a_zip_that_says_another_directory_is_damaged() -> None:
    content = zipped({"weir.sheet": b"x"})
    assert zipfile.ZipFile(io.BytesIO(content)).namelist() == ["weir.sheet"]
    lying = content[:-10] + struct.pack("<L", 0xFFFFFFFF) + content[-6:]
    with pytest.raises(BadArchive, match=r"damaged|more than"):
        read_archive(lying)
