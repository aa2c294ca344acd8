"""A paper: what one learner handed in."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..formats import Answer
from ..sheet import Sheet


@dataclass(frozen=True, slots=True)
class Paper:
    """One learner's hand-in: sheets by device, and what was noticed while its files were sorted."""

    learner: str
    sheets: Mapping[str, Sheet]
    files: Mapping[str, str] = field(default_factory=dict)
    """The file of each device's sheet."""
    remarks: tuple[str, ...] = ()
    answers: Mapping[str, Answer] = field(default_factory=dict)
    """What was answered, by the questions as they are compared."""
