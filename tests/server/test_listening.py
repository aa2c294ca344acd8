"""Connections: nobody locks the others out by bringing nothing, or by bringing it slowly."""

import socket
import threading
import time
from contextlib import suppress
from http.client import HTTPConnection
from types import SimpleNamespace

import pytest

from zensur.server import create_app, listen, listening
from zensur.work.desk import Desk

OPEN: list[socket.socket] = []
"""Sockets as long as the threads that serve them."""
HALVES = [
    b"",
    b"GET / HT",
    b"GET / HTTP/1.1\r\nHost: localhost\r\n",
    b"POST /api/labs HTTP/1.1\r\nHost: localhost\r\nContent-Length: 100\r\n\r\n{",
]


@pytest.fixture
def port(desk: Desk) -> int:
    own = socket.create_server(("127.0.0.1", 0))
    OPEN.append(own)
    threading.Thread(target=listen(create_app(desk), own).run, daemon=True).start()
    return int(own.getsockname()[1])


def is_closed(one: socket.socket) -> bool:
    """Return whether a connection was closed from the other side, waiting as long as its timeout for more."""
    try:
        return one.recv(100) == b""
    except TimeoutError:
        return False
    except ConnectionError:
        return True


def answer(port: int) -> int:
    connection = HTTPConnection("127.0.0.1", port, timeout=20)
    connection.request("GET", "/", headers={"Host": "localhost"})
    return connection.getresponse().status


@pytest.mark.parametrize("half", HALVES)
def test_150_requests_that_are_not_finished_keep_nobody_out(port: int, half: bytes) -> None:
    open_ones = [socket.create_connection(("127.0.0.1", port)) for _ in range(150)]
    for one in open_ones:
        one.sendall(half)
    assert answer(port) == 200
    for one in open_ones:
        one.close()


@pytest.mark.parametrize("half", HALVES)
def test_what_is_not_there_in_time_is_given_up(
    port: int, half: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(listening, "HEAD_SECONDS", 0)
    monkeypatch.setattr(listening, "BODY_SECONDS", 0)
    with socket.create_connection(("127.0.0.1", port), timeout=20) as one:
        one.sendall(half)
        assert is_closed(one)


def test_a_byte_now_and_then_is_not_in_time(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(listening, "HEAD_SECONDS", 1)
    with socket.create_connection(("127.0.0.1", port), timeout=0.1) as one, suppress(ConnectionError):
        one.sendall(b"GET / HTTP/1.1\r\n")
        while not is_closed(one):
            one.sendall(b"X")


@pytest.mark.parametrize(
    ("begun", "after", "closed"), [(False, 21, True), (True, 21, False), (True, 121, True)]
)
def test_a_body_has_longer_than_a_head(
    monkeypatch: pytest.MonkeyPatch, begun: bool, after: int, closed: bool
) -> None:
    now = 1000.0
    monkeypatch.setattr(time, "monotonic", lambda: now)
    channel = listening.Channel.__new__(listening.Channel)
    channel.requests, channel._since = [], now
    channel.request = SimpleNamespace(headers_finished=begun)  # type: ignore[assignment]
    channel.adj = SimpleNamespace(channel_request_lookahead=0)  # type: ignore[assignment]
    now += after
    channel.readable()
    assert channel.will_close == closed


def test_what_comes_in_pieces_is_answered(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port), timeout=20) as one:
        for byte in b"GET / HTTP/1.1\r\nHost: localhost\r\n\r\n":
            one.sendall(bytes([byte]))
        assert one.recv(15) == b"HTTP/1.1 200 OK"
        one.sendall(b"GET /api/nothing HTTP/1.1\r\nHost: localhost\r\n\r\n")
        while b"HTTP/1.1 404" not in one.recv(65536):
            pass
