"""Marking: criteria, scores, and the few mistakes behind the lost marks."""

from .adding import SumLine, sum_of
from .checking.findings import Finding
from .checking.lab_check import LabCheck, check_lab, check_text
from .margin import Margin, margin
from .marker import Marker
from .memo import Memo
from .overruling import TOTAL, Overrule, overruled
from .paper import Paper
from .reading.chosen import as_handed_in
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
    "as_handed_in",
    "check_lab",
    "check_text",
    "margin",
    "overruled",
    "sum_of",
    "tasks_of",
]
