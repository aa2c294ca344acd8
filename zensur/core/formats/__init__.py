"""Other ways in and out: papers as archives and folders, and the learner's edition of a lab."""

from .answers import ANSWERS, Answer, Answers, plain, read_answers
from .archives import BadArchive, File, is_archive, read_archive
from .flat import BadPattern, FlatNames, Pattern
from .hand_out import given_sheets, learners_edition, shown_prefixes, targets
from .papers import HandIn, sort_papers

__all__ = [
    "ANSWERS",
    "Answer",
    "Answers",
    "BadArchive",
    "BadPattern",
    "File",
    "FlatNames",
    "HandIn",
    "Pattern",
    "given_sheets",
    "is_archive",
    "learners_edition",
    "plain",
    "read_answers",
    "read_archive",
    "shown_prefixes",
    "sort_papers",
    "targets",
]
