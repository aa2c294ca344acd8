"""The desk: labs, what papers are handed in for, and papers stored when they arrive and marked behind the answers."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache

from pydantic import TypeAdapter

from ..core.formats import HandIn
from ..core.lab import Lab
from ..core.marking.blind import held_back, sheet_name, without_names
from ..core.marking.late import charged_late
from ..core.marking.overruling import Overrule, overruled
from ..core.marking.paper import Paper
from ..core.marking.scheme import numbered, tasks_of
from ..core.marking.shapes import Fault, Result
from ..core.sittings import Attempt, counting, days_late
from ..core.statistics.columns import Entrant
from ..store import (
    Benches,
    Comments,
    Database,
    Drafts,
    Entries,
    Groups,
    Labs,
    LabVersion,
    Listed,
    NewArrival,
    NewPaper,
    Overrules,
    Papers,
    Queued,
    Results,
    RunKey,
    Scope,
    Sitting,
    Sittings,
    StoredOverrule,
    StoredPaper,
    Summary,
    Users,
)
from .classes import ToMark, last_result, mark_mended, mark_stored, summary_of
from .compiled import CompiledLabs, key_of
from .occasion import Occasion
from .papers import read_paper
from .queue import Queue
from .revision import revision
from .workers import Piece, Workers

MOST_RESULTS = 2048
"""So many results are not read anew for every page of a class: they never change."""
_RESULT = TypeAdapter(Result)


@dataclass(frozen=True, slots=True)
class Standing:
    """How far the marking of a paper is: its result with what was overruled, or why there is none, or neither yet."""

    result: Result | None
    failure: str | None = None
    look_again: tuple[StoredOverrule, ...] = ()
    """What was overruled on an earlier paper of the learner, and stands for this one, too."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HowFar:
    """How many papers are to be marked, are marked, could not be, and are left: none where marking was stopped."""

    papers: int
    marked: int
    failed: int
    left: int
    stopped: bool


