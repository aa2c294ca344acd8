"""Entries of the log as they are shown: who changed what about marks, when and why."""

from collections.abc import Iterable

from ..store import Entry
from ..work.occasion import Occasion
from .shapes import EntryShape


def entry_shapes(occasion: Occasion, entries: Iterable[Entry]) -> list[EntryShape]:
    """Return entries about the papers of an occasion, with what its learners are called."""
    return [
        EntryShape(
            made_at=entry.made_at,
            who=entry.who,
            what=entry.what,
            learner=occasion.called(entry.learner) if entry.learner else "",
            paper=entry.paper,
            told=entry.in_words,
            reason=entry.reason,
        )
        for entry in entries
    ]
