"""Criteria about what a learner answers in words and numbers, and what is marked by hand."""

import re
from ipaddress import ip_address

from ...addresses import BadValue, mask_length, parse_interface
from ...formats import plain
from ...lab import Criterion
from ..result import Judged
from .attempt import Attempt
from .judge import Judge

BY_HAND = "to be marked by hand"


def by_hand(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Earn nothing until somebody has looked: what it is worth is decided by an overrule."""
    return Judged(0.0, criterion.operand, BY_HAND)


def value(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare the answer to a question as what it is: a number, a mask, an address, a network, else a word."""
    answer = attempt.answers.get(plain(criterion.operand))
    if answer is None:
        return Judged(0.0, criterion.answer, "no answer")
    text, where = answer
    right = any(same(wanted, text) for wanted in (criterion.answer, *criterion.accept))
    return Judged(float(right), criterion.answer, text or "no answer", (where,))


def same(wanted: str, given: str) -> bool:
    """Say whether an answer is the one that is wanted; a length may lack its stroke, a number have its unit behind it."""
    meant, said = meaning(wanted), meaning(given)
    kind, value = meant
    if kind == "length":
        return said in (meant, ("number", value))
    number, _, unit = given.strip().partition(" ")
    if kind == "number" and unit.isalpha():
        return meaning(number) == meant
    return said == meant


def meaning(text: str) -> tuple[str, object]:
    """Return what a short answer means: two that mean the same are equal.

    A mask and a length are the same (255.255.255.192, /26), and so are a prefix with either; a number is one
    however it is written (1022, 1 022, 1022.0), an address in any of its forms.
    """
    said = " ".join(text.lower().split()).rstrip(".")
    words = said.split()
    try:
        if said.startswith("/") and said[1:].isdecimal():
            return "length", int(said[1:])
        if said.startswith("255.") and len(words) == 1 and "/" not in said:
            return "length", mask_length(said)
        if len(words) in (2, 3) and words[-1].count(".") == 3 and words[-2] in ("mask", words[0]):
            return "prefix", parse_interface(f"{words[0]}/{mask_length(words[-1])}")
        if "/" in said:
            return "prefix", parse_interface(said.replace(" ", ""))
        return "address", ip_address(said)
    except (BadValue, ValueError):
        pass
    number = re.sub(r"[ _']", "", said)
    if re.fullmatch(r"-?\d{1,15}(\.\d{1,9})?", number, re.ASCII):
        return "number", float(number)
    return "word", said
