"""The desk: labs read and compiled once per version, papers marked when they arrive or the lab changed."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from pydantic import TypeAdapter

from ..core.formats import HandIn
from ..core.lab import Lab, ReadLab, read_lab
from ..core.marking import LabCheck, Marker, Overrule, Paper, Result, check_text, overruled
from ..core.sim import Model
from ..store import Database, Labs, LabVersion, Papers, StoredPaper
from .memos import Memos
from .papers import read_paper
from .revision import revision

MOST_LABS = 64
_RESULT = TypeAdapter(Result)


@dataclass(frozen=True, slots=True)
class Remarked:
    """A result with the total that an earlier revision of the marking gave the same paper, where there is one."""

    result: Result
    was: float | None = None


class Desk:
    """Everything the server does with labs and papers.

    What it keeps of labs is shared by all threads and never changes; what a paper needs belongs to the request.
    """

    def __init__(self, database: Database) -> None:
        self.labs = Labs(database)
        self.papers = Papers(database)
        self._read = lru_cache(maxsize=MOST_LABS)(read_lab)
        self._model = lru_cache(maxsize=MOST_LABS)(self._new_model)
        self._marker = lru_cache(maxsize=MOST_LABS)(self._new_marker)
        self._check = lru_cache(maxsize=MOST_LABS)(check_text)
        self._memos = Memos()

    def read(self, version: LabVersion) -> ReadLab:
        """Read a lab's text, the same text only once."""
        return self._read(version.text)

    def lab(self, version: LabVersion, stage: str = "") -> Lab:
        """Return a saved lab, or one of its stages: the last where it does not have that one (any more).

        Only texts that can be read are saved.
        """
        return self._stage(version.text, stage)

    def _stage(self, text: str, stage: str) -> Lab:
        lab = self._read(text).lab
        assert lab is not None
        return next((s for s in lab.stages if stage and s.stage == stage), lab)

    def model(self, version: LabVersion, stage: str = "") -> Model:
        """Return the model of a saved lab, or of one of its stages."""
        return self._model(version.text, self.lab(version, stage).stage)

    def _new_model(self, text: str, stage: str) -> Model:
        return Model(self._stage(text, stage))

    def marker(self, version: LabVersion, stage: str = "") -> Marker:
        """Return the marker of a saved lab, or of one of its stages."""
        return self._marker(version.text, self.lab(version, stage).stage)

    def _new_marker(self, text: str, stage: str) -> Marker:
        model = self._model(text, stage)
        return Marker(model.lab, model)

    def check(self, version: LabVersion) -> LabCheck:
        """Return the lab check of a saved lab."""
        return self._check(version.text)

    def hand_in(self, version: LabVersion, hand_ins: Sequence[HandIn], stage: str = "") -> list[int]:
        """Store papers of a stage, all or none, and mark them; returns their rows."""
        rows = self.papers.add(
            version.slug,
            [(h.learner, {d: (f.path, f.content) for d, f in h.files.items()}, h.remarks) for h in hand_ins],
            self.lab(version, stage).stage,
        )
        stored = [paper for row in rows if (paper := self.papers.get(row)) is not None]
        self.results(stored, version)
        return rows

    def papers_of(self, version: LabVersion, stage: str = "") -> list[StoredPaper]:
        """Return each learner's latest paper of a stage; what was handed in before there were stages is of the last."""
        lab = self.lab(version, stage)
        last = lab.stage == self.lab(version).stage
        return self.papers.of_lab(version.slug, [lab.stage, *([""] if last and lab.stage else [])])

    def paper(self, stored: StoredPaper) -> Paper:
        """Read a stored paper's sheets."""
        return read_paper(stored.learner, self.papers.files(stored.id), stored.remarks)

    def results(self, papers: Iterable[StoredPaper], version: LabVersion) -> list[Remarked]:
        """Return the results of papers under a version of their lab, marking those that this revision has not marked
        yet.

        What the instructor overruled is put in its place.
        """
        found = []
        for stored in papers:
            marker = self.marker(version, stored.stage)
            text = self.papers.result(stored.id, version.key, revision())
            if text is None:
                with self._memos.lent(marker) as memo:
                    result = marker.mark(self.paper(stored), memo)
                self.papers.keep_results(version.key, revision(), [(stored.id, result.text())])
            else:
                result = _RESULT.validate_json(text)
            was = self.papers.carried_before(stored.id, version.key, revision())
            overrules = [Overrule(*told) for told in self.papers.overrules(stored.id)]
            found.append(
                Remarked(
                    overruled(result, overrules, marker.lab.scheme), None if was == result.carried else was
                )
            )
        return found

    def result(self, stored: StoredPaper, version: LabVersion) -> Result:
        """Return the result of one paper."""
        return self.results([stored], version)[0].result
