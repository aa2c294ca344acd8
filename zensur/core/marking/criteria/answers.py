"""Criteria about what a learner answers in words and numbers, and what is marked by hand."""

import re
from collections.abc import Iterator
from ipaddress import ip_address

from ...addresses import BadValue, mask_length, parse_interface
from ...formats import plain
from ...lab import Criterion, CriterionKey, Lab
from ...lab.criteria import text_of
from ...lab.shapes import Found, Key, Text
from ..shapes import Judged
from .judging import Attempted, Judging

BY_HAND = "to be marked by hand"


def by_hand(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Earn nothing until somebody has looked: what it is worth is decided by an overrule."""
    return Judged(0.0, criterion.operand, BY_HAND)


def value(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare the answer to a question as what it is: a number, a mask, an address, a network, else a word."""
    answer = session.answers.get(plain(criterion.operand))
    if answer is None:
        return Judged(0.0, criterion.answer, "no answer")
    if len(answer.texts) > 1:
        return Judged(0.0, criterion.answer, f"answered twice: {'; '.join(answer.texts)}", at=(answer.where,))
    (text,) = answer.texts
    right = any(same(wanted, text) for wanted in (criterion.answer, *criterion.accept))
    return Judged(float(right), criterion.answer, text or "no answer", at=(answer.where,))


def same(wanted: str, given: str) -> bool:
    """Say whether an answer is the one that is wanted; a length may lack its stroke, a number have its unit behind
    it."""
    meant, answered = meaning(wanted), meaning(given)
    kind, value = meant
    if kind == "length":
        return answered in (meant, ("number", value))
    number, _, unit = given.strip().partition(" ")
    if kind == "number" and unit.isalpha():
        return meaning(number) == meant
    return answered == meant


def meaning(text: str) -> tuple[str, object]:
    """Return what a short answer means: two that mean the same are equal.

    A mask and a length are the same (255.255.255.192, /26), and so are a prefix with either; a number is one
    however it is written (1022, 1 022, 1022.0), an address in any of its forms.
    """
    plain_text = " ".join(text.lower().split()).rstrip(".")
    words = plain_text.split()
    try:
        if plain_text.startswith("/") and plain_text[1:].isdecimal():
            return "length", int(plain_text[1:])
        if plain_text.startswith("255.") and len(words) == 1 and "/" not in plain_text:
            return "length", mask_length(plain_text)
        if len(words) in (2, 3) and words[-1].count(".") == 3 and words[-2] in ("mask", words[0]):
            return "prefix", parse_interface(f"{words[0]}/{mask_length(words[-1])}")
        if "/" in plain_text:
            return "prefix", parse_interface(plain_text.replace(" ", ""))
        return "address", ip_address(plain_text)
    except (BadValue, ValueError):
        pass
    number = re.sub(r"[ _']", "", plain_text)
    if re.fullmatch(r"-?\d{1,15}(\.\d{1,9})?", number, re.ASCII):
        return "number", float(number)
    return "word", plain_text


def _in_words(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read what is marked by hand, or a question with its answer."""
    text, at, marks = text_of(key, found)
    if not text.strip():
        at.fail(f"A {key.word} criterion says what is meant.")
    if key.further and not found.get("is", "").strip():
        found.at.fail("A value criterion needs its answer, such as is: 255.255.255.192.")
    yield Criterion(key.word, "", " ".join(text.split()), marks, answer=found.get("is", ""))


ANSWERS = (
    CriterionKey(
        word="manual", about="what is marked by hand, in the same total", judge=by_hand, read=_in_words, of_paper=True
    ),
    CriterionKey(
        word="value", about="a question that learners answer in the file `answers`, as `QUESTION: ANSWER`", judge=value,
        read=_in_words, of_paper=True,
        further={
            "is": Key(Text(), "the answer, compared as what it is: a number, a mask, an address, a network, a word")
        },
    ),
)  # fmt: skip
