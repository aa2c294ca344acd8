"""The store: SQLite through sqlite3 with plain SQL; labs with versions, papers by hash, results."""

from .database import Database, NewerDatabase, UnusableDatabase, why_unusable
from .labs import Labs, LabVersion
from .papers import Papers, StoredPaper

__all__ = [
    "Database",
    "LabVersion",
    "Labs",
    "NewerDatabase",
    "Papers",
    "StoredPaper",
    "UnusableDatabase",
    "why_unusable",
]
