"""Other ways in and out: papers as archives and folders."""

from .archives import BadArchive, File, is_archive, read_archive
from .papers import HandIn, sort_papers

__all__ = ["BadArchive", "File", "HandIn", "is_archive", "read_archive", "sort_papers"]
