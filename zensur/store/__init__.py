"""The store: SQLite through sqlite3 with plain SQL; labs with versions, sittings, papers by hash, results, the log."""

from .benches import Benches, StoredBench
from .comments import Comment, Comments
from .database import Database, NewerDatabase, UnusableDatabase, why_unusable
from .drafts import Drafts, StoredDraft
from .entries import NOBODY, By, Entries, Entry
from .erasing import erase
from .groups import Group, Groups
from .labs import Asked, Labs, LabVersion, Shelved
from .overrules import Overrules, StoredOverrule
from .papers import Arrival, NewArrival, NewPaper, Overtaken, Papers, StoredPaper, paper_hash
from .results import Listed, Results, Summary
from .runs import Queued, RunKey, Runs
from .scope import Scope
from .sittings import Seat, Settings, Sitting, Sittings
from .transfer import dump, load
from .users import BadPassword, User, Users

__all__ = [
    "NOBODY",
    "Arrival",
    "Asked",
    "BadPassword",
    "Benches",
    "By",
    "Comment",
    "Comments",
    "Database",
    "Drafts",
    "Entries",
    "Entry",
    "Group",
    "Groups",
    "LabVersion",
    "Labs",
    "Listed",
    "NewArrival",
    "NewPaper",
    "NewerDatabase",
    "Overrules",
    "Overtaken",
    "Papers",
    "Queued",
    "Results",
    "RunKey",
    "Runs",
    "Scope",
    "Seat",
    "Settings",
    "Shelved",
    "Sitting",
    "Sittings",
    "StoredBench",
    "StoredDraft",
    "StoredOverrule",
    "StoredPaper",
    "Summary",
    "UnusableDatabase",
    "User",
    "Users",
    "dump",
    "erase",
    "load",
    "paper_hash",
    "why_unusable",
]
