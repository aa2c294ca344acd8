"""The simulator: a lab and its configurations compiled into a :class:`Network`, pinged, and told as journeys.

To follow a packet, read :mod:`ping`, then :mod:`packets`, :mod:`network` (what a device decides),
:mod:`routes` and :mod:`neighbours`; :mod:`journey` and :mod:`ending` put it into words.
"""

from .decisions import Decision, Verb
from .device import dotted
from .domains import Domain, domains
from .ending import ending
from .expectations import AnyRun, Run, group_of, row, rows, run, run_any
from .journey import Leg, SheetLine, SwitchPassed, journey, neighbours_to_find
from .network import Network
from .packets import Carried, Reason, Step, carry
from .pairs import Matrix, all_pairs
from .ping import Ping, ping
from .services import Checked, check_service
from .state import state
from .targets import answered_by, target
from .wiring import Wiring

__all__ = [
    "AnyRun",
    "Carried",
    "Checked",
    "Decision",
    "Domain",
    "Leg",
    "Matrix",
    "Network",
    "Ping",
    "Reason",
    "Run",
    "SheetLine",
    "Step",
    "SwitchPassed",
    "Verb",
    "Wiring",
    "all_pairs",
    "answered_by",
    "carry",
    "check_service",
    "domains",
    "dotted",
    "ending",
    "group_of",
    "journey",
    "neighbours_to_find",
    "ping",
    "row",
    "rows",
    "run",
    "run_any",
    "state",
    "target",
]
