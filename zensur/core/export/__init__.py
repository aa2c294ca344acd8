"""Ways out of a compiled network: a script that builds it out of Linux namespaces, and its packets as a file."""

from .capture import capture
from .namespaces import namespaces_script

__all__ = ["capture", "namespaces_script"]
