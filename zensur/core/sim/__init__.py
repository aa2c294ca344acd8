"""The simulator: a lab and its configurations compiled into a :class:`Network`, pinged, and told as journeys.

To follow a packet, read :mod:`ping`, then :mod:`packets`, :mod:`fabric` (what a node decides),
:mod:`routes` and :mod:`neighbours`, and :mod:`translation` where addresses change on the way;
:mod:`journey` and :mod:`ending` put it into words. What nodes learn before the first packet is in
:mod:`settling`.
"""

from .decisions import Decision, Verb
from .domains import Domain, domains
from .ending import ending
from .expectations import AnyRun, Run, Runs, row, rows, rows_of, run, run_any
from .journey import Leg, Rewritten, SheetLine, SwitchPassed, journey, neighbours_to_find
from .network import Network
from .numbers import written
from .packets import Carried, Reason, Step, carry
from .pairs import Matrix, all_pairs
from .ping import Ping, ping
from .services import Checked, check_service
from .state import state
from .targets import answered_by, target
from .translation import Sessions
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
    "Rewritten",
    "Run",
    "Runs",
    "Sessions",
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
    "ending",
    "journey",
    "neighbours_to_find",
    "ping",
    "row",
    "rows",
    "rows_of",
    "run",
    "run_any",
    "state",
    "target",
    "written",
]
