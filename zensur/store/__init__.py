"""The store: SQLite through sqlite3 with plain SQL; labs with versions, papers by hash, results."""

from .benches import Benches, StoredBench
from .database import Database, NewerDatabase, UnusableDatabase, why_unusable
from .drafts import Drafts, StoredDraft
from .labs import Asked, Labs, LabVersion, Shelved
from .overrules import Overrules, StoredOverrule
from .papers import Overtaken, Papers, StoredPaper, paper_hash
from .results import Listed, Results, Summary

__all__ = [
    "Asked",
    "Benches",
    "Database",
    "Drafts",
    "LabVersion",
    "Labs",
    "Listed",
    "NewerDatabase",
    "Overrules",
    "Overtaken",
    "Papers",
    "Results",
    "Shelved",
    "StoredBench",
    "StoredDraft",
    "StoredOverrule",
    "StoredPaper",
    "Summary",
    "UnusableDatabase",
    "paper_hash",
    "why_unusable",
]
