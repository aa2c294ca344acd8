"""The file ``answers`` of a paper: what the learner answers to questions, one on a line as ``QUESTION: ANSWER``."""

from dataclasses import dataclass

ANSWERS = "/answers"
"""Where a paper keeps this file among those of its devices, whose names have no slash."""
MOST_ANSWERS = 500


@dataclass(frozen=True, slots=True)
class Answer:
    """What was answered, and in which line."""

    text: str
    line: int


def plain(question: str) -> str:
    """Return a question as questions are compared: without regard to case, blanks and the mark at its end."""
    return " ".join(question.lower().split()).rstrip(" ?.:")


def read_answers(content: bytes) -> dict[str, Answer]:
    """Read the answers by their questions. Never raises; of two answers to one question the last counts.

    ``#`` begins a comment in the first column. The last colon with a blank behind it divides, so that a question may
    hold one, and an IPv6 address, too.
    """
    found: dict[str, Answer] = {}
    for number, line in enumerate(content.decode("utf-8", "replace").splitlines()[:MOST_ANSWERS], 1):
        if line.startswith("#") or not line.strip():
            continue
        question, colon, answer = line.rpartition(": ")
        if not colon:
            question, colon, answer = line.partition(":")
        if colon and question.strip():
            found[plain(question)] = Answer(" ".join(answer.split())[:200], number)
    return found
