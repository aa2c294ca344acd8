"""Ways out of a network: a script that builds it out of Linux namespaces, its packets, its sheets as a folder."""

from .capture import capture
from .folder import folder
from .modelled import modelled
from .namespaces import namespaces_script, own_pings

__all__ = ["capture", "folder", "modelled", "namespaces_script", "own_pings"]
