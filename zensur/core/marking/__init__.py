"""Marking: criteria, scores, and the few mistakes behind the lost marks."""

from .checking.findings import Finding
from .checking.lab_check import LabCheck, check_lab, check_text
from .mark import Marker
from .overruling import TOTAL, Overrule, overruled
from .result import Fault, Marked, Paper, Result
from .scheme import tasks_of
from .slips.catalogue import SLIPS

__all__ = [
    "SLIPS",
    "TOTAL",
    "Fault",
    "Finding",
    "LabCheck",
    "Marked",
    "Marker",
    "Overrule",
    "Paper",
    "Result",
    "check_lab",
    "check_text",
    "overruled",
    "tasks_of",
]
