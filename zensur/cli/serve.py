"""``zensur serve`` and ``zensur demo``: the web application."""

import ipaddress
import socket
from contextlib import suppress
from pathlib import Path

import click

from ..demo import fill
from ..server import create_app, listen
from ..store import Database, UnusableDatabase
from ..work.desk import Desk
from .inputs import home, unusable

_DATABASE = click.option(
    "--database", type=click.Path(dir_okay=False, path_type=Path), help="The database's file."
)
_HOST = click.option("--host", default="127.0.0.1", show_default=True, help="A loopback address.")
_USUAL_PORT = 8017
_PORT = click.option(
    "--port",
    type=click.IntRange(0, 65535),
    help=f"The port; where none is named {_USUAL_PORT}, or another one where that is taken.",
)


@click.command(epilog="Example: zensur serve --database labs.db --port 8020")
@_DATABASE
@_HOST
@_PORT
def serve(database: Path | None, host: str, port: int | None) -> None:
    """Start the web application on this machine."""
    _run(Desk(_open(database or home() / "zensur.db")), host, port)


@click.command(epilog="Example: zensur demo --port 8020")
@_DATABASE
@_HOST
@_PORT
def demo(database: Path | None, host: str, port: int | None) -> None:
    """Start the web application with the demo labs and papers, in a database of its own."""
    desk = Desk(_open(database or home() / "demo.db"))
    fill(desk)
    _run(desk, host, port)


def _open(path: Path) -> Database:
    try:
        return Database(path)
    except UnusableDatabase as bad:
        unusable(str(bad))


def _run(desk: Desk, host: str, port: int | None) -> None:
    """Serve until interrupted, on a loopback address only: nobody is asked to sign in yet."""
    host = host.lower()
    if host != "localhost" and not _is_loopback(host):
        unusable(
            f"{host} is not a loopback address: the application has no sign-in yet and stays on this machine."
        )
    try:
        listening = _listen(host, port)
    except OSError as error:
        unusable(
            f"Port {port} cannot be used: {error.strerror}. Another one: --port 0 takes any that is free."
        )
    bound = listening.getsockname()[1]
    shown = f"[{host}]" if ":" in host else host
    click.echo(f"Zensur is at http://{shown}:{bound}/  (Ctrl-C ends it)")
    listen(create_app(desk, host), listening).run()


def _listen(host: str, port: int | None) -> socket.socket:
    """Listen on a port; where none is named on the usual one, or on any that is free where that is taken."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    if port is None:
        with suppress(OSError):
            return socket.create_server((host, _USUAL_PORT), family=family)
    return socket.create_server((host, port or 0), family=family)


def _is_loopback(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False
