"""The desk: labs read and compiled once per version, papers marked when they arrive or the lab changed."""

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any

from .. import __version__
from ..core.formats import ANSWERS, HandIn, read_answers
from ..core.lab import Lab, ReadLab, read_lab
from ..core.marking import LabCheck, Marker, Overrule, Paper, check_text, overruled
from ..core.sheet import Where, read_sheet_of
from ..store import Database, Labs, LabVersion, Papers, StoredPaper


def read_paper(learner: str, files: Mapping[str, tuple[str, bytes]], remarks: Sequence[str] = ()) -> Paper:
    """Read the sheets of a paper: files by device, with path and contents."""
    sheets = {device: file for device, file in files.items() if device != ANSWERS}
    path, content = files.get(ANSWERS, ("", b""))
    answers = {q: (a.text, Where(path, a.line)) for q, a in read_answers(content).items()}
    return Paper(
        learner,
        {device: read_sheet_of(content, path, device) for device, (path, content) in sheets.items()},
        {device: path for device, (path, _) in sheets.items()},
        tuple(remarks),
        answers,
    )


class Desk:
    """Everything the server does with labs and papers."""

    def __init__(self, database: Database) -> None:
        self.labs = Labs(database)
        self.papers = Papers(database)
        self._reads = lru_cache(maxsize=64)(read_lab)
        self._markers: dict[tuple[str, str], Marker] = {}
        self._checks: dict[str, LabCheck] = {}

    def read(self, version: LabVersion) -> ReadLab:
        """Read a lab's text, the same text only once."""
        return self._reads(version.text)

    def lab(self, version: LabVersion, stage: str = "") -> Lab:
        """Return a saved lab, or one of its stages: the last where it does not have that one (any more).

        Only texts that can be read are saved.
        """
        lab = self.read(version).lab
        assert lab is not None
        return next((s for s in lab.stages if stage and s.stage == stage), lab)

    def marker(self, version: LabVersion, stage: str = "") -> Marker:
        """Return the marker of a saved lab, or of one of its stages."""
        lab = self.lab(version, stage)
        key = (version.text, lab.stage)
        if key not in self._markers:
            if len(self._markers) > 64:
                self._markers.clear()
            self._markers[key] = Marker(lab)
        return self._markers[key]

    def check(self, version: LabVersion) -> LabCheck:
        """Return the lab check of a saved lab."""
        if version.text not in self._checks:
            if len(self._checks) > 64:
                self._checks.clear()
            self._checks[version.text] = check_text(version.text)
        return self._checks[version.text]

    def hand_in(self, version: LabVersion, hand_ins: Sequence[HandIn], stage: str = "") -> list[int]:
        """Store papers of a stage, all or none, and mark them; returns their rows."""
        rows = self.papers.add(
            version.slug,
            [(h.learner, {d: (f.path, f.content) for d, f in h.files.items()}, h.remarks) for h in hand_ins],
            self.lab(version, stage).stage,
        )
        for row in rows:
            paper = self.papers.get(row)
            if paper is not None:
                self.result(paper, version)
        return rows

    def papers_of(self, version: LabVersion, stage: str = "") -> list[StoredPaper]:
        """Return each learner's latest paper of a stage; what was handed in before there were stages is of the last."""
        lab = self.lab(version, stage)
        last = lab.stage == self.lab(version).stage
        return self.papers.of_lab(version.slug, [lab.stage, *([""] if last and lab.stage else [])])

    def paper(self, stored: StoredPaper) -> Paper:
        """Read a stored paper's sheets."""
        return read_paper(stored.learner, self.papers.files(stored.id), stored.remarks)

    def result(self, stored: StoredPaper, version: LabVersion) -> dict[str, Any]:
        """Return the result of a paper under a version of its lab, marking it where that was not done yet.

        What the instructor overruled is put in its place.
        """
        found = self.papers.result(stored.id, version.key, __version__)
        if found is None:
            result = self.marker(version, stored.stage).mark(self.paper(stored))
            self.papers.keep_results(version.key, __version__, [(stored.id, result.text())])
            found = result.json()
        overrules = [Overrule(*told) for told in self.papers.overrules(stored.id)]
        return overruled(found, overrules, self.lab(version, stored.stage).scheme)
