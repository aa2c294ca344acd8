"""Ways out of a network: a script that builds it out of Linux namespaces, its packets, its sheets as a folder."""

from .capture import capture
from .folder import folder
from .namespaces import namespaces_script, own_pings

__all__ = ["capture", "folder", "namespaces_script", "own_pings"]
