"""Other ways in and out: papers as archives and folders."""

from .archives import BadArchive, File, read_archive
from .papers import HandIn, sort_papers

__all__ = ["BadArchive", "File", "HandIn", "read_archive", "sort_papers"]
