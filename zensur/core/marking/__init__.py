"""Marking: criteria, scores, and the few mistakes behind the lost marks."""

from .adding import SumLine, sum_of
from .checking.findings import Finding
from .checking.lab_check import LabCheck, check_lab, check_text
from .margin import Margin, margin
from .marker import Marker
from .memo import Memo
from .overruling import TOTAL, Overrule, overruled
from .paper import Paper
from .reading.chosen import chosen_lab
from .scheme import tasks_of
from .shapes import Fault, Marked, Result
from .slips.catalogue import SLIPS

__all__ = [
    "SLIPS",
    "TOTAL",
    "Fault",
    "Finding",
    "LabCheck",
    "Margin",
    "Marked",
    "Marker",
    "Memo",
    "Overrule",
    "Paper",
    "Result",
    "SumLine",
    "check_lab",
    "check_text",
    "chosen_lab",
    "margin",
    "overruled",
    "sum_of",
    "tasks_of",
]
