"""Listens: bounded time for what a request has to bring, and more connections than threads."""

import logging
import socket
import time
from typing import Any

from flask import Flask
from waitress.channel import HTTPChannel
from waitress.server import TcpWSGIServer, create_server

from .marking import STREAMS

THREADS, CONNECTIONS = 6 + STREAMS, 400
HEAD_SECONDS = 20
"""So long a connection may take to bring the head of its next request, idle time included."""
BODY_SECONDS = 120
"""So long it may take to bring all of it."""
MOST_BYTES = 70 << 20


class Channel(HTTPChannel):
    """A connection that is closed when its next request is not there in time, however often a byte of it comes."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        self._since = time.monotonic()
        super().__init__(*args, **kwargs)

    def readable(self) -> bool:
        """Return whether more is wanted; asked for every connection, every second at least."""
        if self.requests or self.total_outbufs_len:
            self._since = time.monotonic()
        else:
            begun = self.request is not None and self.request.headers_finished
            if time.monotonic() - self._since > (BODY_SECONDS if begun else HEAD_SECONDS):
                self.will_close = True
        wanted: bool = super().readable()
        return wanted


def listen(app: Flask, listening: socket.socket) -> TcpWSGIServer:
    """Return a server of the application on a socket that listens; its ``run`` serves until it is interrupted."""
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # it tells of every request that waits
    server = create_server(
        app,
        sockets=[listening],
        threads=THREADS,
        connection_limit=CONNECTIONS,
        ident="zensur",
        max_request_body_size=MOST_BYTES,
    )
    assert isinstance(server, TcpWSGIServer)  # there is one socket
    server.channel_class = Channel
    return server
