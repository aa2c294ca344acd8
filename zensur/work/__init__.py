"""Marking papers: from stored files to stored results."""

from .classes import LabFile, mark_papers
from .marking import Desk, read_paper

__all__ = ["Desk", "LabFile", "mark_papers", "read_paper"]
