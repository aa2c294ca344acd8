"""Marking papers: from stored files to stored results."""

from .classes import LabFile, mark_papers
from .executors import NoCluster, executor_for
from .marking import Desk, read_paper

__all__ = ["Desk", "LabFile", "NoCluster", "executor_for", "mark_papers", "read_paper"]
