"""The simulator: a lab and its configurations compiled into a :class:`Network`, pinged, and told as journeys.

To follow a packet, read :mod:`ping`, then :mod:`packets`, :mod:`fabric` (what a node decides),
:mod:`routes` and :mod:`neighbours`, and :mod:`translation` where addresses change on the way;
the room :mod:`explaining` puts it into words, :mod:`running` has the pings and checks that a lab asks
for, and :mod:`learning` what nodes learn before the first packet.
"""

from .decisions import Action, Decision
from .domains import Domain, domains
from .explaining.ending import ending
from .explaining.journey import Leg, Rewritten, SheetLine, SwitchPassed, journey, neighbours_to_find
from .model import Model
from .network import Network
from .numbers import written
from .packets import Carried, Reason, Step, carry
from .ping import Ping, ping
from .running.expectations import AnyRun, Run, Runs, run, run_any
from .running.pairs import Matrix, all_pairs
from .running.rows import OpenedRow, PingRow, ResolvedRow, RunRow, ServiceRow, row, rows, rows_of
from .running.services import Checked, check_service
from .running.state import state
from .running.targets import answered_by, target
from .translation import Sessions
from .wiring import Wiring

__all__ = [
    "Action",
    "AnyRun",
    "Carried",
    "Checked",
    "Decision",
    "Domain",
    "Leg",
    "Matrix",
    "Model",
    "Network",
    "OpenedRow",
    "Ping",
    "PingRow",
    "Reason",
    "ResolvedRow",
    "Rewritten",
    "Run",
    "RunRow",
    "Runs",
    "ServiceRow",
    "Sessions",
    "SheetLine",
    "Step",
    "SwitchPassed",
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
