"""Reads one statement of a line, and says of a line that is none what was probably meant."""

import re
from collections.abc import Iterable, Sequence

from ..addresses import BadValue, looks_like_address
from .grammar import Form
from .statements import BLOCKS, TOP, Statement, statements_of
from .words import Line, nearest

PLACES = {place: statements_of(place) for place in (TOP, "sub-port", *(kind.word for kind in BLOCKS))}
"""The statements that may stand in each place, by their first words."""

KNOWN = frozenset(word for place in PLACES.values() for word in place)
"""Every word that a statement begins with somewhere."""

SUGGESTS_IN_PLACE = frozenset(
    {
        "unknown-word", "unexpected-word", "extra-words", "host-bits", "wildcard-for-mask", "mask-for-wildcard",
        "length-not-wanted", "length-apart", "mask-word-missing", "number-apart", "range-with-dash", "bad-address",
        "bad-name", "name-is-address",
    }
)  # fmt: skip
"""The errors whose suggestion takes the place of the word that is pointed at."""


def read_statements(kinds: Sequence[type[Statement]], line: Line) -> list[Statement]:
    """Read a line in the form that fits; raises what stopped the one that gets furthest."""
    best: BadValue | None = None
    furthest = -1
    wanted: list[str] = []
    for kind in kinds:
        for form in kind.SPEC.forms:
            line.restart()
            try:
                return _read(kind, form, line)
            except BadValue as bad:
                if line.at > furthest:
                    furthest, best, wanted = line.at, bad, []
                if line.at == furthest and bad.suggestion and bad.code in ("unexpected-word", "missing-word"):
                    wanted.append(bad.suggestion)
    assert best is not None  # every statement has a form
    line.at = furthest
    wanted = list(dict.fromkeys(wanted))
    raise _one_of(wanted, line, best) if len(wanted) > 1 else best


def _read(kind: type[Statement], form: Form, line: Line) -> list[Statement]:
    values = [form.read(line)]
    tails = {str(tail.must[0]): tail for tail in kind.SPEC.tails}
    while form.repeats and line.left and line.peek() not in tails:
        values.append(form.read_more(line, values[0]))
    said: dict[str, object] = {}
    while line.left:
        tail = tails.pop(line.peek() or "", None)
        if tail is None:
            raise _too_much(line, form, tails)
        said |= tail.read(line)
    return [kind.build({**found, **said}) for found in values]


def _too_much(line: Line, form: Form, tails: Iterable[str]) -> BadValue:
    word = line.take("A word")
    left_out = form.may[0] if form.may and form.may[0] not in [w.text.lower() for w in line.words] else None
    if isinstance(left_out, str) and not line.left and not looks_like_address(word):
        return BadValue(
            "extra-words",
            f"The statement is complete before {word[:40]}. Did you mean {left_out} {word[:40]}?",
            f"{left_out} {word}",
        )
    if looks_like_address(word) and "." in word:
        return BadValue(
            "extra-words",
            f"The statement is complete before {word[:40]}. Before a written mask stands the word mask, before a "
            "wildcard the word wildcard.",
        )
    ours = nearest(word, tails, line)
    hint = f" Did you mean {ours}?" if ours else " Put a # before a comment."
    return BadValue("extra-words", f"The statement is complete before {word[:40]}.{hint}", ours)


def _one_of(wanted: list[str], line: Line, best: BadValue) -> BadValue:
    """Say which words might stand here, and which of them was probably meant."""
    found = line.words[line.at].text if line.left else ""
    plain = [w.split()[0] for w in wanted]
    choice = f"{', '.join(plain[:-1])} or {plain[-1]}"
    if not found:
        return BadValue("missing-word", f"The line ends too early: {choice} is wanted next.")
    ours = f"via {found}" if "via" in plain and looks_like_address(found) else nearest(found, plain, line)
    hint = f" Did you mean {ours}?" if ours else ""
    return BadValue(best.code, f"{choice} is wanted here, not {found[:40]}.{hint}", ours)


def at_first(line: Line, bad: BadValue) -> BadValue:
    """Point the error at the first word of the line, or at as many as its suggestion stands for."""
    line.at = bad.words
    return bad


_HABITS = {
    "no": "A sheet says what is there in the end: leave out what is not to be there.",
    "exit": "A block needs no end: the next line in the first column ends it.",
    "end": "A block needs no end: the next line in the first column ends it.",
}


def unknown(line: Line, known: Iterable[str], place: str = "") -> BadValue:
    """Say that a line begins with a word that cannot stand there."""
    words = [w.text for w in line.words]
    word, wanted = words[0][:40], list(known)
    said = f"{word} is not a word that can stand here{place}."
    if word.lower() in _HABITS:
        return BadValue("unknown-word", f"{said} {_HABITS[word.lower()]}")
    if len(words) > 1 and words[1].lower() in wanted and word.lower() not in wanted:
        line.at = 2
        return BadValue("unknown-word", f"{said} Did you mean {words[1]} alone?", words[1].lower(), 2)
    first, equals, value = words[0].partition("=")
    if equals and value and first.lower() in wanted:
        return BadValue("unknown-word", f"{said} Did you mean {first} {value}?", f"{first} {value}")
    joined = re.match(r"([a-z]+)(\d+):?\Z", word.lower(), re.ASCII)
    if joined and joined[1] in wanted:
        apart = f"{joined[1]} {joined[2]}"
        return BadValue("unknown-word", f"{said} Did you mean {apart}?", apart)
    ours = nearest(word, wanted, line)
    return BadValue("unknown-word", said + (f" Did you mean {ours}?" if ours else ""), ours)


def belongs(line: Line, inside: list[str]) -> BadValue:
    """Say that a line belongs into a block."""
    word = line.words[0].text
    kinds = inside[0] if len(inside) == 1 else f"{', '.join(inside[:-1])} or {inside[-1]}"
    return BadValue(
        "not-indented",
        f"{word} belongs under a {kinds}: write it below the header, indented.",
        f"  {line.text.strip()}",
    )
