"""Zensur: the marking desk of a networking instructor."""

__version__ = "0.1.0"
