"""Marking: criteria, scores, and the few mistakes behind the lost marks."""

from .lab_check import Finding, LabCheck, check_lab
from .mark import Marker
from .result import Fault, Marked, Paper, Result
from .scheme import tasks_of
from .slips import SLIPS

__all__ = [
    "SLIPS",
    "Fault",
    "Finding",
    "LabCheck",
    "Marked",
    "Marker",
    "Paper",
    "Result",
    "check_lab",
    "tasks_of",
]
