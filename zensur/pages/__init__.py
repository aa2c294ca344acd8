"""Pages that stand alone and print well: made from templates, with their style inside."""

from .hand_out import hand_out_page
from .marked import marked_page

__all__ = ["hand_out_page", "marked_page"]
