"""The desk: labs read and compiled once per version, papers stored when they arrive and marked behind the answers."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from pydantic import TypeAdapter

from ..core.formats import HandIn
from ..core.lab import Lab, ReadLab, read_lab
from ..core.marking.checking.lab_check import LabCheck, check_text
from ..core.marking.marker import Marker
from ..core.marking.overruling import Overrule, overruled
from ..core.marking.paper import Paper
from ..core.marking.shapes import Result
from ..core.sim import Model
from ..store import (
    Benches,
    Database,
    Drafts,
    Labs,
    LabVersion,
    Listed,
    Overrules,
    Papers,
    Results,
    StoredOverrule,
    StoredPaper,
    Summary,
)
from .classes import mark_stored, summary_of
from .papers import read_paper
from .revision import revision
from .workers import Piece, Workers

MOST_LABS = 64
_RESULT = TypeAdapter(Result)


@dataclass(frozen=True, slots=True)
class Standing:
    """How far the marking of a paper is: its result with what was overruled, or why there is none, or neither yet."""

    result: Result | None
    failure: str | None = None
    look_again: tuple[StoredOverrule, ...] = ()
    """What was overruled on an earlier paper of the learner, and stands for this one, too."""


class Desk:
    """Everything the server does with labs and papers.

    What it keeps of labs is shared by all threads and never changes. Nothing is marked while an answer waits: what is
    asked for is what is there, and the rest is wanted of the workers.
    """

    def __init__(self, database: Database, workers: Workers | None = None) -> None:
        self.database = database
        self.labs = Labs(database)
        self.benches = Benches(database)
        self.drafts = Drafts(database)
        self.papers = Papers(database)
        self.overrules = Overrules(database)
        self.workers = workers or Workers()
        self._results = Results(database)
        self._read = lru_cache(maxsize=MOST_LABS)(read_lab)
        self._model = lru_cache(maxsize=MOST_LABS)(self._new_model)
        self._marker = lru_cache(maxsize=MOST_LABS)(self._new_marker)
        self._check = lru_cache(maxsize=MOST_LABS)(check_text)

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

    def check_of(self, text: str) -> LabCheck:
        """Return the lab check of a text that is not saved, worked out in a worker: it is asked for at every pause of
        typing. Raises :class:`~zensur.work.workers.Refused`."""
        found: LabCheck = self.workers.ask(check_text, text)
        return found

    def stages(self, version: LabVersion, stage: str = "") -> list[str]:
        """Return the stages that papers of a stage are told to be of.

        What was handed in before the lab had stages is of the last.
        """
        lab = self.lab(version, stage)
        last = lab.stage == self.lab(version).stage
        return [lab.stage, *([""] if last and lab.stage else [])]

    def hand_in(
        self,
        version: LabVersion,
        hand_ins: Sequence[HandIn],
        stage: str = "",
        before: Mapping[str, int | None] | None = None,
    ) -> list[int]:
        """Store papers of a stage, all or none, and have them marked; returns their rows.

        ``before`` has what is known to count: raises :class:`~zensur.store.Overtaken`.
        """
        rows = self.papers.add(
            version.slug,
            [(h.learner, {d: (f.path, f.content) for d, f in h.files.items()}, h.remarks) for h in hand_ins],
            self.stages(version, stage),
            before,
        )
        for row in rows:
            if self._results.result(row, version.key, revision()) is None:
                self._want(row, version)
        return rows

    def papers_of(self, version: LabVersion, stage: str = "") -> list[StoredPaper]:
        """Return each learner's paper of a stage that counts."""
        return self.papers.of_lab(version.slug, self.stages(version, stage))

    def paper(self, stored: StoredPaper) -> Paper:
        """Read a stored paper's sheets."""
        return read_paper(stored.learner, self.papers.files(stored.id), stored.remarks)

    def listed(
        self, version: LabVersion, stage: str = ""
    ) -> list[tuple[Listed, Summary | None, tuple[StoredOverrule, ...]]]:
        """Return the papers of a stage that count, each with what a list shows of its result under a version of the lab
        (None: there is none yet), and with what was overruled on another paper. What is not marked is wanted."""
        stages = self.stages(version, stage)
        overrules = self.overrules.of_lab(version.slug, stages)
        found = []
        for listed in self._results.listed(version.slug, stages, version.key, revision()):
            summary, own = listed.summary, overrules.get(listed.learner, [])
            if summary is None and listed.failure is None:
                self._want(listed.paper, version)
            if summary is not None and own:
                text = self._results.result(listed.paper, version.key, revision())
                assert text is not None
                summary = summary_of(self._overruled(text, own, version, listed.stage))
            found.append((listed, summary, tuple(o for o in own if o.paper != listed.paper)))
        return found

    def results_of(
        self, version: LabVersion, stage: str = "", want: bool = False
    ) -> tuple[list[tuple[StoredPaper, Result]], int]:
        """Return the papers of a stage that count with their results, overrules in them, and how many have none.

        What is not marked is marked behind the answers where it is wanted.
        """
        stages = self.stages(version, stage)
        overrules = self.overrules.of_lab(version.slug, stages)
        found, waiting = [], 0
        for stored in self.papers_of(version, stage):
            text = self._results.result(stored.id, version.key, revision())
            if text is None:
                waiting += 1
                if want and self._results.failure(stored.id, version.key, revision()) is None:
                    self._want(stored.id, version)
                continue
            own = overrules.get(stored.learner, [])
            found.append((stored, self._overruled(text, own, version, stored.stage)))
        return found, waiting

    def standing(self, stored: StoredPaper, version: LabVersion) -> Standing:
        """Return how far the marking of a paper under a version of its lab is; where it is not marked it is wanted as
        the next."""
        text = self._results.result(stored.id, version.key, revision())
        if text is None:
            failure = self._results.failure(stored.id, version.key, revision())
            if failure is None:
                self._want(stored.id, version, first=True)
            return Standing(None, failure)
        own = self.overrules.of_paper(stored, self.stages(version, stored.stage))
        return Standing(
            self._overruled(text, own, version, stored.stage),
            None,
            tuple(o for o in own if o.paper != stored.id),
        )

    def total(self, stored: StoredPaper, version: LabVersion) -> float | None:
        """Return the total of a paper with what was overruled; None where it is not marked, which changes nothing."""
        text = self._results.result(stored.id, version.key, revision())
        if text is None:
            return None
        own = self.overrules.of_paper(stored, self.stages(version, stored.stage))
        return self._overruled(text, own, version, stored.stage).carried

    def mark_again(self, stored: StoredPaper, version: LabVersion) -> None:
        """Have a paper marked that could not be marked before."""
        self._results.forget_failure(stored.id, version.key, revision())
        self._want(stored.id, version, first=True)

    def _overruled(self, text: str, own: Sequence[StoredOverrule], version: LabVersion, stage: str) -> Result:
        overrules = [Overrule(o.criterion, o.marks, o.reason) for o in own]
        return overruled(_RESULT.validate_json(text), overrules, self.lab(version, stage).scheme)

    def _want(self, paper: int, version: LabVersion, first: bool = False) -> None:
        """Have a paper marked behind the answers."""
        key = (paper, version.key, revision())

        def prepare() -> tuple[object, tuple[object, ...]]:
            stored = self.papers.get(paper)
            assert stored is not None
            stage = self.lab(version, stored.stage).stage
            return mark_stored, (
                version.text, stage, stored.learner, self.papers.files(paper), stored.remarks,
            )  # fmt: skip

        self.workers.want(
            key,
            Piece(
                prepare,  # type: ignore[arg-type]
                lambda found: self._results.keep(*key, *found),
                lambda why: self._results.keep_failure(*key, why),
            ),
            first,
        )
