"""Reads the sheets of papers, each text once, and no more of a paper than can be marked in good time."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache

from ..core.formats import ANSWERS, CABLING, form_of, read_answers, read_cabling, read_configurations
from ..core.lab import Device
from ..core.marking.paper import Paper
from ..core.sheet import Sheet, refused_sheet, sheet_of

MOST_LINES = 8_000
"""So many lines the sheets of a paper may have together: what is marked takes two seconds at most."""
BYTES_A_LINE = 128
"""So much of JSON, XML or a snapshot says what a line of a sheet does, or less."""
MOST_FILES, LARGE_FILE = 2_048, 8 * 1024
"""So many files are known again, but for large ones."""
_TOO_MANY = (
    f"The sheets of this paper have more than {MOST_LINES:,} lines together, and this is one of the longest: it was "
    "not read. Leave out what the lab does not ask for, and hand it in again."
)


def read_paper(
    learner: str,
    files: Mapping[str, tuple[str, bytes]],
    remarks: Sequence[str] = (),
    devices: Mapping[str, Device] | None = None,
) -> Paper:
    """Read the sheets of a paper: files by device, with path and contents. Never raises, whatever they hold.

    ``devices`` are those of the lab, where it is known: forms other than sheets are read by what the device is.
    """
    of_devices = {device: file for device, file in files.items() if device not in (ANSWERS, CABLING)}
    whose = {file: (devices or {}).get(device) for device, file in of_devices.items()}
    read = {file: _read(*file, whose[file]) for file in _within_bounds(of_devices.values())}
    path, content = files.get(ANSWERS, ("", b""))
    answers = read_answers(content, path)
    return Paper(
        learner,
        {
            device: sheet_of(read[file], device) if file in read else refused_sheet(_TOO_MANY)
            for device, file in of_devices.items()
        },
        {device: path for device, (path, _) in of_devices.items()},
        (*remarks, *answers.remarks),
        answers.found,
        read_cabling(files[CABLING][1], files[CABLING][0]) if CABLING in files else None,
    )


def _within_bounds(files: Iterable[tuple[str, bytes]]) -> Iterator[tuple[str, bytes]]:
    """Yield the files, by path and contents, that are read: not the longest of what is too much together."""
    left = MOST_LINES
    for length, file in sorted((_length(file[1]), file) for file in set(files)):
        left -= length
        if left >= 0:
            yield file


def _length(content: bytes) -> int:
    """Return the lines of a sheet; of another form about as many as a sheet that says the same would have."""
    if form_of(content) == "sheet":
        return content.count(b"\n")
    return len(content) // BYTES_A_LINE


def _read(path: str, content: bytes, device: Device | None) -> tuple[Sheet, ...]:
    """Read the sheets of a file; in a class many are the same to the letter, and are read once."""
    asked = None if form_of(content) == "sheet" else device  # a sheet says the same of whatever device
    return (_read_once if len(content) <= LARGE_FILE else read_configurations)(content, path, asked)


@lru_cache(maxsize=MOST_FILES)
def _read_once(content: bytes, path: str, device: Device | None) -> tuple[Sheet, ...]:
    """Read sheets that threads share: nothing of them is worked out later."""
    sheets = read_configurations(content, path, device)
    for sheet in sheets:
        sheet.configuration.work_out()
    return sheets
