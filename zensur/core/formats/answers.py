"""The file ``answers`` of a paper: what the learner answers to questions, one on a line as ``QUESTION: ANSWER``."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..sheet import Where

ANSWERS = "/answers"
"""Where a paper keeps this file among those of its devices, whose names have no slash."""
MOST_ANSWERS, MOST_LETTERS, MOST_REMARKS = 500, 200, 20


@dataclass(frozen=True, slots=True)
class Answer:
    """What was answered to one question, and where: several answers where it was answered differently again."""

    texts: tuple[str, ...]
    where: Where


@dataclass(frozen=True, slots=True)
class Answers:
    """The answers by their questions as :func:`plain` gives these, and remarks on lines that are none."""

    found: Mapping[str, Answer] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()


def plain(question: str) -> str:
    """Return a question as questions are compared: without regard to case, blanks and the mark at its end."""
    return " ".join(question.lower().split()).rstrip(" ?.:")


def read_answers(content: bytes, file: str = "answers") -> Answers:
    """Read the answers to questions. Never raises.

    ``#`` begins a comment in the first column. The last colon with a blank behind it divides, so that a question may
    hold one, and an IPv6 address, too.
    """
    found: dict[str, Answer] = {}
    remarks: list[str] = []
    lines = content.decode("utf-8", "replace").splitlines()
    for number, line in enumerate(lines[:MOST_ANSWERS], 1):
        if line.startswith("#") or not line.strip():
            continue
        question, colon, answer = line.rpartition(": ")
        if not colon:
            question, colon, answer = line.partition(":")
        if not colon or not question.strip():
            remarks.append(
                f"{file}, line {number}: no answer was read, for it is not written as QUESTION: ANSWER."
            )
            continue
        key, text = plain(question), " ".join(answer.split())[:MOST_LETTERS]
        before = found.get(key, Answer((), Where(file, number)))
        found[key] = before if text in before.texts else Answer((*before.texts, text), before.where)
    if len(lines) > MOST_ANSWERS:
        remarks.append(f"{file}: only the first {MOST_ANSWERS} lines were read.")
    return Answers(found, tuple(remarks[:MOST_REMARKS]))
