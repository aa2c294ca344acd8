"""The simulator: a lab and its configurations compiled into a :class:`Network`, pinged, and told as journeys.

To follow a packet, read :mod:`ping`, then :mod:`packets`, :mod:`network` (what a device decides),
:mod:`routes` and :mod:`neighbours`; :mod:`journey` and :mod:`ending` put it into words.
"""

from .decisions import Decision, Verb
from .device import dotted
from .ending import ending
from .expectations import Run, row, rows, run, target
from .journey import Leg, SheetLine, SwitchPassed, journey, neighbours_to_find
from .network import Network
from .packets import Carried, Reason, Step, carry
from .ping import Ping, ping
from .wiring import Wiring

__all__ = [
    "Carried",
    "Decision",
    "Leg",
    "Network",
    "Ping",
    "Reason",
    "Run",
    "SheetLine",
    "Step",
    "SwitchPassed",
    "Verb",
    "Wiring",
    "carry",
    "dotted",
    "ending",
    "journey",
    "neighbours_to_find",
    "ping",
    "row",
    "rows",
    "run",
    "target",
]
