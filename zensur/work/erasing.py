"""A learner erased, with the figures of the class kept."""

from dataclasses import replace

from pydantic import TypeAdapter

from ..core.marking.shapes import Result
from ..store import By, erase
from .desk import Desk

_RESULT = TypeAdapter(Result)


def erase_learner(desk: Desk, code: str, by: By) -> int:
    """Erase a learner by id, or by the name that papers bear; returns how many papers were theirs. Raises
    :class:`KeyError` where nobody is known by that."""
    return erase(desk.database, code, nobodys, by)


def nobodys(text: str, called: str) -> str:
    """Return a result, both as JSON, that tells nothing of whose it is: neither words of the sheets nor names of files.

    What the figures of a class are made of stays: marks, fractions, and kinds of mistakes with their places.
    """
    result = _RESULT.validate_json(text)
    return replace(
        result,
        learner=called,
        criteria=tuple(replace(c, found="", lines=(), note="") for c in result.criteria),
        faults=tuple(
            replace(f, said=f.title, told="", found=None, file=None, line=None, also=(), missing=())
            for f in result.faults
        ),
        extras=tuple(replace(e, found="", file=None, line=None) for e in result.extras),
        diagnostics=(),
        remarks=(),
        sheet_comments=(),
    ).text()
