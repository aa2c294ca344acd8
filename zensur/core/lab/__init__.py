"""The lab: its model and the reader of lab files."""

from .accepting import answers_of, with_answer
from .expected import parse_open, parse_seen_as
from .keys import KEYS, CriterionKey, NotCounted, check_counted, counted_by, declare
from .model import (
    EMPTY,
    Answer,
    Criterion,
    Device,
    End,
    Expected,
    ExpectedPing,
    ExpectedService,
    FreeNetwork,
    FreePort,
    Kind,
    Lab,
    Link,
    Medium,
    NamedNetwork,
    Outcome,
    Port,
    Scheme,
    Task,
    Variable,
    forwards,
)
from .nodes import LabError
from .own_choice import NOTHING_CHOSEN, OwnChoice
from .places import Place, Places
from .reader import ReadLab, read_lab
from .review import review_sheet
from .schema import lab_schema
from .starter import empty_lab, starter_lab
from .topology import clock_digest, read_link
from .variables import draw_values, probes

__all__ = [
    "EMPTY",
    "KEYS",
    "NOTHING_CHOSEN",
    "Answer",
    "Criterion",
    "CriterionKey",
    "Device",
    "End",
    "Expected",
    "ExpectedPing",
    "ExpectedService",
    "FreeNetwork",
    "FreePort",
    "Kind",
    "Lab",
    "LabError",
    "Link",
    "Medium",
    "NamedNetwork",
    "NotCounted",
    "Outcome",
    "OwnChoice",
    "Place",
    "Places",
    "Port",
    "ReadLab",
    "Scheme",
    "Task",
    "Variable",
    "answers_of",
    "check_counted",
    "clock_digest",
    "counted_by",
    "declare",
    "draw_values",
    "empty_lab",
    "forwards",
    "lab_schema",
    "parse_open",
    "parse_seen_as",
    "probes",
    "read_lab",
    "read_link",
    "review_sheet",
    "starter_lab",
    "with_answer",
]
