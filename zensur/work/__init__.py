"""Marking papers: from stored files to stored results."""

from .classes import LabFile, mark_papers
from .executors import NoCluster, executor_for
from .marking import Desk, Remarked
from .papers import read_paper
from .revision import revision

__all__ = [
    "Desk", "LabFile", "NoCluster", "Remarked", "executor_for", "mark_papers", "read_paper", "revision",
]  # fmt: skip
