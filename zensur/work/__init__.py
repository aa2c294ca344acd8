"""Marking papers: from stored files to stored results."""

from .marking import Desk, read_paper

__all__ = ["Desk", "read_paper"]
