"""Sorts the files of a hand-in into papers: whose they are, and which device each belongs to."""

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from difflib import get_close_matches

from ..sheet import devices_named
from .answers import ANSWERS
from .archives import MOST_BYTES, MOST_TIMES, BadArchive, File, is_archive, read_archive
from .cabling import CABLING
from .file_names import plain_name
from .flat import FlatNames, Pattern, propose

MOST_FILES_A_PAPER = 2_000
MOST_NAME = 120
_OWN_NAME = re.compile(
    rb"^name[ \t]+(\S{1,40})"
    rb"|\"hostname\"\s*:\s*\"([^\"]{1,40})\""
    rb"|<hostname>\s*([^<\s]{1,40})"
    rb"|^== hostname\r?\n(\S{1,40})",
    re.MULTILINE | re.IGNORECASE,
)
"""What a configuration calls its device, in every form."""
_STRAY = re.compile(r"(^|/)(__MACOSX(/|$)|\.|Thumbs\.db$|desktop\.ini$)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class HandIn:
    """The files of one learner by device, and what was noticed while they were sorted; ``came_as`` is what they were
    called where the learner goes by another name."""

    learner: str
    files: dict[str, File] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()
    came_as: str = ""


def sort_papers(
    files: Iterable[File], devices: Sequence[str], name: str, pattern: Pattern | None = None
) -> list[HandIn]:
    """Sort files into papers; raises :class:`BadArchive`.

    Files named after devices are one paper, called ``name`` or after the folder they all lie in;
    folders and archives of such files are one paper each, named after the learner. One more level of
    folder is tolerated. Files of several learners side by side are sorted by a ``pattern`` of their names;
    without one :class:`FlatNames` proposes it.
    """
    kept = [replace(f, path=plain_name(f.path)) for f in files if not _STRAY.search(f.path)]
    name = plain_name(name)
    folder, kept = _without_common_folder(kept)
    if len(kept) == 1 and is_archive(kept[0].content):
        return sort_papers(read_archive(kept[0].content), devices, _stem(kept[0].path), pattern)
    if pattern is not None:
        return _by_pattern(kept, devices, pattern)
    proposed = propose(kept, devices)
    if proposed is not None:
        raise FlatNames(proposed, sorted(proposed.learners(kept, devices)[0], key=str.lower))
    kept = _each_a_paper(kept, devices)
    if any("/" not in f.path and not is_archive(f.content) and _of_a_device(f, devices) for f in kept):
        return [_paper(folder or _stem(name), kept, devices)]
    by_learner: dict[str, list[File]] = {}
    alone: list[File] = []
    left = MOST_BYTES * MOST_TIMES
    for file in kept:
        learner, slash, rest = file.path.partition("/")
        if is_archive(file.content):
            inner = [f for f in read_archive(file.content, left) if not _STRAY.search(f.path)]
            left -= sum(len(f.content) for f in inner)
            by_learner.setdefault(_stem(file.path), []).extend(_without_common_folder(inner)[1])
        elif slash:
            by_learner.setdefault(learner, []).append(replace(file, path=rest))
        else:
            alone.append(file)
    papers = [
        _paper(learner, _without_common_folder(theirs)[1], devices) for learner, theirs in by_learner.items()
    ]
    if alone or not papers:
        papers.append(_paper(folder or _stem(name), alone, devices))
    return sorted(papers, key=lambda p: p.learner.lower())


def nothing_named(papers: Sequence[HandIn], devices: Sequence[str]) -> str:
    """Say of papers without a sheet why nothing of them was read."""
    said = " ".join(remark for paper in papers for remark in paper.remarks[:3])
    if not devices:
        return f"The lab has no devices yet, to which a sheet could belong. {said}".strip()
    such = ", ".join(devices[:3])
    return (
        f"Nothing here is named after a device of the lab: a sheet is a file such as {devices[0]}.sheet "
        f"({such}, …). {said}"
    )


def _each_a_paper(files: list[File], devices: Sequence[str]) -> list[File]:
    """Put files that each hold the sheets of several devices into a folder of their own: they are a paper each.

    They are where they lie side by side, are named after no device, and hold the same devices.
    """
    held: dict[str, set[str]] = {}
    for file in files:
        named = () if "/" in file.path or is_archive(file.content) else devices_named(file.content)
        if len(named) > 1 and _device(file.path, devices)[0] is None:
            held[file.path] = {name.lower() for name in named}
    several = list(held.values())
    if len(several) < 2 or not set.intersection(*several):
        return files
    return [replace(f, path=f"{_stem(f.path)}/{f.path}") if f.path in held else f for f in files]


def _by_pattern(files: Sequence[File], devices: Sequence[str], pattern: Pattern) -> list[HandIn]:
    """Sort files by learner and device as their names say; what does not fit is said with the first paper."""
    learners, others = pattern.learners(files, devices)
    if not learners:
        raise BadArchive(f"The pattern {pattern.text} fits none of the files.")
    papers = [_paper(learner, theirs, devices) for learner, theirs in learners.items()]
    papers.sort(key=lambda p: p.learner.lower())
    said = tuple(f"{f.path} does not fit the pattern {pattern.text} and was not read." for f in others)
    return [replace(papers[0], remarks=(*papers[0].remarks, *said)), *papers[1:]]


def _of_a_device(file: File, devices: Sequence[str]) -> bool:
    return _device(file.path, devices)[0] is not None or bool(devices_named(file.content))


def _without_common_folder(files: list[File]) -> tuple[str, list[File]]:
    """Take away the folders that all files lie in; also return the innermost one's name."""
    folder = ""
    while files and all("/" in f.path for f in files):
        tops = {f.path.partition("/")[0] for f in files}
        if len(tops) > 1:
            break
        folder = tops.pop()
        files = [replace(f, path=f.path.partition("/")[2]) for f in files]
    return folder, files


def _stem(path: str) -> str:
    name = path.rpartition("/")[2]
    return re.sub(r"(\.tar)?\.[A-Za-z0-9]{1,6}$", "", name) or name or "paper"


def _device(path: str, devices: Sequence[str]) -> tuple[str | None, bool]:
    """Find the device a file is named after, and whether it is named so exactly."""
    stem, whole = _stem(path), path.rpartition("/")[2]
    for device in devices:
        if device.lower() in (stem.lower(), whole.lower()):
            return device, device in (stem, whole)
    for device in sorted(devices, key=len, reverse=True):
        if re.match(re.escape(device) + r"[^A-Za-z0-9]", stem, re.IGNORECASE):
            return device, False
    return None, False


def _devices_in(file: File, devices: Sequence[str], remarks: list[str]) -> Iterator[tuple[str, int]]:
    """Yield the devices that a file is about, with how surely it is theirs.

    A file named after a device counts before one that is nearly so, and that before one of several sheets.
    """
    if _stem(file.path).lower() == "answers" and "answers" not in (d.lower() for d in devices):
        yield ANSWERS, 2
        return
    if file.path.rpartition("/")[2].lower().endswith(".cabling"):
        yield CABLING, 2
        return
    named = devices_named(file.content)
    for name in named:
        ours = next((d for d in devices if d.lower() == name.lower()), None)
        if ours is None:
            remarks.append(
                f"{file.path}: its sheet of {name[:40]} belongs to no device of the lab and was not read."
            )
        else:
            of_name, _ = _device(file.path, devices)
            if of_name not in (None, ours) and len(named) == 1:
                remarks.append(f"{file.path} says that it is the sheet of {ours}, and was taken as that.")
            yield ours, 2 if len(named) == 1 and _device(file.path, devices) == (ours, True) else 0
    if named:
        return
    device, exact = _device(file.path, devices)
    if device is None:
        probably = _probably(file, devices)
        hint = f" It is probably the sheet of {probably}." if probably else ""
        remarks.append(f"{file.path} belongs to no device of the lab and was not read.{hint}")
        return
    if not exact:
        remarks.append(f"{file.path} was taken as the sheet of {device}.")
    yield device, 2 if exact else 1


def _probably(file: File, devices: Sequence[str]) -> str | None:
    """Guess whose sheet a file is: by a name nearly spelt so, or by the name that it gives its device."""
    lower = {d.lower(): d for d in devices}
    said = _OWN_NAME.search(file.content)
    if said and (own := lower.get((said[said.lastindex or 0]).decode("utf-8", "replace").lower())):
        return own
    words = [_stem(file.path).lower(), *re.split(r"[^a-z0-9]+", _stem(file.path).lower())]
    near = (m for word in words if len(word) > 1 for m in get_close_matches(word[:60], lower, 1, 0.75))
    found = next(near, None)
    return lower[found] if found else None


def _paper(learner: str, files: list[File], devices: Sequence[str]) -> HandIn:
    if len(learner) > MOST_NAME:
        raise BadArchive(f"{learner[:40]}… is too long for a learner's name: {MOST_NAME} characters at most.")
    if len(files) > MOST_FILES_A_PAPER:
        raise BadArchive(f"The paper of {learner} holds more than {MOST_FILES_A_PAPER} files.")
    found: dict[str, tuple[int, File]] = {}
    remarks = [
        f"The archive does not say how its names are written: they were read as {encoding}."
        for encoding in sorted({f.guessed for f in files if f.guessed})
    ]
    for file in sorted(files, key=lambda f: f.path):
        for device, rank in _devices_in(file, devices, remarks):
            before = found.get(device)
            if before is not None:
                kept, other = (before[1], file) if before[0] >= rank else (file, before[1])
                remarks.append(
                    f"{other.path}: there is another sheet of {device}, {kept.path}, and that one counts."
                )
            if before is None or before[0] < rank:
                found[device] = (rank, file)
    order = {device: number for number, device in enumerate([*devices, CABLING, ANSWERS])}
    chosen = {d: found[d][1] for d in sorted(found, key=order.__getitem__)}
    return HandIn(learner, chosen, tuple(remarks))
