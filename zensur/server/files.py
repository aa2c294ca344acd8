"""Answers that a browser keeps as a file."""

from flask import Response

PACKETS = "application/vnd.tcpdump.pcap"


def as_file(content: bytes | str, kind: str, name: str) -> Response:
    """Return a file to keep; ``name`` is made of letters, digits, dots and dashes."""
    response = Response(content, mimetype=kind)
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
