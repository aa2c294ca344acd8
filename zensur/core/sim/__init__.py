"""The simulator: a lab and its configurations compiled into a :class:`Network`, pinged, and told as journeys.

To follow a packet, read :mod:`ping`, then :mod:`packets`, :mod:`fabric` (what a node decides),
:mod:`routes` and :mod:`neighbours`, and :mod:`translation` where addresses change on the way;
the room :mod:`telling` puts it into words, :mod:`running` has the pings and checks that a lab asks
for, and :mod:`learning` what nodes learn before the first packet.
"""

from .decisions import Decision, Verb
from .domains import Domain, domains
from .network import Network
from .numbers import written
from .packets import Carried, Reason, Step, carry
from .ping import Ping, ping
from .running.expectations import AnyRun, Run, Runs, row, rows, rows_of, run, run_any
from .running.pairs import Matrix, all_pairs
from .running.services import Checked, check_service
from .running.state import state
from .running.targets import answered_by, target
from .telling.ending import ending
from .telling.journey import Leg, Rewritten, SheetLine, SwitchPassed, journey, neighbours_to_find
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
