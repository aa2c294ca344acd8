"""Reads one statement of a line, and says of a line that is none what was probably meant."""

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
        "length-not-wanted",
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
            raise _too_much(line, tails)
        said |= tail.read(line)
    return [kind.build({**found, **said}) for found in values]


def _too_much(line: Line, tails: Iterable[str]) -> BadValue:
    word = line.take("A word")
    if looks_like_address(word) and "." in word:
        return BadValue(
            "extra-words",
            f"The statement is complete before {word[:40]}. Before a dotted mask stands the word mask, before a "
            "wildcard the word wildcard.",
        )
    ours = nearest(word, tails, line)
    hint = f" Did you mean {ours}?" if ours else " Put a # before a comment."
    return BadValue("extra-words", f"The statement is complete before {word[:40]}.{hint}", ours)


def _one_of(wanted: list[str], line: Line, best: BadValue) -> BadValue:
    found = line.peek()
    choice = f"{', '.join(wanted[:-1])} or {wanted[-1]}"
    if not found:
        return BadValue("missing-word", f"The line ends too early: {choice} is wanted next.")
    ours = nearest(found, wanted, line)
    hint = f" Did you mean {ours}?" if ours else ""
    return BadValue(best.code, f"{choice} is wanted here, not {found[:40]}.{hint}", ours)


def at_first(line: Line, bad: BadValue) -> BadValue:
    """Point the error at the first word of the line."""
    line.at = 1
    return bad


def unknown(line: Line, known: Iterable[str], place: str = "") -> BadValue:
    """Say that a line begins with a word that cannot stand there."""
    word = line.words[0].text[:40]
    ours = nearest(word, known, line)
    return BadValue(
        "unknown-word",
        f"{word} is not a word that can stand here{place}." + (f" Did you mean {ours}?" if ours else ""),
        ours,
    )


def belongs(line: Line, inside: list[str]) -> BadValue:
    """Say that a line belongs into a block."""
    word = line.words[0].text
    kinds = inside[0] if len(inside) == 1 else f"{', '.join(inside[:-1])} or {inside[-1]}"
    return BadValue(
        "not-indented",
        f"{word} belongs under a {kinds}: write it below the header, indented.",
        f"  {line.text.strip()}",
    )
