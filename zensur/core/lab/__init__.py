"""The lab: its model and the reader of lab files."""

from .model import (
    Criterion,
    Device,
    End,
    ExpectedPing,
    Kind,
    Lab,
    Link,
    Medium,
    NamedNetwork,
    Outcome,
    Port,
    Scheme,
    Task,
)
from .nodes import LabError
from .reader import ReadLab, read_lab
from .starter import starter_lab
from .topology_check import check_sheet

__all__ = [
    "Criterion",
    "Device",
    "End",
    "ExpectedPing",
    "Kind",
    "Lab",
    "LabError",
    "Link",
    "Medium",
    "NamedNetwork",
    "Outcome",
    "Port",
    "ReadLab",
    "Scheme",
    "Task",
    "check_sheet",
    "read_lab",
    "starter_lab",
]
