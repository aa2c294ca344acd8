"""A paper: what one learner handed in."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..formats import Answer, Cabling, cabling_of
from ..lab import Lab
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
    cabling: Cabling | None = None
    """How the devices were joined, where that was handed in."""


def full_paper(lab: Lab) -> Paper:
    """Return the paper that is the model answer."""
    return Paper("", lab.full_paper, cabling=cabling_of(lab.links) if lab.asks_cabling else None)
