"""What stands around a class: who is on the roster, whose a paper is, which one counts, and what being late costs.

Pure; nothing is stored here.
"""

from .matching import Match, match_learners
from .pseudonyms import pseudonym
from .roster import Learner, Roster, read_roster, roster_csv
from .rules import Attempt, Late, Rules, counting, days_late

__all__ = [
    "Attempt",
    "Late",
    "Learner",
    "Match",
    "Roster",
    "Rules",
    "counting",
    "days_late",
    "match_learners",
    "pseudonym",
    "read_roster",
    "roster_csv",
]
