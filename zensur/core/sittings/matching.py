"""Whose paper is whose: names in an archive against the learners of a roster."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from difflib import get_close_matches

from ..formats.file_names import folded
from .roster import Learner

NEAR = 0.8
"""So alike two names have to be for one to be proposed for the other (:func:`difflib.get_close_matches`)."""


@dataclass(frozen=True, slots=True)
class Match:
    """Who a name in an archive stands for: the learner's id, None where nobody is found; where it is not ``sure`` it is
    a proposal."""

    name: str
    code: str | None
    sure: bool


def match_learners(names: Iterable[str], learners: Sequence[Learner]) -> list[Match]:
    """Find the learners of names.

    Sure is an id, alone or as a word of the name, and a full name that only one learner bears, in either order and
    whatever the capitals, alone or with more about it, as in ``Ana Weir_902_file``; not an id beside somebody else's
    name. What is only near is proposed, and nobody is proposed who is found by another name.
    """
    known = [_Known(own.code, folded(own.code), frozenset(_words(own.name))) for own in learners]
    found = [_sure(name, known) for name in names]
    taken = {match.code for match in found}
    return [match if match.sure else _near(match.name, known, taken) for match in found]


@dataclass(frozen=True, slots=True)
class _Known:
    """A learner's id, also as it is compared, and the words of the name."""

    code: str
    folded: str
    words: frozenset[str]


def _words(name: str) -> list[str]:
    return [folded(word) for word in re.split(r"[\s,_()\[\]-]+", name) if word]


def _sure(name: str, known: Sequence[_Known]) -> Match:
    words = set(_words(name))
    ids = {own.code for own in known if own.folded == folded(name) or own.folded in words}
    called = [own for own in known if words >= own.words and (len(own.words) > 1 or words == own.words)]
    longest = max((len(own.words) for own in called), default=0)
    named = {own.code for own in called if len(own.words) == longest}
    certain = ids & named if named and ids else ids | named
    return Match(name, certain.pop(), True) if len(certain) == 1 else Match(name, None, False)


def _near(name: str, known: Sequence[_Known], taken: set[str | None]) -> Match:
    """Propose a learner who is called nearly so."""
    free = {" ".join(sorted(own.words)): own.code for own in reversed(known) if own.code not in taken}
    words = " ".join(sorted(word for word in _words(name) if not word.isdigit()))
    close = get_close_matches(words, free, 1, NEAR)
    return Match(name, free[close[0]] if close else None, False)
