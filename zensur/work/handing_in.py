"""Taking papers: nobody's paper is replaced, and nobody is taken for somebody else, before it was asked.

An upload becomes a plan: what is stored at once, and what is asked first. The answers make another plan of the same
upload, which asks nothing more.
"""

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from ..core.formats import BadArchive, File, HandIn, Pattern, folded, is_archive, read_archive, sort_papers
from ..store import paper_hash

Decision = Literal["replace", "add", "apart", "leave"]
"""The paper takes the place of the one there; its sheets are added to it; it is somebody else's; it is left out."""


@dataclass(frozen=True, slots=True)
class Present:
    """A learner's paper that counts: its row (None: it is of the same upload), and its files by device."""

    paper: int | None
    files: Mapping[str, tuple[str, bytes]]


@dataclass(frozen=True, slots=True)
class Question:
    """A paper of an upload that concerns one that is there."""

    name: str
    """Whose it is, as the upload says."""
    learner: str
    """Whose paper is there: the same name, but for capitals and spaces."""
    paper: int | None
    """The row of the paper there; None: it is of the same upload."""
    devices: tuple[str, ...]
    """What the new paper has."""
    missing: tuple[str, ...]
    """What only the paper there has."""

    @property
    def apart(self) -> bool:
        """Whether the names differ, so that it may be somebody else."""
        return self.name != self.learner


@dataclass(slots=True)
class Plan:
    """What becomes of an upload."""

    papers: dict[str, HandIn] = field(default_factory=dict)
    """What is to be stored, by learner."""
    before: dict[str, int | None] = field(default_factory=dict)
    """Which paper of each learner counts before."""
    left: list[str] = field(default_factory=list)
    """Whose paper of the upload is left out, as was decided."""
    questions: list[Question] = field(default_factory=list)
    """What is not answered yet: nothing is stored as long as there is one."""

    @property
    def seen(self) -> str:
        """A hash of the questions: answers are taken only by who was shown the same."""
        told = [(q.name, q.learner, q.paper, q.devices, q.missing) for q in self.questions]
        return hashlib.sha256(json.dumps(told).encode()).hexdigest()[:16]


def plan(
    hand_ins: Sequence[HandIn],
    there: Mapping[str, Present],
    decided: Mapping[str, Decision] | None = None,
    *,
    attempts: bool = False,
) -> Plan:
    """Plan an upload on what is there, by learner, with the answers to its questions where they were given.

    Where learners have ``attempts`` another paper, unless it lacks something, is another attempt, and is not asked
    about.
    """
    found = Plan()
    known = dict(there)
    alike: dict[str, list[str]] = {}
    for learner in known:
        alike.setdefault(folded(learner), []).append(learner)
    for hand_in in hand_ins:
        name, taken = hand_in.learner, hand_in
        near = [] if attempts else alike.get(folded(name), [])  # an attempt bears the learner's id
        learner = name if name in known else next(iter(near), name)
        present = known.get(learner)
        if present is None or (attempts and present.paper and not _missing(hand_in, present)):
            pass
        elif learner != name or not _same(hand_in, present):
            decision = None if decided is None else decided.get(name, "leave")
            if decision is None:
                found.questions.append(_question(name, learner, hand_in, present))
                continue
            if decision == "leave":
                found.left.append(name)
                continue
            if decision == "apart":
                learner, present = name, known.get(name)
            elif decision == "add":
                taken = _added(hand_in, present)
        found.papers[learner] = replace(taken, learner=learner)
        found.before.setdefault(learner, present.paper if present else None)
        if learner not in known:
            alike.setdefault(folded(learner), []).append(learner)
        known[learner] = Present(None, _files(taken))
    return found


def _files(hand_in: HandIn) -> dict[str, tuple[str, bytes]]:
    return {device: (f.path, f.content) for device, f in hand_in.files.items()}


def _same(hand_in: HandIn, present: Present) -> bool:
    return paper_hash(_files(hand_in)) == paper_hash(present.files)


def _question(name: str, learner: str, hand_in: HandIn, present: Present) -> Question:
    return Question(name, learner, present.paper, tuple(hand_in.files), _missing(hand_in, present))


def _missing(hand_in: HandIn, present: Present) -> tuple[str, ...]:
    """Return the devices that only the paper there has."""
    return tuple(d for d in present.files if d not in hand_in.files)


def _added(hand_in: HandIn, present: Present) -> HandIn:
    """Add the sheets of a paper to the one that is there; where both have one the new one counts."""
    kept = {d: File(path, content) for d, (path, content) in present.files.items() if d not in hand_in.files}
    said = (f"Kept from the paper before: {', '.join(kept)}.",) if kept else ()
    return replace(hand_in, files={**kept, **hand_in.files}, remarks=(*hand_in.remarks, *said))


def sort_uploads(
    uploads: Sequence[tuple[str, bytes]], learner: str, devices: Sequence[str], pattern: Pattern | None
) -> list[HandIn]:
    """Sort what was uploaded, by name and content, into papers; ``learner`` is whose they are, where they are one's.

    Raises :class:`BadArchive`, which :class:`~zensur.core.formats.FlatNames` is, too: a pattern is wanted.
    """
    sheets = [File(name, content) for name, content in uploads if not is_archive(content)]
    found: list[HandIn] = []
    for name, content in uploads:
        if is_archive(content):
            theirs = sort_papers(read_archive(content), devices, learner or name, pattern)
            found += _of_one(learner, name, theirs) if learner else theirs
    if sheets and not learner and all("/" in sheet.path for sheet in sheets):
        found += sort_papers(sheets, devices, "", pattern)  # a folder, as an archive of it would be
    elif sheets and (pattern is not None or not learner):
        found += sort_papers(sheets, devices, "", pattern)  # of several learners, side by side
        if pattern is None:
            raise BadArchive("Whose sheets are these? Write the learner's name beside them.")
    elif sheets:
        found += sort_papers([File(f"{learner}/{f.path}", f.content) for f in sheets], devices, learner)
    return found


def _of_one(learner: str, archive: str, papers: list[HandIn]) -> list[HandIn]:
    """Take an archive as the paper of the learner who was named."""
    if len(papers) > 1:
        others = ", ".join(p.learner for p in papers[:3]) + (", …" if len(papers) > 3 else "")
        raise BadArchive(
            f"{archive[:60]} holds the papers of {len(papers)} learners ({others}), and {learner} was named: hand it "
            "in without a name, or the paper of one."
        )
    return [
        p
        if p.learner == learner
        else replace(p, learner=learner, remarks=(*p.remarks, f"It lay in a folder {p.learner}."))
        for p in papers
    ]