class Desk(CompiledLabs):
    """Everything the server does with labs and papers.

    Nothing is marked while an answer waits: what is asked for is what is there, and the rest is wanted of the workers.
    """

    def __init__(self, database: Database, workers: Workers | None = None, *, marks: bool = True) -> None:
        """Make a desk on a database; one that does not mark leaves that to a process that does."""
        super().__init__(workers or Workers())
        self.database = database
        self.labs = Labs(database)
        self.benches = Benches(database)
        self.drafts = Drafts(database)
        self.groups = Groups(database)
        self.sittings = Sittings(database)
        self.papers = Papers(database)
        self.overrules = Overrules(database)
        self.comments = Comments(database)
        self.entries = Entries(database)
        self.users = Users(database)
        self.queue = Queue(database, self.workers, self._piece)
        self._results = Results(database)
        self._parsed = lru_cache(maxsize=MOST_RESULTS)(_RESULT.validate_json)
        self._marks = marks

    def occasion(self, version: LabVersion, stage: str = "") -> Occasion:
        """Return the occasion that a stage of a lab is without a sitting.

        What was handed in before the lab had stages is of the last.
        """
        lab = self.lab(version, stage)
        last = lab.stage == self.lab(version).stage
        stages = (lab.stage, *([""] if last and lab.stage else []))
        return Occasion(version, lab, Scope(version.slug, stages))

    def occasion_of(self, sitting: Sitting) -> Occasion:
        """Return the occasion that a sitting is."""
        version = self.labs.version(sitting.version)
        return Occasion.of_sitting(sitting, version, self.lab(version, sitting.stage))

    def occasion_of_paper(self, stored: StoredPaper) -> Occasion | None:
        """Return what a paper was handed in for; None where the sitting was removed."""
        if stored.sitting is None:
            version = self.labs.newest(stored.slug)
            return self.occasion(version, stored.stage) if version else None
        sitting = self.sittings.get(stored.sitting)
        return self.occasion_of(sitting) if sitting else None

    def hand_in(
        self,
        occasion: Occasion,
        hand_ins: Sequence[HandIn],
        before: Mapping[str, int | None] | None = None,
        arrival: NewArrival | None = None,
        received_at: str = "",
    ) -> list[int]:
        """Store papers with what they came in, all or none, and have them marked; returns their rows.

        They came now, or when ``received_at`` says.

        ``before`` has what is known to be handed in last: raises :class:`~zensur.store.Overtaken`.
        """
        papers = [
            NewPaper(
                h.learner,
                {d: (f.path, f.content) for d, f in h.files.items()},
                h.remarks,
                h.came_as or h.learner,
                occasion.drawn(h.learner),
                received_at,
            )
            for h in hand_ins
        ]
        rows = self.papers.add(occasion.scope, papers, before, arrival, run_of(occasion))
        if self._marks:
            self.queue.feed()
        return rows

    def counting(self, occasion: Occasion) -> list[int]:
        """Return the papers that count, by their rows."""
        return [stored.id for stored in self._counting(occasion)]

    def papers_of(self, occasion: Occasion) -> list[StoredPaper]:
        """Return each learner's paper that counts, in the order of what the learners are called."""
        return sorted(self._counting(occasion), key=lambda p: _order(occasion, p.learner))

    def _counting(self, occasion: Occasion) -> list[StoredPaper]:
        """Return each learner's last paper, or what the rules of a sitting say where nothing was chosen by hand."""
        if occasion.sitting is None:
            return self.papers.last(occasion.scope)
        of: dict[str, list[StoredPaper]] = {}
        for stored in self.papers.all(occasion.scope):
            of.setdefault(stored.learner, []).append(stored)
        several = [p.id for own in of.values() for p in own if len(own) > 1]
        totals = self._results.totals(several, occasion.version.key, revision()) if several else {}
        chosen = self.papers.chosen(occasion.scope)
        found = []
        for learner, own in of.items():
            attempts = [Attempt(paper=p.id, received=_when(p), total=totals.get(p.id)) for p in own]
            counts = chosen[learner] if learner in chosen else counting(attempts, occasion.rules)
            found += [p for p in own if p.id == counts]
        return found

    def paper(self, stored: StoredPaper, lab: Lab) -> Paper:
        """Read a stored paper's sheets."""
        return read_paper(stored.learner, self.papers.files(stored.id), stored.remarks, lab.devices)

    def listed(self, occasion: Occasion) -> list[tuple[Listed, Summary | None, tuple[StoredOverrule, ...]]]:
        """Return the papers that count, each with what a list shows of its result (None: there is none yet), and with
        what was overruled on another paper. What is not marked is wanted."""
        overrules = self.overrules.of(occasion.scope)
        found = []
        rows = self._results.listed(self.counting(occasion), occasion.version.key, revision())
        rows.sort(key=lambda p: _order(occasion, p.learner))
        self._begin(occasion, [p.paper for p in rows if p.summary is None and p.failure is None])
        for listed in rows:
            summary, own = listed.summary, overrules.get(listed.learner, [])
            if summary is not None and (own or days_late(occasion.rules.closes, _when(listed))):
                text = self._results.result(listed.paper, occasion.version.key, revision())
                assert text is not None
                summary = summary_of(self._finished(text, listed, own, occasion))
            named = replace(listed, learner=occasion.called(listed.learner))
            found.append((named, summary, tuple(o for o in own if o.paper != listed.paper)))
        return found

    def results_of(
        self, occasion: Occasion, want: bool = False, papers: Sequence[StoredPaper] | None = None
    ) -> tuple[list[tuple[StoredPaper, Result]], int]:
        """Return the papers that count with their results, overrules in them, and how many have none.

        What is not marked is marked behind the answers where it is wanted. ``papers`` are those that count, where that
        is known.
        """
        overrules = self.overrules.of(occasion.scope)
        found, waiting = [], []
        papers = self.papers_of(occasion) if papers is None else papers
        texts = self._results.texts([p.id for p in papers], occasion.version.key, revision())
        paths = self.papers.paths([p.id for p in papers]) if occasion.blind else {}
        for stored in papers:
            text = texts.get(stored.id)
            if text is not None:
                own = overrules.get(stored.learner, [])
                result = self._finished(text, stored, own, occasion)
                if occasion.blind:
                    result = without_names(result, paths.get(stored.id, {}), stored.remarks)
                found.append((stored, result))
            elif self._results.failure(stored.id, occasion.version.key, revision()) is None:
                waiting.append(stored.id)
        if want:
            self._begin(occasion, waiting)
        return found, len(waiting)

    def doubts(self, occasion: Occasion, papers: Sequence[StoredPaper]) -> dict[int, list[str]]:
        """Return by paper why somebody should look at it, where nobody has since."""
        texts = self._results.doubtful([p.id for p in papers], occasion.version.key, revision())
        overrules = self.overrules.of(occasion.scope)
        looked = self.entries.looked_at(occasion.scope)
        by_hand = {ident for ident, _, c in numbered(tasks_of(occasion.lab)) if c.key == "manual"}
        found = {}
        for stored in papers:
            elsewhere = [o for o in overrules.get(stored.learner, []) if o.paper != stored.id]
            remarks = stored.remarks
            if occasion.blind and remarks:
                remarks = (held_back(len(remarks)),)
            said = [*remarks, *texts.get(stored.id, [])]
            undecided = len(by_hand - {o.criterion for o in overrules.get(stored.learner, [])})
            if undecided:
                said.append(f"Still to be marked by hand: {undecided} of {len(by_hand)}.")
            if elsewhere:
                said.append(f"{len(elsewhere)} decisions were made on an earlier paper.")
            if said and looked.get(stored.id) != said:
                found[stored.id] = said
        return found

    def entrants(self, occasion: Occasion) -> list[Entrant]:
        """Return the results of those papers that count and are marked, of a team once for each member."""
        found: list[Entrant] = []
        for stored, result in self.results_of(occasion)[0]:
            seats = () if occasion.blind else occasion.seats.get(stored.learner, ())
            found += [Entrant(result, seat.learner, seat.group) for seat in seats] or [Entrant(result)]
        return found

    def standing(self, stored: StoredPaper, occasion: Occasion) -> Standing:
        """Return how far the marking of a paper is; where it is not marked it is wanted as the next."""
        text = self._results.result(stored.id, occasion.version.key, revision())
        if text is None:
            failure = self._results.failure(stored.id, occasion.version.key, revision())
            if failure is None:
                self._want_first(stored.id, occasion)
            return Standing(None, failure)
        own = self._overrules(stored, occasion)
        result = self._finished(text, stored, own, occasion)
        if occasion.blind:
            result = without_names(result, self.papers.paths([stored.id]).get(stored.id, {}), stored.remarks)
        return Standing(result, None, tuple(o for o in own if o.paper != stored.id))

    def files_of(self, stored: StoredPaper, occasion: Occasion) -> dict[str, tuple[str, bytes]]:
        """Return a paper's files by device, path and contents; where nobody is to know whose they are, called by their
        devices."""
        files = self.papers.files(stored.id)
        return {d: (sheet_name(d), own) for d, (_, own) in files.items()} if occasion.blind else files

    def total(self, stored: StoredPaper, occasion: Occasion) -> float | None:
        """Return the total of a paper with what was overruled; None where it is not marked, which changes nothing."""
        text = self._results.result(stored.id, occasion.version.key, revision())
        if text is None:
            return None
        return self._finished(text, stored, self._overrules(stored, occasion), occasion).carried

    def mended(self, stored: StoredPaper, occasion: Occasion, fault: Fault) -> Result:
        """Return what a paper would earn if one of its mistakes were mended, with what was overruled; whoever asks
        waits. Raises :class:`~zensur.work.workers.Refused`."""
        text: str = self.workers.ask(mark_mended, self._to_mark(stored, occasion.version), fault)
        return self._finished(text, stored, self._overrules(stored, occasion), occasion)

    def _to_mark(self, stored: StoredPaper, version: LabVersion) -> ToMark:
        return ToMark(
            text=version.text,
            stage=self.lab(version, stored.stage).stage,
            drawn=key_of(stored.drawn),
            learner=stored.learner,
            files=self.papers.files(stored.id),
            remarks=stored.remarks,
        )

    def how_far(self, occasion: Occasion) -> HowFar:
        """Return how far marking is; it is asked for again and again while it goes on."""
        key = run_of(occasion)
        learners, marked, failed = self._results.counts(occasion.scope, key.version, key.engine)
        left = self.queue.runs.left(key)
        return HowFar(
            papers=max(learners, marked + failed + left),
            marked=marked,
            failed=failed,
            left=left,
            stopped=self.queue.runs.cancelled(key),
        )

    def stop(self, occasion: Occasion) -> None:
        """Stop marking the papers of an occasion: what is being marked is finished, what waits stays unmarked."""
        self.queue.runs.cancel(run_of(occasion))
        if self._marks:
            self.queue.feed()

    def go_on(self, occasion: Occasion) -> None:
        """Go on marking where it was stopped."""
        self.queue.runs.go_on(run_of(occasion))
        self.listed(occasion)

    def mark_again(self, stored: StoredPaper, occasion: Occasion) -> None:
        """Have a paper marked that could not be marked before."""
        self._results.forget_failure(stored.id, occasion.version.key, revision())
        self._want_first(stored.id, occasion)

    def _overrules(self, stored: StoredPaper, occasion: Occasion) -> list[StoredOverrule]:
        return self.overrules.of(occasion.scope, stored.learner).get(stored.learner, [])

    def _finished(
        self, text: str, paper: StoredPaper | Listed, own: Sequence[StoredOverrule], occasion: Occasion
    ) -> Result:
        """Return a result as it is shown: with what was overruled, what being late costs, and the learner's name."""
        overrules = [Overrule(o.criterion, o.marks, o.reason) for o in own]
        scheme = occasion.lab.scheme
        result = overruled(self._parsed(text), overrules, scheme)
        days = days_late(occasion.rules.closes, _when(paper))
        result = charged_late(result, days, occasion.rules.percent_off(_when(paper)), scheme)
        return replace(result, learner=occasion.called(paper.learner))

    def _begin(self, occasion: Occasion, papers: Sequence[int]) -> None:
        """Have papers marked behind the answers, unless that was stopped."""
        if papers and self._marks and not self.queue.runs.cancelled(run_of(occasion)):
            self.queue.runs.begin(run_of(occasion), papers)
            self.queue.feed()

    def _want_first(self, paper: int, occasion: Occasion) -> None:
        """Have a paper marked behind the answers before all others."""
        if self._marks:
            self.queue.runs.begin(run_of(occasion), [paper])
            self.queue.first(Queued(paper, occasion.version.key, revision()))

    def _piece(self, queued: Queued) -> Piece:
        """Return what the workers do with a paper."""
        key = (queued.paper, queued.version, queued.engine)

        def prepare() -> tuple[Callable[..., object], tuple[object, ...]]:
            stored, version = self.papers.get(queued.paper), self.labs.version(queued.version)
            assert stored is not None
            if stored.erased:  # there is nothing to mark any more: the figures of the class stay
                return last_result, (self._results.latest(stored.id),)
            return mark_stored, (self._to_mark(stored, version),)

        return Piece(
            prepare,
            lambda found: self._results.keep(*key, *found),
            lambda why: self._results.keep_failure(*key, why),
        )


def run_of(occasion: Occasion) -> RunKey:
    """Return the run that marks the papers of an occasion by this engine."""
    return RunKey(occasion.name, occasion.version.key, revision())


def _when(paper: StoredPaper | Listed) -> datetime:
    return datetime.fromisoformat(paper.received_at)


def _order(occasion: Occasion, learner: str) -> str:
    """Return what papers are sorted by: never what is not shown, such as the ids of a blind sitting."""
    return occasion.called(learner).casefold()
