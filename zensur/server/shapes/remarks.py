"""What is said of texts while they are written, and what may be typed next."""

from typing import Literal

from .base import Shape


class PlaceShape(Shape):
    """A place in a lab's text; line and columns count from 1, ``end`` is the last column."""

    line: int
    column: int
    end: int


class MendShape(Shape):
    """An edit that mends: ``text`` in place of the columns from ``column`` to ``end`` of a line."""

    line: int
    column: int
    end: int
    text: str


class FindingShape(Shape):
    """A finding of the lab check, with its place in the lab's text."""

    severity: Literal["error", "warning", "note"]
    code: str
    place: str
    message: str
    mend: str
    at: PlaceShape
    edit: MendShape | None


class CheckShape(Shape):
    """What the lab check found."""

    findings: list[FindingShape]
    pings: int
    services: int
    holding: int
    blank: float
    out_of: float
    variants: int


class DiagnosticShape(Shape):
    """A remark on a line of a sheet."""

    severity: Literal["error", "warning", "note"]
    code: str
    line: int
    column: int
    end: int
    message: str
    suggestion: str | None
    mend: MendShape | None
    path: str | None


class OptionShape(Shape):
    """Something that may be typed, and what it means."""

    text: str
    about: str


class CompletionShape(Shape):
    """What may stand at a place; ``column`` is the first column of the word that it completes."""

    column: int
    options: list[OptionShape]
