"""Results of which nobody is to know whose they are: without names of files, which may tell."""

from collections.abc import Collection, Mapping
from dataclasses import replace

from ..sheet import Where
from .shapes import Result


def sheet_name(device: str) -> str:
    """Return what the file of a device is called where its own name is not told."""
    return f"{device}.sheet"


def without_names(result: Result, devices: Mapping[str, str], remarks: Collection[str]) -> Result:
    """Return a result with files called by their ``devices``, given by path, and without what was noted in ``remarks``
    while files were sorted."""

    def called(file: str | None) -> str | None:
        return file if file is None or file not in devices else sheet_name(devices[file])

    def moved(where: Where) -> Where:
        return replace(where, file=called(where.file) or "")

    told = [_said(remark, devices) for remark in result.remarks if remark not in remarks]
    return replace(
        result,
        criteria=tuple(replace(c, lines=tuple(map(moved, c.lines))) for c in result.criteria),
        faults=tuple(
            replace(f, file=called(f.file), also=tuple(map(moved, f.also))) for f in result.faults
        ),
        extras=tuple(replace(e, file=called(e.file)) for e in result.extras),
        diagnostics=tuple(replace(d, file=called(d.file) or "") for d in result.diagnostics),
        remarks=(*([held_back(len(remarks))] if remarks else []), *told),
    )  # fmt: skip


def _said(remark: str, devices: Mapping[str, str]) -> str:
    for path, device in devices.items():
        remark = remark.replace(path, sheet_name(device))
    return remark


def held_back(remarks: int) -> str:
    """Say how much was noted about the files of a paper, and not what."""
    told = "One thing is" if remarks == 1 else f"{remarks} things are"
    return f"{told} noted about its files, to be shown when the marks are released."
