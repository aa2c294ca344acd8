"""Taking what is handed in on an occasion: whose it is, what concerns a paper that is there, and then all at once.

What is doubtful is asked before anything is stored. The same for uploads in the browser and on the command line.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..core.formats import BadArchive, FlatNames, HandIn, Pattern, folded, nothing_named
from ..core.sittings import Learner, Match, match_learners
from ..store import NewArrival, Overtaken
from .desk import Desk
from .handing_in import Decision, Plan, Present, plan, sort_uploads
from .numbers import seat_newcomers
from .occasion import Occasion


@dataclass(frozen=True, slots=True, kw_only=True)
class Answers:
    """What was said of an upload: whose it is where it is one learner's, how names of flat archives are made up, and
    the answers to what was asked.

    ``matched`` has the learner's id by the name in the archive, empty to leave it out; ``newcomers`` are names that get
    a seat. ``decided`` says what becomes of papers that concern another, ``seen`` which question that answers; or
    ``any`` is decided of whatever is asked.
    """

    learner: str = ""
    pattern: str = ""
    shown: bool = True
    matched: Mapping[str, str] = field(default_factory=dict)
    newcomers: Sequence[str] = ()
    decided: Mapping[str, Decision] = field(default_factory=dict)
    seen: str = ""
    any: Decision | None = None


@dataclass(frozen=True, slots=True)
class Taken:
    """What was stored: the papers' rows, and what was noticed."""

    papers: tuple[int, ...]
    remarks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Unmatched:
    """Names of an upload that have to be told whose they are; some with a proposal."""

    matches: tuple[Match, ...]


def take(
    desk: Desk, occasion: Occasion, uploads: Sequence[tuple[str, bytes]], way: str, answers: Answers
) -> Taken | Unmatched | Plan:
    """Store what was uploaded, by name and content; or return what has to be answered first, and store nothing.

    Raises :class:`~zensur.core.formats.BadArchive`, which :class:`~zensur.core.formats.FlatNames` is, too, and
    :class:`~zensur.core.formats.BadPattern`.
    """
    devices = list(occasion.lab.devices)
    pattern = Pattern(answers.pattern) if answers.pattern.strip() else None
    hand_ins = [
        replace(h, came_as=h.learner) for h in sort_uploads(uploads, answers.learner, devices, pattern)
    ]
    if pattern is not None and not answers.shown:
        raise FlatNames(pattern, [h.learner for h in hand_ins])
    if not any(h.files for h in hand_ins):
        raise BadArchive(nothing_named(hand_ins, devices))
    papers = [h for h in hand_ins if h.files]
    said = [f"{h.learner}: {remark}" for h in hand_ins for remark in h.remarks]
    if occasion.sitting is not None:
        told = _whose(occasion, papers, answers)
        if isinstance(told, Unmatched):
            return told
        papers = told
    return _store(desk, occasion, papers, said, NewArrival(way, uploads), answers)


def _whose(occasion: Occasion, papers: list[HandIn], answers: Answers) -> list[HandIn] | Unmatched:
    """Give papers to the learners of a sitting, or to their teams; those that are left out are gone."""
    seats = [seat for own in occasion.seats.values() for seat in own]
    holders = {seat.learner.code: seat.holder for seat in seats} | {
        seat.holder: seat.holder for seat in seats
    }
    teams = {
        seat.holder: Learner(code=seat.holder, name=seat.learner.team) for seat in seats if seat.learner.team
    }
    known = [*(seat.learner for seat in seats), *teams.values()]
    found, uncertain = [], []
    for paper, match in zip(papers, match_learners([h.learner for h in papers], known), strict=True):
        code = answers.matched.get(paper.learner, match.code if match.sure else None)
        if code == "":
            continue
        if code in holders:
            found.append(replace(paper, learner=holders[code]))
        elif not seats or paper.learner in answers.newcomers:
            found.append(paper)
        else:
            uncertain.append(match)
    return Unmatched(tuple(uncertain)) if uncertain else found


def _seated(desk: Desk, occasion: Occasion, holders: Iterable[str]) -> Occasion:
    """Give those a seat who have none yet."""
    new = [Learner(code=name, name=name) for name in holders if name not in occasion.seats]
    if occasion.sitting is None or not new:
        return occasion
    return desk.occasion_of(seat_newcomers(desk, occasion.sitting, [("", learner) for learner in new]))


def _store(
    desk: Desk,
    occasion: Occasion,
    papers: list[HandIn],
    said: list[str],
    arrival: NewArrival,
    answers: Answers,
) -> Taken | Plan:
    """Store papers, or ask what becomes of those that concern another; anew where one came in meanwhile."""
    while True:
        there = _there(desk, occasion, papers)
        attempts = occasion.sitting is not None
        planned = plan(papers, there, attempts=attempts)
        if planned.questions:
            if answers.any is None and answers.seen != planned.seen:
                return planned
            decided = {q.name: answers.any for q in planned.questions} if answers.any else answers.decided
            planned = plan(papers, there, decided, attempts=attempts)
        remarks = [
            *said,
            *(
                f"{occasion.called(learner)}: the paper that was there still counts."
                for learner in planned.left
            ),
        ]
        occasion = _seated(desk, occasion, planned.papers)
        try:
            rows = desk.hand_in(
                occasion,
                list(planned.papers.values()),
                planned.before,
                replace(arrival, remarks=remarks),
            )
        except Overtaken:
            continue
        return Taken(tuple(rows), tuple(remarks))


def _there(desk: Desk, occasion: Occasion, papers: list[HandIn]) -> dict[str, Present]:
    """Return what is there of those who hand in, and of those who are called nearly so."""
    called = {folded(h.learner) for h in papers}
    return {
        p.learner: Present(p.id, desk.papers.files(p.id))
        for p in desk.papers.last(occasion.scope)
        if folded(p.learner) in called
    }
