"""Marking: criteria, scores, and the few mistakes behind the lost marks."""

from .checking.findings import Finding
from .checking.lab_check import LabCheck, check_lab, check_text
from .mark import Marker
from .result import Fault, Marked, Paper, Result
from .scheme import tasks_of
from .slips.catalogue import SLIPS

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
    "check_text",
    "tasks_of",
]
